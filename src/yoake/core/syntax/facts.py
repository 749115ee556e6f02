"""Facts of one file. They know no coordinate: the join gives them meaning.

A path is dotted; leading dots stand for a relative import. ``Base()`` inside a path stands for an instance.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Final

from yoake.core.syntax.versions import VersionTest

EXTRACTOR: Final = "python-12"
"""Raised with every change of what is extracted; cached facts of another extractor are read again."""


@dataclass(frozen=True, slots=True)
class Guard:
    """Why a use may never run: ``import-error``, ``attribute-error``, ``feature``, ``typing`` or ``version``.

    ``group`` numbers the statement, so that the ways of one ``try`` can be seen together.
    """

    kind: str
    group: int
    test: VersionTest | None = None


@dataclass(frozen=True, slots=True)
class Use:
    """One place that uses one path. ``form``: import, name, attribute, call, string, inherited, builtin, syntax.

    ``line`` counts from 1, columns from 0. ``first_line`` is where the statement or
    the expression begins, when that is another line. ``binds`` is the name an import binds. ``others`` are further ways that the
    same name may be bound to, in the order of the text: the first that exists is what runs.
    """

    path: str
    form: str
    line: int
    column: int
    end_column: int
    scope: str
    guards: tuple[Guard, ...] = ()
    keywords: tuple[str, ...] = ()
    binds: str = ""
    others: tuple[str, ...] = ()
    first_line: int = 0


@dataclass(frozen=True, slots=True)
class ClassFact:
    """A class of this file: the paths of its bases and the names it defines itself."""

    bases: tuple[str, ...]
    members: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class FileFacts:
    """Everything that was read from one file.

    ``exports`` maps a top-level name to the paths it may stand for ("" for a definition of its own; "?" in front when a
    guard decides). ``assigned`` lists
    upper-case names at the top level with their lines: what a settings file sets. ``broken`` are lines the grammar
    could not read.
    """

    uses: tuple[Use, ...]
    exports: dict[str, tuple[str, ...]]
    stars: tuple[str, ...]
    classes: dict[str, ClassFact]
    assigned: dict[str, int]
    broken: tuple[int, ...]
    lines: int
    absolute_import: bool

    def to_json(self) -> str:
        """The cached form: rows without names, each text once."""
        texts: dict[str, int] = {}
        guards: dict[Guard, int] = {}

        def ref(text: str) -> int:
            return texts.setdefault(text, len(texts))

        rows = [
            [
                ref(u.path),
                ref(u.form),
                u.line,
                u.column,
                u.end_column,
                ref(u.scope),
                [guards.setdefault(g, len(guards)) for g in u.guards],
                u.keywords,
                u.binds,
                u.others,
                u.first_line,
            ]
            for u in self.uses
        ]
        body = {
            "uses": rows,
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
        }
        return json.dumps(body, separators=(",", ":"))


def facts_from_json(text: str) -> FileFacts:
    """Read the cached form."""
    body = json.loads(text)
    texts: list[str] = body["texts"]
    guards = [
        Guard(kind, group, VersionTest(test[0], test[1], tuple(test[2])) if test else None)
        for kind, group, test in body["guards"]
    ]
    uses = tuple(
        Use(
            texts[path],
            texts[form],
            line,
            column,
            end,
            texts[scope],
            tuple(guards[i] for i in held) if held else (),
            tuple(keywords),
            binds,
            tuple(others),
            first,
        )
        for path, form, line, column, end, scope, held, keywords, binds, others, first in body["uses"]
    )
    return FileFacts(
        uses,
        {name: tuple(targets) for name, targets in body["exports"].items()},
        tuple(body["stars"]),
        {name: ClassFact(tuple(bases), tuple(members)) for name, (bases, members) in body["classes"].items()},
        body["assigned"],
        tuple(body["broken"]),
        body["lines"],
        body["absolute_import"],
    )
