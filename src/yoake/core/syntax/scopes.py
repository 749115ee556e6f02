"""Scopes and bindings as the languages bind them, and what a name stands for at a place."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from yoake.core.values.facts import Guard

MadeBy = tuple[str, tuple[str, ...]]
"""(name, members) of what is called to make something."""


@dataclass(slots=True, kw_only=True)
class Binding:
    """One binding of a name; never changed once made. ``target`` is an imported path; None for anything made here.

    ``made_by`` is (name, attributes) of the class called, for ``x = a.B()``; ``receiver`` the class that a method's
    first parameter stands for; ``same_as`` (name, members) of what was assigned, for ``x = a.b``; ``class_name`` the class that is
    defined under this name; ``returned`` what a function gives back on each of its ways, None for anything else.
    """

    position: int
    target: str | None = None
    guards: tuple[Guard, ...] = ()
    made_by: tuple[str, tuple[str, ...]] | None = None
    receiver: str | None = None
    same_as: tuple[str, tuple[str, ...]] | None = None
    class_name: str | None = None
    returned: list[Meaning | None] | None = None

    @property
    def plain(self) -> bool:
        """Whether the name stands for nothing that could come from elsewhere."""
        return (
            self.target is None
            and self.made_by is None
            and self.receiver is None
            and self.same_as is None
            and self.class_name is None
            and not self.returned
        )


@dataclass(slots=True, eq=False, kw_only=True)
class Scope:
    """A module, class, function or comprehension. ``block`` scopes of JavaScript are functions here."""

    kind: str
    qualname: str
    parent: Scope | None
    bindings: dict[str, list[Binding]] = field(default_factory=dict)
    outer: set[str] = field(default_factory=set)
    literals: dict[str, Any] = field(default_factory=dict)
    """Name → the syntax node of a value that was written out where the name was bound."""

    def bind(self, name: str, binding: Binding) -> None:
        """Add a binding, in the scope that ``global`` and ``nonlocal`` say."""
        scope: Scope = self
        while name in scope.outer and scope.parent is not None:
            scope = scope.parent
        held = scope.bindings.get(name)
        if held is None:
            scope.bindings[name] = [binding]
        else:
            held.append(binding)


@dataclass(slots=True)
class Meaning:
    """What a name stands for: the chosen binding, and the other imports it may be instead."""

    binding: Binding
    scope: Scope
    others: tuple[Binding, ...] = ()


def literal_of(name: str, scope: Scope) -> Any:
    """The node of the value that a name stands for, where it is bound once and to something written out; else None."""
    current: Scope | None = scope
    while current is not None:
        found = current.bindings.get(name)
        if found and (current is scope or current.kind != "class"):
            return current.literals.get(name) if len(found) == 1 else None
        current = current.parent
    return None


def look_up(name: str, scope: Scope, position: int) -> Meaning | None:
    """The meaning of ``name`` used in ``scope`` at ``position``; None for a builtin or unknown name."""
    current: Scope | None = scope
    while current is not None:
        found = current.bindings.get(name)
        if found and (current is scope or current.kind != "class"):
            if len(found) == 1:
                return Meaning(found[0], current)
            return _choose(found, current, position if current is scope else None)
        current = current.parent
    return None


def _choose(found: list[Binding], scope: Scope, position: int | None) -> Meaning:
    """The last binding before the use (for a deferred use: the last of all), with its alternatives."""
    before = found if position is None else [b for b in found if b.position <= position] or found
    chosen = before[-1]
    if not chosen.guards:
        return Meaning(chosen, scope)
    groups = {guard.group for guard in chosen.guards}
    together = [b for b in before if b is chosen or any(guard.group in groups for guard in b.guards)]
    imports = [b for b in together if b.target is not None]
    if imports and chosen.plain:
        chosen = imports[-1]
    return Meaning(chosen, scope, tuple(b for b in together if b is not chosen))
