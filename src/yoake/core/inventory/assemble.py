"""Files → modules: which folder is a module, what it requires, and the lines it stands on today."""

from __future__ import annotations

import posixpath
from collections.abc import Container, Iterable, Iterator, Mapping, Sequence
from math import inf
from typing import TYPE_CHECKING, Final

from yoake.core.contract.ecosystem import Document
from yoake.core.inventory.bills import is_bill, read_bill
from yoake.core.inventory.toolchain import is_toolchain_file, read_toolchain
from yoake.core.values.modules import Fault, Locked, Module, Pin, Requirement, Stated

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry
    from yoake.core.values.coordinates import Coordinate, Line
    from yoake.core.values.words import StatedHow

_ASIDE: Final = ("test", "tests", "docs", "doc", "examples", "fixtures", "__fixtures__")
MAX_MANIFEST: Final = 2 * 1024 * 1024
"""Bytes of a manifest that people write; the largest real ones have some 100 KB."""

MAX_WORD: Final = 256
"""Characters of a name, a release or a range; the longest real ranges have some 150."""

_BESIDE: Final = ("configuration", "artefact")  # kinds of files that make no module
_LONG: Final = ("lock", "artefact")  # kinds of files that no person writes
_HOW_ORDER: Final = ("lock", "container", "pin", "ci", "range", "classifier")


class _Texts(Mapping[str, str]):
    """Files as text, each made when somebody reads it: some are none."""

    def __init__(self, files: Mapping[str, bytes]) -> None:
        self._files = files
        self._made: dict[str, str] = {}

    def __getitem__(self, path: str) -> str:
        if path not in self._made:
            self._made[path] = self._files[path].decode("utf-8-sig", "replace")
        return self._made[path]

    def __contains__(self, path: object) -> bool:
        return path in self._files

    def __iter__(self) -> Iterator[str]:
        return iter(self._files)

    def __len__(self) -> int:
        return len(self._files)


def is_inventory_file(path: str, ecosystems: Registry) -> bool:
    """Whether the inventory wants to read this file."""
    return is_bill(_name(path)) or is_toolchain_file(path, ecosystems) or ecosystems.manifest_reader(path) is not None


def assemble(
    files: Mapping[str, bytes], root_name: str, ecosystems: Registry, sources: Iterable[str] = ()
) -> list[Module]:
    """The modules of a folder. ``files``: path → bytes, of the files that ``is_inventory_file`` accepts.

    A root without a manifest is a module only when some of ``sources`` lie in no other module.
    """
    shown = _Texts(files)
    stating = [path for path in files if _makes_a_module(path, ecosystems)]
    folders = sorted({_module_folder(path) for path in stating} | {""})
    folders = [f for f in folders if f == "" or not _is_aside(f, ecosystems)]
    modules = {folder: Module(path=folder, name=posixpath.basename(folder) or root_name) for folder in folders}
    for path in sorted(files, key=lambda path: _reading_order(path, ecosystems)):
        document = Document(path, files[path], shown)
        _read_guarded(document, modules[_nearest(_module_folder(path), modules)], ecosystems)
    kept = [m for m in modules.values() if m.manifests or m.path == ""]
    _inherit_locks(kept, ecosystems)
    if len(kept) > 1 and not kept[0].manifests:
        _inherit_pins(kept)
        below = {m.path for m in kept[1:]}
        if not any(_nearest(posixpath.dirname(path), below) == "" for path in sources):
            kept = kept[1:]
    return kept


def _makes_a_module(path: str, ecosystems: Registry) -> bool:
    if is_toolchain_file(path, ecosystems):
        return False
    found = ecosystems.manifest_reader(path)
    return found is None or found[1].kind not in _BESIDE


def _read_guarded(document: Document, module: Module, ecosystems: Registry) -> None:
    """Read one file into its module. Whatever is wrong with it is a fault of this file, never of the application."""
    before = (len(module.requirements), len(module.locked), len(module.pins))
    try:
        _read_one(document, module, ecosystems)
    except Exception as error:  # noqa: BLE001  a file from outside can be wrong in ways that no list foresees
        module.faults.append(Fault(document.path, f"could not be read: {str(error)[:200] or type(error).__name__}"))
    _drop_endless(document.path, module, before)


def _drop_endless(path: str, module: Module, before: tuple[int, int, int]) -> None:
    """Leave out what a file names with words longer than any name or version is: they only cost time later."""
    wanted, locked, pinned = before
    entries = len(module.requirements) + len(module.locked) + len(module.pins)
    module.requirements[wanted:] = [
        r for r in module.requirements[wanted:] if len(r.name) <= MAX_WORD and len(r.specifier) <= MAX_WORD
    ]
    module.locked[locked:] = [
        e for e in module.locked[locked:] if len(e.coordinate) <= MAX_WORD and len(e.release) <= MAX_WORD
    ]
    module.pins[pinned:] = [p for p in module.pins[pinned:] if len(p.version) <= MAX_WORD]
    module.name, module.import_name = module.name[:MAX_WORD], module.import_name[:MAX_WORD]
    left_out = entries - len(module.requirements) - len(module.locked) - len(module.pins)
    if left_out:
        module.faults.append(
            Fault(path, f"{left_out} entries with words of more than {MAX_WORD} characters were left out")
        )


def _inherit_pins(modules: Sequence[Module]) -> None:
    """Toolchain files at the root hold for modules that have none of their own."""
    for module in modules[1:]:
        if not any(pin.how != "range" for pin in module.pins):
            module.pins.extend(modules[0].pins)


