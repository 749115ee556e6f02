"""Scopes and bindings of Python as the language binds them, and what a name stands for at a place."""

from __future__ import annotations

from dataclasses import dataclass, field

from yoake.core.syntax.facts import Guard


@dataclass(frozen=True, slots=True)
class Binding:
    """One binding of a name. ``target`` is an imported path; None for anything made here.

    ``made_by`` is (name, attributes) of the class called, for ``x = a.B()``; ``receiver`` the class that a method's
    first parameter stands for.
    """

    position: int
    target: str | None
    guards: tuple[Guard, ...] = ()
    made_by: tuple[str, tuple[str, ...]] | None = None
    receiver: str | None = None


@dataclass(slots=True)
class Scope:
    """A module, class, function or comprehension."""

    kind: str
    qualname: str
    parent: Scope | None
    bindings: dict[str, list[Binding]] = field(default_factory=dict)
    outer: set[str] = field(default_factory=set)

    def bind(self, name: str, binding: Binding) -> None:
        """Add a binding, in the scope that ``global`` and ``nonlocal`` say."""
        scope: Scope = self
        while name in scope.outer and scope.parent is not None:
            scope = scope.parent
        scope.bindings.setdefault(name, []).append(binding)


@dataclass(frozen=True, slots=True)
class Meaning:
    """What a name stands for: the chosen binding, and the other imports it may be instead."""

    binding: Binding
    scope: Scope
    others: tuple[Binding, ...] = ()


def look_up(name: str, scope: Scope, position: int) -> Meaning | None:
    """The meaning of ``name`` used in ``scope`` at ``position``; None for a builtin or unknown name."""
    current: Scope | None = scope
    while current is not None:
        visible = current.kind != "class" or current is scope
        found = current.bindings.get(name) if visible else None
        if found:
            return _choose(found, current, position if current is scope else None)
        current = current.parent
    return None


def _choose(found: list[Binding], scope: Scope, position: int | None) -> Meaning:
    """The last binding before the use (for a deferred use: the last of all), with its alternatives."""
    before = [b for b in found if position is None or b.position <= position] or found
    chosen = before[-1]
    groups = {guard.group for guard in chosen.guards}
    together = [b for b in before if b is chosen or groups & {guard.group for guard in b.guards}]
    imports = [b for b in together if b.target is not None]
    if chosen.target is None and imports and chosen.made_by is None and chosen.receiver is None:
        chosen = imports[-1]
    others = tuple(b for b in together if b is not chosen)
    return Meaning(chosen, scope, others)
