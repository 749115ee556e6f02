"""A change of text at exact places of one file, and what is asked for and answered about it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Final, Literal

Outcome = Literal["changed", "hand", "cannot"]
"""Of a file: changed; left to a person; or not offered, because a check failed."""
GONE: Final = "none"
"""The new name of what is simply taken out."""

MOVE: Final = "move"
"""Stands for a finding’s key where a stage’s releases are written into manifests and pins."""


@dataclass(frozen=True, slots=True, order=True)
class Change:
    """Bytes ``start`` to ``end`` of a text become ``text``."""

    start: int
    end: int
    text: bytes


@dataclass(frozen=True, slots=True)
class Spot:
    """Where a name stands: line from 1, columns in bytes from 0, how it is used, and the whole path used."""

    line: int
    column: int
    end_column: int
    form: str
    path: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Rename:
    """One name to be written otherwise in one file. ``old`` and ``new`` are dotted paths, ``new`` may be ``GONE``.

    ``home``: the part of ``new`` that can be imported. ``key`` names the finding it comes from. ``shapes``: (was, now) of uses that are
    more than a name, with ``homes``: name in full → the part of it that can be imported, for what they write, and ``helpers``: name →
    function that they may call, which the file gets once.
    """

    key: str
    old: str
    new: str
    home: str
    spots: tuple[Spot, ...]
    shapes: tuple[tuple[str, str], ...] = ()
    homes: Mapping[str, str] = field(default_factory=dict)
    helpers: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Edited:
    """What can be done to one file. ``changes``: they never overlap. ``refused``: key → why that name is left to a person."""

    changes: tuple[Change, ...] = ()
    refused: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class EditedFile:
    """What becomes of one file. ``keys``: findings dealt with in it; ``hand``: finding → why its places are left to a person;
    ``before`` and ``after``: its bytes."""

    path: str
    outcome: Outcome
    why: str
    keys: tuple[str, ...]
    hand: Mapping[str, str]
    before: bytes = b""
    after: bytes = b""


@dataclass(frozen=True, slots=True, kw_only=True)
class EditStep:
    """One finding's changes: a commit of its own. ``old`` and ``new``: the names, ``new`` is ``GONE`` for what is
    taken out, and empty where ``old`` says in words what a rule about texts is about; ``files``: path → bytes after
    this step and all before it."""

    key: str
    old: str
    new: str
    message: str
    safe: bool
    places: int
    files: Mapping[str, bytes]


@dataclass(frozen=True, slots=True)
class Proposal:
    """Edits that passed every check, and what did not. ``by_hand``: finding → (title, why) of those that no edit is known for."""

    identity: str
    label: str
    steps: tuple[EditStep, ...] = ()
    files: tuple[EditedFile, ...] = ()
    by_hand: Mapping[str, tuple[str, str]] = field(default_factory=dict)


def applied(source: bytes, changes: Iterable[Change]) -> bytes:
    """The text with all changes made. Raises ValueError where two of them overlap or reach beyond it."""
    made: list[bytes] = []
    at = 0
    for change in sorted(changes):
        if change.start < at or change.end < change.start or change.end > len(source):
            raise ValueError(f"the change at byte {change.start} overlaps another, or the end of the text")
        made += [source[at : change.start], change.text]
        at = change.end
    return b"".join([*made, source[at:]])
