"""A timeline: every public symbol of one coordinate with the set of lines that offer it.

Sets of lines are bit masks over the captured lines in release order (bit 0 is the oldest): names come back,
so a range would not do.
"""

from __future__ import annotations

import gzip
import json
import zlib
from bisect import bisect_left
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import accumulate
from typing import Any, Final, Protocol, TypeVar, overload

from yoake.core.values.coordinates import Coordinate, Line, line_key
from yoake.core.values.errors import BadKnowledge

FORMAT: Final = 2
_MAX_ALIAS_DEPTH: Final = 12  # real alias chains are at most 5 long; the limit only stops loops


@dataclass(frozen=True, slots=True)
class CapturedLine:
    """One captured line: which release stood for it and how it was read."""

    line: Line
    release: str
    how: str
    digest: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Symbol:
    """What is known of one path. ``kind``: m module, c class, f function, v value.

    ``aliases``, ``bases``: (path, lines). ``signatures``: (text, lines). ``unread``: lines at which the
    inside of this symbol could not be read, so that a missing name there means nothing. ``notes``: (text, lines) in the
    artefact's own words, such as why something is deprecated.
    """

    kind: str
    offers: int
    deprecates: int = 0
    aliases: tuple[tuple[str, int], ...] = ()
    bases: tuple[tuple[str, int], ...] = ()
    signatures: tuple[tuple[str, int], ...] = ()
    unread: int = 0
    notes: tuple[tuple[str, int], ...] = ()


@dataclass(frozen=True, slots=True)
class Head:
    """What a timeline file says before its symbols: enough to know whether it is needed."""

    coordinate: Coordinate
    lines: tuple[CapturedLine, ...]
    tops: tuple[str, ...]
    symbols: int


@dataclass(frozen=True, slots=True)
class Answer:
    """Where a path resolves: masks over the timeline's lines.

    ``offers`` it resolves; ``unknown`` nobody can say; ``deprecates`` it resolves with a warning. ``redirect`` is
    the path in another coordinate that decides instead (a class whose base lives elsewhere).
    """

    offers: int
    unknown: int
    deprecates: int
    redirect: str | None = None


T = TypeVar("T")
_NO_TIMELINE: Final = "This is no timeline file ({}). Build it again with “yoake knowledge build”."


class _Rows(Mapping[str, Symbol]):
    """Symbols of a timeline file, each made from its row when first asked for: a scan asks for few of them."""

    def __init__(self, rows: Mapping[str, list[Any]], strings: Sequence[str]) -> None:
        self._rows = rows
        self._strings = strings
        self._made: dict[str, Symbol | None] = {}

    def __getitem__(self, path: str) -> Symbol:
        found: Symbol | None = self.get(path)
        if found is None:
            raise KeyError(path)
        return found

    @overload
    def get(self, path: str, default: None = None, /) -> Symbol | None: ...
    @overload
    def get(self, path: str, default: Symbol | T, /) -> Symbol | T: ...
    def get(self, path: str, default: Any = None, /) -> Any:
        """The symbol at ``path``; that there is none is remembered too."""
        try:
            made = self._made[path]
        except KeyError:
            row = self._rows.get(path)
            made = self._made[path] = self._symbol(row) if row is not None else None
        return default if made is None else made

    def __contains__(self, path: object) -> bool:
        return isinstance(path, str) and self.get(path) is not None

    def __iter__(self) -> Iterator[str]:
        return iter(self._rows)

    def __len__(self) -> int:
        return len(self._rows)

    def _symbol(self, row: list[Any]) -> Symbol:
        def pairs(position: int) -> tuple[tuple[str, int], ...]:
            return tuple([(self._strings[i], mask) for i, mask in row[position]]) if len(row) > position else ()

        return Symbol(
            kind=row[0],
            offers=row[1] if len(row) > 1 else 0,
            deprecates=row[2] if len(row) > 2 else 0,
            aliases=pairs(3),
            bases=pairs(4),
            signatures=pairs(5),
            unread=row[6] if len(row) > 6 else 0,
            notes=pairs(7),
        )


