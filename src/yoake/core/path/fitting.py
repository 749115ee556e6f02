"""Which release of a package to take at a stage: the newest that fits, and the newest that breaks nothing in this code."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from yoake.core.coordinates import NODE, PYTHON, Coordinate, line_of, package
from yoake.core.knowledge.base import language_of
from yoake.core.knowledge.models import Catalogue, ReleaseFacts
from yoake.core.versions import admits, admitted


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


def fit(
    coordinate: Coordinate,
    record: Catalogue | None,
    state: Mapping[str, str],
    wanted: str,
    exact: str,
    clean_lines: frozenset[str],
    today: date,
) -> Fit:
    """The choice for one package at one stage. ``state``: purl → line at that stage; ``clean_lines`` empty if not known."""
    runtime = PYTHON if language_of(coordinate.purl) == "python" else NODE
    line = state.get(runtime.purl)
    if coordinate.purl in state:
        return Fit("keeps", state[coordinate.purl], why="moves with the path")
    if all(language_of(purl) != language_of(coordinate.purl) for purl in state):
        return Fit("apart", why=f"{runtime.short.capitalize()} is no part of the destination")
    if record is None or line is None or not record.speaks_of(runtime, line):
        return Fit("unknown", why="no release record" if record is None else f"no {runtime.short.capitalize()} line")
    details = {d.release: d for d in record.details}
    fits = [
        r
        for r in record.fitting(runtime, line)
        if record.can_be_had(r, line) and _goes_with(details.get(r), state, today)
    ]
    if not fits:
        return Fit("none", why=_no_way(record, runtime, line))
    take = fits[-1]
    clean = next((r for r in reversed(fits) if line_of(coordinate, r) in clean_lines), "") if clean_lines else ""
    kept = [exact] if exact and exact in fits else [] if exact else admitted(coordinate, wanted, fits)
    stated = f"{runtime.short}@{line}" in (details[take].states if take in details else ())
    if kept:
        return Fit("keeps", take, clean, f"{kept[-1]} fits already", stated)
    return Fit("change", take, clean, f"{exact or wanted or 'today’s range'} admits none that fits", stated)


def _goes_with(facts: ReleaseFacts | None, state: Mapping[str, str], today: date) -> bool:
    """Whether what a release needs of others admits the stage's lines of them; silence does."""
    if facts is None:
        return True
    if facts.withdrawn or (facts.released is not None and facts.released > today):
        return False
    for purl, line in state.items():
        other = Coordinate(purl)
        for name, wanted in (*facts.needs.items(), *facts.peers.items()):
            if package(other.ecosystem, name) == other and wanted and not admits(other, wanted, line):
                return False
    return True


def _no_way(record: Catalogue, runtime: Coordinate, line: str) -> str:
    """Why no release fits, and what people do then."""
    newest = record.releases[-1] if record.releases else "none"
    return f"no release up to {newest} runs on {runtime.short.capitalize()} {line}: replace it, carry it yourself, or drop it"
