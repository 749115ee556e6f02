"""What the screen Crossing reads: how far an application is across, and what moves next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Final

from yoake.context.context import Context
from yoake.core.crossing.moving import Stop, last_day
from yoake.core.crossing.parts import Needs
from yoake.core.crossing.rules import Side, Standing
from yoake.core.crossing.slices import loops, needed_by_many
from yoake.core.crossing.traffic import UnmatchedPath
from yoake.core.values.routes import bare
from yoake.store.applications import application_by_id, list_applications
from yoake.store.crossings import RECORDING_COMPARED, unmatched_of
from yoake.store.events import newest_event_of
from yoake.store.scans import StoredScan, sets_of_scan
from yoake.views.application_rows import ApplicationRow, read_application
from yoake.views.crossing_rows import RouteRow, route_row, short_day
from yoake.views.crossing_slices import SliceBand, slice_bands
from yoake.views.crossing_state import CrossingState

_ALIVE: Final = timedelta(seconds=30)
"""A gateway writes twice a second; one that was silent for longer is not there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NeededPart:
    """Code that many routes need."""

    name: str
    file: str
    line: int
    lines: int
    routes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherSide:
    """An application that may be the new side."""

    slug: str
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LeftOn:
    """How many routes stood on the old side, or were on their way, from a day on."""

    day: date
    left: int


@dataclass(frozen=True, slots=True, kw_only=True)
class CrossingView:
    """The whole screen. ``begun`` is false where the application does not move piece by piece; then ``sides`` are offered.

    ``recording``: what came of the newest recording that both sides were asked; ``login`` and ``login_then``: the request that logs in and the
    one that needs it, where the rules name them.
    """

    application: ApplicationRow
    begun: bool
    heading: str
    told: str
    new_slug: str
    new_name: str
    old_address: str
    new_address: str
    rules_file: str
    gateway: str
    answers: int
    days: int
    quiet: int
    tests: bool
    grows: bool
    version: int
    whole: int
    moved: int
    routes_at: str
    calls_from: str
    calls_until: str
    left: list[LeftOn]
    bands: list[SliceBand]
    many: list[NeededPart]
    loops: list[list[str]]
    only_new: list[str]
    unmatched: list[UnmatchedPath]
    recording: str
    recording_at: str
    login: str
    login_then: str
    sides: list[OtherSide]


def not_begun(context: Context, slug: str) -> CrossingView:
    """The screen of an application that does not move piece by piece."""
    application, row, scan = read_application(context, slug)
    others = [
        OtherSide(slug=a.slug, name=a.name)
        for a in list_applications(context.db)
        if a.id != application.id and not a.removed_at
    ]
    return CrossingView(
        application=row,
        begun=False,
        heading="It does not move piece by piece yet.",
        told=_found(context, scan) if scan is not None else "",
        new_slug="",
        new_name="",
        old_address="",
        new_address="",
        rules_file="",
        gateway="",
        answers=0,
        days=0,
        quiet=0,
        tests=True,
        grows=False,
        version=0,
        whole=0,
        moved=0,
        routes_at="",
        calls_from="",
        calls_until="",
        left=[],
        bands=[],
        many=[],
        loops=[],
        only_new=[],
        unmatched=[],
        recording="",
        recording_at="",
        login="",
        login_then="",
        sides=others,
    )


def _found(context: Context, scan: StoredScan) -> str:
    """The routes that the newest scan saw."""
    slices = [each for made in sets_of_scan(context.db, scan.id) for each in made.around.slices]
    routes, lines = sum(each.routes for each in slices), sum(each.lines for each in slices)
    if not routes:
        return ""
    belong = f"in {len(slices)} slices" if len(slices) > 1 else "that belong together"
    return (
        f"The last scan found {routes:,} {'route' if routes == 1 else 'routes'} {belong}; {lines:,} lines answer them."
    )


def crossing_view(context: Context, slug: str, known: CrossingState) -> CrossingView:
    """The screen of a crossing."""
    crossing, rules = known.crossing, known.rules
    _, application, _ = read_application(context, slug)
    new = application_by_id(context.db, crossing.new_id) if crossing.new_id is not None else None
    rows = {row.route.name: route_row(row, known) for row in known.old}
    live = {name: row for name, row in rows.items() if not row.gone}
    needs = {row.route.name: known.needs.get(row.route.name) or Needs() for row in known.old if not row.gone_at}
    bands, order = slice_bands(context, known, live, needs)
    moved = [row for row in live.values() if row.standing is Standing.NEW and not row.fell_back]
    heading, told = _told(live, moved, known, context.clock())
    days = sorted({day for calls in known.calls.values() for day in calls})
    recording = newest_event_of(context.db, crossing.application_id, "crossing", RECORDING_COMPARED)
    return CrossingView(
        application=application,
        begun=True,
        heading=heading,
        told=told,
        new_slug=new.slug if new is not None else "",
        new_name=new.name if new is not None else "",
        old_address=rules.old,
        new_address=rules.new,
        rules_file=crossing.rules,
        gateway=known.gateway_at,
        answers=crossing.answers,
        days=crossing.days,
        quiet=crossing.quiet,
        tests=crossing.tests,
        grows=crossing.grows,
        version=crossing.version,
        whole=len(live),
        moved=len(moved),
        routes_at=crossing.routes_at or "",
        calls_from=days[0] if days else "",
        calls_until=days[-1] if days else "",
        left=_left(known, live),
        bands=bands,
        many=[
            NeededPart(
                name=each.part.name, file=each.part.file, line=each.part.line, lines=each.part.lines, routes=each.routes
            )
            for each in needed_by_many(needs, 8)
        ],
        loops=[list(each) for each in loops([each.slice for each in order], needs, [r.route for r in known.old])],
        only_new=_only_new(known),
        unmatched=unmatched_of(context.db, crossing.application_id)[:50],
        recording=str(recording["after"]) if recording is not None else "",
        recording_at=str(recording["at"]) if recording is not None else "",
        login=rules.session.login if rules.session is not None else "",
        login_then=rules.session.then if rules.session is not None else "",
        sides=[],
    )


