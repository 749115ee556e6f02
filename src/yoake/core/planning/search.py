"""The cheapest path through states that stand: best first, with a bound that never says too much (A*; Hart and others, 1968).

A stage is chosen coordinate by coordinate, so that lines which do not go together are given up early and nobody lists all
combinations. Labels of a state that cost more, and states that another serves better, are left.
"""

from __future__ import annotations

import heapq
from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import count
from typing import Final, NamedTuple

from yoake.core.planning.improve import improve
from yoake.core.planning.pruning import dominance, stops_of
from yoake.core.planning.search_space import TICKS, Cost, SearchSpace, State, cost_of
from yoake.core.values.errors import TooLarge

BUDGET: Final = (
    25_000  # entries looked at before a search says that it could not prove its answer; two or three seconds
)
_HASTE: Final = 4  # how much more what is left counts when an answer is wanted rather than the best
_NEAR: Final = (
    16  # how many other labels of the same goals a new one is compared with; more costs time and saves little
)
_FAR: Final = 1 << 60
Key = tuple[int, int, int]


@dataclass(frozen=True, slots=True)
class Found:
    """A path by the states it stops at, today's first. ``proven``: nothing cheaper exists."""

    states: tuple[State, ...]
    cost: Cost
    proven: bool


class _Label(NamedTuple):
    """One way to have come to a state."""

    state: State
    cost: Cost
    before: _Label | None


class _Choice(NamedTuple):
    """A stage that is being chosen: targets of the first coordinates, and its sums so far."""

    label: _Label
    targets: tuple[int, ...]
    domains: tuple[int, ...]
    edits: int
    ready: int
    crossed: int


def find_path(space: SearchSpace, objective: str = "work", budget: int = BUDGET) -> Found | None:
    """The best path by an objective (work, stages, danger); None when nothing leads to the goals.

    Raises TooLarge when the search was cut short before it met any path.
    """
    best = _Search(space, objective, 1).run(budget)
    if not isinstance(best, str):
        return best
    some = _Search(space, "stages", 1).run(budget)
    if isinstance(some, str):
        some = _Search(space, "work", _HASTE).run(budget)
    if isinstance(some, str):
        raise TooLarge("There are too many combinations to search them all. Pin a line or two, and look again.")
    if some is None:
        return None
    begun = (some.states, improve(space, some.states, "danger"))
    ways = (improve(space, states, objective) for states in begun)
    states = min(ways, key=lambda way: cost_of(space, way).by(objective))
    return Found(states, cost_of(space, states), proven=False)


