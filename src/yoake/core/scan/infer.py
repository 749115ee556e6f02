"""Today's line where nothing states it: of the lines on which the syntax and the imports resolve, the oldest that somebody who now
plans to move is likely to stand on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date
from typing import TYPE_CHECKING

from yoake.core.values.coordinates import Coordinate, Line, line_key

if TYPE_CHECKING:
    from yoake.core.contract.locality import Locality
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import Lifecycle
    from yoake.core.knowledge.timeline import Timeline
    from yoake.core.values.facts import FileFacts
    from yoake.core.values.modules import Stated


def infer_runtime(
    runtime: Coordinate,
    files: Mapping[str, FileFacts],
    project: Locality,
    today: Mapping[Coordinate, Stated],
    goal: Line | None,
    knowledge: Knowledge,
) -> Line | None:
    """The likeliest line of a runtime that the code reads on and today's libraries state support for.

    ``goal``: the line the destination names, None where it names none.
    """
    timeline = knowledge.timelines.get(runtime)
    if timeline is None:
        return None
    broken = _first_broken_syntax(files, knowledge)
    allowed = [line for line in timeline.names if broken is None or line < broken]
    for stated in today.values():
        if knowledge.ecosystems.runtime_of(stated.coordinate) != runtime:
            continue
        facts = knowledge.line_facts(stated.coordinate, stated.line)
        fitting = [line for line in allowed if facts is not None and line in facts.runs_on]
        allowed = fitting or allowed
    fitting = _fitting(timeline, allowed, _imports(files, project))
    return _likeliest(fitting, goal, knowledge.lifecycles.get(runtime))


def infer_line(
    coordinate: Coordinate, files: Mapping[str, FileFacts], project: Locality, goal: Line | None, knowledge: Knowledge
) -> Line | None:
    """The likeliest line of a library among those on which all unguarded imports resolve, or that lose fewest."""
    timeline = knowledge.timelines.get(coordinate)
    if timeline is None:
        return None
    fitting = _fitting(timeline, timeline.names, _imports(files, project))
    return _likeliest(fitting, goal, knowledge.lifecycles.get(coordinate))


def _likeliest(fitting: Sequence[Line], goal: Line | None, lifecycle: Lifecycle | None) -> Line | None:
    """Of lines that the code fits equally well: one before the goal, and the oldest that was supported when the goal came out.

    Without a goal the day is that of what is known. Where nothing is known of dates, it is the newest line before the goal.
    """
    before = [line for line in fitting if goal is None or line < goal] or fitting[:1]
    facts = {each.line: each for each in lifecycle.lines} if lifecycle is not None else {}
    aimed = facts.get(goal) if goal is not None else None
    day = aimed.released if aimed is not None else lifecycle.as_of if lifecycle is not None else None
    if day is None:
        return before[-1] if before else None
    out = [line for line in before if line not in facts or (facts[line].released or date.min) <= day]
    supported = [line for line in out if line in facts and day < (facts[line].support_ends or date.max)]
    if supported:
        return supported[0]
    return (out or before)[-1] if before else None


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


def _fitting(timeline: Timeline, allowed: Sequence[Line], imports: Mapping[str, int]) -> list[Line]:
    """The lines that lose fewest of these imports, in their order."""
    missing = dict.fromkeys(allowed, 0)
    for name, count in imports.items():
        answer = timeline.ask(name)
        if not answer.offers:
            continue
        there = set(timeline.lines_in(answer.offers | answer.unknown))
        for line in allowed:
            missing[line] += 0 if line in there else count
    fewest = min(missing.values(), default=0)
    return [line for line in allowed if missing[line] == fewest]
