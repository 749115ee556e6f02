"""What the screen Crossing reads: every route with where it stands, how alike the answers are, and what moves it next."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cached_property
from typing import Any, Final

from yoake.context.context import Context
from yoake.core.crossing.moving import MovePolicy, NextMove, RouteState, Stop, last_day, next_move
from yoake.core.crossing.needs import Needs
from yoake.core.crossing.rules import SAFE_METHODS, CrossingRules, RouteRule, Side, Standing
from yoake.core.crossing.slices import OrderedSlice, SliceBasis, loops, made, needed_by_many, ordered, proposed
from yoake.core.crossing.traffic import UnmatchedPath
from yoake.core.values.routes import Route, bare
from yoake.formats.crossing_rules import written_name
from yoake.store.applications import application_by_id, list_applications
from yoake.store.crossings import (
    Compared,
    Move,
    StoredCrossing,
    StoredRoute,
    calls_by_route,
    comparisons_of,
    moves_of,
    route_needs,
    slices_of,
    stored_routes,
    unmatched_of,
)
from yoake.views.application_rows import ApplicationRow
from yoake.views.evidence import read_application

STRIP: Final = 40
"""Comparisons that a row shows."""

_WEEKS: Final = 4  # of calls that a week's figure is made of
_NOBODY: Final = "nobody called"


@dataclass(frozen=True, slots=True, kw_only=True)
class RouteRow:
    """One route of the old side. ``weekly``: calls a week; ``strip``: the latest comparisons, true where alike, the oldest first;
    ``compared`` and ``alike`` those that count; ``stop``: what stops it, in a word, ``told`` in a sentence; ``files``, ``lines`` and
    ``tables``: what it drags along."""

    name: str
    method: str
    path: str
    handler: str
    file: str
    line: int
    weekly: float
    standing: Standing
    share: float
    strip: list[bool]
    compared: int
    alike: int
    on_new: bool
    safe: bool
    added: bool
    gone: bool
    fell_back: str
    next_standing: Standing | None
    next_share: float
    stop: str
    told: str
    files: int
    lines: int
    tables: list[str]
    since: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SliceBand:
    """Routes that move together. ``brings``: lines that no slice before it brought; ``calls_share``: of the calls that are on the new
    side once it has moved."""

    name: str
    told: str
    routes: list[RouteRow]
    weekly: float
    brings: int
    cumulated: int
    calls_share: float


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
    """The whole screen. ``begun`` is false where the application does not move piece by piece; then ``sides`` are offered."""

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
    sides: list[OtherSide]


@dataclass(frozen=True, slots=True, kw_only=True)
class CauseRow:
    """Comparisons that differ for one reason."""

    kind: str
    where: str
    pairs: int
    old: str
    new: str
    example: str
    at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class NeedRow:
    """One part that a route drags along; ``others``: further routes that need it."""

    name: str
    file: str
    line: int
    lines: int
    others: int


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveRow:
    """One move of a route."""

    at: str
    who: str
    why: str
    told: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RouteDetail:
    """One route from nearby."""

    route: RouteRow
    causes: list[CauseRow]
    needs: list[NeedRow]
    templates: list[str]
    settings: list[str]
    packages: list[str]
    moves: list[MoveRow]
    old_ms: float
    new_ms: float


@dataclass(frozen=True)
class _Known:
    """Everything one look needs, read once."""

    crossing: StoredCrossing
    rules: CrossingRules
    routes: list[StoredRoute]
    calls: Mapping[str, Mapping[str, int]]
    comparisons: Mapping[str, list[Compared]]
    moves: Mapping[str, list[Move]]
    fallen: Mapping[str, str]
    needs: Mapping[str, Needs]
    today: date

    @cached_property
    def old(self) -> list[StoredRoute]:
        """The routes of the old side."""
        return [row for row in self.routes if row.side is Side.OLD]

    @cached_property
    def ruled(self) -> dict[str, RouteRule]:
        """Rules by the names of their routes."""
        return {rule.route.name: rule for rule in self.rules.routes}

    @cached_property
    def new_methods(self) -> dict[str, set[str]]:
        """Paths of the new side, parameters without their names → methods."""
        found: dict[str, set[str]] = {}
        for row in self.routes:
            if row.side is Side.NEW and not row.gone_at:
                found.setdefault(bare(row.route.path).rstrip("/"), set()).add(row.route.method)
        return found

    @cached_property
    def first_seen(self) -> str:
        """When the routes of the old side were read first."""
        return min((row.seen_at for row in self.old), default="")

    @cached_property
    def span(self) -> tuple[date, date] | None:
        """The first and last day of the calls that a week's figure is made of."""
        days = [date.fromisoformat(day) for calls in self.calls.values() for day in (min(calls), max(calls))]
        if not days:
            return None
        return max(min(days), max(days) - timedelta(days=7 * _WEEKS - 1)), max(days)


