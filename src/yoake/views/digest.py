"""The digest: what changed since a day, who is newly late, which support ends came near, what was found again, whom to chase."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Final

from yoake.context.context import Context
from yoake.core.contract.registry import Registry
from yoake.core.values.coordinates import parse_target
from yoake.formats.waves import percent
from yoake.store.applications import list_applications
from yoake.store.watch import (
    beyond,
    clear_before,
    counted_events,
    forecasts_before,
    reopened_since,
)
from yoake.store.waves import outside_applications
from yoake.views.phrases import day_text
from yoake.views.wave_bars import AT_RISK, WaveBar
from yoake.views.wave_plans import planned
from yoake.views.waves import WavesView, waves_view

NEAR: Final = 91
"""Days ahead in which a support end is near: a quarter."""

_MOST: Final = 40
_EVER: Final = "9999"  # after every time there is
_BETTER: Final = 0.005  # share known to hold by which an application is said to have moved


@dataclass(frozen=True, slots=True, kw_only=True)
class DigestLine:
    """One thing to know: a sentence about an application (empty: about all of it), with a day where it has one."""

    text: str
    slug: str = ""
    day: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class DigestPart:
    """Lines of one kind under a title; ``more``: how many were left out."""

    title: str
    lines: list[DigestLine]
    more: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Digest:
    """What is worth knowing of the time from ``since`` to ``until``."""

    since: date
    until: date
    heading: str
    plan: str
    parts: list[DigestPart]


def digest(context: Context, days: int) -> Digest:
    """The digest of the last ``days``."""
    since = context.today - timedelta(days=days)
    plan = planned(context)
    view = waves_view(plan)
    bars = {bar.key: bar for team in view.teams for bar in team.stages}
    late = _newly_late(context, bars, since)
    near = _near(view, context.today)
    again = [
        DigestLine(text=f"{row['name']}: {row['subject'].removeprefix('step ')} was found again", slug=row["slug"])
        for row in reopened_since(context.db, since.isoformat())
    ]
    parts = [
        _part("Newly late", late),
        _part("Support ends near", near),
        _part("Found again", again),
        _part("To chase", _chase(context)),
        _part("Clearer or less clear", _trend(context, since)),
        _part("Beyond the destination", _beyond(context, since)),
        _part("What happened", _happened(context, since)),
        _part("Not in the plan", [DigestLine(text=f"{u.name}: {u.why}", slug=u.slug) for u in view.unplanned]),
    ]
    return Digest(
        since=since,
        until=context.today,
        heading=_heading(len(late), len(near), len(again)),
        plan=f"{view.heading} {view.subheading}".strip(),
        parts=[part for part in parts if part.lines],
    )


def _part(title: str, lines: list[DigestLine]) -> DigestPart:
    return DigestPart(title=title, lines=lines[:_MOST], more=max(0, len(lines) - _MOST))


def _heading(late: int, near: int, again: int) -> str:
    said = []
    if late:
        said.append(f"{late} {'stage is' if late == 1 else 'stages are'} newly late")
    if near:
        said.append(f"{near} support {'end is' if near == 1 else 'ends are'} near")
    if again:
        said.append(f"{again} {'step was' if again == 1 else 'steps were'} found again")
    if not said:
        return "Nothing got worse."
    return f"{'; '.join(said)}."


def _newly_late(context: Context, bars: dict[str, WaveBar], since: date) -> list[DigestLine]:
    """Stages that may miss a support end now, and were not said to before."""
    before = forecasts_before(context.db, since)
    numbers = {a.slug: a.id for a in list_applications(context.db)}
    found = []
    for bar in sorted(bars.values(), key=lambda b: -(b.late or 0.0)):
        if bar.late is None or bar.late < AT_RISK or bar.application not in numbers:
            continue
        kept = before.get((numbers[bar.application], bar.key.split("|")[1]))
        if kept is not None and (kept.late is None or kept.late >= AT_RISK):
            continue
        was = f", {percent(kept.late)} before" if kept is not None and kept.late is not None else ""
        text = f"{bar.name} {bar.number} ({bar.title}) misses a support end with {percent(bar.late)}{was}"
        found.append(DigestLine(text=text, slug=bar.application, day=bar.p80))
    return found


def _near(view: WavesView, today: date) -> list[DigestLine]:
    found = [
        DigestLine(
            text=f"{wall.name} {wall.line} ends on {day_text(wall.end)} for {', '.join(wall.applications)} ({team.name})",
            day=wall.end,
        )
        for team in view.teams
        for wall in team.walls
        if not wall.past and wall.end <= today + timedelta(days=NEAR)
    ]
    return sorted(found, key=lambda line: line.day or date.max)


def _chase(context: Context) -> list[DigestLine]:
    held = outside_applications(context.db)
    found = []
    for a in list_applications(context.db):
        outside = held.get(a.id)
        if outside is None or outside.arrived is not None:
            continue
        if outside.promised is not None and outside.promised <= context.today:
            text = f"{outside.vendor} promised {a.name} for {day_text(outside.promised)}, and it is not here"
            found.append(DigestLine(text=text, slug=a.slug, day=outside.promised))
        elif outside.chase is not None and outside.chase <= context.today:
            found.append(DigestLine(text=f"ask {outside.vendor} again about {a.name}", slug=a.slug, day=outside.chase))
        elif outside.asked is not None and not outside.answer:
            waiting = (context.today - outside.asked).days
            found.append(
                DigestLine(text=f"{outside.vendor} has not answered about {a.name} for {waiting} days", slug=a.slug)
            )
    return found


def _trend(context: Context, since: date) -> list[DigestLine]:
    before, after = (clear_before(context.db, day) for day in (since.isoformat(), _EVER))
    found = []
    for a in list_applications(context.db):
        if a.id in before and abs(after[a.id] - before[a.id]) >= _BETTER:
            text = f"{a.name}: {percent(before[a.id])} known to hold, now {percent(after[a.id])}"
            found.append(DigestLine(text=text, slug=a.slug))
    return found


def _beyond(context: Context, since: date) -> list[DigestLine]:
    """What scans against the lines after the destinations found."""
    return [
        DigestLine(
            text=f"{row['name']} at {_lines(row['targets'], context.ecosystems)}: {row['errors']} would fail, {row['warnings']} would warn",
            slug=row["slug"],
        )
        for row in beyond(context.db, since.isoformat())
    ]


def _lines(targets: str, ecosystems: Registry) -> str:
    held = [parse_target(text) for text in json.loads(targets)]
    return ", ".join(ecosystems.spoken_target(t) for t in held)


def _happened(context: Context, since: date) -> list[DigestLine]:
    counted = counted_events(context.db, since.isoformat())
    return [
        DigestLine(text=f"{what}: {n}") for what, n in sorted(counted.items(), key=lambda item: (-item[1], item[0]))
    ]


def period_of(made: Digest) -> str:
    """The time that a digest is about, in words."""
    return f"{made.since:%-d %b %Y} to {made.until:%-d %b %Y}"
