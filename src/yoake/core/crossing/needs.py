"""What a route drags along: the functions and classes that its handler reaches, with templates, settings, tables and packages."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any, Final

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
from yoake.core.values.routes import Route

_TEMPLATE: Final = re.compile(r"^[\w./-]+\.(?:html?|jinja2?|j2|ejs|pug|hbs|mustache|txt)$")
_MOST: Final = 3_000  # definitions that one route may reach


@dataclass(frozen=True, slots=True, order=True)
class Part:
    """A function or class of the source: where it stands, and how many lines it has."""

    file: str
    line: int
    name: str
    lines: int


@dataclass(slots=True)
class Needs:
    """Everything one handler reaches."""

    parts: set[Part] = field(default_factory=set)
    templates: set[str] = field(default_factory=set)
    settings: set[str] = field(default_factory=set)
    tables: set[str] = field(default_factory=set)
    packages: set[str] = field(default_factory=set)

    def add(self, other: Needs) -> None:
        """Takes in what another reaches."""
        self.parts |= other.parts
        self.templates |= other.templates
        self.settings |= other.settings
        self.tables |= other.tables
        self.packages |= other.packages

    @property
    def files(self) -> set[str]:
        """The files in which its parts stand."""
        return {part.file for part in self.parts}


@dataclass(slots=True)
class _Direct:
    """What one definition names itself."""

    needs: Needs
    reaches: list[tuple[str, int]]


class NeedsReader:
    """Follows names out of handlers. Each definition is read once."""

    def __init__(self, evaluator: Evaluator) -> None:
        self._evaluator = evaluator
        self._words = evaluator.words
        self._known: dict[tuple[str, int], _Direct] = {}
        self._roots: dict[str, Any] = {}

    def of_route(self, route: Route) -> Needs:
        """What a route drags along; nothing where its handler is not in the source."""
        found = Needs()
        seen: set[tuple[str, int]] = set()
        waiting = [(route.file, route.line)] if route.file else []
        while waiting and len(seen) < _MOST:
            at = waiting.pop()
            if at in seen:
                continue
            seen.add(at)
            direct = self._direct(at)
            found.add(direct.needs)
            waiting.extend(direct.reaches)
        return found

    def _direct(self, at: tuple[str, int]) -> _Direct:
        known = self._known.get(at)
        if known is not None:
            return known
        made = self._known[at] = _Direct(Needs(), [])
        node = self._definition(*at)
        module = self._evaluator.file_module(at[0])
        if node is None or module is None:
            return made
        made.needs.parts.add(Part(at[0], at[1], _name(node), node.end_point.row - node.start_point.row + 1))
        for value in self._named(node, module, made.needs):
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

    def _named(self, node: Any, module: ModuleValue, needs: Needs) -> Iterator[Value]:
        """Values of the names and members inside a definition, the longest chains only."""
        waiting = list(node.children)
        while waiting:
            each = waiting.pop()
            if each.type in self._words.chains or each.type == "identifier":
                value = self._value(each, module, needs)
                if value is not UNKNOWN:
                    yield value
                    continue
            elif each.type in self._words.texts:
                text = (each.text or b"").decode("utf-8", "replace").strip("bfruBFRU\"'`")
                if _TEMPLATE.match(text):
                    needs.templates.add(text)
            waiting.extend(each.children)

    def _value(self, node: Any, module: ModuleValue, needs: Needs) -> Value:
        text = (node.text or b"").decode("utf-8", "replace")
        if node.type == "identifier":
            return module.scope.names.get(text, UNKNOWN)
        if node.type not in self._words.chains:
            return UNKNOWN
        of, name = (node.child_by_field_name(part) for part in self._words.chains[node.type])
        if of is None or name is None:
            return UNKNOWN
        held = self._value(of, module, needs)
        if held is UNKNOWN:
            return UNKNOWN
        member = (name.text or b"").decode("utf-8", "replace")
        if isinstance(held, Model):
            if held.names_settings:
                needs.settings.add(member)
            return held
        found = self._evaluator.attribute(held, member) if isinstance(held, ModuleValue | Reference | dict) else held
        return found if found is not UNKNOWN else held

    def _take(self, value: Value, into: _Direct) -> None:
        if isinstance(value, FunctionValue):
            self._reach(value.place, into)
        elif isinstance(value, ClassValue):
            self._reach(value.place, into)
            if any(self._words.tables.search(path) for path in value.outside()):
                into.needs.tables.add(value.name)
            for each in value.bases:
                self._take(each, into)
        elif isinstance(value, Instance):
            self._take(value.kind, into)
        elif isinstance(value, Called):
            self._take(value.of, into)
        elif isinstance(value, Reference):
            package = self._package(value.path)
            if package:
                into.needs.packages.add(package)

    @staticmethod
    def _reach(place: Place, into: _Direct) -> None:
        if place.file:
            into.reaches.append((place.file, place.line))

    def _package(self, path: str) -> str:
        """The package that a path outside begins with; empty for what comes with the language."""
        parts = path.split(".", 1)[0].split("/")
        head = "/".join(parts[:2]) if path.startswith("@") else parts[0]
        return "" if head in self._words.own else head


def _name(node: Any) -> str:
    name = node.child_by_field_name("name")
    if name is None and node.parent is not None:
        name = node.parent.child_by_field_name("name") or node.parent.child_by_field_name("key")
    return (name.text or b"").decode("utf-8", "replace") if name is not None else "inline"
