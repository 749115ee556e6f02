"""The Path screen: ways side by side, the one looked at stage by stage, what was adopted and what moved under it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, Final

from pydantic import TypeAdapter

from yoake.context.context import Context
from yoake.core.contract.registry import Registry
from yoake.core.planning.alternatives import Way, Ways, recommended
from yoake.core.planning.checklist import Checklist, Ground, Item, checklist_of
from yoake.core.planning.dates import after, dark_days, standing
from yoake.core.planning.explain import cell_reason
from yoake.core.planning.search_space import State
from yoake.core.planning.shared_library import bridges
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.findings import Finding
from yoake.core.values.journeys import Shape
from yoake.core.values.plans import Plan, Stage
from yoake.core.values.words import Strategy
from yoake.formats.plan_text import OBJECTIVE_TITLES, TITLES
from yoake.store.applications import Application
from yoake.store.events import events_of
from yoake.store.scans import StoredScan, every_offered, latest_scan, modules_of_scan
from yoake.store.steps import steps_of
from yoake.views.adopted_path import adopted_view
from yoake.views.alternatives import Look, look_at, users_of
from yoake.views.application_rows import ApplicationRow, application_row, read_application
from yoake.views.path_records import (
    BridgeView,
    CellView,
    ConflictView,
    ConstraintView,
    EditView,
    EventView,
    ItemView,
    LineChoice,
    PathView,
    RefusedView,
    ReleaseView,
    SetView,
    SharedGoal,
    SlackView,
    StageView,
    TakenPackage,
    TrackView,
    WayView,
)

_MOST_EDITS: Final = 40  # of one stage by name; Evidence has all of them


def path(context: Context, slug: str, set_name: str | None = None, shape: Shape | None = None) -> PathView:
    """The ways of one application. Raises NotFound, and BadInput for a shape that cannot be."""
    application, row, scan = read_application(context, slug)
    events = [
        EventView(
            at=e["at"],
            who=e["who"],
            subject=e["subject"],
            what=e["what"],
            why=e["why"],
            before=e["before"],
            after=e["after"],
        )
        for e in events_of(context.db, application.id)
    ]
    table = context.knowledge.effort
    blank = PathView(
        application=row,
        heading="There is no path before the first scan.",
        emphasis="",
        base_days=table.stage_base_days,
        line_days=table.unseen.line_days,
        major_days=table.unseen.major_days,
        kappa=table.kappa,
        sets=[],
        set="",
        ways=[],
        others=[],
        conflict=None,
        tracks=[],
        adopted=None,
        slacks=[],
        events=events,
        bridges=[],
        shared=[],
        warnings=[],
    )
    if scan is None:
        return blank
    look = look_at(context, application, scan, set_name, shape or Shape())
    if look is None:
        goal = ", ".join(row.destination_lines)
        return replace(blank, heading=f"No path: it is not known what this stands on, so not how {goal} is reached.")
    return _view(context, application, scan, look, blank)


_VIEW: Final = TypeAdapter(PathView)


def path_json(context: Context, slug: str) -> bytes:
    """The same as it is sent."""
    return _VIEW.dump_json(path(context, slug))


def _view(
    context: Context,
    application: Application,
    scan: StoredScan,
    look: Look,
    blank: PathView,
) -> PathView:
    row = blank.application
    taken = adopted_view(context, application, scan, look.made.name)
    maker = _Maker(context, application, scan, look, taken)
    ways = [maker.way(way) for way in look.ways.ways]
    if taken is not None and taken.plan is not None and not any(w.adopted for w in ways):
        ways.insert(0, maker.kept(taken))
    heading, emphasis = _heading(row, look.ways, ways)
    plan = scan.plan
    held = standing(
        plan, {v.coordinate: v.line for v in row.today}, context.knowledge, context.today, row.days_per_week
    )
    slacks = [
        SlackView(
            coordinate=r.coordinate,
            name=context.ecosystems.spoken(r.coordinate),
            line=r.line,
            support_ends=r.support_ends,
            left80=r.left80,
            slack=r.slack,
        )
        for r in held.lines
        if r.support_ends is not None
    ]
    served, shared = _shared(context, application, scan)
    return replace(
        blank,
        heading=heading,
        emphasis=emphasis,
        sets=[SetView(name=s.name, title=s.name or "the whole of it", modules=len(s.modules)) for s in look.sets],
        set=look.made.name,
        ways=ways,
        others=_others(look.ways),
        conflict=_conflict_of(look.ways),
        tracks=_tracks(look),
        adopted=taken.view if taken is not None else None,
        slacks=slacks,
        bridges=served,
        shared=shared,
        warnings=_warnings(context, look),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Edits:
    """Changes of a stage: the first of them, how many there are, are still to do, and are alike at every place."""

    first: list[EditView]
    every: int
    open: int
    mechanical: int


class _Maker:
    """Makes views of ways, stage by stage."""

    def __init__(self, context: Context, application: Application, scan: StoredScan, look: Look, taken: Any) -> None:
        self.context = context
        self.look = look
        self.taken = taken
        self.findings: dict[str, Finding] = {f.key: f for f in look.ways.problem.journey.findings}
        steps = steps_of(context.db, application.id, application.destination.id)
        self.steps = {s["finding_key"]: s for s in steps}
        self.own = every_offered(context.db)
        self.best = recommended(look.ways)
        self.ground = _ground(context, application, scan, look)

    def way(self, way: Way) -> WayView:
        """A way that was searched or priced."""
        choice = way.objectives[0] if way.objectives else way.strategy
        same = self.taken is not None and self.taken.plan is not None and _same(self.taken.plan, way.plan)
        adopted = same and self.taken.choice in (*way.objectives, way.strategy)
        title = OBJECTIVE_TITLES[way.objectives[0]] if way.objectives else TITLES[way.strategy]
        return self._made(choice, title, _subtitle(way), way, adopted=adopted)

    def kept(self, taken: Any) -> WayView:
        """The adopted path, where no way of today's search is the same."""
        strategy: Strategy = "hop-by-hop" if taken.choice in OBJECTIVE_TITLES else taken.choice
        way = Way(strategy, (), taken.plan, proven=False)
        return self._made("taken", "The path taken", "as it was adopted", way, adopted=True)

    def _made(self, key: str, title: str, subtitle: str, way: Way, *, adopted: bool) -> WayView:
        journey, knowledge = self.look.ways.problem.journey, self.context.knowledge
        plan, week = way.plan, journey.days_per_week
        return WayView(
            key=key,
            title=title,
            subtitle=subtitle,
            strategy=way.strategy,
            objectives=list(way.objectives),
            proven=way.proven,
            reasons=list(way.reasons),
            stages=self._stages(plan, key),
            effort50=plan.total.p50,
            effort80=plan.total.p80,
            dark_days=dark_days(plan, knowledge, journey.today, week),
            arrival50=after(journey.today, plan.total.p50, week),
            arrival80=after(journey.today, plan.total.p80, week),
            adopted=adopted,
            recommended=self.best[1] if self.best is not None and way is self.best[0] else "",
        )

    def _stages(self, plan: Plan, key: str) -> list[StageView]:
        journey = self.look.ways.problem.journey
        week, today = journey.days_per_week, journey.today
        states = _states_of(self.look.ways, plan)
        until = after(today, plan.before.p50, week)
        late = after(today, plan.before.p80, week)
        edits = self._edits(plan.before_keys, safe=True)
        cells = [self._cell(coordinate, line, plan.today, None, None) for coordinate, line in plan.today]
        before = plan.before
        views = [
            StageView(
                number=0,
                title="Before any version moves",
                cells=cells,
                reasons=[],
                notes=[],
                edits=edits.first,
                edit_count=edits.every,
                open_count=edits.open,
                mechanical_count=edits.mechanical,
                safe=0,
                effort50=before.p50,
                effort80=before.p80,
                reached50=before.p50,
                reached80=before.p80,
                starts=today,
                arrives50=until,
                arrives80=late,
                needs=[],
                after=[],
                gate=[],
                not_needed=[],
                along=[],
                stuck=[],
                unknown=0,
            )
        ]
        for stage in plan.stages:
            sheet = checklist_of(stage, self.findings, self.ground, self.context.knowledge)
            hop = (states[stage.number - 1], states[stage.number]) if states else None
            begun = views[-1].arrives50
            views.append(self._stage(stage, sheet, hop, begun))
        return views

    def _stage(self, stage: Stage, sheet: Checklist, hop: tuple[State, State] | None, begun: date) -> StageView:
        journey = self.look.ways.problem.journey
        week, today = journey.days_per_week, journey.today
        edits = self._edits(stage.finding_keys, safe=False)
        along, stuck, unknown = _taken(stage, self.own, self.context.ecosystems)
        return StageView(
            number=stage.number,
            title=stage.title,
            cells=[self._cell(coordinate, line, stage.state, stage, hop) for coordinate, line in stage.state],
            reasons=list(stage.reasons),
            notes=list(stage.notes),
            edits=edits.first,
            edit_count=edits.every,
            open_count=edits.open,
            mechanical_count=edits.mechanical,
            safe=len(stage.safe_keys),
            effort50=stage.effort.p50,
            effort80=stage.effort.p80,
            reached50=stage.reached.p50,
            reached80=stage.reached.p80,
            starts=begun,
            arrives50=after(today, stage.reached.p50, week),
            arrives80=after(today, stage.reached.p80, week),
            needs=_items(sheet.needs),
            after=_items(sheet.after),
            gate=_items(sheet.gate),
            not_needed=_items(sheet.not_needed),
            along=along,
            stuck=stuck,
            unknown=unknown,
        )

    def _cell(
        self,
        coordinate: Coordinate,
        line: str,
        state: Sequence[tuple[str, str]],
        stage: Stage | None,
        hop: tuple[State, State] | None,
    ) -> CellView:
        problem = self.look.ways.problem
        moved = stage is not None and any(m.coordinate == coordinate for m in stage.moves)
        release = dict(stage.releases).get(coordinate, line) if stage is not None else line
        at = problem.places.get(coordinate)
        if hop is None or at is None:
            return CellView(
                coordinate=coordinate,
                line=line,
                release=release,
                moved=moved,
                tied=False,
                reason="stands there today" if stage is None else "",
                grade="",
                source="",
            )
        reason = cell_reason(problem, *hop, at)
        tied = moved and bool(reason.grade)
        return CellView(
            coordinate=coordinate,
            line=line,
            release=release,
            moved=moved,
            tied=tied,
            reason=reason.text,
            grade=reason.grade,
            source=reason.source,
        )

    def _edits(self, keys: Sequence[str], *, safe: bool) -> _Edits:
        done = sum(1 for key in keys if (step := self.steps.get(key)) is not None and step["state"] == "closed")
        alike = sum(1 for key in keys if (finding := self.findings.get(key)) is not None and finding.mechanical)
        first = [self._edit(key, safe=safe) for key in keys[:_MOST_EDITS]]
        return _Edits(first=first, every=len(keys), open=len(keys) - done, mechanical=alike)

    def _edit(self, key: str, *, safe: bool) -> EditView:
        finding, step = self.findings.get(key), self.steps.get(key)
        title = finding.title if finding is not None else key
        if finding is not None and finding.replacement and finding.kind not in ("package", "toolchain", "behaviour"):
            title = f"{title} → {finding.replacement}" if finding.replacement != "none" else title
        places = sum(1 for p in finding.places if p.is_work) if finding is not None else 0
        done = step is not None and step["state"] == "closed"
        mechanical = finding is not None and finding.mechanical
        return EditView(
            key=key,
            title=title,
            places=places,
            mechanical=mechanical,
            safe_now=safe,
            step=step["id"] if step is not None else None,
            done=done,
        )


