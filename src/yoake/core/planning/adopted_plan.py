"""An adopted path against today's evidence: which of its stages are finished, what still stands, and what moved under it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from yoake.core.planning.plan import plan_of

if TYPE_CHECKING:
    from yoake.core.planning.problem import Problem
    from yoake.core.planning.search_space import State
    from yoake.core.values.plans import Plan, Stage

_WORTH_SAYING = 0.25  # days of work by which another path must be cheaper before it is offered


@dataclass(frozen=True, slots=True)
class Followed:
    """What is left of an adopted path. ``plan`` is None when it cannot be walked any more; ``moved`` says why, or what changed."""

    plan: Plan | None
    finished: tuple[Stage, ...]
    moved: tuple[str, ...]


def follow(problem: Problem, adopted: Plan, *, titled: Plan | None = None) -> Followed:
    """The rest of an adopted path on today's evidence. ``titled``: the plan made anew, for strategies that name their stages."""
    finished = tuple(stage for stage in adopted.stages if stage.moves and _reached(problem, stage))
    if any(stage.title for stage in adopted.stages):
        if titled is None:
            return Followed(None, finished, ("this strategy cannot be taken any more",))
        return Followed(titled, finished, _changed_work(adopted, titled))
    ahead = [stage for stage in adopted.stages if stage not in finished]
    moved = _elsewhere(problem, adopted, finished)
    states = _states(problem, ahead)
    broken = _broken(problem, states)
    if broken:
        return Followed(None, finished, (*moved, *broken))
    plan = plan_of(problem, states)
    return Followed(plan, finished, (*moved, *_changed_work(adopted, plan)))


def dearer(kept: Plan, fresh: Plan) -> str:
    """That a fresh search finds clearly less work, in words; empty when it does not."""
    saved = kept.total.p50 - fresh.total.p50
    return f"a new search finds a path with {saved:.1f} days less work" if saved > _WORTH_SAYING else ""


def _reached(problem: Problem, stage: Stage) -> bool:
    """Whether today's lines are those of a stage, or past them, for every coordinate it moved that is still tracked."""
    today = {t.coordinate: t.lines[0] for t in problem.space.tracks}
    held = [m for m in stage.moves if m.coordinate in today]
    named = [m for m in held if m.coordinate in problem.journey.spans] or held
    return bool(named) and all(today[m.coordinate] >= m.goal for m in named)


def _elsewhere(problem: Problem, adopted: Plan, finished: Sequence[Stage]) -> tuple[str, ...]:
    """Lines of today that are neither where the path began nor where a finished stage left them."""
    expected = dict(finished[-1].state) if finished else dict(adopted.today)
    found = []
    for track in problem.space.tracks:
        line = expected.get(track.coordinate)
        if line is None:
            found.append(f"{problem.knowledge.spoken(track.coordinate)} is new here since the path was taken")
        elif track.coordinate in problem.journey.spans and line != track.lines[0]:
            found.append(
                f"{problem.knowledge.spoken(track.coordinate)} stands on {track.lines[0]}; the path counted from {line}"
            )
    return tuple(found)


def _states(problem: Problem, stages: Sequence[Stage]) -> list[State]:
    """The stages as states of today's problem: lines that are gone from it, or behind, stay where they are."""
    states = [problem.space.start]
    for stage in stages:
        wanted = dict(stage.state)
        state = []
        for c, track in enumerate(problem.space.tracks):
            line = wanted.get(track.coordinate, "")
            known = track.lines.index(line) if line in track.lines else states[-1][c]
            state.append(max(known, states[-1][c]))
        if tuple(state) != states[-1]:
            states.append(tuple(state))
    return states


def _broken(problem: Problem, states: Sequence[State]) -> tuple[str, ...]:
    """Why the states cannot be walked; empty when they can."""
    space = problem.space
    for number, state in enumerate(states[1:], 1):
        if space.stands(state):
            continue
        said: dict[str, None] = {}
        for a, b in ((a, b) for a, b in space.fits if a < b and not space.fits[a, b][state[a]] >> state[b] & 1):
            for constraint in problem.broken(a, state[a], b, state[b]):
                said.setdefault(f"stage {number} does not stand any more: {constraint.text}")
        return tuple(said) or (f"stage {number} does not stand any more",)
    return () if space.arrived(states[-1]) else ("it no longer reaches the destination",)


def _changed_work(adopted: Plan, plan: Plan | None) -> tuple[str, ...]:
    """Findings that came and went since the path was taken."""
    if plan is None:
        return ()
    before, after = _keys(adopted), _keys(plan)
    came, went = len(after - before), len(before - after)
    found = []
    if came:
        found.append(f"{came} {'change' if came == 1 else 'changes'} came since the path was taken")
    if went:
        found.append(f"{went} {'change is' if went == 1 else 'changes are'} done or gone")
    return tuple(found)


def _keys(plan: Plan) -> set[str]:
    return {*plan.before_keys, *(key for stage in plan.stages for key in stage.finding_keys)}
