"""How a set of modules can travel other than stage by stage in place, each offered or refused with reasons.

The prices share one scale with the hops: days of the same table of efforts, with constants that stand in the knowledge file.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING, Final

import numpy as np

from yoake.core.planning.pricing import days_of_packages, days_unseen, releases_of, settled_at, spread_of, state_of
from yoake.core.readiness.effort import Samples, draw, quantiles
from yoake.core.values.journeys import BroughtSlice, Surroundings
from yoake.core.values.plans import GATEWAY_STAGE, NEW_SIDE_STAGE, OLD_SIDE_STAGE, Plan, Stage

if TYPE_CHECKING:
    from yoake.core.planning.problem import Problem
    from yoake.core.planning.search_space import State
    from yoake.core.values.coordinates import Coordinate
    from yoake.core.values.findings import Finding
    from yoake.core.values.words import Strategy

_MOST_SLICES: Final = 12
"""Stages that one can still follow by eye."""

_SMALL_KNOWN: Final = 0.6  # below this share of known checks nobody can say what a move would break


@dataclass(frozen=True, slots=True)
class Offer:
    """A strategy that can be taken, with its plan, or what speaks against it. ``until``: the last day of a strategy that does
    not travel."""

    strategy: Strategy
    plan: Plan | None
    reasons: tuple[str, ...]
    until: date | None = None
    taken: bool = False
    """Whether it can be taken although it has no stages: hold, retire, rework first."""


@dataclass(frozen=True, slots=True)
class _Part:
    """One stage of a strategy that names its stages."""

    title: str
    days: Samples
    findings: tuple[Finding, ...]
    there: State
    reasons: tuple[str, ...]


def offers(problem: Problem, jump: Sequence[State], straight: Plan, around: Surroundings) -> list[Offer]:
    """Every strategy beside the hops, in a fixed order. ``jump``: today's state and the one at the destination; ``straight``: its plan."""
    done = {f.key for f in problem.before}
    ahead = [f for f in problem.journey.findings if f.key not in done]
    made = _Making(problem, tuple(jump), ahead, straight)
    return [
        made.dual_run(),
        made.parallel_copy(around),
        made.piecewise(around),
        made.fresh_base(around),
        rework_first(problem, around),
        hold(problem),
        retire(around),
    ]


