"""Two texts beside each other: rows that stayed, went and came, with what differs inside a row."""

from __future__ import annotations

from dataclasses import dataclass
from difflib import SequenceMatcher
from re import compile as pattern
from typing import Final, Literal

_AROUND: Final = 3  # rows shown before and after a change
_WORD: Final = pattern(r"\w+|\s+|[^\w\s]")
_ALIKE: Final = 0.5  # share of words that two rows have in common before what differs inside is marked

Span = tuple[int, int]


@dataclass(frozen=True, slots=True)
class SideRow:
    """One row of the two texts. ``old`` and ``new`` number it on its side, 0 where it is not there; ``marks``: characters from and to that
    differ from the row it stands beside."""

    kind: Literal["same", "gone", "new"]
    old: int
    new: int
    text: str
    marks: tuple[Span, ...] = ()


@dataclass(frozen=True, slots=True)
class Hunk:
    """Rows that belong together, with some that stayed around them."""

    rows: tuple[SideRow, ...]


def hunks(before: str, after: str) -> list[Hunk]:
    """What differs between two texts."""
    old, new = before.splitlines(), after.splitlines()
    found = []
    for group in SequenceMatcher(None, old, new, autojunk=False).get_grouped_opcodes(_AROUND):
        rows: list[SideRow] = []
        for tag, a, b, c, d in group:
            if tag == "equal":
                rows += [SideRow("same", a + i + 1, c + i + 1, old[a + i]) for i in range(b - a)]
                continue
            paired = [_marks(old[a + i], new[c + i]) for i in range(min(b - a, d - c))]
            rows += [
                SideRow("gone", a + i + 1, 0, old[a + i], paired[i][0] if i < len(paired) else ()) for i in range(b - a)
            ]
            rows += [
                SideRow("new", 0, c + i + 1, new[c + i], paired[i][1] if i < len(paired) else ()) for i in range(d - c)
            ]
        found.append(Hunk(tuple(rows)))
    return found


def _marks(old: str, new: str) -> tuple[tuple[Span, ...], tuple[Span, ...]]:
    """What differs between two rows, word by word; nothing where they have little in common."""
    left, right = _WORD.findall(old), _WORD.findall(new)
    matcher = SequenceMatcher(None, left, right, autojunk=False)
    if matcher.ratio() < _ALIKE:
        return (), ()
    ends = [0]
    for word in left:
        ends.append(ends[-1] + len(word))
    starts = [0]
    for word in right:
        starts.append(starts[-1] + len(word))
    changed = [op for op in matcher.get_opcodes() if op[0] != "equal"]
    return (
        tuple((ends[a], ends[b]) for _, a, b, _, _ in changed if b > a),
        tuple((starts[c], starts[d]) for _, _, _, c, d in changed if d > c),
    )