def not_begun(context: Context, slug: str) -> CrossingView:
    """The screen of an application that does not move piece by piece."""
    application, row, _ = read_application(context, slug)
    others = [
        OtherSide(slug=a.slug, name=a.name)
        for a in list_applications(context.db)
        if a.id != application.id and not a.removed_at
    ]
    return CrossingView(
        application=row,
        begun=False,
        heading="It does not move piece by piece yet.",
        told="",
        new_slug="",
        new_name="",
        old_address="",
        new_address="",
        rules_file="",
        gateway="",
        answers=0,
        days=0,
        quiet=0,
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
        sides=others,
    )


def crossing_view(
    context: Context, slug: str, crossing: StoredCrossing, rules: CrossingRules, state: Mapping[str, Any]
) -> CrossingView:
    """The screen of a crossing."""
    known = _read(context, crossing, rules, state)
    _, application, _ = read_application(context, slug)
    new = application_by_id(context.db, crossing.new_id) if crossing.new_id is not None else None
    rows = {row.route.name: _row(row, known) for row in known.old}
    live = {name: row for name, row in rows.items() if not row.gone}
    needs = {row.route.name: known.needs.get(row.route.name) or Needs() for row in known.old if not row.gone_at}
    bands, order = _bands(context, known, live, needs)
    moved = [row for row in live.values() if row.standing is Standing.NEW and not row.fell_back]
    heading, told = _told(live, moved, known)
    days = sorted({day for calls in known.calls.values() for day in calls})
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
        gateway=str(state.get("at", "")),
        answers=crossing.answers,
        days=crossing.days,
        quiet=crossing.quiet,
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
        sides=[],
    )


def _read(context: Context, crossing: StoredCrossing, rules: CrossingRules, state: Mapping[str, Any]) -> _Known:
    comparisons: dict[str, list[Compared]] = {}
    for each in comparisons_of(context.db, crossing.application_id):
        comparisons.setdefault(each.route, []).append(each)
    moves: dict[str, list[Move]] = {}
    for move in moves_of(context.db, crossing.application_id):
        moves.setdefault(move.route, []).append(move)
    held = state.get("fallen")
    fallen = {name: str(row.get("why", "")) for name, row in held.items()} if isinstance(held, dict) else {}
    return _Known(
        crossing,
        rules,
        stored_routes(context.db, crossing.application_id),
        calls_by_route(context.db, crossing.application_id),
        comparisons,
        moves,
        fallen,
        _needs(context, crossing),
        context.today,
    )


def _needs(context: Context, crossing: StoredCrossing) -> Mapping[str, Needs]:
    """What the routes drag along; it changes only when they are read anew."""
    key = (crossing.application_id, crossing.begun_at, crossing.routes_at)
    found: Mapping[str, Needs] = context.route_needs.get(key, lambda: route_needs(context.db, crossing.application_id))
    return found


