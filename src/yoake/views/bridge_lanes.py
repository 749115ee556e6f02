"""Libraries that have to serve two lines for a while, as lanes."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from itertools import groupby

from yoake.core.portfolio.capacity import NEVER
from yoake.core.portfolio.timetable import Timetable
from yoake.core.values.coordinates import line_key
from yoake.views.portfolio_stages import PortfolioProblem


@dataclass(frozen=True, slots=True, kw_only=True)
class BridgeLane:
    """A library that serves several lines at once: from when on the new one, and until when the old ones are needed."""

    library: str
    slug: str
    team: str
    coordinate: str
    name: str
    lines: list[str]
    since: date | None
    until: date | None
    users: list[str]


def bridge_lanes(portfolio: PortfolioProblem, table: Timetable) -> list[BridgeLane]:
    """Libraries that have users on more than one line: from when on they serve the new, and until when the old."""
    problem, axis = portfolio.problem, portfolio.problem.axis
    movers = {m.slug: m for m in portfolio.inputs.movers}
    found = []
    for (library, coordinate), rows in groupby(
        sorted(portfolio.bridging, key=lambda b: (b.library, b.coordinate)), key=lambda b: (b.library, b.coordinate)
    ):
        held = list(rows)
        users = sorted({b.application for b in held})
        lib = movers[library]
        reached = [
            table.live[i]
            for i, s in enumerate(problem.stages)
            if s.application == library and any(m == coordinate for m, _ in s.state)
        ]
        leave = [
            table.live[i]
            for i, s in enumerate(problem.stages)
            if s.application in users and any(m == coordinate for m, _ in s.state)
        ]
        lines = {dict(movers[u].plan.today).get(coordinate, "") for u in users} | {b.line for b in held}
        found.append(
            BridgeLane(
                library=lib.name,
                slug=library,
                team=next(iter(lib.teams)),
                coordinate=coordinate,
                name=portfolio.ecosystems.spoken(coordinate),
                lines=sorted((line for line in lines if line), key=line_key),
                since=axis.ends(min(reached, default=NEVER)),
                until=axis.ends(max(leave, default=NEVER)),
                users=[movers[u].name for u in users],
            )
        )
    return found