@dataclass(kw_only=True)
class Timeline:
    """All surfaces of one coordinate."""

    coordinate: Coordinate
    lines: tuple[CapturedLine, ...]
    symbols: Mapping[str, Symbol]
    digest: str = ""
    _memo: dict[str, Answer] = field(default_factory=dict, repr=False)
    _floors: dict[str, int | None] = field(default_factory=dict, repr=False)

    @cached_property
    def names(self) -> list[Line]:
        """The captured lines, oldest first."""
        return [line.line for line in self.lines]

    @cached_property
    def top_levels(self) -> set[str]:
        """First components of all modules: what an import statement must begin with."""
        return {path for path, symbol in self.symbols.items() if symbol.kind == "m" and "." not in path}

    def index(self, line: Line) -> int | None:
        """Position of a line, or None when it was not captured."""
        for position, captured in enumerate(self.lines):
            if captured.line == line:
                return position
        return None

    def floor(self, line: Line) -> int | None:
        """Position of the newest captured line not after ``line``; None when all are newer."""
        if line not in self._floors:
            wanted = line_key(line)
            found = [i for i, captured in enumerate(self.lines) if line_key(captured.line) <= wanted]
            self._floors[line] = found[-1] if found else None
        return self._floors[line]

    def lines_in(self, mask: int) -> list[Line]:
        """The lines of a mask, oldest first."""
        return [captured.line for i, captured in enumerate(self.lines) if mask >> i & 1]

    def ask(self, path: str, depth: int = 0) -> Answer:
        """Where ``path`` resolves, following aliases and bases."""
        known = self._memo.get(path)
        if known is None:
            known = self._compute(path, depth)
            if depth == 0:
                self._memo[path] = known
        return known

    def _compute(self, path: str, depth: int) -> Answer:
        symbol = self.symbols.get(path)
        if symbol is not None:
            own = Answer(symbol.offers, 0, symbol.deprecates)
            if "." not in path:
                return own
            rest = self._through_parent(path, depth)
            unknown = (rest.unknown | self._unseen(path, symbol)) & ~own.offers
            return Answer(own.offers | rest.offers, unknown, own.deprecates | rest.deprecates, rest.redirect)
        if "." not in path or depth > _MAX_ALIAS_DEPTH:
            return Answer(0, 0, 0)
        return self._through_parent(path, depth)

    def _through_parent(self, path: str, depth: int) -> Answer:
        parent_path, name = path.rsplit(".", 1)
        parent = self.symbols.get(parent_path)
        if parent is None:
            return self._under_unlisted(parent_path, name, depth)
        offers, unknown, deprecates, redirect = 0, parent.unread | self._unseen(parent_path, parent), 0, None
        for target, lines in (*parent.aliases, *parent.bases):
            if depth > _MAX_ALIAS_DEPTH:
                break
            if target.split(".", 1)[0] not in self.symbols:
                unknown |= lines
                redirect = f"{target}.{name}"
                continue
            answer = self.ask(f"{target}.{name}", depth + 1)
            offers |= answer.offers & lines
            unknown |= answer.unknown & lines
            deprecates |= answer.deprecates & lines
            redirect = redirect or answer.redirect
        if parent.kind in "fv" and not parent.aliases and not parent.bases:
            unknown |= parent.offers  # the inside of a plain value or function is not captured
        return Answer(offers, unknown & ~offers, deprecates, redirect)

    def _unseen(self, path: str, symbol: Symbol) -> int:
        """Lines that offer a class, but of whose instances nothing was read."""
        made_of = self.symbols.get(path[:-2]) if path.endswith("()") else None
        return made_of.offers & ~symbol.offers if made_of is not None else 0

    def _under_unlisted(self, parent_path: str, name: str, depth: int) -> Answer:
        """``a.b.c`` where ``a.b`` is reached only through an alias of ``a``."""
        if "." not in parent_path:
            return Answer(0, 0, 0)
        grand, middle = parent_path.rsplit(".", 1)
        entry = self.symbols.get(grand)
        if entry is None:
            return (
                Answer(0, self.ask(parent_path, depth + 1).unknown, 0) if depth <= _MAX_ALIAS_DEPTH else Answer(0, 0, 0)
            )
        result = Answer(0, self.ask(parent_path, depth + 1).unknown, 0)
        for target, lines in (*entry.aliases, *entry.bases):
            if depth > _MAX_ALIAS_DEPTH:
                break
            answer = self.ask(f"{target}.{middle}.{name}", depth + 1)
            result = Answer(
                result.offers | answer.offers & lines,
                result.unknown | answer.unknown & lines,
                result.deprecates | answer.deprecates & lines,
                result.redirect or answer.redirect,
            )
        return Answer(result.offers, result.unknown & ~result.offers, result.deprecates, result.redirect)

    def home(self, path: str, position: int) -> str | None:
        """The path at which this symbol is defined on that line, when it is an alias there."""
        symbol = self.symbols.get(path)
        if symbol is None:
            return None
        for target, lines in symbol.aliases:
            if lines >> position & 1:
                return target
        return None

    def note(self, path: str, position: int, depth: int = 0) -> str | None:
        """What the artefact of that line says of ``path``, such as why it is deprecated."""
        symbol = self.symbols.get(path)
        if symbol is None or depth > _MAX_ALIAS_DEPTH:
            return None
        for text, lines in symbol.notes:
            if lines >> position & 1:
                return text
        target = self.home(path, position)
        return self.note(target, position, depth + 1) if target else None

    def signature(self, path: str, position: int, depth: int = 0) -> str | None:
        """The parameters of ``path`` on that line, e.g. ``a,b,*args,k=,**kw``; None when not known."""
        symbol = self.symbols.get(path)
        if symbol is None or depth > _MAX_ALIAS_DEPTH:
            return None
        for text, lines in symbol.signatures:
            if lines >> position & 1:
                return text
        target = self.home(path, position)
        return self.signature(target, position, depth + 1) if target else None