def _row(stored: StoredRoute, known: _Known) -> RouteRow:
    route, name = stored.route, stored.route.name
    rule = known.ruled.get(written_name(route))
    needs = known.needs.get(name) or Needs()
    standing, share = (rule.standing, rule.share) if rule is not None else (Standing.OLD, 0.0)
    since = _since(name, known)
    counts = [c for c in _comparisons(route, known) if c.at >= max(since, stored.mended_at or "")]
    weekly = _weekly(name, known)
    written = written_name(route)
    on_new = known.crossing.new_id is None or _on_new(route, known)
    state = RouteState(
        method=route.method,
        standing=standing,
        share=share,
        on_new=on_new,
        safe=stored.safe or (rule is not None and rule.safe),
        compared=len(counts),
        alike=sum(c.alike for c in counts),
        since=date.fromisoformat(since[:10]) if since else None,
        weekly=weekly,
        fell_back=known.fallen.get(written, ""),
        cause=_cause(counts),
    )
    move = next_move(state, MovePolicy(answers=known.crossing.answers, days=known.crossing.days), known.today)
    return RouteRow(
        name=name,
        method=route.method,
        path=route.path,
        handler=route.handler,
        file=route.file,
        line=route.line,
        weekly=weekly,
        standing=standing,
        share=share,
        strip=[c.alike for c in _comparisons(route, known)[-STRIP:]],
        compared=state.compared,
        alike=state.alike,
        on_new=on_new,
        safe=state.safe,
        added=stored.seen_at > known.first_seen,
        gone=stored.gone_at is not None,
        fell_back=state.fell_back,
        next_standing=move.standing,
        next_share=move.share,
        stop=move.stop.value if move.stop is not None else "",
        told=_next_told(move, state, name, known),
        files=len(needs.files),
        lines=sum(part.lines for part in needs.parts),
        tables=sorted(needs.tables)[:12],
        since=since,
    )


def _comparisons(route: Route, known: _Known) -> list[Compared]:
    return known.comparisons.get(written_name(route), [])


def _since(name: str, known: _Known) -> str:
    moves = known.moves.get(name, [])
    return moves[-1].at if moves else ""


def _on_new(route: Route, known: _Known) -> bool:
    methods = known.new_methods.get(bare(route.path).rstrip("/"), set())
    return bool(methods) and (route.method in methods or "ANY" in methods or route.method == "ANY")


def _only_new(known: _Known) -> list[str]:
    old = {bare(row.route.path).rstrip("/") for row in known.old if not row.gone_at}
    return [
        row.route.name
        for row in known.routes
        if row.side is Side.NEW and not row.gone_at and bare(row.route.path).rstrip("/") not in old
    ]


def _weekly(name: str, known: _Known) -> float:
    """Calls a week over the last four weeks that are known."""
    if known.span is None:
        return 0.0
    first, last = known.span
    start = first.isoformat()
    calls = known.calls.get(name, {})
    return sum(count for day, count in calls.items() if day >= start) * 7 / ((last - first).days + 1)


def _cause(counts: Sequence[Compared]) -> str:
    causes = Counter(f"{each['kind']} {each['where']}" for c in counts for each in c.differences[:1])
    return causes.most_common(1)[0][0] if causes else ""


def _next_told(move: NextMove, state: RouteState, name: str, known: _Known) -> str:  # noqa: C901 - one sentence a stop
    if state.standing is Standing.OLD and state.weekly == 0 and known.calls:
        return "retire?"
    if move.stop is Stop.FELL_BACK:
        return "fell back: new side too slow" if "ms" in state.fell_back else "fell back: new side failed"
    if state.standing is Standing.NEW:
        since = _since(name, known)
        return f"arrived {_day(since)}" if since else "arrived"
    if move.stop is Stop.NOT_THERE:
        return "no route on the new side"
    if move.stop is Stop.UNSAFE:
        return "declare safe, or share untested"
    if move.stop is Stop.DIFFERS:
        return f"{move.left} differ: {state.cause}"
    if move.stop is Stop.NOBODY:
        return "nobody called it"
    if move.stop is Stop.FEW_ANSWERS:
        return f"{state.compared} of {known.crossing.answers} answers"
    if move.stop is Stop.TOO_SOON:
        return f"{known.crossing.days - move.left} of {known.crossing.days} days"
    if move.standing is Standing.MIRRORED:
        return "ready to mirror"
    if move.standing is Standing.SHARED:
        return f"ready to share {move.share:g} %"
    return "ready to move"


def _day(stamp: str) -> str:
    found = date.fromisoformat(stamp[:10])
    return f"{found.day} {found:%b}"


