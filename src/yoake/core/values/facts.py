"""Facts of one file. They know no coordinate: the join gives them meaning.

A path is dotted; leading dots stand for a relative import. ``Base()`` inside a path stands for an instance.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final, NamedTuple

from yoake.core.values.version_test import VersionTest

EXTRACTOR: Final = "facts-33"
"""Raised with every change of what is extracted; cached facts of another extractor are read again."""

HANDLER: Final = ", handled"
ABOVE: Final = ".super"
"""Ends the class of an inherited use that passes over what the class itself has of that name."""
_AT: Final = 6  # numbers that say where one use stands: line, column, end column, scope, first line, how it is written


@dataclass(frozen=True, slots=True)
class Guard:
    """Why a use may never run: ``import-error``, ``attribute-error``, ``feature``, ``typing`` or ``version``. In the handler of
    the error the kind ends with ``HANDLER``.

    ``group`` numbers the statement, so that the ways of one ``try`` can be seen together.
    """

    kind: str
    group: int
    test: VersionTest | None = None


class Ask(NamedTuple):
    """What one or several places of a file ask for: everything about a use but where it stands.

    ``form``: import, name, attribute, call, instance, subscript, element, member, assigned, string, inherited, override, template,
    type, builtin, syntax. ``binds`` is the name an import binds. ``others`` are further ways that the same name may be bound to, in
    the order of the text: the first that exists is what runs.
    """

    path: str
    form: str
    guards: tuple[Guard, ...] = ()
    keywords: tuple[str, ...] = ()
    binds: str = ""
    others: tuple[str, ...] = ()


class Use(NamedTuple):
    """One place that uses one path.

    ``line`` counts from 1, columns from 0. ``first_line`` is where the statement or the expression begins, when
    that is another line. ``written``: what is handed over, argument by argument (see ``core.syntax.written``).
    """

    ask: Ask
    line: int
    column: int
    end_column: int
    scope: str
    first_line: int = 0
    written: str = ""

    @property
    def path(self) -> str:
        """The path used."""
        return self.ask.path

    @property
    def form(self) -> str:
        """How it is used."""
        return self.ask.form

    @property
    def guards(self) -> tuple[Guard, ...]:
        """What may keep it from running."""
        return self.ask.guards

    @property
    def keywords(self) -> tuple[str, ...]:
        """Names of the keyword arguments of a call."""
        return self.ask.keywords


@dataclass(frozen=True, slots=True)
class ClassFact:
    """A class of this file: the paths of its bases and the names it defines itself."""

    bases: tuple[str, ...]
    members: tuple[str, ...]


@dataclass(slots=True, kw_only=True)
class FileFacts:
    """Everything that was read from one file.

    ``asks`` are the distinct uses; ``places`` stands beside each: six numbers a place, as text that is only read where
    something is wrong. ``scopes`` are the enclosing definitions that places point to, ``written`` how their calls are written.
    ``exports`` maps a top-level name to the paths it may stand for ("" for a definition of its own; "?" in front when a
    guard decides). ``assigned`` lists upper-case names at the top level with their lines: what a settings file
    sets. ``broken`` are lines the grammar could not read.
    """

    asks: tuple[Ask, ...]
    places: tuple[str, ...]
    scopes: tuple[str, ...]
    exports: dict[str, tuple[str, ...]]
    stars: tuple[str, ...]
    classes: dict[str, ClassFact]
    assigned: dict[str, int]
    broken: tuple[int, ...]
    lines: int
    absolute_import: bool = False
    language: str = ""
    written: tuple[str, ...] = ("",)

    @property
    def uses(self) -> list[Use]:
        """Every single use, in the order of the text."""
        found = [use for i in range(len(self.asks)) for use in self.uses_of(i)]
        return sorted(found, key=lambda u: (u.line, u.column, u.path, u.form))

    def uses_of(self, position: int) -> Iterator[Use]:
        """The places of one ask."""
        numbers = [int(n) for n in self.places[position].split()]
        ask = self.asks[position]
        for i in range(0, len(numbers), _AT):
            line, column, end, scope, first, written = numbers[i : i + _AT]
            yield Use(ask, line, column, end, self.scopes[scope], first, self.written[written])

    def to_json(self) -> str:
        """The cached form: rows without names, each text once."""
        texts: dict[str, int] = {}
        guards: dict[Guard, int] = {}

        def ref(text: str) -> int:
            return texts.setdefault(text, len(texts))

        rows = [
            [
                ref(a.path),
                ref(a.form),
                [guards.setdefault(g, len(guards)) for g in a.guards],
                a.keywords,
                a.binds,
                a.others,
            ]
            if a.guards or a.keywords or a.binds or a.others
            else [ref(a.path), ref(a.form)]
            for a in self.asks
        ]
        body = {
            "asks": rows,
            "places": self.places,
            "scopes": self.scopes,
            "texts": list(texts),
            "guards": [
                [g.kind, g.group, [g.test.subject, g.test.op, g.test.version] if g.test else None] for g in guards
            ],
            "exports": self.exports,
            "stars": self.stars,
            "classes": {name: [c.bases, c.members] for name, c in self.classes.items()},
            "assigned": self.assigned,
            "broken": self.broken,
            "lines": self.lines,
            "absolute_import": self.absolute_import,
            "language": self.language,
            "written": self.written,
        }
        return json.dumps(body, separators=(",", ":"))


class Gathering:
    """Uses as they are found in one file, put together to asks with their places."""

    def __init__(self) -> None:
        self._places: dict[Ask, list[int]] = {}
        self._scopes: dict[str, int] = {}
        self._written: dict[str, int] = {"": 0}

    def add(self, ask: Ask, line: int, column: int, end: int, scope: str, first: int = 0, written: str = "") -> None:
        """One more place of ``ask``."""
        index = self._scopes.setdefault(scope, len(self._scopes))
        how = self._written.setdefault(written, len(self._written)) if written else 0
        at = (line, column, end, index, first, how)
        held = self._places.get(ask)
        if held is None:
            self._places[ask] = list(at)
        else:
            held.extend(at)

    @property
    def asks(self) -> tuple[Ask, ...]:
        """The distinct asks, in the order in which they were found."""
        return tuple(self._places)

    @property
    def places(self) -> tuple[str, ...]:
        """The places beside each ask."""
        return tuple(" ".join(map(str, held)) for held in self._places.values())

    @property
    def scopes(self) -> tuple[str, ...]:
        """The enclosing definitions."""
        return tuple(self._scopes)

    @property
    def written(self) -> tuple[str, ...]:
        """How calls are written, each way once."""
        return tuple(self._written)


def facts_from_json(text: str) -> FileFacts:
    """Read the cached form."""
    body = json.loads(text)
    texts: list[str] = body["texts"]
    guards = [
        Guard(kind, group, VersionTest(test[0], test[1], tuple(test[2])) if test else None)
        for kind, group, test in body["guards"]
    ]
    asks = tuple(
        Ask(texts[row[0]], texts[row[1]])
        if len(row) == 2
        else Ask(
            texts[row[0]],
            texts[row[1]],
            tuple([guards[i] for i in row[2]]),
            tuple(row[3]),
            row[4],
            tuple(row[5]),
        )
        for row in body["asks"]
    )
    return FileFacts(
        asks=asks,
        places=tuple(body["places"]),
        scopes=tuple(body["scopes"]),
        exports={name: tuple(targets) for name, targets in body["exports"].items()},
        stars=tuple(body["stars"]),
        classes={name: ClassFact(tuple(bases), tuple(members)) for name, (bases, members) in body["classes"].items()},
        assigned=body["assigned"],
        broken=tuple(body["broken"]),
        lines=body["lines"],
        absolute_import=body["absolute_import"],
        language=body["language"],
        written=tuple(body["written"]),
    )
