"""What was loaded in a file, resolved once every scope is complete: imports, instances, own members, builtins."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Final

from tree_sitter import Node

from yoake.core.syntax.scopes import Binding, Meaning, Scope, literal_of, look_up
from yoake.core.syntax.tree import text
from yoake.core.values.facts import Ask, Gathering, Guard

Guards = tuple[Guard, ...]
Load = tuple[str, tuple[str, ...], Node, Node, Scope, Guards, str, tuple[str, ...], Node | None]
"""name, attributes, node, node of the name, scope, guards, form, keywords, what is handed over

An attribute ends with ``()`` where it is called to get at the next.
"""

_MEMBERS: Final = {"attribute": "attribute", "member_expression": "property"}
"""Node type of a member access → its field that holds the member's name, for each grammar."""
_GLOBAL_OBJECTS: Final = frozenset(("globalThis", "global", "window", "self"))
_MAX_ALIASES: Final = 6  # names for names; longer chains are loops
MadeMembers = dict[tuple[str, str], tuple[Binding, Scope]]
"""(class, member) → the binding that says what was called to make it, and where."""
_OWN: Final = "self:"
_KEPT_FORMS: Final = ("subscript", "assigned", "element")
_TOLD_BUILTINS: Final = ("builtins.open",)  # the arguments of the others decide on no version


class Resolver:
    """Turns loads into uses. ``builtins`` is the path under which names that nobody binds are looked for.

    ``script``: such a name is a member of a global object, whatever is asked of it, and tests of members guard them.
    ``written`` says how what is handed over is written.
    """

    def __init__(
        self,
        found: Gathering,
        builtins: str,
        written: Callable[[Node, Callable[[str], Node | None]], str],
        *,
        script: bool = False,
    ) -> None:
        self.found = found
        self.builtins = builtins
        self.written = written
        self.script = script
        self.made_members: MadeMembers = {}

    def resolve(self, loads: Iterable[Load]) -> None:
        """Every load whose root is imported, an instance, a method's own object, or nobody's (a builtin)."""
        for load in loads:
            name, _, node, root, scope, guards, form, _, _ = load
            bound = _bindings_of(name, scope)
            if bound is not None and _all_made_here(bound):
                continue
            meaning = look_up(name, scope, root.start_byte) if bound is not None else None
            if meaning is not None and (meaning.binding.plain or (form == "type" and meaning.binding.target is None)):
                continue
            if self.script and guards:
                guards = _tested(guards, node, meaning is None)
            if meaning is None:
                self._builtin(load, guards)
            else:
                self._bound(load, meaning, guards)

    def _bound(self, load: Load, meaning: Meaning, guards: Guards) -> None:
        """A use of a name that something in the file binds."""
        _, attributes, _, _, _, _, form, keywords, _ = load
        if meaning.binding.same_as is not None:
            meaning, attributes = _followed(meaning, attributes)
        binding = meaning.binding
        if binding.target is not None:
            self.add(load, _imported(meaning, attributes, guards, form, keywords))
        elif not attributes or form == "type":
            return
        elif binding.class_name is not None:  # a class of this file, or what it makes
            self._own(load, binding.class_name, attributes[1:] if attributes[0] == "()" else attributes, guards)
        elif binding.receiver is not None:
            self._own(load, binding.receiver, attributes, guards)
        elif binding.returned:
            self._given(load, binding, guards)
        elif binding.made_by is not None:
            path = instance_path(meaning)
            if path is not None and path.startswith(_OWN):
                self.add(load, Ask(f"{path}.{attributes[0]}", "inherited", guards, keywords))
            elif path is not None:
                shape = form if form in _KEPT_FORMS else "instance"
                self.add(load, Ask(joined(f"{path}()", attributes), shape, guards, keywords))

    def _given(self, load: Load, binding: Binding, guards: Guards) -> None:
        """A member of what a function of this file gives back."""
        _, attributes, _, _, _, _, form, keywords, _ = load
        path = returned_path(binding) if attributes[0] == "()" and len(attributes) > 1 else None
        if path is not None and not path.startswith(_OWN):
            shape = form if form in _KEPT_FORMS else "instance"
            self.add(load, Ask(joined(f"{path}()", attributes[1:]), shape, guards, keywords))

    def _own(self, load: Load, owner: str, attributes: tuple[str, ...], guards: Guards) -> None:
        """A member that a class of this file has or inherits; what was called to get at more stands for itself."""
        made = self.made_members.get((owner, attributes[0])) if len(attributes) > 1 else None
        path = instance_path(Meaning(*made)) if made is not None else None
        if path is not None and not path.startswith(_OWN):
            form = load[6] if load[6] in _KEPT_FORMS else "instance"
            self.add(load, Ask(joined(f"{path}()", attributes[1:]), form, guards, load[7]))
        if attributes and not any(part.endswith("()") for part in attributes):
            self.add(load, Ask(f"{_OWN}{owner}.{attributes[0]}", "inherited", guards, load[7]))

    def path_of(self, name: str, attributes: tuple[str, ...], scope: Scope, position: int) -> str | None:
        """The imported path that a name with members stands for; None when it was not imported."""
        meaning = look_up(name, scope, position)
        if meaning is not None and meaning.binding.same_as is not None:
            meaning, attributes = _followed(meaning, attributes)
        if meaning is None or meaning.binding.target is None:
            return None
        return joined(meaning.binding.target, attributes)

    def _builtin(self, load: Load, guards: Guards) -> None:
        name, attributes, _, _, _, _, form, keywords, _ = load
        if form == "assigned" or (attributes and any(part.endswith("()") for part in attributes)):
            return
        if not self.script:
            self.add(load, Ask(f"{self.builtins}.{name}", "builtin", guards, keywords))
        elif form != "type" and name not in ("this", "super"):
            parts = attributes if name in _GLOBAL_OBJECTS and attributes else (name, *attributes)
            shape = "call" if form == "call" else "builtin"
            self.add(load, Ask(".".join([self.builtins, *parts]), shape, guards, keywords))

    def add(self, load: Load, ask: Ask) -> None:
        """The use at the place where the last part of the path stands."""
        _, attributes, node, root, scope, _, _, _, handed = load
        start = root.start_point
        first, column = start
        row, end = first, node.end_point
        if attributes and end.row != first:
            last = node.child_by_field_name(_MEMBERS.get(node.type, "")) if node.type in _MEMBERS else node
            if last is not None and last.start_point.row != first:
                row, column = last.start_point
                end = last.end_point
        stop = end.column if end.row == row else column + 1
        told = handed is not None and (ask.form != "builtin" or ask.path in _TOLD_BUILTINS)
        written = self.written(handed, lambda name: literal_of(name, scope)) if handed is not None and told else ""
        self.found.add(ask, row + 1, column, stop, scope.qualname, first + 1 if first != row else 0, written)


