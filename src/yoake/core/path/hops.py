"""Hop by hop: the stops of each coordinate, kept inside what the libraries state they run on.

A library goes from one long-term line to the next (where its project keeps such lines), the runtime to each line at which
something of this code bites. A library moves before the runtime while it supports the runtime it stands on; where no
runtime suits both its present and its next line, both move together.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from yoake.core.coordinates import PYTHON, Coordinate, line_key
from yoake.core.knowledge.base import Knowledge
from yoake.core.path.model import Move
from yoake.core.scan.judge import Span
from yoake.core.scan.model import Finding


@dataclass(frozen=True, slots=True)
class Hop:
    """The moves of one stage and why."""

    moves: tuple[Move, ...]
    reasons: tuple[str, ...]


def plan_hops(spans: Mapping[str, Span], findings: Sequence[Finding], knowledge: Knowledge) -> list[Hop]:
    """Hops from today's lines to the destination's, in order. Coordinates already there are left alone."""
    ahead = {p: s for p, s in spans.items() if line_key(s.goal) > line_key(s.today)}
    return _Planner(ahead, spans, findings, knowledge).run()


class _Planner:
    def __init__(
        self, ahead: Mapping[str, Span], spans: Mapping[str, Span], findings: Sequence[Finding], knowledge: Knowledge
    ) -> None:
        self.knowledge = knowledge
        self.ahead = ahead
        self.state = {purl: span.today for purl, span in spans.items()}
        self.stops = {purl: self._stops_of(purl, span, findings) for purl, span in ahead.items()}
        self.hops: list[Hop] = []

    def run(self) -> list[Hop]:
        libraries = sorted(p for p in self.ahead if p != PYTHON.purl)
        for purl in libraries:
            while self.stops[purl]:
                self._library_hop(purl, self.stops[purl][0])
        for stop in list(self.stops.get(PYTHON.purl, ())):
            if line_key(stop) > line_key(self.state[PYTHON.purl]):
                self._add([self._move(PYTHON.purl, stop)], self._why_runtime(stop))
        return self.hops

    def _stops_of(self, purl: str, span: Span, findings: Sequence[Finding]) -> list[str]:
        lines = [
            x
            for x in self.knowledge.lines(Coordinate(purl))
            if line_key(span.today) < line_key(x) <= line_key(span.goal)
        ]
        lifecycle = self.knowledge.lifecycles.get(purl)
        if lifecycle is not None and lifecycle.policy == "long-term":
            kept = {x for x in lines if (f := self.knowledge.line_facts(purl, x)) is not None and f.kind == "long-term"}
        else:
            biting = [f for f in findings if f.coordinate == purl and f.kind not in ("toolchain", "package")]
            kept = {
                f.bites_at for f in biting if f.bites_at in lines and f.level == "error" and f.window.state != "now"
            }
        return sorted({*kept, span.goal}, key=line_key)

    def _supports(self, purl: str, line: str, runtime: str) -> bool:
        """Stated support; silence is allowed."""
        facts = self.knowledge.line_facts(purl, line)
        return facts is None or not facts.runs_on or runtime in facts.runs_on

    def _library_hop(self, purl: str, stop: str) -> None:
        runtime = self.state.get(PYTHON.purl)
        if runtime is None or self._supports(purl, stop, runtime):
            self._add([self._move(purl, stop)], self._why_library(purl, stop, runtime))
            return
        goal = self.ahead[PYTHON.purl].goal if PYTHON.purl in self.ahead else runtime
        reach = [
            x
            for x in self.knowledge.lines(Coordinate(PYTHON.purl))
            if line_key(runtime) < line_key(x) <= line_key(goal)
        ]
        both = [x for x in reach if self._supports(purl, self.state[purl], x) and self._supports(purl, stop, x)]
        name = Coordinate(purl).name
        if both:
            reason = f"{name} {stop} {self._begins(purl, stop)}; {name} {self.state[purl]} still runs on {both[-1]}"
            self._add([self._move(PYTHON.purl, both[-1])], (reason,))
            self._add([self._move(purl, stop)], self._why_library(purl, stop, both[-1]))
            return
        fitting = [x for x in reach if self._supports(purl, stop, x)]
        if not fitting:
            reason = f"{name} {stop} does not state support for Python {runtime}, nor for any line up to {goal}"
            self._add([self._move(purl, stop)], (reason,))
            return
        reason = f"{name} {self.state[purl]} {self._ends(purl, self.state[purl])}; {stop} {self._begins(purl, stop)}: both move together"
        self._add([self._move(PYTHON.purl, fitting[-1]), self._move(purl, stop)], (reason,))

    def _begins(self, purl: str, line: str) -> str:
        facts = self.knowledge.line_facts(purl, line)
        return f"starts at Python {facts.runs_on[0]}" if facts and facts.runs_on else "states no runtime"

    def _ends(self, purl: str, line: str) -> str:
        facts = self.knowledge.line_facts(purl, line)
        return f"ends at Python {facts.runs_on[-1]}" if facts and facts.runs_on else "states no runtime"

    def _why_library(self, purl: str, stop: str, runtime: str | None) -> tuple[str, ...]:
        facts = self.knowledge.line_facts(purl, stop)
        shown = "the next long-term line" if facts is not None and facts.kind == "long-term" else "the destination"
        on = f", states support for Python {runtime}" if runtime and facts is not None and facts.runs_on else ""
        return (f"{Coordinate(purl).name} {stop} is {shown}{on}",)

    def _why_runtime(self, stop: str) -> tuple[str, ...]:
        if stop == self.ahead[PYTHON.purl].goal:
            return (f"Python {stop} is the destination",)
        return (f"at Python {stop} something in this code bites that cannot be changed before",)

    def _move(self, purl: str, stop: str) -> Move:
        return Move(purl, self.state[purl], stop)

    def _add(self, moves: list[Move], reasons: tuple[str, ...]) -> None:
        for move in moves:
            self.state[move.coordinate] = move.goal
            waiting = self.stops.get(move.coordinate, [])
            waiting[:] = [stop for stop in waiting if line_key(stop) > line_key(move.goal)]
        self.hops.append(Hop(tuple(moves), reasons))
