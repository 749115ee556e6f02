"""The gate of a stage: which evidence it needs, and whether each item is there, stale, or missing (DESIGN 4.9)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final, Literal

if TYPE_CHECKING:
    from yoake.core.values.runs import Verdict

GateState = Literal["there", "part", "breaks", "stale", "not yet", "not needed"]
GateKey = Literal["scan", "tests", "looks", "checks", "routes"]
_SHUT: Final = ("breaks", "stale", "part", "not yet")
"""States that keep a stage from being proven."""


@dataclass(frozen=True, slots=True)
class GateItem:
    """One item of a gate. ``said``: the figure behind it; ``at``: when its evidence came; ``who``: whose it is."""

    key: GateKey
    state: GateState
    said: str
    at: str = ""
    who: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class RunEvidence:
    """The newest run of a stage. ``counts``: verdict → tests; ``problem``: why it gave no answer; ``content``: what was scanned when it
    ran, ``branch``: where its code lay and whether that moved on since."""

    at: str
    who: str
    counts: Mapping[Verdict, int]
    problem: str
    content: str
    moved_on: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """A named person looked at a changed behaviour. ``places`` and ``files``: where it stood then."""

    finding: str
    who: str
    note: str
    at: str
    places: int
    files: tuple[str, ...]

    def holds(self, places: int, files: Iterable[str]) -> bool:
        """Whether what was looked at still stands where it stood."""
        return places == self.places and sorted(files) == sorted(self.files)


@dataclass(frozen=True, slots=True)
class CheckEvidence:
    """The newest report of a tool of another machine: how many errors it has, and the content that was looked at."""

    tool: str
    errors: int
    content: str
    at: str
    who: str


@dataclass(frozen=True, slots=True)
class RouteEvidence:
    """How far routes have come that a stage moves to the new side: ``moved`` of ``whole``, the last one ``at``, by ``who``.

    ``problem``: why nobody can say, or what has to be there first; ``said``: what is told when nothing is missing.
    """

    moved: int
    whole: int
    at: str = ""
    who: str = ""
    problem: str = ""
    said: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class StageFacts:
    """What is known of one stage. ``changes``: findings that a scan must not find any more; ``behaviours``: those that somebody has to look
    at, finding → (places, files); ``content``: what the newest scan read; ``tests``: files of tests;
    ``checks``: reports of other tools; ``routes``: of a stage that moves routes, None for any other."""

    changes: int
    behaviours: Mapping[str, tuple[int, tuple[str, ...]]]
    looks: Mapping[str, Look]
    run: RunEvidence | None
    content: str
    scanned_at: str
    tests: int
    checks: tuple[CheckEvidence, ...] = ()
    routes: RouteEvidence | None = None


def gate_of(facts: StageFacts) -> tuple[GateItem, ...]:
    """The items of a stage’s gate, in the order in which they are looked at."""
    items = (_scan(facts), _tests(facts), _looks(facts), _checks(facts))
    return items if facts.routes is None else (*items, _routes(facts.routes))


def is_proven(items: Sequence[GateItem]) -> bool:
    """Whether nothing of a gate is missing or stale."""
    return not any(item.state in _SHUT for item in items)


def _scan(facts: StageFacts) -> GateItem:
    if facts.changes == 0:
        return GateItem("scan", "there", "none is left", facts.scanned_at)
    return GateItem("scan", "not yet", f"{facts.changes} {'change' if facts.changes == 1 else 'changes'} left")


def _tests(facts: StageFacts) -> GateItem:
    run = facts.run
    if run is None:
        if facts.tests == 0:
            return GateItem("tests", "not yet", "no tests here: run what there is")
        return GateItem("tests", "not yet", "not run yet")
    if run.problem:
        return GateItem("tests", "not yet", run.problem, run.at, run.who)
    if run.content != facts.content or run.moved_on:
        return GateItem("tests", "stale", "the code moved on since", run.at, run.who)
    broken, alike = run.counts.get("breaks", 0), run.counts.get("both", 0)
    if broken:
        return GateItem(
            "tests", "breaks", f"{broken:,} {'test breaks' if broken == 1 else 'tests break'}", run.at, run.who
        )
    if not alike:
        return GateItem("tests", "not yet", "no test passes on both sides", run.at, run.who)
    gone = run.counts.get("gone", 0)
    if gone:
        return GateItem("tests", "part", f"{gone:,} no longer run", run.at, run.who)
    return GateItem("tests", "there", f"{alike:,} alike", run.at, run.who)


def _looks(facts: StageFacts) -> GateItem:
    wanted = facts.behaviours
    if not wanted:
        return GateItem("looks", "not needed", "no changed behaviour")
    held = [facts.looks[key] for key in wanted if key in facts.looks]
    fresh = [look for look in held if look.holds(*wanted[look.finding])]
    if len(fresh) == len(wanted):
        newest = max(fresh, key=lambda look: look.at)
        return GateItem("looks", "there", ", ".join(sorted({look.who for look in fresh})), newest.at, newest.who)
    if len(held) > len(fresh):
        return GateItem("looks", "stale", f"{len(held) - len(fresh)} changed since")
    left = len(wanted) - len(fresh)
    said = f"{left} of {len(wanted)} to look at" if fresh else f"{left} to look at"
    return GateItem("looks", "part" if fresh else "not yet", said)


def _routes(routes: RouteEvidence) -> GateItem:
    """Answered by the new side is what is wanted of every route; a mirrored or shared one can still go back."""
    if routes.problem:
        return GateItem("routes", "not yet", routes.problem)
    if routes.moved < routes.whole:
        said = f"{routes.moved:,} of {routes.whole:,} on the new side"
        return GateItem("routes", "part" if routes.moved else "not yet", said)
    counted = {0: "no route is left", 1: "its route is on the new side"}.get(
        routes.whole, f"all {routes.whole:,} on the new side"
    )
    said = routes.said or counted
    return GateItem("routes", "there", said, routes.at, routes.who)


def _checks(facts: StageFacts) -> GateItem:
    """Reports of other tools are wanted once there is one: nobody has to bring any."""
    held = facts.checks
    if not held:
        return GateItem("checks", "not needed", "no report was brought")
    newest = max(held, key=lambda check: check.at)
    stale = [check for check in held if check.content != facts.content]
    if stale:
        return GateItem(
            "checks", "stale", f"{', '.join(c.tool for c in stale)}: the code moved on since", newest.at, newest.who
        )
    errors = sum(check.errors for check in held)
    if errors:
        loud = ", ".join(check.tool for check in held if check.errors)
        return GateItem(
            "checks", "breaks", f"{errors:,} {'error' if errors == 1 else 'errors'} of {loud}", newest.at, newest.who
        )
    return GateItem("checks", "there", f"no error of {', '.join(check.tool for check in held)}", newest.at, newest.who)