def _bindings_of(name: str, scope: Scope) -> list[Binding] | None:
    """All bindings of a name in the scope that holds it; None for a builtin or unknown name."""
    current: Scope | None = scope
    while current is not None:
        found = current.bindings.get(name)
        if found is not None and (current is scope or current.kind != "class"):
            return found
        current = current.parent
    return None


def _all_made_here(found: list[Binding]) -> bool:
    """Whether a name stands for nothing from elsewhere, whichever of its bindings counts. So it is for most names."""
    for b in found:  # noqa: SIM110  a generator for each name of each file takes longer than the rest
        if b.target or b.made_by or b.receiver is not None or b.same_as or b.class_name is not None or b.returned:
            return False
    return True


def _followed(meaning: Meaning, attributes: tuple[str, ...]) -> tuple[Meaning, tuple[str, ...]]:
    """Through names that stand for what another name stands for."""
    for _ in range(_MAX_ALIASES):
        same_as = meaning.binding.same_as
        if same_as is None:
            break
        further = look_up(same_as[0], meaning.scope, meaning.binding.position)
        if further is None or further.binding is meaning.binding:
            break
        meaning, attributes = further, (*same_as[1], *attributes)
    return meaning, attributes


def _tested(guards: Guards, node: Node, builtin: bool) -> Guards:
    """Guards of a use: a test of some member guards that member and what is inside it, nothing else."""
    if not any(guard.kind.startswith("feature:") for guard in guards):
        return guards
    kept: list[Guard] = []
    shown = ""
    for guard in guards:
        if not guard.kind.startswith("feature:"):
            kept.append(guard)
            continue
        shown = shown or text(node).replace("?.", ".")
        tested = guard.kind.removeprefix("feature:")
        inside = shown.startswith(f"{tested}.") and (builtin or "." in tested)
        if shown == tested or inside:
            kept.append(Guard("feature", 0))
    return tuple(kept)


def _imported(
    meaning: Meaning, attributes: tuple[str, ...], guards: Guards, form: str, keywords: tuple[str, ...]
) -> Ask:
    binding = meaning.binding
    if not meaning.others and not binding.guards:
        return Ask(joined(binding.target or "", attributes), form, guards, keywords)
    held = (*guards, *(g for g in binding.guards if g not in guards))
    ways = sorted((binding, *meaning.others), key=lambda b: b.position)
    paths = tuple(dict.fromkeys(joined(b.target, attributes) for b in ways if b.target))
    return Ask(paths[0], form, held, keywords, "", paths[1:])


def instance_path(meaning: Meaning, depth: int = 0) -> str | None:
    """What was called to make what the name stands for: an imported path, or a class of the file; None when it is neither, or
    only perhaps."""
    made_by = meaning.binding.made_by
    if made_by is None or depth > _MAX_ALIASES:
        return None
    maker, attributes = look_up(made_by[0], meaning.scope, meaning.binding.position - 1), made_by[1]
    if maker is None or maker.binding is meaning.binding or maker.binding.guards:
        return None
    if maker.binding.same_as is not None:
        maker, attributes = _followed(maker, attributes)
    binding = maker.binding
    if binding.target is not None:
        return joined(binding.target, attributes)
    if binding.class_name is not None:
        return None if attributes else f"{_OWN}{binding.class_name}"
    if binding.returned:
        given = returned_path(binding, depth + 1)
        return (
            given
            if not attributes
            else joined(f"{given}()", attributes[1:])
            if given and attributes[0] == "()"
            else None
        )
    inner = instance_path(maker, depth + 1)
    if inner is None or inner.startswith(_OWN):
        return None
    return joined(f"{inner}()", attributes)


def returned_path(binding: Binding, depth: int = 0) -> str | None:
    """What is called to make what a function gives back; None where its ways differ, or one of them is not known."""
    if depth > _MAX_ALIASES:
        return None
    found = {
        instance_path(_followed(each, ())[0], depth) if each is not None else None for each in binding.returned or ()
    }
    return found.pop() if len(found) == 1 else None


def joined(path: str, attributes: Sequence[str]) -> str:
    """A path with members below it; a member ``()`` is a call of what stands before it."""
    return ".".join([path, *attributes]).replace(".()", "()") if attributes else path
