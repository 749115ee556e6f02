"""Ways as JSON, Markdown, Mermaid, CSV and plain text: the same facts, for programs and for people."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict
from datetime import date
from typing import Any, Final

from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.alternatives import OBJECTIVES, Way, Ways, recommended
from yoake.core.planning.dates import after, dark_days
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.effort import Effort
from yoake.core.values.plans import Plan, Stage

Spoken = Callable[[Coordinate], str]
"""How people say a coordinate."""

_OTHERS: Final = 2  # options beside the recommended one; the rest on demand
_NAMED: Final = 5  # moves named in a title
_SAID: Final = 8  # sentences to a stage; the rest on demand

TITLES: Final = {
    "direct": "Straight to the end",
    "hop-by-hop": "Hop by hop",
    "parallel-copy": "Parallel copy",
    "piecewise": "Piecewise",
    "dual-run": "Dual run",
    "fresh-base": "Fresh base",
    "rework-first": "Rework first",
    "hold": "Hold",
    "retire": "Retire",
}
OBJECTIVE_TITLES: Final = {"work": "Least work", "stages": "Fewest stages", "danger": "Soonest out of the dark"}


def title_of(way: Way) -> str:
    """What a way is called: by what it is best for, else by its strategy."""
    named = [OBJECTIVE_TITLES[o] for o in way.objectives]
    if not named:
        return TITLES[way.strategy]
    return ", ".join([named[0], *(name[0].lower() + name[1:] for name in named[1:])])


def ways_json(name: str, ways: Ways, objectives: Sequence[str]) -> list[dict[str, Any]]:
    """Paths of one set, one entry for each objective and strategy."""
    rows: list[dict[str, Any]] = []
    for way in ways.ways:
        wanted = [o for o in way.objectives if o in objectives]
        asked: list[str | None] = [*wanted]
        if way.strategy == "direct" or not way.objectives:
            asked.append(None)
        rows.extend(_way_json(name, ways, way, objective) for objective in asked)
    return rows


def _way_json(name: str, ways: Ways, way: Way, objective: str | None) -> dict[str, Any]:
    journey, knowledge = ways.problem.journey, ways.problem.knowledge
    plan = way.plan
    return {
        "set": name,
        "objective": objective,
        "strategy": way.strategy,
        "proven": way.proven,
        "reasons": list(way.reasons),
        "before": {"findings": len(plan.before_keys), "effort": asdict(plan.before)},
        "stages": [_stage_json(stage, knowledge) for stage in plan.stages],
        "arrival": {
            "p50": after(journey.today, plan.total.p50, journey.days_per_week).isoformat(),
            "p80": after(journey.today, plan.total.p80, journey.days_per_week).isoformat(),
        },
        "effort": asdict(plan.total),
        "darkDays": dark_days(plan, knowledge, journey.today, journey.days_per_week),
    }


def _stage_json(stage: Stage, knowledge: Knowledge) -> dict[str, Any]:
    return {
        "number": stage.number,
        "title": stage.title,
        "moves": _moves_json(stage, knowledge),
        "state": _state_json(stage, knowledge),
        "packages": [{**asdict(p), "moves": p.moves} for p in stage.packages],
        "constraints": [{"text": c.text, "grade": c.grade, "source": c.source} for c in stage.constraints],
        "reasons": list(stage.reasons),
        "notes": list(stage.notes),
        "findings": len(stage.finding_keys),
        "safeNow": len(stage.safe_keys),
        "effort": asdict(stage.effort),
    }


def _moves_json(stage: Stage, knowledge: Knowledge) -> list[dict[str, str]]:
    """What the path moves, then the packages that have to come along."""
    rows = [{"coordinate": m.coordinate, "from": m.start, "to": m.goal} for m in stage.moves]
    moved = {m.coordinate for m in stage.moves}
    for package in stage.packages:
        if package.moves and package.coordinate not in moved:
            goal = knowledge.line_of(package.coordinate, package.release)
            rows.append({"coordinate": package.coordinate, "from": package.before, "to": goal})
    return rows


def _state_json(stage: Stage, knowledge: Knowledge) -> dict[str, dict[str, str]]:
    """Line and release of everything that stands at a stage."""
    lines, releases = dict(stage.state), dict(stage.releases)
    for package in stage.packages:
        if package.release and package.state != "none" and package.coordinate not in lines:
            lines[package.coordinate] = knowledge.line_of(package.coordinate, package.release)
            releases[package.coordinate] = package.release
    return {coordinate: {"line": line, "release": releases.get(coordinate, line)} for coordinate, line in lines.items()}


def conflict_json(ways: Ways) -> dict[str, Any] | None:
    """What cannot hold together and what would release it; None when there is a way."""
    if ways.conflict is None:
        return None
    return {
        "constraints": [
            {"coordinate": c.owner, "against": c.subject, "text": c.text, "grade": c.grade, "source": c.source}
            for c in ways.conflict.constraints
        ],
        "releases": [asdict(release) for release in ways.conflict.releases],
    }


def refused_json(ways: Ways) -> list[dict[str, Any]]:
    """Strategies that cannot be taken, and why."""
    return [{"strategy": r.strategy, "reasons": list(r.reasons)} for r in ways.refused]


def moves_text(stage: Stage, spoken: Spoken) -> str:
    """“Django 4.2, Python 3.12”: the destination’s first, and of a large family only how many more there are."""
    named = [f"{spoken(m.coordinate)} {m.goal}" for m in stage.moves]
    return (
        ", ".join(named)
        if len(named) <= _NAMED
        else f"{', '.join(named[: _NAMED - 1])} and {len(named) - _NAMED + 1} more"
    )


def _days_text(effort: Effort) -> str:
    return f"{effort.p50:.1f} to {effort.p80:.1f} days"


def ways_text(name: str, ways: Ways, objectives: Sequence[str], *, every: bool = False) -> str:
    """For a terminal: the way to take and why, at most two others in a line each; all of everything with ``every``."""
    rows = [f"{name or 'the whole application'}"]
    asked = [w for w in ways.ways if not w.objectives or set(w.objectives) & set(objectives)]
    best = recommended(ways) if set(objectives) == set(OBJECTIVES) else None
    first = best[0] if best is not None else next(iter(asked), None)
    if first is not None:
        rows += ["", *_way_text(ways, first, every=every)]
        rows += [f"    Why this one: {best[1]}."] if best is not None else []
    others = [w for w in asked if w is not first]
    for way in others if every else others[:_OTHERS]:
        rows += ["", *(_way_text(ways, way, every=True) if every else [_headline(ways, way)])]
    if every:
        for refused in ways.refused:
            rows += ["", f"{TITLES[refused.strategy]}: not possible", *(f"    {reason}" for reason in refused.reasons)]
        for offer in ways.staying:
            rows += ["", f"{TITLES[offer.strategy]}: possible", *(f"    {reason}" for reason in offer.reasons)]
    elif left := max(len(others) - _OTHERS, 0) + len(ways.refused) + len(ways.staying):
        rows += ["", f"--all shows {left} more, possible or not, and everything that goes with each stage."]
    rows += _conflict_text(ways)
    return "\n".join(rows) + "\n"


def _headline(ways: Ways, way: Way) -> str:
    journey, plan = ways.problem.journey, way.plan
    dark = dark_days(plan, ways.problem.knowledge, journey.today, journey.days_per_week)
    arrival = after(journey.today, plan.total.p50, journey.days_per_week)
    proven = "" if way.proven or not way.objectives else "; not proven to be the best"
    count = "1 stage" if len(plan.stages) == 1 else f"{len(plan.stages)} stages"
    name = title_of(way) if not way.objectives else f"{title_of(way)} ({TITLES[way.strategy].lower()})"
    return (
        f"{name}: {count}, {_days_text(plan.total)}, {dark} days without support, arriving {arrival:%-d %b %Y}{proven}"
    )


def _way_text(ways: Ways, way: Way, *, every: bool) -> list[str]:
    plan, spoken = way.plan, ways.problem.knowledge.spoken
    before = f"    before any version moves: {_changes(len(plan.before_keys))}, {_days_text(plan.before)}"
    rows = [_headline(ways, way), *([before] if plan.before_keys else [])]
    for stage in plan.stages:
        rows.append(
            f"    {stage.number}. {stage.title or moves_text(stage, spoken)}: {_changes(len(stage.finding_keys))}, {_days_text(stage.effort)}"
        )
        said = [*stage.reasons, *stage.notes, *_packages_text(stage, spoken)]
        rows += [f"        {text}" for text in (said if every else said[:_SAID])]
        rows += [f"        and {len(said) - _SAID} more"] if len(said) > _SAID and not every else []
    return rows


def _changes(count: int) -> str:
    return {0: "no change", 1: "1 change"}.get(count, f"{count} changes")


def _packages_text(stage: Stage, spoken: Spoken) -> list[str]:
    """What a stage does with packages, the ones without a way first."""
    moved = {m.coordinate for m in stage.moves}
    rows = [f"{spoken(p.coordinate)}: {p.why}" for p in stage.packages if p.state == "none"]
    along = [p for p in stage.packages if p.moves and p.coordinate not in moved]
    rows += [f"{spoken(p.coordinate)} moves to {p.release}: {p.why}" for p in along]
    kept = sum(1 for p in stage.packages if p.state == "keeps")
    unknown = sum(1 for p in stage.packages if p.state == "unknown")
    rows += [f"{'1 package keeps its range' if kept == 1 else f'{kept} packages keep their ranges'}"] if kept else []
    are = "1 package is" if unknown == 1 else f"{unknown} packages are"
    rows += [f"{are} not known: --look-up asks for them"] if unknown else []
    return rows


def _conflict_text(ways: Ways) -> list[str]:
    if ways.conflict is None:
        return []
    rows = ["", "There is no path there. These cannot hold together:"]
    rows += [f"    {c.text} ({c.grade}: {c.source})" for c in ways.conflict.constraints]
    rows += ["What would open one:", *(f"    {r.text}" for r in ways.conflict.releases)]
    return rows


def ways_markdown(title: str, way: Way, findings: Mapping[str, str], today: date, spoken: Spoken) -> str:
    """One way as a page: a table of stages, then each with its moves, changes and reasons. ``findings``: key → title."""
    plan = way.plan
    rows = [
        f"# {title}: {title_of(way)}",
        "",
        f"{TITLES[way.strategy]}; {_days_text(plan.total)} of work, counted from {today:%-d %b %Y}.",
        "",
    ]
    rows += ["| stage | moves | changes | days at 50 % | days at 80 % |", "|---|---|---|---|---|"]
    rows.append(f"| before | none | {len(plan.before_keys)} | {plan.before.p50:.1f} | {plan.before.p80:.1f} |")
    for stage in plan.stages:
        moved = stage.title or moves_text(stage, spoken)
        rows.append(
            f"| {stage.number} | {_cell(moved)} | {len(stage.finding_keys)} | {stage.effort.p50:.1f} | {stage.effort.p80:.1f} |"
        )
    rows += ["", "## Before any version moves", "", *_listed(plan.before_keys, findings)]
    for stage in plan.stages:
        rows += ["", f"## Stage {stage.number}: {stage.title or moves_text(stage, spoken)}", ""]
        rows += [f"- {reason}" for reason in stage.reasons]
        rows += [f"- {m.coordinate.short}: {m.start} → {m.goal}" for m in stage.moves]
        rows += [f"- {text}" for text in _packages_text(stage, spoken)]
        rows += _listed(stage.finding_keys, findings) if stage.finding_keys else []
    return "\n".join(rows) + "\n"


def _listed(keys: Sequence[str], findings: Mapping[str, str]) -> list[str]:
    return [f"- {findings.get(key, key)}" for key in keys] or ["Nothing."]


def _cell(text: str) -> str:
    return text.replace("|", "\\|")


def ways_mermaid(plan: Plan, spoken: Spoken) -> str:
    """A chain of states, with what moves on the arrows."""
    rows = ["flowchart LR", f'  s0["{_state_text(plan.today, plan)}"]']
    for stage in plan.stages:
        shown = _state_text(stage.state, plan)
        rows.append(
            f'  s{stage.number - 1} -->|"{stage.title or moves_text(stage, spoken)}"| s{stage.number}["{shown}"]'
        )
    return "\n".join(rows) + "\n"


def _state_text(state: Sequence[tuple[Coordinate, Line]], plan: Plan) -> str:
    moving = {m.coordinate for stage in plan.stages for m in stage.moves}
    return "<br/>".join(f"{p.name} {line}" for p, line in state if p in moving) or "as today"


def ways_csv(ways: Ways) -> str:
    """One row for each coordinate and stage of every way."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["way", "strategy", "stage", "coordinate", "line", "release", "moves", "days_50", "days_80"])
    for way in ways.ways:
        for stage in way.plan.stages:
            moved = {m.coordinate for m in stage.moves}
            releases = dict(stage.releases)
            for coordinate, line in stage.state:
                price = (f"{stage.effort.p50:.2f}", f"{stage.effort.p80:.2f}")
                held = (coordinate, line, releases.get(coordinate, line), "yes" if coordinate in moved else "no")
                writer.writerow([title_of(way), way.strategy, stage.number, *held, *price])
    return out.getvalue()