def _only_new(known: CrossingState) -> list[str]:
    old = {bare(row.route.path).rstrip("/") for row in known.old if not row.gone_at}
    return [
        row.route.name
        for row in known.routes
        if row.side is Side.NEW and not row.gone_at and bare(row.route.path).rstrip("/") not in old
    ]


def _told(
    live: Mapping[str, RouteRow], moved: Sequence[RouteRow], known: CrossingState, now: datetime
) -> tuple[str, str]:
    if not live:
        if known.crossing.routes_at is None:
            return (
                "The routes of both sides are being read.",
                "They come from the code; this takes a few seconds.",
            )
        return (
            "No route was found in the code.",
            "Read are Django, Flask, FastAPI, Starlette, Express, Koa and Fastify.",
        )
    calls = sum(row.weekly for row in live.values())
    share = sum(row.weekly * _new_share(row) for row in live.values()) / calls if calls else 0.0
    heading = f"{len(moved):,} of {len(live):,} routes {'stands' if len(moved) == 1 else 'stand'} on the new side"
    heading += f", with {share * 100:.0f} % of the calls." if calls else "."
    arrivals = [date.fromisoformat(row.since[:10]) for row in moved if row.since]
    ends = last_day(arrivals, len(live) - len(moved), known.today)
    if ends == known.today and len(live) == len(moved):
        pace = f"No route is left on the old side; it may go off after {known.crossing.quiet} quiet days."
    else:
        pace = (
            f"At this pace the old side goes off on {ends.day} {ends:%b %Y}."
            if ends is not None
            else "There is no pace yet: fewer than two routes have arrived."
        )
    if known.span is None:
        pace = f"Which routes are called is not known: count an access log. {pace}"
    return heading, " ".join(part for part in (_gateway_told(known, live, now), pace, _first_stop(live)) if part)


def _new_share(row: RouteRow) -> float:
    """Of the calls of a route, those that its rule sends to the new side."""
    if row.fell_back:
        return 0.0
    return {Standing.NEW: 1.0, Standing.SHARED: row.share / 100}.get(row.standing, 0.0)


def _gateway_told(known: CrossingState, live: Mapping[str, RouteRow], now: datetime) -> str:
    """Where rules say that routes moved, but no gateway of ours tells that it heeds them."""
    if all(row.standing is Standing.OLD for row in live.values()):
        return ""
    try:
        last = datetime.fromisoformat(known.gateway_at)
    except ValueError:
        return "No gateway has written anything yet: whether one heeds these rules is not known here."
    return f"The gateway was last heard of {short_day(known.gateway_at)}, {last:%H:%M}." if now - last > _ALIVE else ""


def _left(known: CrossingState, live: Mapping[str, RouteRow]) -> list[LeftOn]:
    """Day by day, as the moves tell: a route that fell back, or was put back, is left again."""
    begun = date.fromisoformat(known.crossing.begun_at[:10])
    changes: dict[date, set[str]] = {}
    moves = sorted((move for name, held in known.moves.items() if name in live for move in held), key=lambda m: m.at)
    arrived: set[str] = set()
    for move in moves:
        arrived = arrived | {move.route} if move.standing is Standing.NEW else arrived - {move.route}
        changes[max(date.fromisoformat(move.at[:10]), begun)] = arrived
    rows = [LeftOn(day=begun, left=len(live))]
    rows.extend(LeftOn(day=day, left=len(live) - len(there)) for day, there in sorted(changes.items()))
    return [*rows, LeftOn(day=max(known.today, rows[-1].day), left=rows[-1].left)]


def _first_stop(live: Mapping[str, RouteRow]) -> str:
    stopped = [row for row in live.values() if row.stop in (Stop.DIFFERS, Stop.FELL_BACK)]
    if stopped:
        row = max(stopped, key=lambda row: row.weekly)
        return f"Next: {row.name} – {row.told}."
    ready = [row for row in live.values() if row.next_standing is not None and row.stop is None and row.weekly > 0]
    if ready:
        row = max(ready, key=lambda row: row.weekly)
        return f"Next: {row.name} is {row.told}."
    return ""
