"""Which release of a package to take at a stage: the newest that fits, and the newest that breaks nothing in this code."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import Catalogue, ReleaseFacts
    from yoake.core.values.coordinates import Coordinate, Line, Lines


@dataclass(frozen=True, slots=True)
class Fit:
    """The choice at one stage. ``take`` is the newest that fits, ``clean`` the newest that also keeps this code whole.

    ``state``: keeps (today's range admits a release that fits), change (the range must move), none (no release fits) or
    unknown; ``apart`` where nothing of its language moves. ``why`` says it in words; ``stated``: whether the release claims
    support, rather than not excluding it.
    """

    state: str
    take: str = ""
    clean: str = ""
    why: str = ""
    stated: bool = False


def choose_release(
    coordinate: Coordinate,
    record: Catalogue | None,
    state: Lines,
    wanted: str,
    exact: str,
    clean_lines: frozenset[str],
    today: date,
    knowledge: Knowledge,
) -> Fit:
    """The choice for one package at one stage. ``state``: coordinate → line at that stage; ``clean_lines`` empty if not known."""
    ecosystems = knowledge.ecosystems
    runtime = ecosystems.runtime_of(coordinate)
    if runtime is None:
        return Fit("unknown", why="nothing here reads packages of its kind")
    spoken, line = knowledge.spoken(runtime), state.get(runtime)
    if coordinate in state:
        return Fit("keeps", state[coordinate], why="moves with the path")
    if all(ecosystems.runtime_of(coordinate) != runtime for coordinate in state):
        return Fit("apart", why=f"{spoken} is no part of the destination")
    if record is None or line is None or not knowledge.speaks_of(record, line):
        return Fit("unknown", why="no release record" if record is None else f"no {spoken} line")
    details = {d.release: d for d in record.details}
    fits = [
        r
        for r in knowledge.fitting(record, line)
        if record.can_be_had(r, line)
        and _runs(coordinate, r, line, knowledge)
        and _goes_with(details.get(r), state, today, ecosystems)
    ]
    if not fits:
        return Fit("none", why=_no_way(record, f"{spoken} {line}"))
    take = fits[-1]
    clean = (
        next((r for r in reversed(fits) if knowledge.line_of(coordinate, r) in clean_lines), "") if clean_lines else ""
    )
    kept = [exact] if exact and exact in fits else [] if exact else ecosystems.admitted(coordinate, wanted, fits)
    stated = f"{runtime.short}@{line}" in (details[take].states if take in details else ())
    if kept:
        return Fit("keeps", take, clean, f"{kept[-1]} fits already", stated)
    return Fit("change", take, clean, f"{exact or wanted or 'today’s range'} admits none that fits", stated)


def _runs(coordinate: Coordinate, release: str, line: Line, knowledge: Knowledge) -> bool:
    """Whether nobody tried a release on a line in vain."""
    fact = knowledge.tried(coordinate, release, line)
    return fact is None or fact.runs


def _goes_with(facts: ReleaseFacts | None, state: Lines, today: date, ecosystems: Registry) -> bool:
    """Whether what a release needs of others admits the stage's lines of them; silence does."""
    if facts is None:
        return True
    if facts.withdrawn or (facts.released is not None and facts.released > today):
        return False
    for coordinate, line in state.items():
        other = coordinate
        for name, wanted in (*facts.needs.items(), *facts.peers.items()):
            if wanted and ecosystems.package(other.type, name) == other and not ecosystems.admits(other, wanted, line):
                return False
    return True


def _no_way(record: Catalogue, there: str) -> str:
    """Why no release fits, and what people do then."""
    newest = record.releases[-1] if record.releases else "none"
    return f"no release up to {newest} runs on {there}: replace it, carry it yourself, or drop it"
