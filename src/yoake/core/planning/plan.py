"""States of a path → a plan: what goes with each stage, what it costs in days of work, and why it is as it is (DESIGN 4.6)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from yoake.core.planning.explain import reasons_of, tied_constraints
from yoake.core.planning.pricing import (
    days_of_packages,
    days_unseen,
    newly_lost,
    releases_of,
    settled_at,
    spread_of,
    state_of,
)
from yoake.core.readiness.effort import Samples, draw, quantiles
from yoake.core.values.coordinates import Coordinate, Line, line_key
from yoake.core.values.effort import Effort
from yoake.core.values.plans import Move, Plan, Reason, Settled, Stage

if TYPE_CHECKING:
    from yoake.core.planning.problem import Problem
    from yoake.core.planning.search_space import State
    from yoake.core.values.findings import Finding


def plan_of(problem: Problem, states: Sequence[State]) -> Plan:
    """The plan of one path. Work of a stage = base + Σ edits × (1 + κ(n − 1)); what is ready before the move counts once."""
    table = problem.knowledge.effort
    elapsed = draw(problem.before, table)
    before = quantiles(elapsed)
    taken: dict[Coordinate, str] = {}
    settled = [settled_at(problem, there, taken) for _, there in pairwise(states)]
    assigned = _assigned(problem, states, settled)
    stages: list[Stage] = []
    for number, (here, there) in enumerate(pairwise(states), 1):
        packages, edits = settled[number - 1], assigned[number - 1]
        own, crossed = _work(problem, here, there, edits)
        own = own + days_of_packages(problem, packages, stages[-1].packages if stages else ())
        elapsed = elapsed + own
        moves = _moves(problem, here, there)
        stages.append(
            Stage(
                number=number,
                moves=moves,
                state=state_of(problem, there),
                reasons=reasons_of(problem, here, there),
                finding_keys=tuple(f.key for f in edits),
                lines_crossed=crossed,
                effort=quantiles(own),
                reached=quantiles(elapsed),
                releases=releases_of(problem, there, packages),
                constraints=tuple(Reason(c.text, c.grade, c.source) for c in tied_constraints(problem, here, there)),
                safe_keys=tuple(f.key for f in problem.before if _bites_between(f, moves)),
                notes=(*_losses(problem, here, there), *_unusable(problem, here, there)),
                packages=packages,
            )
        )
    today = state_of(problem, problem.space.start)
    keys = tuple(f.key for f in problem.before)
    return Plan(today=today, before_keys=keys, before=before, stages=tuple(stages), total=quantiles(elapsed))


def _moves(problem: Problem, here: State, there: State) -> tuple[Move, ...]:
    return tuple(
        Move(t.coordinate, t.lines[i], t.lines[j])
        for t, i, j in zip(problem.space.tracks, here, there, strict=True)
        if i != j
    )


def _bites_between(finding: Finding, moves: Sequence[Move]) -> bool:
    if finding.bites_at is None:
        return False
    at = line_key(finding.bites_at)
    return any(m.coordinate == finding.coordinate and line_key(m.start) < at <= line_key(m.goal) for m in moves)


def _along(problem: Problem, settled: Sequence[Sequence[Settled]]) -> list[list[Move]]:
    """For each stage the packages that move without being searched, from the line they stand on to that of their release."""
    knowledge = problem.knowledge
    lines = {w.coordinate: w.line for w in problem.settling.wishes if w.line and w.coordinate not in problem.places}
    found: list[list[Move]] = []
    for packages in settled:
        moves = []
        for package in packages:
            start = lines.get(package.coordinate)
            if start is None or not package.release:
                continue
            goal = knowledge.line_of(package.coordinate, package.release)
            if goal != start:
                moves.append(Move(package.coordinate, start, goal))
                lines[package.coordinate] = goal
        found.append(moves)
    return found


def _assigned(problem: Problem, states: Sequence[State], settled: Sequence[Sequence[Settled]]) -> list[list[Finding]]:
    """Each finding that cannot be done now at the stage that crosses the line at which it bites.

    The release of a package goes with the stage in which that package moves, and so does what its new line takes away.
    """
    along = _along(problem, settled)
    steps = [(*_moves(problem, here, there), *along[n]) for n, (here, there) in enumerate(pairwise(states))]
    found: list[list[Finding]] = [[] for _ in steps]
    done = {f.key for f in problem.before}
    for finding in problem.journey.findings:
        if finding.key in done:
            continue
        name = finding.symbol.removeprefix("release ") if finding.kind == "package" else ""
        moved = (n for n, moves in enumerate(steps) if any(m.coordinate.name == name for m in moves))
        bitten = (n for n, moves in enumerate(steps) if _bites_between(finding, moves))
        at = next(moved, None) if name else None
        at = next(bitten, None) if at is None else at
        if at is None and found and finding.coordinate not in problem.journey.spans:
            at = len(found) - 1  # of a package that has to be replaced
        if at is not None:
            found[at].append(finding)
    return found


def _work(problem: Problem, here: State, there: State, edits: Sequence[Finding]) -> tuple[Samples, int]:
    """Samples of the days a stage takes, and how many lines it crosses."""
    space, table = problem.space, problem.knowledge.effort
    lines = dict(state_of(problem, here))
    crossed = sum(t.crossed[i][j] for t, i, j in zip(space.tracks, here, there, strict=True) if i != j)
    ready = [f for f in edits if f.kind not in ("toolchain", "package") and lines.get(f.coordinate) in f.window.both]
    free = {f.key for f in ready}
    tied = [f for f in edits if f.key not in free]
    losses = _loss_days(problem, here, there)
    factor = 1 + table.kappa * (max(crossed, 1) - 1)
    base = table.stage_base_days + days_unseen(problem, here, there)
    seen = base + draw(ready, table) + (draw(tied, table) + losses) * factor
    return np.asarray(seen * spread_of(problem, crossed, len(_moves(problem, here, there)))), crossed


def _loss_days(problem: Problem, here: State, there: State) -> float:
    """Work for what packages lose on the way, as far as their surfaces are known."""
    table = problem.knowledge.effort
    each = table.kinds["removed"][1] / table.minutes_per_day
    return each * len(_losses(problem, here, there))


def _losses(problem: Problem, here: State, there: State) -> tuple[str, ...]:
    """“celery 5.0 no longer has celery.task”, for each package that moves past such a line."""
    read = {f.coordinate for f in problem.journey.findings}  # what those lose is told place by place
    breaks = {p.coordinate: p.breaks for p in problem.journey.packages if p.direct and p.coordinate not in read}
    found = []
    for move in _moves(problem, here, there):
        if move.coordinate in problem.journey.spans:
            continue
        lost = dict(breaks.get(move.coordinate, ()))
        if newly_lost(lost, move.start, move.goal):
            found.append(
                f"{problem.knowledge.spoken(move.coordinate)} {move.goal} no longer has {lost[move.goal]}, used here"
            )
    return tuple(found)


def _unusable(problem: Problem, here: State, there: State) -> tuple[str, ...]:
    """Packages that no line lets run on the line a stage moves a runtime to: the path goes on, they have to be replaced."""
    before, lines = dict(state_of(problem, here)), dict(state_of(problem, there))
    found = []
    for coordinate, line in lines.items():
        home = problem.knowledge.ecosystems.runtime_of(coordinate)
        runtime = lines.get(home) if home is not None and home != coordinate else None
        if home is not None and runtime is not None and before[home] != runtime:
            held = problem.compatibility
            constraint = held.tried(coordinate, line, runtime) or held.observed(coordinate, line, runtime)
            found.extend([f"{constraint.text}; replace or drop it"] if constraint is not None else [])
    return tuple(found)


def combined(plans: Sequence[tuple[str, Plan]]) -> Plan:
    """Plans of several sets as one, a set after the other; stages are numbered through and keep the name of their set."""
    if len(plans) == 1:
        return plans[0][1]
    before = Effort(sum(p.before.p50 for _, p in plans), sum(p.before.p80 for _, p in plans))
    gone50, gone80 = before.p50, before.p80
    stages: list[Stage] = []
    lines: dict[Coordinate, Line] = {}
    for name, plan in plans:
        for coordinate, line in plan.today:
            if coordinate not in lines or line < lines[coordinate]:
                lines[coordinate] = line
        for stage in plan.stages:
            reached = Effort(gone50 + stage.reached.p50 - plan.before.p50, gone80 + stage.reached.p80 - plan.before.p80)
            stages.append(replace(stage, number=len(stages) + 1, reached=reached, group=name))
        gone50 += plan.total.p50 - plan.before.p50
        gone80 += plan.total.p80 - plan.before.p80
    keys = tuple(key for _, plan in plans for key in plan.before_keys)
    blocked = tuple(text for _, plan in plans for text in plan.blocked)
    return Plan(
        today=tuple(sorted(lines.items())),
        before_keys=keys,
        before=before,
        stages=tuple(stages),
        total=Effort(gone50, gone80),
        blocked=blocked,
    )
