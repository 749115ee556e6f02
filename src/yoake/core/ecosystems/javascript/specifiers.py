"""Module specifiers of JavaScript as the first part of a dotted path.

A specifier may hold dots (``socket.io``, ``./a.js``), a path is split at dots. So the dots of a specifier are written with
another character inside paths, and put back wherever a person reads them.
"""

from __future__ import annotations

from typing import Final

_DOT: Final = "\u2024"
_ONLY_WITH_SCHEME: Final = frozenset(("node:test", "node:sea", "node:sqlite", "node:test/reporters"))
GLOBAL: Final = "globalThis"


def as_part(specifier: str) -> str:
    """``node:fs`` → ``fs``, ``socket.io`` → one part of a path."""
    if specifier.startswith("node:") and specifier not in _ONLY_WITH_SCHEME:
        specifier = specifier[5:]
    return specifier.replace(".", _DOT)


def as_specifier(part: str) -> str:
    """The specifier that ``as_part`` was given, without ``node:``."""
    return part.replace(_DOT, ".")


def package_of(specifier: str) -> str:
    """The npm package that a specifier names: ``@a/b/c`` → ``@a/b``, ``lodash/fp`` → ``lodash``."""
    parts = specifier.split("/")
    return "/".join(parts[:2]) if specifier.startswith("@") else parts[0]


def shown(path: str) -> str:
    """A path as people write it: ``path.join``, ``Buffer.from``, ``express.Router``."""
    return path.replace(_DOT, ".").removeprefix(f"{GLOBAL}.").replace("().", ".prototype.").removesuffix("()")


def owning_part(part: str) -> str | None:
    """The first part of a path by which the package of a deeper specifier is found: ``lodash/fp`` → ``lodash``."""
    return as_part(package_of(as_specifier(part)))