def _taken(
    stage: Stage, own: frozenset[str], ecosystems: Registry
) -> tuple[list[TakenPackage], list[TakenPackage], int]:
    """(packages that come along, those for which nothing fits, how many are not known). ``own``: packages of this portfolio."""
    moved = {m.coordinate for m in stage.moves}
    along = [p for p in stage.packages if p.moves and p.coordinate not in moved]
    stuck = [p for p in stage.packages if p.state == "none"]
    views = (
        [TakenPackage(ecosystems.spoken(p.coordinate), p.before, p.release, p.why) for p in held]
        for held in (along, stuck)
    )
    first, second = views
    return first, second, sum(p.state == "unknown" and p.coordinate not in own for p in stage.packages)


def _items(items: Sequence[Item]) -> list[ItemView]:
    return [ItemView(i.text, i.evidence) for i in items]


def _same(one: Plan, other: Plan) -> bool:
    return [(s.moves, s.title) for s in one.stages] == [(s.moves, s.title) for s in other.stages]


def _states_of(ways: Ways, plan: Plan) -> list[State]:
    """The states of a plan in today's problem; empty when a line of it is not there."""
    tracks = ways.problem.space.tracks
    rows = [dict(plan.today), *(dict(s.state) for s in plan.stages)]
    found = []
    for row in rows:
        if any(row.get(t.coordinate) not in t.lines for t in tracks):
            return []
        found.append(tuple(t.lines.index(row[t.coordinate]) for t in tracks))
    return found