class _Search:
    def __init__(self, space: SearchSpace, objective: str, haste: int) -> None:
        self.space = _in_order(space)
        self.back = _order_of(space)
        self.objective = objective
        self.haste = haste
        self.tails = _Tails(self.space)
        self.stops = stops_of(self.space)
        self.dominance = dominance(self.space)
        self.neighbours = [
            [(b, rows) for (a, b), rows in self.space.fits.items() if a == c] for c in range(len(space.tracks))
        ]
        self.goals = sum(1 for track in self.space.tracks if track.goal is not None)
        self.serial = count()
        self.heap: list[tuple[Key, int, int, _Label | _Choice]] = []
        self.labels: dict[State, list[_Label]] = {}
        self.near: dict[State, deque[_Label]] = {}

    def run(self, budget: int) -> Found | str | None:
        """The path, None when there is none, or “budget” when the search was cut short."""
        self._push_label(_Label(self.space.start, cost_of(self.space, [self.space.start]), None))
        for _ in range(budget):
            if not self.heap:
                return None
            entry = heapq.heappop(self.heap)[-1]
            if isinstance(entry, _Choice):
                self._choose(entry)
            elif self.space.arrived(entry.state):
                return self._found(entry)
            elif not self._beaten(entry):
                self._open(entry)
        return "budget"

    def _found(self, label: _Label | None) -> Found:
        states: list[State] = []
        while label is not None:
            states.append(tuple(label.state[position] for position in self.back))
            label = label.before
        states.reverse()
        order = tuple(states)
        plain = _permuted(self.space, self.back)
        return Found(order, cost_of(plain, order), proven=self.haste == 1)

    # labels

    def _push_label(self, label: _Label) -> None:
        arrived = self.space.arrived(label.state)
        bound = label.cost if arrived else self._bound(label, 0, 0)
        if bound is not None and not self._covered(label):
            self._add(bound, -len(label.state), label)

    def _covered(self, label: _Label) -> bool:
        """Whether a label already known is as good; the new one is kept otherwise."""
        same = self.labels.setdefault(label.state, [])
        if any(self._cheaper(other, label) for other in same):
            return True
        near = self.near.setdefault(label.state[: self.goals], deque(maxlen=_NEAR))
        if any(self._cheaper(other, label) and self._as_well(other.state, label.state) for other in near):
            return True
        same[:] = [other for other in same if not self._cheaper(label, other)]
        same.append(label)
        near.append(label)
        return False

    def _beaten(self, label: _Label) -> bool:
        return all(other is not label for other in self.labels[label.state])

    def _cheaper(self, one: _Label, other: _Label) -> bool:
        """Whether ``one`` costs no more, whatever comes after."""
        a, b = one.cost, other.cost
        if self.objective == "danger":
            return a.dark <= b.dark and a.work <= b.work and a.stages <= b.stages
        return a.by(self.objective) <= b.by(self.objective)

    def _as_well(self, one: State, other: State) -> bool:
        """Whether ``one`` serves wherever ``other`` does."""
        return all(i == j or self.dominance[c][j] >> i & 1 for c, (i, j) in enumerate(zip(one, other, strict=True)))

    def _bound(self, label: _Label, work: int, stages: int) -> Cost | None:
        """What a path through here costs at least; None when it cannot arrive."""
        rest = self.tails.of(label.state)
        if rest is None:
            return None
        total = label.cost.work + work + self.haste * rest[0]
        dark = self._dark(label, self.space.base)
        return Cost(total, label.cost.stages + stages + rest[1], label.cost.dark + dark)

    def _add(self, bound: Cost, depth: int, entry: _Label | _Choice) -> None:
        heapq.heappush(self.heap, (bound.by(self.objective), depth, next(self.serial), entry))

    # stages

    def _open(self, label: _Label) -> None:
        """Begin to choose the next stage."""
        domains = []
        for c, track in enumerate(self.space.tracks):
            here = label.state[c]
            allowed = 1 << here
            if self._free_to_move(label.state, c):
                for j in range(here + 1, track.top + 1):
                    if track.step[here][j] and self.stops[c] >> j & 1:
                        allowed |= 1 << j
            domains.append(allowed)
        self._choose(_Choice(label, (), tuple(domains), 0, 0, 0))

    def _free_to_move(self, state: State, c: int) -> bool:
        """Whether what must arrive before this coordinate has."""
        tracks = self.space.tracks
        return all(tracks[a].goal is None or state[a] == tracks[a].goal for a, b in self.space.order if b == c)

    def _choose(self, choice: _Choice) -> None:
        c = len(choice.targets)
        if c == len(self.space.tracks):
            self._arrive(choice)
            return
        for j in self._options(choice, c):
            self._push_choice(choice, c, j)

    def _options(self, choice: _Choice, c: int) -> Iterator[int]:
        """Lines for the next coordinate, without those that another serves at the same price."""
        allowed = choice.domains[c]
        here, track = choice.label.state[c], self.space.tracks[c]
        for j in range(here, track.top + 1):
            if not allowed >> j & 1:
                continue
            rivals = allowed & self.dominance[c][j]
            if not any(
                rivals >> k & 1 and self._as_cheap(choice, track.crossed[here][k], track.crossed[here][j], c, here, k)
                for k in range(j + 1, track.top + 1)
            ):
                yield j

    def _as_cheap(self, choice: _Choice, crossed: int, rival: int, c: int, here: int, k: int) -> bool:
        track = self.space.tracks[c]
        if track.edits[here][k] or track.ready[here][k]:
            return False
        return crossed == rival or (choice.edits == 0 and self._nothing_to_edit(choice, c))

    def _nothing_to_edit(self, choice: _Choice, c: int) -> bool:
        """Whether none of the coordinates still to be chosen can bring edits into this stage."""
        for d in range(c + 1, len(self.space.tracks)):
            here, track = choice.label.state[d], self.space.tracks[d]
            if any(choice.domains[d] >> j & 1 and track.edits[here][j] for j in range(here + 1, track.top + 1)):
                return False
        return len(choice.targets) > 0 and any(
            target != choice.label.state[d] for d, target in enumerate(choice.targets)
        )

    def _push_choice(self, choice: _Choice, c: int, j: int) -> None:
        domains = list(choice.domains)
        for other, rows in self.neighbours[c]:
            if other > c:
                domains[other] &= rows[j]
                if not domains[other]:
                    return
        here, track = choice.label.state[c], self.space.tracks[c]
        targets = (*choice.targets, j)
        grown = _Choice(
            choice.label,
            targets,
            tuple(domains),
            choice.edits + track.edits[here][j],
            choice.ready + track.ready[here][j],
            choice.crossed + track.crossed[here][j],
        )
        bound = self._bound_choice(grown)
        if bound is not None:
            self._add(bound, -len(targets), grown)

    def _bound_choice(self, choice: _Choice) -> Cost | None:
        label, chosen = choice.label, len(choice.targets)
        own = self.space.price(choice.edits, choice.ready, choice.crossed)
        rest = self.tails.of((*choice.targets, *label.state[chosen:]), chosen)
        if rest is None:
            return None
        dark = self._dark(label, own)
        total = label.cost.work + own + self.haste * rest[0]
        return Cost(total, label.cost.stages + 1 + rest[1], label.cost.dark + dark)

    def _arrive(self, choice: _Choice) -> None:
        label, state = choice.label, choice.targets
        if state == label.state or any(
            (state[a], state[b], state[c]) not in allowed for (a, b, c), allowed in self.space.triples.items()
        ):
            return
        work = self.space.price(choice.edits, choice.ready, choice.crossed)
        cost = Cost(label.cost.work + work, label.cost.stages + 1, label.cost.dark + self._dark(label, work))
        self._push_label(_Label(state, cost, label))

    def _dark(self, label: _Label, work: int) -> int:
        """Ticks without support while a stage of that much work is under way."""
        return self.space.dark(label.state, label.cost.work * TICKS, (label.cost.work + work) * TICKS)


