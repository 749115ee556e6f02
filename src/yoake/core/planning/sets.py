"""Sets of modules: those under one lock file have one state and move together (DESIGN 2).

Modules without a lock file of their own or above them are put together when they stand on the same lines.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from pathlib import PurePosixPath
from typing import TYPE_CHECKING

from yoake.core.planning.problem import Journey
from yoake.core.readiness.estimate import needs_work
from yoake.core.values.journeys import BroughtSlice, ModuleSet, Shape, Span, Surroundings, spans_of

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry
    from yoake.core.values.coordinates import Coordinate, Target
    from yoake.core.values.findings import FileResult, Finding, PackageState
    from yoake.core.values.modules import Module
    from yoake.core.values.results import ScanResult


def sets_of(
    result: ScanResult,
    destination: Sequence[Target],
    ecosystems: Registry,
    slices: Mapping[str, Sequence[BroughtSlice]] | None = None,
) -> list[ModuleSet]:
    """The sets of a scan that stand on something of the destination, by name. ``slices``: the routes of modules that were read."""
    groups: dict[tuple[str, ...], list[Module]] = {}
    for module in result.modules:
        spans = spans_of(result.today.get(module.path, {}), destination)
        if spans:
            lines = tuple(f"{coordinate}@{span.today}" for coordinate, span in sorted(spans.items()))
            lock = _lock_above(module, result.modules)
            groups.setdefault(("locked", lock) if lock is not None else ("free", *lines), []).append(module)
    made = [_made(key, modules, result, destination, ecosystems) for key, modules in groups.items()]
    return sorted((_with_slices(each, slices or {}) for each in made), key=lambda s: s.name)


def _with_slices(made: ModuleSet, slices: Mapping[str, Sequence[BroughtSlice]]) -> ModuleSet:
    held = tuple(each for module in made.modules for each in slices.get(module, ()))
    return replace(made, around=replace(made.around, slices=held)) if held else made


def _lock_above(module: Module, modules: Sequence[Module]) -> str | None:
    """The nearest folder at or above a module that has a lock file."""
    above = [m for m in modules if m.locked and (m.path in ("", module.path) or module.path.startswith(f"{m.path}/"))]
    return max((m.path for m in above), key=len, default=None)


def _made(
    key: tuple[str, ...],
    modules: Sequence[Module],
    result: ScanResult,
    destination: Sequence[Target],
    ecosystems: Registry,
) -> ModuleSet:
    paths = tuple(sorted(m.path for m in modules))
    spans: dict[Coordinate, Span] = {}
    for module in modules:
        for coordinate, span in spans_of(result.today.get(module.path, {}), destination).items():
            if coordinate not in spans or span.today < spans[coordinate].today:
                spans[coordinate] = span
    guessed = {p for m in modules for p, s in result.today.get(m.path, {}).items() if s.how == "inferred"}
    for coordinate in [p for p, span in spans.items() if p in guessed and span.today > span.goal]:
        del spans[coordinate]  # a guess that nothing asks for does not put it past its destination
    required = {r.coordinate for m in modules for r in m.requirements}
    unplaced = {t.coordinate: t.line for t in destination if t.coordinate in required - set(spans)}
    name = key[1] if key[0] == "locked" else paths[0]
    return ModuleSet(name, paths, spans, _around(modules, paths, result, ecosystems), unplaced)


def _around(modules: Sequence[Module], paths: Sequence[str], result: ScanResult, ecosystems: Registry) -> Surroundings:
    required = {r.coordinate for m in modules for r in m.requirements}
    own = [f for f in result.files if _inside(f, paths, result.modules)]
    tallies = [t for path in paths if (t := result.checks.by_module.get(path)) is not None]
    known = sum(t.holds + t.fails for t in tallies)
    every = known + sum(t.unknown for t in tallies)
    left = sorted({n for m in modules for n in m.manifests if PurePosixPath(n).name in ecosystems.generator_files})
    left += sorted(f.path for f in own if PurePosixPath(f.path).name in ecosystems.generator_files)
    return Surroundings(
        known=known / every if every else None,
        tests=sum(1 for f in own if f.role == "test"),
        serves=tuple(sorted(required & ecosystems.web_frameworks)),
        generated=tuple(dict.fromkeys(left)),
    )


def _inside(file: FileResult, paths: Sequence[str], modules: Sequence[Module]) -> bool:
    """Whether a file belongs to one of these modules and to none below it."""
    homes = [m.path for m in modules if m.path == "" or file.path.startswith(f"{m.path}/")]
    return max(homes, key=len, default="") in paths


def journeys_in(
    sets: Sequence[ModuleSet],
    packages: Sequence[PackageState],
    findings: Sequence[Finding],
    today: date,
    days_per_week: float,
    shape: Shape | None = None,
) -> list[tuple[ModuleSet, Journey]]:
    """One journey for each set. ``findings``: those of the scan that are not waived."""
    found = []
    for made in sets:
        own = [f for f in findings if f.module in made.modules and needs_work(f)]
        held = [p for p in packages if p.module in made.modules]
        found.append(
            (
                made,
                Journey(
                    name=made.name,
                    spans=made.spans,
                    packages=held,
                    findings=own,
                    today=today,
                    days_per_week=days_per_week,
                    shape=shape or Shape(),
                    around=made.around,
                    unplaced=made.unplaced,
                ),
            )
        )
    return found