def _bands(
    context: Context, known: _Known, live: Mapping[str, RouteRow], needs: Mapping[str, Needs]
) -> tuple[list[SliceBand], list[OrderedSlice]]:
    """Routes in slices: as a person chose them, else by prefix in an order that pays early; what nobody called stands last."""
    calls = {name: row.weekly for name, row in live.items()}
    quiet = (
        {name for name, row in live.items() if row.weekly == 0 and row.standing is Standing.OLD}
        if known.calls
        else set()
    )
    busy = [row.route for row in known.old if row.route.name in live and row.route.name not in quiet]
    chosen = slices_of(context.db, known.crossing.application_id)
    there = [name for name, row in live.items() if row.standing is Standing.NEW]
    if chosen:
        groups = {each.name: [name for name in each.routes if name in live and name not in quiet] for each in chosen}
        placed = {name for names in groups.values() for name in names}
        rest = [route.name for route in busy if route.name not in placed]
        slices = [each for each in made(groups, needs, calls) if each.routes]
        if rest:
            slices.extend(made({"in no slice": rest}, needs, calls))
        order = _as_given(slices, needs, there)
    else:
        order = ordered(proposed(SliceBasis.PREFIX, busy, needs, calls), needs, there)
    bands = [_band(each, live) for each in order]
    if quiet:
        names = sorted(quiet, key=lambda name: (live[name].path, name))
        bands.append(
            SliceBand(
                name=_NOBODY,
                told=f"since {_day(min(day for c in known.calls.values() for day in c))}",
                routes=[live[name] for name in names],
                weekly=0.0,
                brings=0,
                cumulated=order[-1].cumulated if order else 0,
                calls_share=1.0,
            )
        )
    return bands, order


def _as_given(slices: Sequence[Any], needs: Mapping[str, Needs], there: Sequence[str]) -> list[OrderedSlice]:
    """The order of a person, with what each brings in it."""
    found: list[OrderedSlice] = []
    whole = sum(each.calls for each in slices) or 1.0
    brought = {part for name in there for part in (needs.get(name) or Needs()).parts}
    cumulated, calls = 0, 0.0
    for each in slices:
        parts = {part for name in each.routes for part in (needs.get(name) or Needs()).parts}
        brings = sum(part.lines for part in parts - brought)
        brought |= parts
        cumulated += brings
        calls += each.calls
        found.append(OrderedSlice(slice=each, brings=brings, cumulated=cumulated, calls_share=calls / whole))
    return found


def _band(each: OrderedSlice, live: Mapping[str, RouteRow]) -> SliceBand:
    rows = sorted(
        (live[name] for name in each.slice.routes if name in live), key=lambda r: (-r.weekly, r.path, r.method)
    )
    files = len({row.file for row in rows if row.file})
    tables = (
        f", {len(each.slice.tables)} tables" if len(each.slice.tables) > 1 else ", 1 table" if each.slice.tables else ""
    )
    reads = all(row.method in SAFE_METHODS for row in rows)
    told = f"{'read only, ' if reads else ''}{each.brings} lines{tables}" if files else "no code of its own"
    return SliceBand(
        name=each.slice.name,
        told=told,
        routes=rows,
        weekly=each.slice.calls,
        brings=each.brings,
        cumulated=each.cumulated,
        calls_share=each.calls_share,
    )


def _told(live: Mapping[str, RouteRow], moved: Sequence[RouteRow], known: _Known) -> tuple[str, str]:
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
    return heading, f"{pace} {_first_stop(live)}".strip()


def _new_share(row: RouteRow) -> float:
    if row.fell_back:
        return 0.0
    return {Standing.NEW: 1.0, Standing.SHARED: row.share / 100}.get(row.standing, 0.0)


def _left(known: _Known, live: Mapping[str, RouteRow]) -> list[LeftOn]:
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
    stopped = [row for row in live.values() if row.stop in (Stop.DIFFERS.value, Stop.FELL_BACK.value)]
    if stopped:
        row = max(stopped, key=lambda row: row.weekly)
        return f"Next: {row.name} – {row.told}."
    ready = [row for row in live.values() if row.next_standing is not None and not row.stop and row.weekly > 0]
    if ready:
        row = max(ready, key=lambda row: row.weekly)
        return f"Next: {row.name} is {row.told}."
    return ""


