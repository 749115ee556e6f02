"""How the paths of a language are written."""

from __future__ import annotations

from collections.abc import Callable, Container, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    pass


def _parts_of(path: str) -> Iterator[str]:
    parts = path.split(".")
    for length in range(len(parts), 0, -1):
        yield ".".join(parts[:length])


def _lost_parameter(keyword: str) -> str:
    return f"the parameter {keyword} went away"


@dataclass(frozen=True, kw_only=True)
class PathStyle:
    """How dotted paths of a language are to be understood.

    ``joint`` stands between a class and a member of its instances. ``calls``: whether ``()`` in a path is part of a name and not
    only a call. ``stars``: whether a star import may hide what a name means. ``global_prefix``: begins paths that nobody binds.
    ``default_part``: the part that may be left out where a module is its own default. ``checked_overrides``: an override without
    anything to override does not compile. ``typed_values``: a method or field stands for a value of its base, whose members are
    told under the name of their class. ``plain_names``: files of one package name one another without importing.
    ``lost_keyword``: what it means that a call is no longer taken as it is. ``owner``: where nobody owns the first part of a path,
    the part to look for instead. ``as_written``: a path as people write it; ``as_path``: the other way round. ``regrouped``: a path
    whose first part is one of those that somebody owns, where the code alone does not say how far it reaches; several may share
    it, and a name that the owner never had is another's. ``wider``: a path and everything that holds it, the nearest first.
    """

    joint: str = "."
    calls: bool = False
    stars: bool = False
    global_prefix: str = ""
    default_part: str = ""
    checked_overrides: bool = False
    typed_values: bool = False
    plain_names: bool = False
    lost_keyword: Callable[[str], str] = _lost_parameter
    owner: Callable[[str], str | None] | None = None
    as_written: Callable[[str], str] | None = None
    as_path: Callable[[str], str] = str
    regrouped: Callable[[str, Container[str]], str] | None = None
    wider: Callable[[str], Iterator[str]] = _parts_of
