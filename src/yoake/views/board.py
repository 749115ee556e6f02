"""One page for a board, or for a team: what arrives when, which support ends are at risk, what was estimated and what it took."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from yoake.context.context import Context
from yoake.core.values.errors import NotFound
from yoake.formats.waves import mermaid_gantt
from yoake.store.waves import closed_with_minutes
from yoake.views.forecasts import ForecastView, forecast_of_plan
from yoake.views.wave_plans import planned
from yoake.views.waves import TeamWaves, WavesView, waves_view


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """An application whose closed steps have minutes: hours estimated and spent, and over how many steps."""

    name: str
    steps: int
    estimated: float
    spent: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Board:
    """What the page shows. ``team``: of which, empty for all. ``mermaid``: the plan as a Gantt chart in text."""

    team: str
    today: date
    waves: WavesView
    teams: list[TeamWaves]
    forecast: ForecastView
    told: list[Told]
    mermaid: str


def board(context: Context, team: str = "") -> Board:
    """The page of all teams, or of one. Raises NotFound for a team that has no stage."""
    plan = planned(context)
    view = waves_view(plan)
    teams = [t for t in view.teams if not team or t.name.lower() == team.lower()]
    if team and not teams:
        raise NotFound(f"The team “{team}” has no stage in the plan.")
    named = {bar.name for t in teams for bar in t.stages}
    rows = [
        (
            t.name,
            [
                {"label": f"{b.name} {b.number or ''}".strip(), "starts": b.starts, "ends": b.live or b.ends}
                for b in t.stages
            ],
        )
        for t in teams
    ]
    told: dict[str, list[tuple[float, float]]] = {}
    for row in closed_with_minutes(context.db):
        if not team or row["application"] in named or row["team"].lower() == team.lower():
            told.setdefault(row["application"], []).append((row["minutes"], row["spent"]))
    return Board(
        team=teams[0].name if team else "",
        today=view.today,
        waves=view,
        teams=teams,
        forecast=forecast_of_plan(plan),
        told=[
            Told(
                name=name,
                steps=len(held),
                estimated=sum(e for e, _ in held) / 60,
                spent=sum(s for _, s in held) / 60,
            )
            for name, held in sorted(told.items())
        ],
        mermaid=mermaid_gantt(view.heading, rows),
    )
