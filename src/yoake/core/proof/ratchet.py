"""The ratchet: what was found is written down beside the code, and may only shrink (DESIGN 4.9)."""

from __future__ import annotations

from collections.abc import Container, Iterable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from yoake.core.readiness.estimate import needs_work

if TYPE_CHECKING:
    from yoake.core.values.findings import Finding


@dataclass(frozen=True, slots=True)
class Counted:
    """A finding that stands in the way, and at how many places."""

    title: str
    places: int


@dataclass(frozen=True, slots=True)
class Recorded:
    """What a file of a ratchet holds: the lines it was counted against (COORD@LINE, in order), and finding key → count."""

    to: tuple[str, ...]
    findings: Mapping[str, Counted]


@dataclass(frozen=True, slots=True)
class Grown:
    """A finding at more places than were written down; ``before`` is 0 for one that was not there."""

    key: str
    title: str
    before: int
    now: int

    @property
    def told(self) -> str:
        """What happened, in a sentence."""
        more = self.now - self.before
        places = f"{more} {'place' if more == 1 else 'places'}"
        return (
            f"{self.title} is new, at {places}"
            if not self.before
            else f"{self.title} is used at {places} more ({self.now}, were {self.before})"
        )


@dataclass(frozen=True, slots=True)
class Compared:
    """``grown``: what may not be; ``better``: keys at fewer places or gone; ``tightened``: what to write down from now on."""

    grown: tuple[Grown, ...]
    better: tuple[str, ...]
    tightened: Recorded


def count(findings: Iterable[Finding], waived: Container[str]) -> dict[str, Counted]:
    """Finding key → its places that need work, without what was accepted."""
    found = {}
    for finding in findings:
        places = sum(1 for place in finding.places if place.is_work) or 1
        if needs_work(finding) and finding.key not in waived:
            found[finding.key] = Counted(finding.title, places)
    return found


def hold_against(recorded: Recorded, now: Mapping[str, Counted]) -> Compared:
    """Today’s count against the one that was written down. What grew keeps its old count; nothing is ever loosened."""
    before = recorded.findings
    grown = tuple(
        Grown(key, held.title, before[key].places if key in before else 0, held.places)
        for key, held in sorted(now.items(), key=lambda item: (item[1].title, item[0]))
        if held.places > (before[key].places if key in before else 0)
    )
    better = tuple(key for key, held in before.items() if key not in now or now[key].places < held.places)
    kept = {k: Counted(now[k].title, min(held.places, now[k].places)) for k, held in before.items() if k in now}
    return Compared(grown, better, Recorded(recorded.to, kept))