def _subtitle(way: Way) -> str:
    """What else a way is best for and how it travels; for a strategy why it is offered."""
    if not way.objectives:
        return way.reasons[0] if way.reasons else ""
    also = [OBJECTIVE_TITLES[o].lower() for o in way.objectives[1:]]
    return ", ".join([TITLES[way.strategy].lower(), *(f"also {text}" for text in also)])


def _ground(context: Context, application: Application, scan: StoredScan, look: Look) -> Ground:
    own = [m for m in modules_of_scan(context.db, scan.id) if m.path in look.made.modules]
    return Ground(
        tests=look.made.around.tests,
        kind=application.source.kind,
        owner=application.owner,
        team=application.team,
        pins=tuple((p.file, p.line, p.coordinate, p.version) for m in own for p in m.pins),
        manifests=tuple(name for m in own for name in m.manifests),
        scanned=scan.summary.files.get("scanned", 0),
    )


def _heading(row: ApplicationRow, ways: Ways, views: list[WayView]) -> tuple[str, str]:
    goal = ", ".join(row.destination_lines)
    if ways.conflict is not None:
        return (
            f"Nothing leads to {goal} as things are.",
            "What cannot hold together, and what would make a path possible, stands below.",
        )
    if not views:
        return f"It stands on {goal} already, or past it.", ""
    first = next((w for w in views if w.adopted), views[0])
    count = len(first.stages) - 1
    stages = "One stage" if count == 1 else f"{count} stages"
    work = f"{first.effort50:.0f} days of work" if first.effort50 >= 2 else f"{first.effort50:.1f} days of work"
    number = len(views)
    words = ("", "One", "Two", "Three", "Four", "Five", "Six", "Seven", "Eight", "Nine")
    ways_there = f"{words[number] if number < len(words) else number} {'option' if number == 1 else 'options'}"
    return f"{ways_there} for reaching {goal}.", f"{stages}, {work}, arriving {first.arrival50:%-d %b %Y}."


