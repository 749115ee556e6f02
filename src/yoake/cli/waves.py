"""``yoake waves`` and ``yoake forecast``: the portfolio of this home in time."""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer
from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError

from yoake.cli.own_records import own_records, write_out
from yoake.core.values.errors import BadInput
from yoake.formats.waves import percent, table
from yoake.formats.what_ifs import WhatIf, read_what_if
from yoake.shipped import KIT
from yoake.usecases.plan_waves import search
from yoake.usecases.what_if import Comparison, compare, planned_what_if
from yoake.views.forecasts import ApplicationForecast, ForecastView, Miss, forecast_of_plan
from yoake.views.wave_bars import AT_RISK
from yoake.views.wave_calendar import calendar_of
from yoake.views.wave_plans import Planned, planned, replanned
from yoake.views.waves import WavesView, waves_view

if TYPE_CHECKING:
    from yoake.context.context import Context

_LARGEST = 5_000_000  # bytes of a what-if


class WavesFormat(StrEnum):
    """How waves are written."""

    TEXT = "text"
    JSON = "json"
    ICS = "ics"


class ForecastFormat(StrEnum):
    """How a forecast is written."""

    TEXT = "text"
    JSON = "json"


def waves(
    what_if: Annotated[
        Path | None, typer.Option("--what-if", help="Changes to the plan, as YAML or JSON; nothing is kept.")
    ] = None,
    seconds: Annotated[
        float, typer.Option(help="How long to look for a better plan where there are many stages.", min=0, max=3_600)
    ] = 20,
    format_: Annotated[WavesFormat, typer.Option("--format", help="How to write the waves.")] = WavesFormat.TEXT,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write to this file.")] = None,
) -> None:
    """Say which team works on which stage in which week. Exit 0 when every support end ahead is met, 1 when one is at risk."""
    changes = _read(what_if) if what_if is not None else None
    with own_records(KIT) as context, _quiet():
        plan = _plan(context, changes, seconds)
        view = waves_view(plan)
        compared = compare(context, changes) if changes is not None else None
        shown = _waves_shown(context, plan, view, compared, format_)
    write_out(shown, output)
    raise typer.Exit(1 if view.late else 0)


def forecast(
    seconds: Annotated[
        float, typer.Option(help="How long to look for a better plan where there are many stages.", min=0, max=3_600)
    ] = 20,
    format_: Annotated[
        ForecastFormat, typer.Option("--format", help="How to write the forecast.")
    ] = ForecastFormat.TEXT,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write to this file.")] = None,
) -> None:
    """Say when each application arrives, and with which chance it misses a support end."""
    with own_records(KIT) as context, _quiet():
        view = forecast_of_plan(_plan(context, None, seconds))
    shown = _forecast_json(view) if format_ is ForecastFormat.JSON else _forecast_text(view)
    write_out(shown, output)


@contextmanager
def _quiet() -> Iterator[None]:
    """Standard output goes to standard error meanwhile: the solver says a word there now and then."""
    sys.stdout.flush()
    kept = os.dup(1)
    os.dup2(2, 1)
    try:
        yield
    finally:
        os.dup2(kept, 1)
        os.close(kept)


def _read(path: Path) -> WhatIf:
    try:
        if path.stat().st_size > _LARGEST:
            raise BadInput(f"{path} is larger than any what-if.")
        value = YAML(typ="safe", pure=True).load(path.read_text("utf-8"))
    except (OSError, UnicodeDecodeError, YAMLError, ValueError, RecursionError) as error:
        raise BadInput(f"{path} cannot be read as YAML or JSON: {error}") from error
    return read_what_if(value)


def _plan(context: Context, changes: WhatIf | None, seconds: float) -> Planned:
    plan = planned(context) if changes is None else planned_what_if(context, changes)
    if plan.waves.best or seconds <= 0 or not plan.portfolio.problem.stages:
        return plan
    problem = plan.portfolio.problem
    found = search(problem, seconds, tuple(problem.stages[i].key for i in plan.waves.order))
    return replanned(plan, found)


def _waves_shown(
    context: Context, plan: Planned, view: WavesView, compared: Comparison | None, format_: WavesFormat
) -> str:
    if format_ is WavesFormat.ICS:
        return calendar_of(plan, context)
    if format_ is WavesFormat.JSON:
        return _waves_json(view, compared)
    return _waves_text(view, compared)


def _day(day: date | None) -> str | None:
    return day.isoformat() if day is not None else None


