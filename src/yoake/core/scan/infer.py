"""Today's line where nothing states it: the newest line on which the syntax and the imports resolve."""

from __future__ import annotations

from collections.abc import Mapping

from yoake.core.contract.locality import Locality
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.timeline import Timeline
from yoake.core.values.coordinates import Coordinate, line_key
from yoake.core.values.facts import FileFacts
from yoake.core.values.modules import Stated


def infer_runtime(
    runtime: Coordinate,
    files: Mapping[str, FileFacts],
    project: Locality,
    today: Mapping[str, Stated],
    knowledge: Knowledge,
) -> str | None:
    """The newest line of a runtime that the code reads on and today's libraries state support for."""
    timeline = knowledge.timelines.get(runtime.purl)
    if timeline is None:
        return None
    broken = _first_broken_syntax(files, knowledge)
    allowed = [line for line in timeline.names if broken is None or line_key(line) < line_key(broken)]
    for stated in today.values():
        if knowledge.ecosystems.runtime_of(stated.coordinate) != runtime:
            continue
        facts = knowledge.line_facts(stated.coordinate, stated.line)
        fitting = [line for line in allowed if facts is not None and line in facts.runs_on]
        allowed = fitting or allowed
    return _best(timeline, allowed, _imports(files, project))


def infer_line(
    coordinate: Coordinate, files: Mapping[str, FileFacts], project: Locality, knowledge: Knowledge
) -> str | None:
    """The newest line of a library on which all unguarded imports resolve; else the newest that loses fewest."""
    timeline = knowledge.timelines.get(coordinate.purl)
    return _best(timeline, timeline.names, _imports(files, project)) if timeline is not None else None


def _first_broken_syntax(files: Mapping[str, FileFacts], knowledge: Knowledge) -> str | None:
    """The first line of the runtime that no longer reads some old syntax of these files."""
    asked = ((f.language, ask.path) for f in files.values() for ask in f.asks if ask.form == "syntax")
    rules = map(knowledge.symbol_rules.get, asked)
    lines = [found[0].at for found in rules if found is not None and found[0].at is not None]
    return min(lines, key=line_key, default=None)


def _imports(files: Mapping[str, FileFacts], project: Locality) -> dict[str, int]:
    """Unguarded imports that leave the project, with how often they occur."""
    found: dict[str, int] = {}
    for path, facts in files.items():
        for ask in facts.asks:
            if ask.form != "import" or ask.guards:
                continue
            resolved = project.resolve(ask.path, path)
            if resolved is not None and not resolved.reexported:
                found[resolved.path] = found.get(resolved.path, 0) + 1
    return found


def _best(timeline: Timeline, allowed: list[str], imports: Mapping[str, int]) -> str | None:
    missing = dict.fromkeys(allowed, 0)
    for name, count in imports.items():
        answer = timeline.ask(name)
        if not answer.offers:
            continue
        there = set(timeline.lines_in(answer.offers | answer.unknown))
        for line in allowed:
            missing[line] += 0 if line in there else count
    if not missing:
        return None
    fewest = min(missing.values())
    return [line for line in allowed if missing[line] == fewest][-1]