def route_detail(
    context: Context, crossing: StoredCrossing, rules: CrossingRules, state: Mapping[str, Any], name: str
) -> RouteDetail | None:
    """One route from nearby; None where the old side has none of that name."""
    known = _read(context, crossing, rules, state)
    stored = next((row for row in known.old if row.route.name == name), None)
    if stored is None:
        return None
    row = _row(stored, known)
    needs = known.needs.get(name) or Needs()
    live = {each.route.name for each in known.old if not each.gone_at}
    others = Counter(part for each, held in known.needs.items() if each in live for part in held.parts)
    counts = [c for c in _comparisons(stored.route, known) if c.at >= max(row.since, stored.mended_at or "")]
    latest = _comparisons(stored.route, known)[-STRIP:]
    return RouteDetail(
        route=row,
        causes=_causes(counts),
        needs=[
            NeedRow(name=p.name, file=p.file, line=p.line, lines=p.lines, others=others[p] - 1)
            for p in sorted(needs.parts, key=lambda p: (-others[p], -p.lines, p))
        ],
        templates=sorted(needs.templates),
        settings=sorted(needs.settings),
        packages=sorted(needs.packages),
        moves=[
            MoveRow(at=move.at, who=move.who, why=move.why, told=_move_told(move))
            for move in reversed(known.moves.get(name, []) + _of_gateway(known, stored.route))
        ],
        old_ms=_middle([c.old_ms for c in latest]),
        new_ms=_middle([c.new_ms for c in latest]),
    )


def _of_gateway(known: _Known, route: Route) -> list[Move]:
    written = written_name(route)
    return known.moves.get(written, []) if written != route.name else []


def _move_told(move: Move) -> str:
    if move.who == "the gateway":
        return "fell back to old"
    return f"{move.standing.value} {move.share:g} %" if move.standing is Standing.SHARED else move.standing.value


def _causes(counts: Sequence[Compared]) -> list[CauseRow]:
    groups: dict[tuple[str, str], list[tuple[Compared, dict[str, str]]]] = {}
    for each in counts:
        for difference in each.differences:
            key = (difference.get("kind", ""), difference.get("where", ""))
            groups.setdefault(key, []).append((each, difference))
    rows = [
        CauseRow(
            kind=kind,
            where=where,
            pairs=len(found),
            old=found[-1][1].get("old", ""),
            new=found[-1][1].get("new", ""),
            example=found[-1][0].path,
            at=found[-1][0].at,
        )
        for (kind, where), found in groups.items()
    ]
    return sorted(rows, key=lambda row: (-row.pairs, row.where))


def _middle(values: Sequence[float]) -> float:
    ordered_ = sorted(values)
    return ordered_[len(ordered_) // 2] if ordered_ else 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ProposedSlice:
    """A slice as it is proposed, in its place."""

    name: str
    routes: list[str]
    weekly: float
    own: int
    shared: int
    brings: int
    cumulated: int
    calls_share: float
    tables: list[str]


def proposals(context: Context, crossing: StoredCrossing, by: SliceBasis) -> list[ProposedSlice]:
    """Slices by what routes have in common, in an order that pays early."""
    rows = [
        row for row in stored_routes(context.db, crossing.application_id) if row.side is Side.OLD and not row.gone_at
    ]
    held = _needs(context, crossing)
    needs = {row.route.name: held.get(row.route.name) or Needs() for row in rows}
    counted = calls_by_route(context.db, crossing.application_id)
    days = [date.fromisoformat(day) for each in counted.values() for day in (min(each), max(each))]
    span = (max(days) - min(days)).days + 1 if days else 1
    calls = {name: sum(each.values()) * 7 / span for name, each in counted.items()}
    order = ordered(proposed(by, [row.route for row in rows], needs, calls), needs)
    return [
        ProposedSlice(
            name=each.slice.name,
            routes=list(each.slice.routes),
            weekly=each.slice.calls,
            own=each.slice.own,
            shared=each.slice.shared,
            brings=each.brings,
            cumulated=each.cumulated,
            calls_share=each.calls_share,
            tables=list(each.slice.tables),
        )
        for each in order
    ]
