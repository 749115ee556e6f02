"""What a stage writes into manifests and pins: the release it takes where a range keeps it out, the runtime it moves to."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import TYPE_CHECKING, Final

from yoake.core.values.coordinates import Coordinate, Line, Lines, Releases, line_key
from yoake.core.values.edits import Change

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.values.modules import Module, Pin, Requirement

_PLAIN: Final = re.compile(r"\d+(\.\d+){0,2}")
_LOWER: Final = re.compile(r"(?:>=|\^|~=?)\s*(\d+(?:\.\d+)*)(?![\d.])")
"""The end of a range below which nothing fits."""
_WRITTEN_PINS: Final = ("pin", "container", "ci")
"""How pins are stated that name one version in plain figures."""


@dataclass(frozen=True, slots=True)
class ManifestEdit:
    """Changes of one manifest or pin file, and what in it is left to a person and why."""

    path: str
    changes: tuple[Change, ...]
    refused: tuple[str, ...]


def floors_of(taken: Releases, knowledge: Knowledge) -> dict[Coordinate, Line]:
    """Runtime → the oldest line of it that all releases taken run on, where their metadata says so."""
    floors: dict[Coordinate, Line] = {}
    for coordinate, release in taken.items():
        record, owner = knowledge.catalogues.get(coordinate), knowledge.ecosystems.of(coordinate)
        lines = sorted(record.fits, key=line_key) if record is not None else []
        fitting = [line for line in lines if record is not None and release in record.fits[line]]
        if owner is not None and fitting and fitting[0] != lines[0]:
            held = floors.get(owner.runtime, fitting[0])
            floors[owner.runtime] = max(held, fitting[0], key=line_key)
    return floors


def manifest_files(modules: Iterable[Module], taken: Releases, floors: Lines = MappingProxyType({})) -> list[str]:
    """Files that name something that is taken otherwise. ``taken``: coordinate → release; ``floors``: runtime → line, see ``floors_of``."""
    modules = list(modules)
    found = {r.file for m in modules for r in m.requirements if r.coordinate in taken}
    found |= {p.file for m in modules for p in m.pins if p.coordinate in taken}
    found |= {p.file for m in modules for p in m.pins if p.coordinate in floors and p.how == "range"}
    return sorted(found)


def edit_manifest(
    path: str,
    text: bytes,
    modules: Iterable[Module],
    taken: Releases,
    ecosystems: Registry,
    floors: Lines = MappingProxyType({}),
) -> ManifestEdit:
    """The changes of one file. Comments, order and everything else stay as they are. ``floors``: runtime → line below which a range of it
    is raised, since what is taken does not run there."""
    reader = ecosystems.manifest_reader(path)
    if reader is not None and reader[1].made:
        return ManifestEdit(path, (), ("is written by what builds the package: change it where that is built",))
    held = list(modules)
    rows = text.split(b"\n")
    starts = [0]
    for row in rows:
        starts.append(starts[-1] + len(row) + 1)
    changes: dict[tuple[int, int], Change] = {}
    refused: list[str] = []
    for requirement in dict.fromkeys(r for m in held for r in m.requirements if r.file == path):
        release = taken.get(requirement.coordinate)
        if release is not None and requirement.specifier:
            made = _respecified(requirement, release, text, ecosystems)
            refused.extend([made] if isinstance(made, str) else [])
            changes.update({(c.start, c.end): c for c in made if isinstance(c, Change)})
    for pin in _pins(held, path):
        release = taken.get(pin.coordinate)
        if not 0 < pin.line <= len(rows):
            continue
        row, beside = rows[pin.line - 1], [p for p in _pins(held, path) if p.line == pin.line]
        spot = _pinned(pin, release, row, beside, ecosystems) if release is not None else None
        spot = spot or _raised(pin, floors.get(pin.coordinate), row, ecosystems)
        if isinstance(spot, str):
            refused.append(spot)
        elif spot is not None:
            start, end, written = spot
            at = starts[pin.line - 1]
            changes[at + start, at + end] = Change(at + start, at + end, written)
    return ManifestEdit(path, tuple(sorted(changes.values())), tuple(dict.fromkeys(refused)))


def _raised(pin: Pin, floor: Line | None, row: bytes, ecosystems: Registry) -> tuple[int, int, bytes] | None:
    """The lower end of a range of a runtime raised to the oldest line that still works; None where it is there already."""
    at = row.find(pin.text.encode()) if pin.text else -1
    found = _LOWER.search(pin.text)
    if floor is None or pin.how != "range" or at < 0 or found is None or found[1] >= floor:
        return None
    if not ecosystems.admits(pin.coordinate, pin.version, floor):
        return None  # it ends below: that is a matter of the line it moves to
    at += len(pin.text[: found.start(1)].encode())
    return at, at + len(found[1]), floor.encode()


def _respecified(requirement: Requirement, release: str, data: bytes, ecosystems: Registry) -> list[Change] | str:
    """The ranges of a requirement that keep a release out, written otherwise; or why that is left to a person."""
    owner, text = ecosystems.of(requirement.coordinate), data.decode("utf-8", "replace")
    if owner is None or owner.ranges_in is None or owner.respecified is None:
        return f"how {requirement.name} is asked for is not written by Yoake yet"
    made = []
    kept_out = not ecosystems.admitted(requirement.coordinate, requirement.specifier, [release])
    ranges = owner.ranges_in(text, requirement)
    for start, end in ranges:
        wanted = text[start:end]
        # one range alone is what the requirement says, in whatever way its manifest spells it
        if (kept_out and len(ranges) == 1) or not ecosystems.admitted(requirement.coordinate, wanted, [release]):
            written = owner.respecified(wanted, release).encode()
            made.append(Change(len(text[:start].encode()), len(text[:end].encode()), written))
    if kept_out and not made:
        return f"line {requirement.line} does not ask for {requirement.name} in a form that can be rewritten"
    return made


def _pins(modules: Sequence[Module], path: str) -> list[Pin]:
    return list(dict.fromkeys(p for m in modules for p in m.pins if p.file == path))


def _ranged(pin: Pin, release: str, row: bytes, ecosystems: Registry) -> tuple[int, int, bytes] | str | None:
    """The same for a range of a runtime, such as ``>=3.7,<3.9``; None where it takes the release already."""
    owner, coordinate = ecosystems.of(pin.coordinate), pin.coordinate
    wanted = (pin.text or pin.version).encode()
    if ecosystems.admits(coordinate, pin.version, Line(release)):
        return None
    at = row.find(wanted)
    if owner is None or owner.respecified is None or at < 0 or row.count(wanted) != 1:
        return f"line {pin.line} states {coordinate.short} as a range that is not rewritten"
    version = pin.version.encode()
    if wanted.count(version) != 1:
        return f"line {pin.line} states {coordinate.short} as a range that is not rewritten"
    at += wanted.index(version)
    return at, at + len(version), owner.respecified(pin.version, f"{release}.0").encode()


def _pinned(
    pin: Pin, release: str, row: bytes, beside: Sequence[Pin], ecosystems: Registry
) -> tuple[int, int, bytes] | str | None:
    """(from, to, new text) of a pin within its row; why it is left to a person; None where it says as much already."""
    wanted = line_key(release)
    version = pin.version
    length = version.count(".") + 1
    if line_key(version)[: len(wanted)] == wanted[:length]:
        return None
    name = pin.coordinate.short
    if pin.how == "range":
        return _ranged(pin, release, row, ecosystems)
    if pin.how not in _WRITTEN_PINS or not _PLAIN.fullmatch(version):
        return None if pin.how == "classifier" else f"line {pin.line} states {name} as a range or in words"
    if len({p.version for p in beside if p.coordinate == pin.coordinate}) > 1:
        return f"line {pin.line} names several versions of {name}"
    found = list(re.finditer(rf"(?<![\d.]){re.escape(version)}(?![\d]|\.\d)", row.decode("utf-8", "replace")))
    if len(found) != 1:
        return f"line {pin.line} does not name {name} {version} once"
    parts = release.split(".")
    written = ".".join(parts[: max(length, 1)]) if len(parts) >= length else release
    shown = row.decode("utf-8", "replace")
    start, end = found[0].span()
    return len(shown[:start].encode()), len(shown[:end].encode()), written.encode()