class _Making:
    """Builds the plans of strategies that arrive in one jump, whatever stands beside it."""

    def __init__(self, problem: Problem, jump: tuple[State, ...], ahead: Sequence[Finding], straight: Plan) -> None:
        self.problem = problem
        self.jump = jump
        self.ahead = tuple(ahead)
        self.straight = straight
        self.table = problem.knowledge.effort
        self.costs = problem.knowledge.effort.ways

    def _plan(self, parts: Sequence[_Part]) -> Plan:
        elapsed = draw(self.problem.before, self.table)
        before = quantiles(elapsed)
        stages: list[Stage] = []
        here = self.jump[0]
        taken: dict[Coordinate, str] = {}
        for number, part in enumerate(parts, 1):
            moves = self.straight.stages[0].moves if part.there != here and self.straight.stages else ()
            crossed = self.straight.stages[0].lines_crossed if moves else 0
            seen = part.days + days_unseen(self.problem, here, part.there)
            days = np.asarray(seen * spread_of(self.problem, crossed, len(moves)))
            packages = settled_at(self.problem, part.there, taken)
            days = days + days_of_packages(self.problem, packages, stages[-1].packages if stages else ())
            elapsed = elapsed + days
            stages.append(
                Stage(
                    number=number,
                    moves=moves,
                    state=state_of(self.problem, part.there),
                    reasons=part.reasons,
                    finding_keys=tuple(f.key for f in part.findings),
                    lines_crossed=crossed,
                    effort=quantiles(days),
                    reached=quantiles(elapsed),
                    releases=releases_of(self.problem, part.there, packages),
                    title=part.title,
                    packages=packages,
                )
            )
            here = part.there
        keys = tuple(f.key for f in self.problem.before)
        return Plan(
            today=state_of(self.problem, self.jump[0]),
            before_keys=keys,
            before=before,
            stages=tuple(stages),
            total=quantiles(elapsed),
        )

    def _days(self, days: float) -> Samples:
        return np.full(draw((), self.table).shape, self.table.stage_base_days + days)

    def _in_code(self) -> tuple[Finding, ...]:
        return tuple(f for f in self.ahead if f.kind not in ("toolchain", "package", "leftover"))

    def _around_code(self) -> tuple[Finding, ...]:
        return tuple(f for f in self.ahead if f.kind in ("toolchain", "package", "leftover"))

    def dual_run(self) -> Offer:
        """One code base, two sets of dependencies, both tested; switches where nothing works on both."""
        edits = self._in_code()
        both_ways = [f for f in edits if f.window.state == "switch" or not f.window.both]
        stuck = [f for f in both_ways if any(p.form == "syntax" for p in f.places)]
        if stuck:
            shown = f"{stuck[0].title}: no spelling is read by both lines"
            return Offer("dual-run", None, (shown,))
        if not edits:
            return Offer(
                "dual-run", None, ("every change in the code can be made today: nothing would have to work twice",)
            )
        write, clear = (self.costs.switch_minutes[at] / self.table.minutes_per_day * len(both_ways) for at in (0, 1))
        start, end = self.jump[0], self.jump[-1]
        twice = (
            _counted(len(both_ways), "version switch", "version switches") if both_ways else "no version switch needed"
        )
        parts = [
            _Part("both green", self._days(self.costs.second_set_days + write) + draw(edits, self.table), edits, start,
                  (f"one code base passes on both sets of lines; {twice}",)),
            _Part("switch", self._days(0) + draw(self._around_code(), self.table), self._around_code(), end,
                  ("only the lines change: the code runs on both",)),
        ]  # fmt: skip
        if both_ways:
            parts.append(
                _Part("clear switches", self._days(clear), (), end, ("what served the old lines is taken out",))
            )
        return Offer(
            "dual-run",
            self._plan(parts),
            (f"{_counted(len(edits), 'change', 'changes')} told apart one by one; {twice}",),
        )

    def parallel_copy(self, around: Surroundings) -> Offer:
        """A new module beside the untouched old one, both buildable."""
        if around.used_by:
            return Offer(
                "parallel-copy",
                None,
                (f"{_named(around.used_by)} would have to choose between two modules of one name",),
            )
        if not self.ahead:
            return Offer("parallel-copy", None, ("nothing has to change with the move: a copy would be the same code",))
        work = self._all_at_once(0.5)
        end = self.jump[-1]
        parts = [
            _Part("copy stands", self._days(self.costs.copy_days) + work, self.ahead, end, ("the old module stays untouched and releasable",)),
            _Part("switch over", self._days(0) + self.costs.carry * work, (), end,
                  ("what changed meanwhile is brought over, then the old module goes",)),
        ]  # fmt: skip
        return Offer(
            "parallel-copy", self._plan(parts), ("the old module can be released at any time until the switch",)
        )

    def piecewise(self, around: Surroundings) -> Offer:
        """Routes move one by one behind a gateway."""
        if not around.serves and not around.slices:
            return Offer("piecewise", None, ("nothing here serves requests: no web framework is required",))
        served = _named(tuple(self.problem.knowledge.spoken(p) for p in around.serves)) if around.serves else "its code"
        start, end = self.jump[0], self.jump[-1]
        if around.slices:
            moving, told = self._slices(around.slices), _told(around.slices)
        else:
            work = draw(self.ahead, self.table)
            moving = [
                _Part("routes move", self._days(0) + work * (1 + self.costs.carry), self.ahead, end,
                      ("route by route, each can go back on its own",)),
            ]  # fmt: skip
            told = "its routes were not found in the code, so they are not priced one by one"
        parts = [
            _Part(GATEWAY_STAGE, self._days(self.costs.gateway_days), (), start, ("every route still goes to the old side",)),
            *moving,
            _Part(OLD_SIDE_STAGE, self._days(0), (), end, ("nothing is answered by the old side any more",)),
        ]  # fmt: skip
        return Offer(
            "piecewise", self._plan(parts), (f"{served} serves its routes: each can move and go back alone", told)
        )

    def _slices(self, slices: Sequence[BroughtSlice]) -> list[_Part]:
        """The new side with what no route reaches, then a stage a slice; what comes after the first ``_MOST_SLICES`` is one more."""
        end = self.jump[-1]
        own = {key for each in slices for key in each.findings}
        around = tuple(f for f in self.ahead if f.key not in own)
        parts = [
            _Part(NEW_SIDE_STAGE, self._days(0) + draw(around, self.table), around, end,
                  ("the destination's lines, and changes that no route reaches",)),
        ]  # fmt: skip
        for each in _few(slices):
            keys = set(each.findings)
            found = tuple(f for f in self.ahead if f.key in keys)
            minutes = each.routes * self.costs.route_minutes + each.lines * self.costs.line_minutes
            work = draw(found, self.table) + minutes / self.table.minutes_per_day
            brings = f"{_counted(each.routes, 'route', 'routes')}, {_counted(each.lines, 'line', 'lines')} to bring"
            parts.append(_Part(each.name, work * (1 + self.costs.carry), found, end, (brings,)))
        return parts

    def fresh_base(self, around: Surroundings) -> Offer:
        """Our changes onto a newly generated starting point."""
        if not around.generated:
            shown = "no trace of a generated starting point (looked for files that generators leave)"
            return Offer("fresh-base", None, (shown,))
        work = draw(self._in_code(), self.table)
        start, end = self.jump[0], self.jump[-1]
        parts = [
            _Part("new base", self._days(self.costs.base_days), (), start, (f"generated anew, as {around.generated[0]} shows it was before",)),
            _Part("our changes brought over", self._days(0) + work * (1 + self.costs.carry), self._in_code(), end,
                  ("what we wrote is laid onto it, part by part",)),
        ]  # fmt: skip
        return Offer("fresh-base", self._plan(parts), (f"{around.generated[0]} says that a generator made the frame",))

    def _all_at_once(self, share: float) -> Samples:
        """The edits of the straight jump, with only a share of what telling them apart costs: the old side stands beside."""
        crossed = self.straight.stages[0].lines_crossed if self.straight.stages else 1
        return draw(self.ahead, self.table) * (1 + share * self.table.kappa * (max(crossed, 1) - 1))


