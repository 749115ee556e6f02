"""One walk over a syntax tree in source order, with an explicit stack so that depth costs no recursion.

Every node of every file passes through here, so it does little for each: nodes that share a scope and guards lie bare on
the stack, and only a change of either is noted. What a kind of node means is looked up by its number in the grammar.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, Final

from tree_sitter import Node

from yoake.core.syntax.scopes import Binding, MadeBy, Scope, look_up
from yoake.core.values.facts import Ask, Gathering, Guard

if TYPE_CHECKING:
    from yoake.core.syntax.loads import Load, MadeMembers

Guards = tuple[Guard, ...]
Handler = Callable[[Any, Node, Scope, Guards], None]
Region = tuple[list[Node] | None, Scope, Guards]
"""Nodes under another scope or other guards; without nodes it is the way back."""

_DESCEND: Final = 0
_SKIP: Final = 1
_UNKNOWN: Final = 2
_NAME: Final = 3


class Kinds:
    """What to do with each kind of node of one grammar: a handler, a load of a name, nothing, or on to its children."""

    def __init__(self, walk: type, nothing: Iterable[str], names: Iterable[str]) -> None:
        self._handlers: Mapping[str, Handler] = {
            name.removeprefix("on_"): getattr(walk, name) for name in dir(walk) if name.startswith("on_")
        }
        self._plain = {**dict.fromkeys(nothing, _SKIP), **dict.fromkeys(names, _NAME)}
        self.known: dict[int, Any] = {}

    def learn(self, node: Node) -> Any:
        """Remember what the kind of ``node`` stands for. Numbers differ between grammars, names do not."""
        kind = node.type
        action = self._handlers.get(kind, self._plain.get(kind, _DESCEND))
        self.known[node.kind_id] = action
        return action


class Walk:
    """The stack, and what every reader collects: uses found at once, and loads to be resolved when all is seen."""

    def __init__(self, root: Node, module: Scope, kinds: Kinds) -> None:
        self.module = module
        self.kinds = kinds
        self.scope = module
        self.guards: Guards = ()
        self.stack: list[Node | Region] = [root]
        self.found = Gathering()
        self.loads: list[Load] = []
        self.members: dict[str, set[str]] = {}
        self.made_members: MadeMembers = {}
        self.groups = 0

    def run(self) -> None:
        """Visit every node once."""
        stack, kinds, known, loads = self.stack, self.kinds, self.kinds.known, self.loads
        scope, guards = self.scope, self.guards
        while stack:
            node = stack.pop()
            if isinstance(node, tuple):
                nodes, inner, held = node
                if nodes is not None:
                    stack.append((None, scope, guards))
                    nodes.reverse()
                    stack += nodes
                self.scope, self.guards = scope, guards = inner, held
                continue
            action = known.get(node.kind_id, _UNKNOWN)
            if action is _UNKNOWN:
                action = kinds.learn(node)
            if action is _DESCEND:
                inside = self.children(node)
                inside.reverse()
                stack += inside
            elif action is _NAME:
                loads.append(
                    ((node.text or b"").decode("utf-8", "replace"), (), node, node, scope, guards, "name", (), None)
                )
            elif action is not _SKIP:
                action(self, node, scope, guards)

    def children(self, node: Node) -> list[Node]:
        """The nodes inside a node that has no handler; a new list."""
        return node.named_children

    def push(self, nodes: list[Node], scope: Scope, guards: Guards) -> None:
        """Visit ``nodes`` next, in their order."""
        if scope is self.scope and guards is self.guards:
            self.stack += nodes[::-1]
        elif nodes:
            self.stack.append((nodes[:], scope, guards))

    def push_one(self, node: Node | None, scope: Scope, guards: Guards) -> None:
        """Visit one node next, if there is one."""
        if node is None:
            return
        if scope is self.scope and guards is self.guards:
            self.stack.append(node)
        else:
            self.stack.append(([node], scope, guards))

    def new_group(self) -> int:
        """A number for the next statement that guards something."""
        self.groups += 1
        return self.groups

    def note_own_member(self, root: str, names: Sequence[str], scope: Scope, position: int) -> None:
        """``self.x = …`` or ``this.x = …``: a member that the class around it has."""
        if len(names) != 1:
            return
        meaning = look_up(root, scope, position)
        if meaning is not None and meaning.binding.receiver is not None:
            self.members.setdefault(meaning.binding.receiver, set()).add(names[0])

    def note_made_member(self, root: str, name: str, scope: Scope, position: int, made_by: MadeBy) -> None:
        """``self.x = lib.load()``: what a member of the class around it stands for, where all that is put there says the same."""
        meaning = look_up(root, scope, position)
        owner = meaning.binding.receiver if meaning is not None else None
        if owner is None or made_by[0] == root:
            return
        made = Binding(position=position, target=None, guards=(), made_by=made_by)
        held = self.made_members.get((owner, name))
        same = held is None or held[0].made_by == made_by
        self.made_members[owner, name] = (made if same else Binding(position=position), scope)

    def use_at(self, node: Node, ask: Ask, scope: Scope, whole: Node | None = None) -> None:
        """A use where ``node`` stands; ``whole`` is the statement it is part of."""
        row, column = node.start_point
        last, stop = node.end_point
        first = whole.start_point.row if whole is not None else row
        end = stop if last == row else column + 1
        self.found.add(ask, row + 1, column, end, scope.qualname, first + 1 if first != row else 0)
