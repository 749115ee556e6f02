"""Two texts beside each other: rows that stayed, went and came, with what differs inside a row."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from re import compile as pattern
from typing import Final, Literal

_AROUND: Final = 3  # rows shown before and after a change
_WORD: Final = pattern(r"\w+|\s+|[^\w\s]")
_ALIKE: Final = 0.5  # share of words that two rows have in common before what differs inside is marked

_MOST_PAIRS: Final = 2_500  # rows that went times rows that came; more are shown in order
Span = tuple[int, int]


@dataclass(frozen=True, slots=True)
class SideRow:
    """One row of the two texts. ``old`` and ``new`` number it on its side, 0 where it is not there; ``beside``: the number on the other side
    of the row that it became or was; ``marks``: characters from and to that differ from that."""

    kind: Literal["same", "gone", "new"]
    old: int
    new: int
    text: str
    beside: int = 0
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
                rows += [SideRow(kind="same", old=a + i + 1, new=c + i + 1, text=old[a + i]) for i in range(b - a)]
                continue
            beside = _paired(old[a:b], new[c:d])
            back = {j: i for i, j in beside.items()}
            rows += [
                SideRow("gone", a + i + 1, 0, text, *_beside(text, beside.get(i), new, c, forth=True))
                for i, text in enumerate(old[a:b])
            ]
            rows += [
                SideRow("new", 0, c + j + 1, text, *_beside(text, back.get(j), old, a, forth=False))
                for j, text in enumerate(new[c:d])
            ]
        found.append(Hunk(tuple(rows)))
    return found


def _beside(
    text: str, at: int | None, others: Sequence[str], start: int, *, forth: bool
) -> tuple[int, tuple[Span, ...]]:
    """(number of the row it stands beside, what differs); ``forth``: the text is the old one."""
    if at is None:
        return 0, ()
    other = others[start + at]
    return start + at + 1, _marks(text, other)[0] if forth else _marks(other, text)[1]


def _paired(old: Sequence[str], new: Sequence[str]) -> dict[int, int]:
    """Which old row became which new one: in order, and as alike as possible in all (dynamic programming)."""
    if len(old) == len(new) or len(old) * len(new) > _MOST_PAIRS:
        return {i: i for i in range(min(len(old), len(new)))}
    alike = [[SequenceMatcher(None, a, b, autojunk=False).ratio() for b in new] for a in old]
    best = [[0.0] * (len(new) + 1) for _ in range(len(old) + 1)]
    for i in range(len(old) - 1, -1, -1):
        for j in range(len(new) - 1, -1, -1):
            met = best[i + 1][j + 1] + alike[i][j] if alike[i][j] >= _ALIKE else 0.0
            best[i][j] = max(best[i + 1][j], best[i][j + 1], met)
    found: dict[int, int] = {}
    i = j = 0
    while i < len(old) and j < len(new):
        if best[i][j] == best[i + 1][j]:
            i += 1
        elif best[i][j] == best[i][j + 1]:
            j += 1
        else:
            found[i] = j
            i, j = i + 1, j + 1
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
