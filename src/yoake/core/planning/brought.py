"""What packages bring in beside themselves: peers that no manifest names, those that these ask for, and so on down.

All of them stand beside each other in one place, one release of each, as the package client lays them out. Where no choice of
releases goes together, whoever brings them cannot stay as it is.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    from yoake.core.knowledge.compatibility import Compatibility
    from yoake.core.values.coordinates import Coordinate, Line, Releases

_TRIES: Final = (
    2_000  # releases looked at in one search before nothing is said; the largest family seen took some forty
)
_ALL_TRIES: Final = 40_000  # and in all searches of one stage


@dataclass(frozen=True, slots=True)
class _Ask:
    """That a release asks for a peer. ``way``: who brings whom, from the package that a manifest names."""

    way: tuple[str, ...]
    peer: Coordinate
    wanted: str


class BroughtPeers:
    """Lays out what releases of packages bring in, beside those that are chosen. ``named``: coordinates that manifests name.

    ``admits`` gives the releases of a coordinate that a range lets in.
    """

    def __init__(
        self,
        compatibility: Compatibility,
        named: frozenset[Coordinate],
        admits: Callable[[Coordinate, str], frozenset[str]],
    ) -> None:
        self.held = compatibility
        self.knowledge = compatibility.knowledge
        self.named = named
        self.admits = admits
        self.tries = _ALL_TRIES
        self._brings: dict[tuple[Coordinate, str], tuple[tuple[Coordinate, str], ...]] = {}
        self._usable: dict[Coordinate, tuple[str, ...]] = {}
        self._asked: dict[tuple[Coordinate, str, Line | None], Mapping[Coordinate, tuple[str, ...]]] = {}

    def begin(self) -> None:
        """A stage begins: its searches may look at as many releases as any."""
        self.tries = _ALL_TRIES

    def obstacle(self, chosen: Releases, settled: Releases, runtime: Line | None) -> str:
        """Why what ``settled`` releases bring in goes together in no way, or not with what is ``chosen``; in words, empty when it does.

        Nothing is said of peers without a release record, nor where there are too many ways to look at.
        """
        layout = _Layout(self, chosen, runtime)
        asks = [ask for coordinate, release in settled.items() for ask in self.asks_of(coordinate, release, ())]
        return "" if layout.lay({}, asks) else layout.why or "what it brings goes with the others in no way"

    def asks_of(self, coordinate: Coordinate, release: str, way: tuple[str, ...]) -> Iterator[_Ask]:
        """What a release brings in."""
        here = (*way, f"{self.knowledge.spoken(coordinate)} {release}")
        return (_Ask(here, peer, wanted) for peer, wanted in self.brings(coordinate, release))

    def brings(self, coordinate: Coordinate, release: str) -> tuple[tuple[Coordinate, str], ...]:
        """(peer, range) of what comes with a release although no manifest names it; optional peers do not."""
        key = (coordinate, release)
        if key not in self._brings:
            owner, facts = self.knowledge.ecosystems.of(coordinate), self.held.details(coordinate).get(release)
            peers = facts.peers if owner is not None and owner.nested and facts is not None else {}
            rows = [
                (owner.package(name), wanted)
                for name, wanted in peers.items()
                if owner is not None and facts is not None and name not in facts.optional
            ]
            self._brings[key] = tuple((p, w) for p, w in rows if p not in self.named and p in self.knowledge.catalogues)
        return self._brings[key]

    def newest_first(self, coordinate: Coordinate) -> tuple[str, ...]:
        """Releases that can be had."""
        if coordinate not in self._usable:
            self._usable[coordinate] = tuple(reversed(self.held.usable(coordinate)))
        return self._usable[coordinate]

    def asked(self, coordinate: Coordinate, release: str, runtime: Line | None) -> Mapping[Coordinate, tuple[str, ...]]:
        """What a release asks of other packages, optional peers among them: coordinate → ranges."""
        key = (coordinate, release, runtime)
        if key not in self._asked:
            self._asked[key] = self.held.asks(coordinate, release, runtime)
        return self._asked[key]


@dataclass
class _Layout:
    """One search for releases that go together. ``tries``: releases that may still be looked at."""

    peers: BroughtPeers
    chosen: Releases
    runtime: Line | None
    why: str = ""
    tries: int = _TRIES

    def lay(self, taken: Releases, left: Sequence[_Ask]) -> bool:
        """Whether all that is left finds a place beside what is taken; true also when that takes too long to find out."""
        at = next((n for n, ask in enumerate(left) if self._is_open(ask, taken)), None)
        if at is None:
            return True
        ask, rest = left[at], left[at + 1 :]
        admitted = self.peers.admits(ask.peer, ask.wanted)
        collisions = []
        for release in (r for r in self.peers.newest_first(ask.peer) if r in admitted):
            self.tries -= 1
            self.peers.tries -= 1
            if self.tries < 0 or self.peers.tries < 0:
                return True
            collisions.append(self._collision(taken, ask.peer, release))
            # where another release is taken already, one of the choices before is made anew
            if not collisions[-1] and ask.peer not in taken:
                brought = self.peers.asks_of(ask.peer, release, ask.way)
                if self.lay({**taken, ask.peer: release}, [*rest, *brought]):
                    return True
        if collisions and all(collisions) and not self.why:
            self.why = self._told(ask, collisions[-1])
        return False

    def _is_open(self, ask: _Ask, taken: Releases) -> bool:
        """Whether what is taken does not answer an ask yet; of a range without any release in the record nothing is known."""
        admitted = self.peers.admits(ask.peer, ask.wanted)
        return bool(admitted) and taken.get(ask.peer) not in admitted

    def _collision(self, taken: Releases, peer: Coordinate, release: str) -> str:
        """Who does not go with a release of a peer, in words; empty when all that are chosen or laid out do."""
        spoken = self.peers.knowledge.spoken
        for coordinate, stands in (*self.chosen.items(), *taken.items()):
            for wanted in self.peers.asked(coordinate, stands, self.runtime).get(peer, ()):
                if release not in self.peers.admits(peer, wanted):
                    return f"{spoken(coordinate)} {stands} needs {spoken(peer)} {wanted}"
        for other, ranges in self.peers.asked(peer, release, self.runtime).items():
            stood = self.chosen.get(other) or taken.get(other)
            for wanted in ranges if stood is not None else ():
                if stood not in self.peers.admits(other, wanted):
                    return f"{spoken(peer)} {release} needs {spoken(other)} {wanted}"
        return ""

    def _told(self, ask: _Ask, collision: str) -> str:
        first, *others = (*ask.way, self.peers.knowledge.spoken(ask.peer))
        way = ", which brings ".join(others)
        return f"{first} brings {way}, and no release of that goes with the others ({collision})"