def _few(slices: Sequence[BroughtSlice]) -> list[BroughtSlice]:
    if len(slices) <= _MOST_SLICES:
        return list(slices)
    kept, rest = slices[: _MOST_SLICES - 1], slices[_MOST_SLICES - 1 :]
    last = BroughtSlice(
        name=f"{len(rest)} more slices",
        routes=sum(each.routes for each in rest),
        lines=sum(each.lines for each in rest),
        findings=tuple(sorted({key for each in rest for key in each.findings})),
    )
    return [*kept, last]


def _told(slices: Sequence[BroughtSlice]) -> str:
    routes, lines = sum(each.routes for each in slices), sum(each.lines for each in slices)
    return f"{routes:,} routes in {_counted(len(slices), 'slice', 'slices')}, {lines:,} lines to bring"


def rework_first(problem: Problem, around: Surroundings) -> Offer:
    """Put the code in order before it travels."""
    reasons = []
    if around.known is not None and around.known < _SMALL_KNOWN:
        reasons.append(f"only {around.known:.0%} of the checks are known: what a move breaks cannot be told yet")
    if not around.tests:
        reasons.append("no tests were found: nothing would say that a stage went well")
    switches = [f for f in problem.journey.findings if f.window.state == "switch"]
    if len(switches) > len(problem.journey.findings) / 2:
        reasons.append(f"{len(switches)} of {len(problem.journey.findings)} changes need a version switch")
    if reasons:
        return Offer("rework-first", None, tuple(reasons), taken=True)
    return Offer("rework-first", None, ("it has tests and its checks are known: it can travel as it is",))


def hold(problem: Problem) -> Offer:
    """Stay, until the first of today's lines loses support."""
    ends = []
    for coordinate, span in sorted(problem.journey.spans.items()):
        facts = problem.knowledge.line_facts(coordinate, span.today)
        if facts is not None and facts.support_ends is not None:
            ends.append((facts.support_ends, coordinate, span.today))
    if not ends:
        return Offer("hold", None, ("when support ends is not known for any line it stands on",))
    end, coordinate, line = min(ends)
    name = problem.knowledge.spoken(coordinate)
    if end < problem.journey.today:
        return Offer("hold", None, (f"{name} {line} has been without support since {end:%-d %b %Y}",))
    return Offer(
        "hold", None, (f"{name} {line} is supported until {end:%-d %b %Y}: allowed until then",), end, taken=True
    )


def retire(around: Surroundings) -> Offer:
    """Take it out of service."""
    if around.used_by:
        return Offer("retire", None, (f"{_named(around.used_by)} still requires it",))
    return Offer(
        "retire", None, ("no application here requires it; whether people do, only its owner knows",), taken=True
    )


def _counted(number: int, one: str, many: str) -> str:
    return f"{number:,} {one if number == 1 else many}"


def _named(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