def _others(ways: Ways) -> list[RefusedView]:
    refused = [RefusedView(r.strategy, TITLES[r.strategy], list(r.reasons), False, None) for r in ways.refused]
    staying = [RefusedView(o.strategy, TITLES[o.strategy], list(o.reasons), True, o.until) for o in ways.staying]
    return [*staying, *refused]


def _conflict_of(ways: Ways) -> ConflictView | None:
    if ways.conflict is None:
        return None
    return ConflictView(
        [ConstraintView(c.text, c.grade, c.source) for c in ways.conflict.constraints],
        [ReleaseView(r.what, r.coordinate, r.line, r.text) for r in ways.conflict.releases],
    )


def _tracks(look: Look) -> list[TrackView]:
    problem = look.ways.problem
    shape = problem.journey.shape
    views = []
    for track in problem.space.tracks:
        named = track.coordinate in problem.journey.spans
        goal = problem.journey.spans[track.coordinate].goal if named else None
        avoided = [t.line for t in shape.avoid if t.coordinate == track.coordinate]
        choices = []
        for line in (*track.lines[1:], *avoided):
            facts = problem.knowledge.line_facts(track.coordinate, line)
            choices.append(LineChoice(line, facts.kind if facts else "", facts.support_ends if facts else None))
        out = track.coordinate in shape.out
        views.append(
            TrackView(
                coordinate=track.coordinate,
                name=problem.knowledge.spoken(track.coordinate),
                today=track.lines[0],
                goal=goal,
                named=named,
                out=out,
                lines=choices,
            )
        )
    return sorted(views, key=lambda v: (not Coordinate(v.coordinate).is_runtime, not v.named, v.name))


def _warnings(context: Context, look: Look) -> list[str]:
    """What speaks against the destination itself: a preview, or a line that has lost support or loses it within half a year."""
    said = []
    for coordinate, span in sorted(look.ways.problem.journey.spans.items()):
        facts = context.knowledge.line_facts(coordinate, span.goal)
        if facts is None:
            continue
        name = f"{context.ecosystems.spoken(coordinate)} {span.goal}"
        if facts.kind == "preview" or (facts.released is not None and facts.released > context.today):
            said.append(f"{name} is a preview: it may still change, and nobody supports it yet")
        elif facts.support_ends is not None and (facts.support_ends - context.today).days < 183:
            ends = "ended" if facts.support_ends < context.today else "ends"
            said.append(f"support of {name} {ends} on {facts.support_ends:%-d %b %Y}")
    return said


def _shared(context: Context, application: Application, scan: StoredScan) -> tuple[list[BridgeView], list[SharedGoal]]:
    """What a library must serve, given the applications that require it, and where all can meet; empty when none does."""
    users = []
    goals: dict[Coordinate, list[Line]] = {}
    for other in users_of(context, application, scan):
        theirs = latest_scan(context.db, other.id, other.destination.id)
        if theirs is None:
            continue
        row = application_row(other, theirs, None, [], context.knowledge, context.today)
        plan = theirs.plan
        lines = {v.coordinate: v.line for v in row.today}
        held = standing(plan, lines, context.knowledge, context.today, row.days_per_week)
        users.append((other.name, held.lines))
        for target in other.destination.targets:
            if target.coordinate in lines:
                goals.setdefault(target.coordinate, []).append(target.line)
    served = bridges(users, frozenset(context.knowledge.lifecycles))
    views = [
        BridgeView(b.coordinate, context.ecosystems.spoken(b.coordinate), b.line, b.until, list(b.users))
        for b in served
    ]
    return views, [SharedGoal(context.ecosystems.spoken(p), min(held), len(held)) for p, held in sorted(goals.items())]