def dump_timeline(timeline: Timeline) -> bytes:
    """The shipped form: compact JSON, gzip, the same bytes for the same content."""
    strings: dict[str, int] = {}

    def ref(text: str) -> int:
        return strings.setdefault(text, len(strings))

    def pairs(values: tuple[tuple[str, int], ...]) -> list[list[int]]:
        return [[ref(text), mask] for text, mask in values]

    rows: dict[str, list[Any]] = {}
    for path in sorted(timeline.symbols):
        s = timeline.symbols[path]
        row: list[Any] = [
            s.kind,
            s.offers,
            s.deprecates,
            pairs(s.aliases),
            pairs(s.bases),
            pairs(s.signatures),
            s.unread,
            pairs(s.notes),
        ]
        while row and row[-1] in (0, []):
            row.pop()
        rows[path] = row
    head = {
        "format": FORMAT,
        "coordinate": timeline.coordinate,
        "lines": [[x.line, x.release, x.how, x.digest] for x in timeline.lines],
        "tops": sorted(timeline.top_levels),
        "symbols": len(rows),
    }
    body = {"symbols": rows, "strings": list(strings)}
    both = "\n".join(json.dumps(part, separators=(",", ":")) for part in (head, body))
    return gzip.compress(both.encode(), mtime=0)


def read_head(first_line: bytes | str) -> Head:
    """The first line of an unpacked timeline file. Raises BadKnowledge with what is wrong."""
    try:
        head = json.loads(first_line)
        if head["format"] != FORMAT:
            raise BadKnowledge(f"This timeline has format {head['format']}; this Yoake reads {FORMAT}. Build it again.")
        lines = tuple(CapturedLine(Line(line), *told) for line, *told in head["lines"])
        return Head(Coordinate(head["coordinate"]), lines, tuple(head["tops"]), head["symbols"])
    except (ValueError, KeyError, TypeError) as error:
        raise BadKnowledge(_NO_TIMELINE.format(error)) from error


