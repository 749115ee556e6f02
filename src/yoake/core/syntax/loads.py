"""What was loaded in a file, resolved once every scope is complete: imports, instances, own members, builtins."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from tree_sitter import Node

from yoake.core.syntax.facts import Ask, Gathering, Guard
from yoake.core.syntax.scopes import Meaning, Scope, look_up

Guards = tuple[Guard, ...]
Load = tuple[str, tuple[str, ...], Node, Node, Scope, Guards, str, tuple[str, ...]]
"""name, attributes, node, node of the name, scope, guards, form, keywords"""

_MEMBERS: Final = {"attribute": "attribute", "member_expression": "property"}
"""Node type of a member access → its field that holds the member's name, for each grammar."""


class Resolver:
    """Turns loads into uses."""

    def __init__(self, found: Gathering, builtins: str = "builtins") -> None:
        self.found = found
        self.builtins = builtins

    def resolve(self, loads: Iterable[Load]) -> None:
        """Every load whose root is imported, an instance, a method's own object, or nobody's (a builtin)."""
        for load in loads:
            name, attributes, _, root, scope, guards, form, keywords = load
            meaning = look_up(name, scope, root.start_byte)
            if meaning is None:
                self._add(load, Ask(f"{self.builtins}.{name}", "builtin", guards, keywords))
                continue
            binding = meaning.binding
            if binding.target is not None:
                self._add(load, _imported(meaning, attributes, guards, form, keywords))
            elif not attributes:
                continue
            elif binding.receiver is not None:
                self._add(load, Ask(f"self:{binding.receiver}.{attributes[0]}", "inherited", guards, keywords))
            elif binding.made_by is not None:
                path = _instance(meaning)
                if path is not None:
                    self._add(load, Ask(f"{path}().{attributes[0]}", "instance", guards, keywords))

    def _add(self, load: Load, ask: Ask) -> None:
        """The use at the place where the last part of the path stands."""
        _, attributes, node, root, scope, _, _, _ = load
        start = root.start_point
        first, column = start
        row, end = first, node.end_point
        if attributes and end.row != first:
            last = node.child_by_field_name(_MEMBERS.get(node.type, "")) if node.type in _MEMBERS else node
            if last is not None and last.start_point.row != first:
                row, column = last.start_point
                end = last.end_point
        stop = end.column if end.row == row else column + 1
        self.found.add(ask, row + 1, column, stop, scope.qualname, first + 1 if first != row else 0)


def _imported(
    meaning: Meaning, attributes: tuple[str, ...], guards: Guards, form: str, keywords: tuple[str, ...]
) -> Ask:
    binding = meaning.binding
    rest = "." + ".".join(attributes) if attributes else ""
    if not meaning.others and not binding.guards:
        return Ask(f"{binding.target}{rest}", form, guards, keywords)
    held = (*guards, *(g for g in binding.guards if g not in guards))
    ways = sorted((binding, *meaning.others), key=lambda b: b.position)
    paths = tuple(dict.fromkeys(f"{b.target}{rest}" for b in ways if b.target))
    return Ask(paths[0], form, held, keywords, "", paths[1:])


def _instance(meaning: Meaning) -> str | None:
    """The imported class that made what the name stands for; None when it was not imported, or only perhaps."""
    made_by = meaning.binding.made_by
    if made_by is None:
        return None
    maker = look_up(made_by[0], meaning.scope, meaning.binding.position)
    if maker is None or maker.binding.target is None or maker.binding.guards:
        return None
    return ".".join([maker.binding.target, *made_by[1]])
