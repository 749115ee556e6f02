"""Surfaces of several lines become one timeline."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from yoake.core.knowledge.timeline import CapturedLine, Symbol, Timeline
from yoake.core.values.coordinates import Coordinate, line_key

if TYPE_CHECKING:
    from yoake.core.values.symbols import Surface


class _Growing:
    __slots__ = ("aliases", "bases", "deprecates", "kind", "notes", "offers", "signatures", "unread")

    def __init__(self, kind: str) -> None:
        self.kind = kind
        self.offers = self.deprecates = self.unread = 0
        self.aliases: dict[str, int] = {}
        self.bases: dict[str, int] = {}
        self.signatures: dict[str, int] = {}
        self.notes: dict[str, int] = {}

    def freeze(self) -> Symbol:
        return Symbol(
            kind=self.kind,
            offers=self.offers,
            deprecates=self.deprecates,
            aliases=tuple(self.aliases.items()),
            bases=tuple(self.bases.items()),
            signatures=tuple(self.signatures.items()),
            unread=self.unread,
            notes=tuple(self.notes.items()),
        )


def merge(coordinate: Coordinate, surfaces: Iterable[Surface]) -> Timeline:
    """One timeline from surfaces in any order; each line may occur once."""
    ordered = sorted(surfaces, key=lambda surface: line_key(surface.line))
    growing: dict[str, _Growing] = {}
    for position, surface in enumerate(ordered):
        bit = 1 << position
        for path, found in surface.symbols.items():
            entry = growing.get(path)
            if entry is None:
                entry = growing[path] = _Growing(found.kind)
            entry.kind = found.kind
            entry.offers |= bit
            entry.deprecates |= bit if found.deprecated else 0
            entry.unread |= bit if found.unread else 0
            if found.alias:
                entry.aliases[found.alias] = entry.aliases.get(found.alias, 0) | bit
            for base in found.bases:
                entry.bases[base] = entry.bases.get(base, 0) | bit
            if found.note:
                entry.notes[found.note] = entry.notes.get(found.note, 0) | bit
            if found.signature is not None:
                entry.signatures[found.signature] = entry.signatures.get(found.signature, 0) | bit
    lines = tuple(CapturedLine(s.line, s.release, s.how, s.digest) for s in ordered)
    return Timeline(
        coordinate=coordinate, lines=lines, symbols={path: entry.freeze() for path, entry in growing.items()}
    )