def _waves_json(view: WavesView, compared: Comparison | None) -> str:
    body: dict[str, Any] = {
        "today": view.today.isoformat(),
        "weeks": [week.isoformat() for week in view.weeks],
        "teams": [
            {
                "name": t.name,
                "people": t.people,
                "assumed": t.assumed,
                "capacity": t.capacity,
                "used": t.used,
            }
            for t in view.teams
        ],
        "stages": [
            {
                "application": b.name,
                "set": b.set_name,
                "stage": b.number,
                "title": b.title,
                "team": b.team,
                "start": _day(b.starts),
                "end": _day(b.ends),
                "live": _day(b.live),
                "days": b.days,
                "p50": _day(b.p50),
                "p80": _day(b.p80),
                "fixed": _day(b.fixed),
                "taken": b.taken,
            }
            for t in view.teams
            for b in t.stages
        ],
        "late": [
            {
                "team": t.name,
                "coordinate": w.short,
                "line": w.line,
                "end": w.end.isoformat(),
                "chance": w.chance,
                "past": w.past,
                "applications": w.applications,
            }
            for t in view.teams
            for w in t.walls
            if w.past or w.chance >= AT_RISK
        ],
        "gap": view.gap,
        "notes": view.notes,
        "unplanned": [{"application": u.name, "why": u.why} for u in view.unplanned],
    }
    if compared is not None:
        body["whatIf"] = {
            "told": compared.told,
            "present": _side_json(compared.present),
            "whatIf": _side_json(compared.what_if),
        }
    return json.dumps(body, indent=1, ensure_ascii=False) + "\n"


def _side_json(side: Any) -> dict[str, Any]:
    return {
        "p50": _day(side.arrival.p50),
        "p80": _day(side.arrival.p80),
        "never": side.arrival.never,
        "atRisk": side.at_risk,
        "ends": side.ends,
        "lateDays": side.late_days,
        "cost": side.cost,
    }


def _waves_text(view: WavesView, compared: Comparison | None) -> str:
    lines = [view.heading, view.subheading, ""]
    for team in view.teams:
        people = ", ".join(team.people) or ("each application its own days" if team.assumed else "nobody")
        lines.append(f"{team.name}: {team.days:g} days a week ({people})")
        rows = [
            (
                f"  {b.name} {b.number}" if b.number else f"  {b.name}",
                b.title,
                f"{b.days:.1f} d",
                f"{b.starts or 'never'}",
                f"{b.live or 'never'}",
                f"80 %: {b.p80 or 'never'}",
            )
            for b in team.stages
        ]
        lines.append(table(rows, right=(2,)).rstrip("\n"))
        lines += [
            f"  {w.name} {w.line} ends {w.end}: missed with {percent(w.chance)}" for w in team.walls if not w.past
        ]
        lines.append("")
    lines += view.notes
    lines += [f"{u.name} is not in the plan: {u.why}." for u in view.unplanned]
    if compared is not None:
        lines += ["", f"What if {'; '.join(compared.told)}:"]
        for name, side in (("as planned", compared.present), ("what if", compared.what_if)):
            lines.append(
                f"  {name}: {side.arrival.p50 or 'never'} at 50 %, {side.arrival.p80 or 'never'} at 80 %, "
                f"{side.at_risk} of {side.ends} support ends at risk"
                + (f", {side.arrival.never} never arrive" if side.arrival.never else "")
            )
    return "\n".join(lines).rstrip() + "\n"


def _misses_json(misses: list[Miss]) -> list[dict[str, Any]]:
    return [{"coordinate": m.coordinate, "line": m.line, "end": m.end.isoformat(), "chance": m.chance} for m in misses]


def _application_json(a: ApplicationForecast) -> dict[str, Any]:
    return {
        "name": a.name,
        "team": a.team,
        "p50": _day(a.p50),
        "p80": _day(a.p80),
        "p95": _day(a.p95),
        "misses": _misses_json(a.misses),
    }


def _forecast_json(view: ForecastView) -> str:
    whole = view.portfolio
    body = {
        "runs": view.runs,
        "seconds": view.seconds,
        "applications": [_application_json(a) for a in view.applications],
        "portfolio": {
            "p50": _day(whole.p50),
            "p80": _day(whole.p80),
            "p95": _day(whole.p95),
            "never": whole.never,
            "stages": whole.stages,
            "days": whole.days,
            "misses": _misses_json(whole.misses),
            "unplanned": [{"application": u.name, "why": u.why} for u in view.unplanned],
        },
        "drivers": [{"application": d.name, "stage": d.number, "team": d.team, "share": d.share} for d in view.drivers],
    }
    return json.dumps(body, indent=1, ensure_ascii=False) + "\n"


def _forecast_text(view: ForecastView) -> str:
    rows: list[tuple[str, ...]] = [("application", "50 %", "80 %", "95 %", "worst support end ahead")]
    for a in view.applications:
        ahead = [m for m in a.misses if m.end >= view.today]
        worst = max(ahead, key=lambda m: m.chance, default=None)
        said = f"{worst.name} {worst.line} ({worst.end}) missed with {percent(worst.chance)}" if worst else ""
        rows.append((a.name, *(str(d) if d else "never" for d in (a.p50, a.p80, a.p95)), said))
    whole = view.portfolio
    rows.append(
        (
            "all that arrives" if whole.never else "all of it",
            *(str(d) if d else "never" for d in (whole.p50, whole.p80, whole.p95)),
            "",
        )
    )
    told = f"{view.runs:,} runs in {view.seconds:.2f} s; {view.steps_learnt} closed steps learnt from.\n"
    missing = [f"{u.name} is not in the forecast: {u.why}.\n" for u in view.unplanned]
    return table(rows) + "\n" + told + "".join(missing)


def register(app: typer.Typer) -> None:
    """Add the commands."""
    app.command()(waves)
    app.command()(forecast)