def _inherit_locks(modules: Sequence[Module], ecosystems: Registry) -> None:
    """A lock file holds for the modules below its folder that have none of their own: one set."""
    for each in ecosystems.ecosystems:
        if each.locks_below:
            _inherit_locks_of(each.package_type, modules)


def _inherit_locks_of(type_: str, modules: Sequence[Module]) -> None:
    own = {m.path: [entry for entry in m.locked if entry.coordinate.type == type_] for m in modules}
    for module in modules:
        if not module.import_name and not any(r.coordinate.type == type_ for r in module.requirements):
            continue
        at = module.path
        while at and not own.get(at):
            at = posixpath.dirname(at)
        if at != module.path:
            module.locked.extend(own.get(at, ()))


def _is_aside(folder: str, ecosystems: Registry) -> bool:
    """Whether a folder holds tests, docs or other people's code, whose manifests make no module."""
    return any(part in _ASIDE or part in ecosystems.foreign_folders for part in folder.split("/"))


def _module_folder(path: str) -> str:
    folder = posixpath.dirname(path)
    return posixpath.dirname(folder) if posixpath.basename(folder) == "requirements" else folder


def _name(path: str) -> str:
    return path.rsplit("/", 1)[-1]


def _reading_order(path: str, ecosystems: Registry) -> tuple[float, str]:
    found = ecosystems.manifest_reader(path)
    return (found[0] if found is not None else inf, path)


def _nearest(folder: str, folders: Container[str]) -> str:
    """The folder itself or the nearest above it that is one of ``folders``; the root when none is."""
    while folder and folder not in folders:
        folder = posixpath.dirname(folder)
    return folder


def _read_one(document: Document, module: Module, ecosystems: Registry) -> None:
    path = document.path
    found = ecosystems.manifest_reader(path)
    reader = found[1] if found is not None else None
    bill = is_bill(_name(path))
    if len(document.data) > MAX_MANIFEST and not bill and (reader is None or reader.kind not in _LONG):
        raise ValueError(f"larger than {MAX_MANIFEST // 1024 // 1024} MB, which no manifest written by hand is")
    if is_toolchain_file(path, ecosystems):
        module.pins.extend(read_toolchain(path, document.text, ecosystems))
    elif reader is not None:
        stated = reader.read(document, module)
        if reader.kind not in _BESIDE and stated is not False:
            module.manifests.append(path)
    elif bill:
        read_bill(path, document.text, module, ecosystems)
        module.manifests.append(path)


def stated_lines(
    module: Module, known: Mapping[Coordinate, Sequence[Line]], ecosystems: Registry
) -> dict[Coordinate, Stated]:
    """Today's line of each runtime and of every package a module names, with where it is said.

    ``known``: coordinate → lines we know, oldest first; a range stands for the lowest of them that it allows.
    """
    found: dict[Coordinate, Stated] = {}
    for runtime in ecosystems.runtimes:
        stated = _runtime_line(runtime, module.pins, known.get(runtime, ()), ecosystems)
        if stated is not None:
            found[runtime] = stated
    locked: dict[Coordinate, Locked] = {}
    for entry in module.locked:
        if not entry.nested:
            locked.setdefault(entry.coordinate, entry)
    wanted: dict[Coordinate, list[Requirement]] = {}
    for requirement in module.requirements:
        wanted.setdefault(requirement.coordinate, []).append(requirement)
    for coordinate in sorted({*locked, *wanted}):
        stated = _package_line(coordinate, wanted.get(coordinate, []), known.get(coordinate, ()), ecosystems)
        if coordinate in locked:
            entry = locked[coordinate]
            stated = Stated(
                coordinate=coordinate,
                line=ecosystems.line_of(coordinate, entry.release),
                how="lock",
                file=entry.file,
                line_number=entry.line,
            )
        if stated is not None:
            found[coordinate] = stated
    return found


def _runtime_line(
    runtime: Coordinate, pins: Iterable[Pin], known: Sequence[Line], ecosystems: Registry
) -> Stated | None:
    said: list[tuple[int, Line, Pin]] = []
    for pin in pins:
        if pin.coordinate != runtime:
            continue
        ranged = pin.how == "range"
        line: Line | None = (
            ecosystems.lowest_line(runtime, pin.version, known) if ranged else ecosystems.line_of(runtime, pin.version)
        )
        if line:
            said.append((_HOW_ORDER.index(pin.how), line, pin))
    if not said:
        return None
    best = min(order for order, _, _ in said)
    order, line, pin = min((entry for entry in said if entry[0] == best), key=lambda entry: entry[1])
    others = tuple(
        sorted(
            {
                f"{p.file}:{p.line} says {p.version}"
                for _, other, p in said
                if other != line and p.how not in ("range", "classifier")
            }
        )
    )
    return Stated(
        coordinate=runtime, line=line, how=_HOW_ORDER[order], file=pin.file, line_number=pin.line, disagreements=others
    )


def _package_line(
    coordinate: Coordinate, wanted: Sequence[Requirement], known: Sequence[Line], ecosystems: Registry
) -> Stated | None:
    exact = {id(r): ecosystems.exact(coordinate, r.specifier) for r in wanted}
    for requirement in sorted(wanted, key=lambda r: (r.group != "", exact[id(r)] is None)):
        release = exact[id(requirement)]
        line: Line | None = (
            ecosystems.line_of(coordinate, release)
            if release
            else ecosystems.lowest_line(coordinate, requirement.specifier, known)
        )
        if line:
            how: StatedHow = "pin" if release else "range"
            return Stated(
                coordinate=coordinate, line=line, how=how, file=requirement.file, line_number=requirement.line
            )
    return None
