"""Who uses whom inside one application: references between folders, and files that nothing refers to."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Mapping
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry
    from yoake.core.values.facts import FileFacts

_ENTRY: Final = re.compile(
    r"(^|/)(__main__|__init__|setup|conftest|manage|wsgi|asgi|urls|settings[^/]*|admin|apps|models|tasks|views|tests?|index|main|app|server|cli|gulpfile|gruntfile)\.\w+$"
    r"|/(migrations|management|commands|bin|scripts|settings|pages|routes|templatetags|plugins)/|(^|/)[^/]*\.(config|conf|d|stories)\.[cm]?[jt]sx?$",
    re.IGNORECASE,
)
SMALL: Final = 24
"""Parts shown before folders are put together."""


def file_references(
    facts: Mapping[str, FileFacts],
    targets: Mapping[str, Mapping[str, str]],
    ecosystems: Registry,
    few: int = SMALL,
) -> tuple[dict[tuple[str, str], int], list[str]]:
    """(folder → folder with counts, files that no other file names). ``targets``: file → imported path → file.

    In a small application (at most ``few`` files) files stand for themselves instead of their folders.
    """
    edges: dict[tuple[str, str], int] = {}
    named: set[str] = set()
    stands = {path: path if len(facts) <= few else posixpath.dirname(path) for path in facts}
    for path in facts:
        for target in targets.get(path, {}).values():
            if target == path:
                continue
            named.add(target)
            edge = (stands[path], stands[target])
            if edge[0] != edge[1]:
                edges[edge] = edges.get(edge, 0) + 1
    lonely = [p for p, f in facts.items() if p not in named and _may_be_dead(p, f, ecosystems)]
    return edges, lonely


def _may_be_dead(path: str, facts: FileFacts, ecosystems: Registry) -> bool:
    """Whether a file that nobody names is suspicious: no entry, no script, no test, something in it."""
    if _ENTRY.search(path) or ecosystems.role_of(path) != "source" or not facts.lines:
        return False
    return ecosystems.entry_marks.isdisjoint(ask.path for ask in facts.asks)
