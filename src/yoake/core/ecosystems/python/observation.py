"""What a package's own code says of the runtimes it can be imported on: names that went away, used while it is imported.

Only what certainly runs is looked at: statements outside functions and classes, unguarded, in files that the package's
own top level imports. What a function or a seldom imported module uses is no reason to call a release unusable.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING

from yoake.core.ecosystems.python.project import Project

if TYPE_CHECKING:
    from yoake.core.values.coordinates import Line
    from yoake.core.values.facts import FileFacts
    from yoake.core.values.findings import Finding


def import_break(facts: Mapping[str, FileFacts], findings: Iterable[Finding], fine: Line) -> tuple[Line, str] | None:
    """(first Python line on which importing the package fails, what it uses and where); None when nothing is seen.

    ``facts`` are the files of one release by path, ``findings`` what a scan from ``fine`` on found in those that an import of it runs;
    ``fine`` is a line on which it is known to run: what looks lost already there is code for other versions.
    """
    worst: tuple[Line, str] | None = None
    for finding in findings:
        if finding.kind not in ("removed", "moved") or finding.bites_at is None or finding.level != "error":
            continue
        place = next((p for p in finding.places if p.level == "error" and not p.scope and not p.guarded), None)
        later = finding.bites_at > fine
        if place is not None and any(place.symbol.split(".")[0] == name for name in _brought_along(facts)):
            continue
        if place is not None and later and (worst is None or finding.bites_at < worst[0]):
            worst = (finding.bites_at, f"{place.symbol} in {place.file}:{place.line}")
    return worst


def _brought_along(facts: Mapping[str, FileFacts]) -> tuple[str, ...]:
    """Modules of the standard library that a package puts in place by itself before anything asks for them."""
    hooks = {"_distutils_hack": "distutils"}
    return tuple(brought for hook, brought in hooks.items() if any(path.startswith(f"{hook}/") for path in facts))


def imported_files(facts: Mapping[str, FileFacts], tops: frozenset[str]) -> set[str]:
    """Files that an import of the package's top level runs, as far as plain import statements show it."""
    project = Project(facts, [""], implicit_relative=False)
    waiting = [path for top in sorted(tops) for path in (f"{top}/__init__.py", f"{top}.py") if path in facts]
    reached: set[str] = set()
    while waiting:
        path = waiting.pop()
        if path in reached:
            continue
        reached.add(path)
        for index, ask in enumerate(facts[path].asks):
            if ask.form != "import" or ask.guards or all(use.scope for use in facts[path].uses_of(index)):
                continue
            target = project.target_of(ask.path, path)
            if target is not None:
                waiting.append(target)
    return reached
