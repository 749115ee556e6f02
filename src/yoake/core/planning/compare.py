"""All ways to a destination on one scale: the best path for each objective, the straight jump, and the other strategies."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING, Final

from yoake.core.planning.alternatives import OBJECTIVES, Refused, Way, Ways
from yoake.core.planning.conflict import conflicting, explain_conflict
from yoake.core.planning.placement import place_packages
from yoake.core.planning.plan import plan_of
from yoake.core.planning.problem import Journey, Problem, pose_problem
from yoake.core.planning.search import BUDGET, Found, find_path
from yoake.core.planning.settling import wishes_of
from yoake.core.planning.strategies import Offer, offers
from yoake.core.values.errors import TooLarge
from yoake.core.values.plans import Plan

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.planning.search_space import SearchSpace, State
    from yoake.core.values.coordinates import Coordinate
    from yoake.core.values.journeys import Surroundings
    from yoake.core.values.words import Strategy

_SOME_LEFT_OUT: Final = "{} packages that nothing is known against were left out of this plan: with them there are too many combinations to search"
_ALL_LEFT_OUT: Final = "packages that the destination does not name were left out of this plan: with them there are too many combinations to search"


def find_ways(journey: Journey, knowledge: Knowledge, around: Surroundings, budget: int = BUDGET) -> Ways:
    """Search, price and compare. What is only stated gives way when nothing else leads to the destination.

    Where there are too many combinations to search, packages are left out, and the plans say so. Raises TooLarge when even that does
    not help.
    """
    for narrowed, left_out in _ever_narrower(journey):
        try:
            ways = _find_ways(narrowed, knowledge, around, budget)
        except TooLarge:
            if not narrowed.packages:
                raise
            continue
        told = tuple(replace(way, plan=_telling(way.plan, left_out)) for way in ways.ways)
        return replace(ways, ways=told) if left_out else ways
    raise AssertionError("the last attempt either answers or raises")


def _ever_narrower(journey: Journey) -> Iterator[tuple[Journey, str]]:
    """(journey, what its plans have to say): whole, with the packages that fail, with none."""
    journey = replace(journey, wishes=wishes_of(journey.packages))
    yield journey, ""
    failing = tuple(p for p in journey.packages if p.state == "fails")
    if failing and len(failing) < len(journey.packages):
        yield replace(journey, packages=failing), _SOME_LEFT_OUT.format(len(journey.packages) - len(failing))
    if journey.packages:
        yield replace(journey, packages=()), _ALL_LEFT_OUT


def _telling(plan: Plan, said: str) -> Plan:
    """The plan with a note on its first stage."""
    stages = tuple(replace(stage, notes=(*stage.notes, said)) for stage in plan.stages[:1])
    return replace(plan, stages=(*stages, *plan.stages[1:]))


def without_blockers(journey: Journey, problem: Problem) -> Journey | None:
    """The journey without the packages that keep the destination out: they have to be replaced, and each stage tells it. None where
    something else is in the way, or somebody pinned them."""
    pinned = {t.coordinate for t in (*journey.shape.pins, *journey.shape.avoid)}
    direct = {p.coordinate for p in journey.packages if p.direct} - set(journey.spans) - pinned
    out = {p for p in direct if not _has_a_line(p, journey, problem)}
    if not out:  # no package is in the way by itself
        out = direct & {coordinate for c in conflicting(problem) for coordinate in (c.owner, c.subject)}
    return replace(journey, packages=tuple(p for p in journey.packages if p.coordinate not in out)) if out else None


def _has_a_line(coordinate: Coordinate, journey: Journey, problem: Problem) -> bool:
    """Whether some line of a package goes with every line of the destination, each looked at by itself."""
    held, goals = problem.compatibility, {p: s.goal for p, s in journey.spans.items()}
    home = problem.knowledge.ecosystems.runtime_of(coordinate)
    runtime = goals.get(home) if home is not None else None
    return any(
        not any(
            held.between(coordinate, line, p, x, runtime).broken or held.between(p, x, coordinate, line, runtime).broken
            for p, x in goals.items()
        )
        for line in held.lines(coordinate)
    )


def _find_ways(journey: Journey, knowledge: Knowledge, around: Surroundings, budget: int) -> Ways:
    problem = pose_problem(journey, knowledge)
    if problem.space.arrived(problem.space.start):
        return Ways(problem=problem, ways=(), refused=(), staying=(), conflict=None, states={})
    found = {objective: find_path(problem.space, objective, budget) for objective in OBJECTIVES}
    if found["stages"] is None:
        lenient = pose_problem(journey, knowledge, lenient=True)
        if find_path(lenient.space, "stages", budget) is not None:
            problem = lenient
            found = {objective: find_path(problem.space, objective, budget) for objective in OBJECTIVES}
        elif (rest := without_blockers(journey, problem)) is not None:
            return _find_ways(rest, knowledge, around, budget)
    return _compared(problem, {o: f for o, f in found.items() if f is not None}, around)


def least_work(journey: Journey, knowledge: Knowledge, budget: int = BUDGET) -> Plan:
    """Only the plan of least work: what every scan keeps. Blocked where nothing leads to the destination, or all is too much to search."""
    said = ""
    for narrowed, left_out in _ever_narrower(journey):
        try:
            plan = _least_work(narrowed, knowledge, budget)
        except TooLarge as error:
            said = str(error)
            continue
        return _telling(plan, left_out) if left_out else plan
    return Plan(blocked=(said,))


def _least_work(journey: Journey, knowledge: Knowledge, budget: int) -> Plan:
    for lenient in (False, True):
        problem = pose_problem(journey, knowledge, lenient=lenient)
        found = find_path(problem.space, "work", budget)
        if found is not None:
            return plan_of(problem, place_packages(problem.space, found.states))
    problem = pose_problem(journey, knowledge)
    rest = without_blockers(journey, problem)
    if rest is not None:
        return _least_work(rest, knowledge, budget)
    reasons = tuple(c.text for c in conflicting(problem))
    return replace(plan_of(problem, (problem.space.start,)), blocked=reasons or ("no path was found",))


def _compared(problem: Problem, found: dict[str, Found], around: Surroundings) -> Ways:
    states = {objective: place_packages(problem.space, f.states, objective) for objective, f in found.items()}
    ways: dict[tuple[State, ...], Way] = {}
    for objective, path in states.items():
        known = ways.get(path)
        if known is None:
            ways[path] = Way(_name(path), (objective,), plan_of(problem, path), found[objective].proven)
        else:
            proven = known.proven and found[objective].proven
            ways[path] = replace(known, objectives=(*known.objectives, objective), proven=proven)
    listed = list(ways.values())
    refused: list[Refused] = []
    direct = jump_of(problem, by_policy=True)
    if direct is None:
        refused.append(Refused("direct", _against_direct(problem)))
    elif any(len(path) == 2 for path in ways):
        states["direct"] = next(path for path in ways if len(path) == 2)  # the best path is the jump already
    else:
        states["direct"] = direct
        listed.append(Way("direct", (), plan_of(problem, direct), proven=True, reasons=_untested(direct)))
    jump = direct or jump_of(problem, by_policy=False)
    staying: list[Offer] = []
    for offer in offers(problem, jump, plan_of(problem, jump), around) if jump is not None else ():
        if offer.plan is not None:
            listed.append(Way(offer.strategy, (), offer.plan, proven=False, reasons=offer.reasons))
        elif offer.taken:
            staying.append(offer)
        else:
            refused.append(Refused(offer.strategy, offer.reasons))
    conflict = explain_conflict(problem) if not found else None
    return Ways(
        problem=problem,
        ways=tuple(listed),
        refused=tuple(refused),
        staying=tuple(staying),
        conflict=conflict,
        states=states,
    )


def _name(path: tuple[State, ...]) -> Strategy:
    return "direct" if len(path) == 2 else "hop-by-hop"


def _untested(path: tuple[State, ...]) -> tuple[str, ...]:
    moved = sum(1 for i, j in zip(path[0], path[-1], strict=True) if i != j)
    return (f"{moved} coordinates move at once: no state between can be tested",)


def jump_of(problem: Problem, *, by_policy: bool) -> tuple[State, ...] | None:
    """Today and the destination with nothing between; None when one stage cannot do it."""
    found = find_path(in_one_stage(problem.space, by_policy=by_policy), "stages")
    return place_packages(problem.space, found.states, "stages") if found is not None else None


def in_one_stage(space: SearchSpace, *, by_policy: bool) -> SearchSpace:
    """The problem with only jumps from today's line, and to the goal where there is one."""
    tracks = []
    for track in space.tracks:
        size = len(track.lines)
        step = tuple(
            tuple(
                i == 0 < j and (track.goal is None or j == track.goal) and (not by_policy or track.step[0][j])
                for j in range(size)
            )
            for i in range(size)
        )
        tracks.append(replace(track, step=step))
    ahead = tuple(track for track in tracks if track.goal)
    order = space.order if by_policy else ()
    return replace(space, tracks=tuple(tracks), order=order) if ahead else space


def _against_direct(problem: Problem) -> tuple[str, ...]:
    """Why the straight jump is refused: a policy, an order that was asked for, a pin, or the constraints."""
    reasons = []
    for track in problem.space.tracks:
        if track.goal:
            text = problem.knowledge.policy_against(track.coordinate, track.lines[0], track.lines[track.goal])
            reasons.extend([text] if text else [])
    shape = problem.journey.shape
    reasons += [
        f"{target} is pinned: it has to be stopped at"
        for target in shape.pins
        if target.coordinate in problem.journey.spans
    ]
    reasons += [f"{a.short} has to arrive before {b.short} moves" for a, b in shape.order]
    if reasons:
        return tuple(reasons)
    conflict = explain_conflict(replace(problem, space=in_one_stage(problem.space, by_policy=False)))
    return tuple(c.text for c in conflict.constraints) or ("no set of lines at the destination stands",)