class _Tails:
    """For each coordinate and line: the least it takes to the goal when nothing else is in the way."""

    def __init__(self, space: SearchSpace) -> None:
        self.edits: list[list[int]] = []
        self.extra: list[list[int]] = []
        self.hops: list[list[int]] = []
        for track in space.tracks:
            edits, extra, hops = [0] * len(track.lines), [0] * len(track.lines), [0] * len(track.lines)
            for i in range((track.goal or 0) - 1, -1, -1):
                ways = [j for j in range(i + 1, track.top + 1) if track.step[i][j] and hops[j] < _FAR]
                stages = [space.base + _extra(space, track.edits[i][j], track.crossed[i][j]) + extra[j] for j in ways]
                edits[i] = track.edits[i][track.top] + track.ready[i][track.top]
                hops[i] = min((1 + hops[j] for j in ways), default=_FAR)
                extra[i] = min(stages, default=_FAR)
            self.edits.append(edits)
            self.extra.append(extra)
            self.hops.append(hops)

    def of(self, state: State, chosen: int | None = None) -> tuple[int, int] | None:
        """(work, stages) still to come at least; only the first ``chosen`` coordinates are known to stay when given."""
        known = len(state) if chosen is None else chosen
        work = sum(rows[i] for rows, i in zip(self.edits, state, strict=True))
        most = hops = 0
        for c in range(known):
            most = max(most, self.extra[c][state[c]])
            hops = max(hops, self.hops[c][state[c]])
        return (work + most, hops) if hops < _FAR else None


def _extra(space: SearchSpace, edits: int, crossed: int) -> int:
    return int(edits * space.kappa * (max(crossed, 1) - 1))


def _order_of(space: SearchSpace) -> list[int]:
    """Where each coordinate of the problem stands in the order of choosing."""
    order = _choosing(space)
    return [order.index(c) for c in range(len(space.tracks))]


def _choosing(space: SearchSpace) -> list[int]:
    """Coordinates with a goal first, then those with work of their own, then the most entangled ones."""

    def entangled(c: int) -> int:
        return -sum(1 for (a, _), rows in space.fits.items() if a == c and len(set(rows)) > 1)

    def rank(c: int) -> tuple[bool, bool, int, str]:
        track = space.tracks[c]
        return (track.goal is None, not any(map(any, track.edits)), entangled(c), track.coordinate)

    return sorted(range(len(space.tracks)), key=rank)


def _in_order(space: SearchSpace) -> SearchSpace:
    """The same problem with its coordinates in the order of choosing."""
    return _permuted(space, _choosing(space))


def _permuted(space: SearchSpace, order: list[int]) -> SearchSpace:
    place = {c: position for position, c in enumerate(order)}
    triples = {(place[a], place[b], place[c]): rows for (a, b, c), rows in space.triples.items()}
    return SearchSpace(
        tracks=tuple(space.tracks[c] for c in order),
        fits={(place[a], place[b]): rows for (a, b), rows in space.fits.items()},
        base=space.base,
        kappa=space.kappa,
        days_per_week=space.days_per_week,
        before=space.before,
        triples=triples,
        order=tuple((place[a], place[b]) for a, b in space.order),
    )
