"""The Proof screen: stages against their evidence, the same tests on both sides, and the work that is left over time."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import date
from typing import Final

from yoake.context.context import Context
from yoake.core.proof.gates import (
    CheckEvidence,
    GateItem,
    GateKey,
    Look,
    RunEvidence,
    StageFacts,
    gate_of,
    is_proven,
)
from yoake.core.proof.test_groups import groups_of
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.errors import NotFound
from yoake.core.values.plans import Plan, Stage, stage_key
from yoake.core.values.runs import Compared, Run, RunOutcome, Verdict
from yoake.runner.branches import branches_of
from yoake.store.applications import Application, get_application
from yoake.store.check_reports import reports_of
from yoake.store.database import Row
from yoake.store.runs import RunHead, RunSettings, last_run_job, looks_of, run_of, run_settings, runs_of
from yoake.store.scans import StoredScan, changed_behaviours, count_kind, count_role, modules_of_scan
from yoake.store.steps import files_of_step, is_stage, steps_of
from yoake.store.waivers import live_waivers
from yoake.views.application_rows import ApplicationRow, read_application
from yoake.views.proof_records import (
    GateItemView,
    ProofStage,
    ProofView,
    RunRow,
    RunSettingsView,
    RunView,
    SideView,
    SupportWall,
    TestCause,
    TestGroup,
    ToDo,
    WorkLeft,
)
from yoake.views.stage_routes import stage_routes

_TITLES: Final[Mapping[GateKey, str]] = {
    "scan": "a scan finds none of its changes",
    "tests": "tests on both sides",
    "looks": "someone looked",
    "checks": "checks elsewhere",
}
_CODES: Final[Mapping[Verdict, str]] = {
    "both": "b",
    "breaks": "x",
    "broke before": "o",
    "gone": "g",
    "new": "n",
    "flaky": "f",
}
_MOST_CAUSES: Final = 100
_MOST_NAMES: Final = 50  # tests of one cause, by name
_MOST_RUNS: Final = 20
_MOST_POINTS: Final = 120


def proof(context: Context, slug: str) -> ProofView:
    """Stages of the plan against their evidence. Raises NotFound."""
    application, row, scan = read_application(context, slug)
    settings = run_settings(context.db, application.id)
    runs = runs_of(context.db, application.id, application.destination.id)
    steps = steps_of(context.db, application.id, application.destination.id)
    plan = scan.plan if scan is not None else Plan()
    stages = _stages(context, application, scan, plan, runs, steps) if scan is not None else []
    here = next((s.number for s in stages if s.number and s.light == "here"), None)
    job = last_run_job(context.db, application.id)
    working = job is not None and job["state"] in ("waiting", "running")
    heading, emphasis = _heading(row, stages, here, plan)
    return ProofView(
        application=row,
        heading=heading,
        emphasis=emphasis,
        stages=stages,
        here=here,
        todo=_todo(
            context=context, application=application, scan=scan, plan=plan, steps=steps, here=here, stages=stages
        )
        if scan is not None
        else [],
        settings=_settings(settings),
        modules=[m.path for m in modules_of_scan(context.db, scan.id)] if scan is not None else [],
        branches=sorted(branches_of(application.source.location)),
        job=job["id"] if job is not None and working else None,
        failed=job["problem"] if job is not None and job["state"] in ("failed", "stopped") else "",
        runs=[_run_row(run, scan, _numbers(plan, application)) for run in runs[:_MOST_RUNS]],
        left=_work_left(steps, context),
        today=context.today,
        walls=_walls(row, context.today),
    )


def _stages(
    context: Context,
    application: Application,
    scan: StoredScan,
    plan: Plan,
    runs: Sequence[RunHead],
    steps: Sequence[Row],
) -> list[ProofStage]:
    named = {t.coordinate for t in application.destination.targets}
    waived = live_waivers(context.db, application.id, context.today)
    looks = looks_of(context.db, application.id)
    keys = [key for stage in plan.stages for key in _own(stage, waived)]
    watched_keys = changed_behaviours(context.db, scan.id, keys)
    about = {
        r["finding_key"]: (int(r["places"]), files_of_step(r["files"])) for r in steps if not is_stage(r["finding_key"])
    }
    heads = branches_of(application.source.location)
    tests = count_role(context.db, scan.id, "test")
    checks = _checks_by_stage(context, application)
    routes = stage_routes(context, application.id, plan.stages, steps)
    today = _today_items(runs, scan, tests, checks.get("", ()))
    found = [
        ProofStage(
            number=0,
            title="Today",
            lines=_lines(plan.today, named, context),
            light="proven" if is_proven(today) else "later",
            branch="",
            items=_views(today),
        )
    ]
    open_ = True
    for stage in plan.stages:
        own = _own(stage, waived)
        watched = {k: about.get(k, (0, ())) for k in own if k in watched_keys}
        key = stage_key(stage, named)
        newest = next((r for r in runs if r.stage_key == key), None)
        facts = StageFacts(
            changes=len(own) - len(watched),
            behaviours=watched,
            looks=looks,
            run=_evidence(newest, heads) if newest is not None else None,
            content=scan.snapshot,
            scanned_at=scan.taken_at,
            tests=tests,
            checks=checks.get(key, ()),
            routes=routes.get(stage.number),
        )
        items = gate_of(facts)
        proven = is_proven(items)
        light = "proven" if proven else "here" if open_ else "later"
        open_ = open_ and proven
        title = stage.title or f"Stage {stage.number}"
        found.append(
            ProofStage(
                number=stage.number,
                title=title,
                lines=_lines(stage.state, named, context),
                light=light,
                branch=_branch_of(stage, named, heads),
                items=_views(items),
            )
        )
    return found


def _checks_by_stage(context: Context, application: Application) -> dict[str, tuple[CheckEvidence, ...]]:
    found: dict[str, tuple[CheckEvidence, ...]] = {}
    for stored in reports_of(context.db, application.id):
        made = CheckEvidence(stored.report.tool, stored.report.errors, stored.identity, stored.at, stored.who)
        found[stored.stage_key] = (*found.get(stored.stage_key, ()), made)
    return found


def _branch_of(stage: Stage, named: Collection[str], heads: Iterable[str]) -> str:
    """A branch whose name says where the stage leads, as the Edits screen suggests it."""
    moved = [f"{m.coordinate.name}-{m.goal}" for m in stage.moves if m.coordinate in named]
    wanted = "-".join(sorted(moved))
    return max((name for name in heads if wanted and wanted in name), key=lambda name: (len(name), name), default="")


def _own(stage: Stage, waived: Collection[str]) -> list[str]:
    """Findings that a stage must be rid of: its own, and those that bite there and could be dealt with before any move."""
    return [key for key in dict.fromkeys((*stage.finding_keys, *stage.safe_keys)) if key not in waived]


def _today_items(
    runs: Sequence[RunHead], scan: StoredScan, tests: int, checks: tuple[CheckEvidence, ...]
) -> tuple[GateItem, ...]:
    """Today needs no change and no look; its tests were run with the first stage, or by themselves. The branch of a stage is not about it."""
    newest = next((r for r in runs if r.stage <= 1), None)
    evidence = replace(_evidence(newest, {}), moved_on=False) if newest is not None else None
    facts = StageFacts(
        changes=0,
        behaviours={},
        looks={},
        run=evidence,
        content=scan.snapshot,
        scanned_at=scan.taken_at,
        tests=tests,
        checks=checks,
    )
    items = {item.key: item for item in gate_of(facts)}
    ran = items["tests"]
    if newest is not None and ran.state in ("there", "breaks", "part"):
        before = newest.counts.get("broke before", 0)
        said = "green" if not before else f"{before} fail already"
        ran = GateItem("tests", "part" if before else "there", said, newest.at, newest.who)
    return (GateItem("scan", "there", "scanned", scan.taken_at), ran, items["looks"], items["checks"])


def _evidence(run: RunHead, heads: Mapping[str, str]) -> RunEvidence:
    branch, _, commit = run.branch.partition("@")
    moved = bool(branch) and heads.get(branch) != commit
    return RunEvidence(
        at=run.at, who=run.who, counts=run.counts, problem=run.problem, content=run.content, moved_on=moved
    )


def _views(items: Iterable[GateItem]) -> list[GateItemView]:
    return [GateItemView(i.key, i.state, i.said, i.at, i.who) for i in items]


def _lines(state: Iterable[tuple[Coordinate, Line]], named: Collection[Coordinate], context: Context) -> str:
    """Lines of what the destination names, runtimes first."""
    runtime = context.knowledge.ecosystems.is_runtime
    rows = sorted(((not runtime(coordinate), coordinate, line) for coordinate, line in state if coordinate in named))
    return " · ".join(line for _, _, line in rows[:3])


def _heading(row: ApplicationRow, stages: Sequence[ProofStage], here: int | None, plan: Plan) -> tuple[str, str]:
    count = len(stages) - 1
    if row.scanned_at is None:
        return "Nothing is proven before the first scan.", "Scan it first."
    if row.arrived:
        return "It stands on its destination.", "There is nothing left to prove."
    if not plan.stages and plan.blocked:
        return "There is no path to prove.", "The Path screen says what stands in the way."
    if not plan.stages:
        left = len(plan.before_keys)
        counted = f"{left} {'change is' if left == 1 else 'changes are'}"
        return f"It stands on the lines of its destination, and {counted} left.", "They may fail there already."
    if here is None:
        return (
            f"{'The one stage is' if count == 1 else f'All {count} stages are'} proven.",
            "Move, and scan what is then there.",
        )
    stage = next(s for s in stages if s.number == here)
    missing = [item for item in stage.items if item.state not in ("there", "not needed")]
    things = "one thing" if len(missing) == 1 else f"{_NUMBERS.get(len(missing), len(missing))} things"
    first = next((i for i in missing if i.state == "breaks"), missing[0])
    return f"Stage {here} of {count} lacks {things}.", _first_word(first)


_NUMBERS: Final = {2: "two", 3: "three"}
_SPOKEN: Final[Mapping[GateKey, str]] = {
    "scan": "Scan",
    "tests": "Tests",
    "looks": "Changed behaviour",
    "checks": "Checks elsewhere",
    "routes": "Routes",
}


def _first_word(item: GateItemView) -> str:
    if item.key == "scan":
        return f"{item.said}."
    if item.state == "breaks":
        return f"{item.said[:1].upper()}{item.said[1:]}."
    return f"{_SPOKEN[item.key]}: {item.said}."


def _todo(
    context: Context,
    application: Application,
    scan: StoredScan,
    plan: Plan,
    steps: Sequence[Row],
    here: int | None,
    stages: Sequence[ProofStage],
) -> list[ToDo]:
    """What the first stage that is not proven lacks, in the order in which it is done."""
    stage = next((s for s in plan.stages if s.number == here), None)
    shown = next((s for s in stages if s.number == here), None)
    if stage is None or shown is None:
        return []
    waived = live_waivers(context.db, application.id, context.today)
    by_key = {r["finding_key"]: r for r in steps}
    own = _own(stage, waived)
    watched = changed_behaviours(context.db, scan.id, own)
    looks = looks_of(context.db, application.id)
    found: list[ToDo] = []
    left = [key for key in own if key not in watched]
    if left:
        safe = [key for key in left if key in stage.safe_keys]
        found += [
            _changes(keys, when, by_key)
            for keys, when in ((safe, "now"), ([k for k in left if k not in safe], ""))
            if keys
        ]
    tests = next(item for item in shown.items if item.key == "tests")
    if tests.state not in ("there", "not needed"):
        found.append(ToDo("run", "tests on both sides", tests.said))
    stuck = [p for p in stage.packages if p.state == "none"]
    if stuck:
        names = ", ".join(p.coordinate.name for p in stuck[:3])
        found.append(
            ToDo(
                "moved",
                f"{len(stuck)} {'package has' if len(stuck) == 1 else 'packages have'} no release to move to",
                names,
            )
        )
    for key in own:
        row = by_key.get(key)
        if key in watched and row is not None and not _looked(looks.get(key), row):
            files = files_of_step(row["files"])
            where = files[0] + (f" and {len(files) - 1} more" if len(files) > 1 else "") if files else ""
            found.append(ToDo("look", row["title"], where, key, row["id"]))
    routes = next((item for item in shown.items if item.key == "routes"), None)
    if routes is not None and routes.state != "there":
        found.append(ToDo("routes", "routes on the new side", routes.said))
    checks = next(item for item in shown.items if item.key == "checks")
    if checks.state in ("breaks", "stale"):
        found.append(ToDo("checks", "checks elsewhere", checks.said))
    texts = count_kind(context.db, scan.id, "leftover")
    if texts:
        counted = "1 version is" if texts == 1 else f"{texts} versions are"
        found.append(
            ToDo("leftovers", f"{counted} still named in texts", "to be written otherwise when the stage is done")
        )
    return found


def _changes(keys: Sequence[str], when: str, by_key: Mapping[str, Row]) -> ToDo:
    titles = [by_key[key]["title"] for key in keys if key in by_key]
    counted = f"{len(keys)} {'change' if len(keys) == 1 else 'changes'}"
    return ToDo("changes", f"{counted} that can be made now" if when else counted, ", ".join(titles[:2]), when)


def _looked(look: Look | None, row: Row) -> bool:
    return look is not None and look.holds(int(row["places"]), files_of_step(row["files"]))


def _settings(settings: RunSettings | None) -> RunSettingsView:
    if settings is None:
        return RunSettingsView(allowed=False, module="", command="", beside="", asks="", minutes=30, who="", at="")
    return RunSettingsView(
        allowed=True,
        module=settings.module,
        command=" ".join(settings.command),
        beside=" ".join(settings.beside),
        asks=" ".join(settings.asks),
        minutes=settings.minutes,
        who=settings.who,
        at=settings.at,
    )


def _numbers(plan: Plan, application: Application) -> dict[str, int]:
    """What names a stage → its number now; nothing names today."""
    named = {t.coordinate for t in application.destination.targets}
    return {"": 0} | {stage_key(stage, named): stage.number for stage in plan.stages}


def _run_row(run: RunHead, scan: StoredScan | None, numbers: Mapping[str, int]) -> RunRow:
    fresh = scan is not None and run.content == scan.snapshot
    return RunRow(
        id=run.id,
        stage=run.stage,
        here=numbers.get(run.stage_key),
        branch=run.branch.partition("@")[0],
        at=run.at,
        who=run.who,
        problem=run.problem,
        counts=dict(run.counts),
        fresh=fresh,
    )


def _work_left(steps: Iterable[Row], context: Context) -> list[WorkLeft]:
    """Days of work that were open at each day on which something opened or closed, today at the end. Stages had to be gone through all
    along, also before somebody adopted the path."""
    a_day = context.knowledge.effort.minutes_per_day
    moved: dict[date, float] = {}
    held = list(steps)
    first = min((row["opened_at"] for row in held), default="")
    for row in held:
        opened = _day(first if is_stage(row["finding_key"]) else row["opened_at"])
        moved[opened] = moved.get(opened, 0.0) + row["minutes"] / a_day
        if row["closed_at"]:
            moved[_day(row["closed_at"])] = moved.get(_day(row["closed_at"]), 0.0) - row["minutes"] / a_day
    found: list[WorkLeft] = []
    left = 0.0
    for day in sorted(moved):
        left += moved[day]
        found.append(WorkLeft(day, round(max(left, 0.0), 2)))
    if found and found[-1].day < context.today:
        found.append(WorkLeft(context.today, found[-1].days))
    return found[-_MOST_POINTS:]


def _day(stamp: str) -> date:
    return date.fromisoformat(stamp[:10])


def _walls(row: ApplicationRow, today: date) -> list[SupportWall]:
    found = {
        (f"{lane.name} {s.line}", s.support_ends)
        for lane in row.lanes
        for s in lane.segments
        if s.since is None and s.support_ends is not None and s.support_ends >= today
    }
    return [SupportWall(name, day) for name, day in sorted(found, key=lambda one: one[1])]


def run_view(context: Context, slug: str, number: int) -> RunView:
    """One run with its tests. Raises NotFound."""
    application = get_application(context.db, slug)
    held = run_of(context.db, application.id, number)
    if held is None:
        raise NotFound(f"{application.name} has no run {number}.")
    head, outcome = held
    causes = _causes(outcome.tests)
    return RunView(
        id=head.id,
        stage=head.stage,
        branch=head.branch.partition("@")[0],
        at=head.at,
        who=head.who,
        problem=head.problem,
        counts=dict(head.counts),
        sides=[_side(run, context) for run in _last_runs(outcome)],
        groups=_groups(outcome.tests),
        causes=causes[:_MOST_CAUSES],
        more=max(0, len(causes) - _MOST_CAUSES),
    )


def _causes(tests: Iterable[Compared]) -> list[TestCause]:
    """What breaks first, then the rest, the most frequent cause first."""
    found: dict[tuple[Verdict, str], list[str]] = {}
    for test in tests:
        if test.verdict != "both":
            found.setdefault((test.verdict, test.note if test.verdict not in ("gone", "new") else ""), []).append(
                test.name
            )
    rows = [TestCause(verdict, note, len(names), names[:_MOST_NAMES]) for (verdict, note), names in found.items()]
    return sorted(rows, key=lambda c: (c.verdict != "breaks", c.verdict, -c.count, c.note))


def _last_runs(outcome: RunOutcome) -> list[Run]:
    return [outcome.old[-1], *outcome.new[-1:]]


def _groups(tests: Sequence[Compared]) -> list[TestGroup]:
    return [TestGroup(name, "".join(_CODES[t.verdict] for t in held)) for name, held in groups_of(tests).items()]


def _side(run: Run, context: Context) -> SideView:
    lines = [f"{context.knowledge.spoken(coordinate)} {line}" for coordinate, line in run.side.lines.items()]
    return SideView(
        label=run.side.label,
        lines=lines,
        command=" ".join(run.command.words),
        ended=run.ended,
        said=run.said or (f"ended with {run.code}" if run.code else ""),
        seconds=run.seconds,
        tests=len(run.tests),
        packages=len(run.installed),
        log=run.log.removeprefix("runs/"),
    )
