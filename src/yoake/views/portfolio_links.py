"""The graph of the portfolio as a screen shows it: who requires whom, where each stands, and what its move frees or blocks."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from yoake.context.context import Context
from yoake.core.portfolio.graph import portfolio_graph
from yoake.formats.waves import mermaid_graph
from yoake.store.applications import list_applications
from yoake.store.waves import outside_applications
from yoake.views.bridge_lanes import BridgeLane, bridge_lanes
from yoake.views.portfolio_stages import uses_of
from yoake.views.wave_bars import last_of, wave_bars
from yoake.views.wave_plans import planned


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkedApplication:
    """An application in the graph. ``arrives``: the day its last stage is live, None where that is not known or nothing is left."""

    slug: str
    name: str
    team: str
    layer: int
    circle: int | None
    library: bool
    vendor: str
    arrives: date | None
    stages: int
    frees: list[str]
    blocks: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class LinksView:
    """Applications, (library, user) for each use, loops, and libraries that serve several lines."""

    heading: str
    applications: list[LinkedApplication]
    uses: list[tuple[str, str]]
    circles: list[list[str]]
    bridges: list[BridgeLane]
    mermaid: str


def portfolio_links(context: Context) -> LinksView:
    """The graph of all applications that are looked after."""
    applications = list_applications(context.db)
    slugs = {a.id: a.slug for a in applications}
    uses = [(slugs[lib], slugs[user]) for lib, user in uses_of(context) if lib in slugs and user in slugs]
    graph = portfolio_graph([a.slug for a in applications], uses)
    plan = planned(context)
    bars = wave_bars(plan.portfolio.problem, plan.waves.table, plan.simulated)
    outside = outside_applications(context.db)
    own: dict[str, list[date | None]] = {}
    for bar in bars:
        own.setdefault(bar.application, []).append(bar.live)
    libraries = {library for library, _ in graph.uses}
    rows = [
        LinkedApplication(
            slug=a.slug,
            name=a.name,
            team=a.team,
            layer=place.layer,
            circle=place.circle,
            library=a.slug in libraries,
            vendor=outside[a.id].vendor if a.id in outside else "",
            arrives=last_of(own.get(a.slug, [])),
            stages=len(own.get(a.slug, [])),
            frees=list(place.frees),
            blocks=list(place.blocks),
        )
        for a, place in zip(applications, graph.places, strict=True)
    ]
    names = {a.slug: a.name for a in applications}
    linked = [(names[lib], names[user]) for lib, user in graph.uses]
    return LinksView(
        heading=_heading(rows, len(graph.circles)),
        applications=rows,
        uses=list(graph.uses),
        circles=[list(c) for c in graph.circles],
        bridges=bridge_lanes(plan.portfolio, plan.waves.table),
        mermaid=mermaid_graph(linked, [a.name for a in applications]),
    )


def _heading(rows: list[LinkedApplication], circles: int) -> str:
    libraries = [row for row in rows if row.library]
    if not libraries:
        return "No application requires another one that is looked after here."
    most = max(libraries, key=lambda row: (len(row.frees), row.name))
    users = len({slug for row in libraries for slug in row.frees})
    waits = f"{users} {'application waits' if users == 1 else 'applications wait'} for {len(libraries)} of our own"
    loops = f" {circles} wait for one another." if circles else ""
    return f"{waits}; most wait for {most.name}.{loops}"