def load_timeline(data: bytes, digest: str = "") -> Timeline:
    """Read the shipped form. Raises BadKnowledge with what is wrong."""
    first, _, rest = _unpacked(data).partition(b"\n")
    return timeline_of_rows(read_head(first), *_body(rest), digest)


def _unpacked(data: bytes) -> bytes:
    try:
        return gzip.decompress(data)
    except (OSError, EOFError, zlib.error) as error:
        raise BadKnowledge(_NO_TIMELINE.format(error)) from error


def _body(text: bytes) -> tuple[dict[str, list[Any]], list[str]]:
    """Rows and strings from what follows the head. Raises BadKnowledge."""
    try:
        body = json.loads(text)
        rows, strings = body["symbols"], body["strings"]
        _check(rows, strings)
    except (ValueError, KeyError, TypeError, IndexError, AttributeError) as error:
        raise BadKnowledge(_NO_TIMELINE.format(error)) from error
    return rows, strings


class SortedRows(Mapping[str, list[Any]]):
    """Rows in one sorted text, found by halving: nothing is read but what is asked for, and processes share the pages.

    ``text``: lines of path, tab, row as JSON, sorted by the bytes of the path; ``offsets``: where each line begins, and the end.
    """

    def __init__(self, text: Buffer, offsets: Sequence[int]) -> None:
        self._text = text
        self._offsets = offsets

    def _path(self, position: int) -> bytes:
        return self._text[self._offsets[position] : self._offsets[position + 1]].partition(b"\t")[0]

    def __getitem__(self, path: str) -> list[Any]:
        wanted = path.encode("utf-8", "surrogatepass")
        at = bisect_left(range(len(self)), wanted, key=self._path)
        if at < len(self) and self._path(at) == wanted:
            row: list[Any] = json.loads(self._text[self._offsets[at] : self._offsets[at + 1]].partition(b"\t")[2])
            return row
        raise KeyError(path)

    def __iter__(self) -> Iterator[str]:
        return (self._path(at).decode("utf-8", "surrogatepass") for at in range(len(self)))

    def __len__(self) -> int:
        return len(self._offsets) - 1


class Buffer(Protocol):
    """Bytes, or a file that is mapped as such."""

    def __getitem__(self, part: slice, /) -> bytes: ...


def sort_rows(data: bytes) -> tuple[bytes, list[int], list[str]]:
    """The shipped form → (text, offsets, strings) as ``SortedRows`` reads them. Raises BadKnowledge."""
    rows, strings = _body(_unpacked(data).partition(b"\n")[2])
    lines = [
        (path.encode("utf-8", "surrogatepass"), json.dumps(row, separators=(",", ":")).encode())
        for path, row in rows.items()
    ]
    whole = [b"%b\t%b\n" % pair for pair in sorted(lines)]
    return b"".join(whole), [0, *accumulate(map(len, whole))], strings


def timeline_of_rows(head: Head, rows: Mapping[str, list[Any]], strings: Sequence[str], digest: str) -> Timeline:
    """A timeline over rows that lie elsewhere."""
    found = Timeline(coordinate=head.coordinate, lines=head.lines, symbols=_Rows(rows, strings), digest=digest)
    found.top_levels = set(head.tops)
    return found


def _check(rows: Any, strings: Any) -> None:
    """Enough to fail on a file of another kind at once, not when some symbol is asked for."""
    if not isinstance(rows, dict) or not isinstance(strings, list):
        raise TypeError("symbols or strings are missing")
    if not all(isinstance(row, list) and row for row in rows.values()):
        raise TypeError("a symbol has no row")
