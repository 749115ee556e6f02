"""What a route drags along: the functions and classes that its handler reaches, with templates, settings, tables and packages."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Final

from yoake.core.contract.evaluation import (
    UNKNOWN,
    Called,
    ClassValue,
    Evaluator,
    FunctionValue,
    Instance,
    Model,
    ModuleValue,
    Place,
    Reference,
    Value,
)
from yoake.core.crossing.parts import Part, PartGraph, PartNode

if TYPE_CHECKING:
    from yoake.core.values.routes import Route

_TEMPLATE: Final = re.compile(r"^[\w./-]+\.(?:html?|jinja2?|j2|ejs|pug|hbs|mustache|txt)$")
_MOST: Final = 60_000  # definitions that are followed in one source


@dataclass(slots=True, kw_only=True)
class _Direct:
    """What one definition names itself."""

    part: Part | None = None
    reaches: list[tuple[str, int]] = field(default_factory=list)
    templates: set[str] = field(default_factory=set)
    settings: set[str] = field(default_factory=set)
    tables: set[str] = field(default_factory=set)
    packages: set[str] = field(default_factory=set)


class NeedsReader:
    """Follows names out of handlers. Each definition is read once."""

    def __init__(self, evaluator: Evaluator) -> None:
        self._evaluator = evaluator
        self._words = evaluator.words
        self._known: dict[tuple[str, int], _Direct] = {}
        self._roots: dict[str, Any] = {}

    def graph(self, routes: Iterable[Route]) -> PartGraph:
        """Every part that the handlers of ``routes`` reach; a handler that is not in the source has none."""
        roots = {route.name: (route.file, route.line) for route in routes if route.file}
        waiting = list(dict.fromkeys(roots.values()))
        seen: dict[tuple[str, int], _Direct] = {}
        while waiting and len(seen) < _MOST:
            at = waiting.pop()
            if at not in seen:
                seen[at] = self._direct(at)
                waiting.extend(seen[at].reaches)
        places = {at: position for position, at in enumerate(at for at, each in seen.items() if each.part is not None)}
        nodes = tuple(_node(each, each.part, places) for each in seen.values() if each.part is not None)
        return PartGraph(nodes, {name: places[at] for name, at in roots.items() if at in places})

    def _direct(self, at: tuple[str, int]) -> _Direct:
        known = self._known.get(at)
        if known is not None:
            return known
        made = self._known[at] = _Direct()
        node = self._definition(*at)
        module = self._evaluator.file_module(at[0])
        if node is None or module is None:
            return made
        made.part = Part(at[0], at[1], _name(node), node.end_point.row - node.start_point.row + 1)
        for value in self._named(node, module, made):
            self._take(value, made)
        return made

    def _definition(self, file: str, line: int) -> Any:
        if file not in self._roots:
            self._roots[file] = self._evaluator.tree_of(file)
        root = self._roots[file]
        waiting = [root] if root is not None else []
        while waiting:
            node = waiting.pop()
            if node.start_point.row > line - 1 or node.end_point.row < line - 1:
                continue
            if node.start_point.row == line - 1 and node.type in self._words.definitions:
                return node
            waiting.extend(reversed(node.named_children))
        return None

    def _named(self, node: Any, module: ModuleValue, into: _Direct) -> Iterator[Value]:
        """Values of the names and members inside a definition, the longest chains only."""
        waiting = list(node.children)
        while waiting:
            each = waiting.pop()
            if each.type in self._words.chains or each.type == "identifier":
                value = self._value(each, module, into)
                if value is not UNKNOWN:
                    yield value
                    continue
            elif each.type in self._words.texts:
                text = (each.text or b"").decode("utf-8", "replace").strip("bfruBFRU\"'`")
                if _TEMPLATE.match(text):
                    into.templates.add(text)
            waiting.extend(each.children)

    def _value(self, node: Any, module: ModuleValue, into: _Direct) -> Value:
        text = (node.text or b"").decode("utf-8", "replace")
        if node.type == "identifier":
            return module.scope.names.get(text, UNKNOWN)
        if node.type not in self._words.chains:
            return UNKNOWN
        of, name = (node.child_by_field_name(part) for part in self._words.chains[node.type])
        if of is None or name is None:
            return UNKNOWN
        held = self._value(of, module, into)
        if held is UNKNOWN:
            return UNKNOWN
        member = (name.text or b"").decode("utf-8", "replace")
        if isinstance(held, Model):
            if held.names_settings:
                into.settings.add(member)
            return held
        found = self._evaluator.attribute(held, member) if isinstance(held, ModuleValue | Reference | dict) else held
        return found if found is not UNKNOWN else held

    def _take(self, value: Value, into: _Direct) -> None:
        if isinstance(value, FunctionValue):
            self._reach(value.place, into)
        elif isinstance(value, ClassValue):
            self._reach(value.place, into)
            if any(self._words.tables.search(path) for path in value.outside()):
                into.tables.add(value.name)
            for each in value.bases:
                self._take(each, into)
        elif isinstance(value, Instance):
            self._take(value.kind, into)
        elif isinstance(value, Called):
            self._take(value.of, into)
        elif isinstance(value, Reference):
            package = self._package(value.path)
            if package:
                into.packages.add(package)

    @staticmethod
    def _reach(place: Place, into: _Direct) -> None:
        if place.file:
            into.reaches.append((place.file, place.line))

    def _package(self, path: str) -> str:
        """The package that a path outside begins with; empty for what comes with the language."""
        parts = path.split(".", 1)[0].split("/")
        head = "/".join(parts[:2]) if path.startswith("@") else parts[0]
        return "" if head in self._words.own else head


def _node(each: _Direct, part: Part, places: Mapping[tuple[str, int], int]) -> PartNode:
    return PartNode(
        part=part,
        reaches=tuple(dict.fromkeys(places[at] for at in each.reaches if at in places)),
        templates=tuple(sorted(each.templates)),
        settings=tuple(sorted(each.settings)),
        tables=tuple(sorted(each.tables)),
        packages=tuple(sorted(each.packages)),
    )


def _name(node: Any) -> str:
    name = node.child_by_field_name("name")
    if name is None and node.parent is not None:
        name = node.parent.child_by_field_name("name") or node.parent.child_by_field_name("key")
    return (name.text or b"").decode("utf-8", "replace") if name is not None else "inline"
