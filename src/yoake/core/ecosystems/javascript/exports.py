"""What a JavaScript file offers to the others of its project, in both module systems."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence

from tree_sitter import Node

from yoake.core.ecosystems.javascript.tree import member_chain, required
from yoake.core.syntax.loads import instance_path, joined, returned_path
from yoake.core.syntax.scopes import Binding, MadeBy, Meaning, Scope, look_up
from yoake.core.syntax.tree import text

WHOLE = "="
"""The export that stands for the module itself: ``module.exports = …``."""


class Exports:
    """Collects exports; what they stand for is resolved at the end, when every binding is known."""

    def __init__(self, module: Scope, maker: Callable[[Node], MadeBy | None], functions: Mapping[int, Binding]) -> None:
        self.module = module
        self._functions = functions
        self._maker = maker
        self.stars: list[str] = []
        self._paths: dict[str, str] = {}
        self._values: dict[str, tuple[Node, Scope]] = {}
        self._names: dict[str, tuple[str, Scope, int]] = {}
        self._ends: dict[int, Node] = {}

    def reexport(self, node: Node, part: str) -> Iterator[tuple[str, Node]]:
        """(path, where) of each name in ``export … from``."""
        for child in node.named_children:
            if child.type == "export_clause":
                for specifier in child.named_children:
                    name = specifier.child_by_field_name("name")
                    if specifier.type != "export_specifier" or name is None:
                        continue
                    shown = text(specifier.child_by_field_name("alias") or name)
                    path = f"{part}.{text(name)}"
                    self._paths[shown] = path
                    yield path, name
                return
            if child.type == "namespace_export":
                self._paths[text(child.named_children[0])] = part
                return
        self.stars.append(part)

    def statement(self, node: Node, scope: Scope) -> None:
        """``export const a``, ``export { a as b }``, ``export default x``."""
        value = node.child_by_field_name("value")
        declaration = node.child_by_field_name("declaration")
        if value is not None:
            self._values["default"] = (value, scope)
        elif declaration is not None:
            default = any(child.type == "default" for child in node.children)
            for declared in _declared(declaration):
                shown = "default" if default else declared
                self._paths[shown] = ""
                self._names[shown] = (declared, scope, node.end_byte)
        for clause in node.named_children:
            for specifier in clause.named_children if clause.type == "export_clause" else ():
                name = specifier.child_by_field_name("name")
                if name is not None:
                    self._values[text(specifier.child_by_field_name("alias") or name)] = (name, scope)

    @staticmethod
    def is_target(left: Node) -> bool:
        """Whether an assignment sets an export: ``module.exports``, ``module.exports.x``, ``exports.x``, ``exports``."""
        shown = text(left)
        return shown == "exports" or shown.startswith(("module.exports", "exports."))

    def assignment(self, left: Node, right: Node, scope: Scope) -> None:
        """Note what is exported by an assignment."""
        passed: list[int] = []
        while right.type == "assignment_expression":
            if right.id in self._ends:  # of ``a = b = c = …`` all is known that was seen from its first
                right = self._ends[right.id]
                break
            inner = right.child_by_field_name("right")
            if inner is None:
                return
            passed.append(right.id)
            right = inner
        self._ends.update(dict.fromkeys(passed, right))
        shown = text(left)
        name = shown.removeprefix("module.").removeprefix("exports").removeprefix(".")
        if name and "." not in name and "[" not in name:
            self._values[name] = (right, scope)
        elif not name:
            self._whole(right, scope)

    def _whole(self, right: Node, scope: Scope) -> None:
        if right.type != "object":
            self._values[WHOLE] = (right, scope)
            return
        self._paths[WHOLE] = ""
        for child in right.named_children:
            if child.type == "shorthand_property_identifier":
                self._values[text(child)] = (child, scope)
            elif child.type == "pair":
                key, value = child.child_by_field_name("key"), child.child_by_field_name("value")
                if key is not None and value is not None:
                    self._values[text(key).strip("'\"")] = (value, scope)
            elif child.type == "method_definition":
                self._paths[text(child.child_by_field_name("name"))] = ""
            elif child.type == "spread_element" and child.named_children:
                source = required(child.named_children[0])
                if source is not None:
                    self.stars.append(source[0])

    def found(self) -> dict[str, tuple[str, ...]]:
        """Exported name → the path it stands for; "" for a definition of its own."""
        resolved: dict[str, tuple[str, ...]] = {name: (path,) for name, path in self._paths.items()}
        for name, (declared, scope, position) in self._names.items():
            meaning = look_up(declared, scope, position)
            resolved[name] = (_made(meaning, []) if meaning is not None else "",)
            resolved |= _given_back(name, meaning.binding if meaning is not None else None)
        for name, (value, scope) in self._values.items():
            resolved[name] = (self._path(value, scope),)
            resolved |= _given_back(name, self._function(value, scope))
        return resolved

    def _function(self, value: Node, scope: Scope) -> Binding | None:
        """The function of this file that is exported, by its name or as it is written."""
        if value.type not in ("identifier", "shorthand_property_identifier"):
            return self._functions.get(value.id)
        meaning = look_up(text(value), scope, value.start_byte)
        return meaning.binding if meaning is not None else None

    def _path(self, value: Node, scope: Scope) -> str:
        if value.type == "shorthand_property_identifier":
            root, names = value, list[str]()
        else:
            found = member_chain(value)
            made_by = self._maker(value) if required(value) is None else None
            if made_by is not None:
                return _made(
                    Meaning(Binding(position=value.end_byte, target=None, guards=(), made_by=made_by), scope), []
                )
            if found is None:
                return ""
            root, names = found
        source = required(root)
        if source is not None:
            return ".".join([source[0], *names])
        meaning = look_up(text(root), scope, value.start_byte)
        for _ in range(4):  # an alias of an alias of an alias
            if meaning is None:
                return ""
            binding = meaning.binding
            if binding.target is not None:
                return ".".join([binding.target, *names])
            if binding.same_as is None:
                return _made(meaning, names)
            names = [*binding.same_as[1], *names]
            meaning = look_up(binding.same_as[0], meaning.scope, binding.position)
        return ""


def _given_back(name: str, binding: Binding | None) -> dict[str, tuple[str, ...]]:
    """``make()`` → what an imported function or class made, for a function that gives it back."""
    path = returned_path(binding) if binding is not None and binding.returned and not binding.guards else None
    return {f"{name}()": (f"{path}()",)} if path is not None and not path.startswith("self:") else {}


def _made(meaning: Meaning, names: Sequence[str]) -> str:
    """``express.Router()`` for what an imported function or class made; else nothing."""
    binding = meaning.binding
    path = instance_path(meaning) if binding.made_by is not None and not binding.guards else None
    return joined(f"{path}()", names) if path is not None and not path.startswith("self:") else ""


def _declared(node: Node) -> Iterator[str]:
    """Names that a declaration makes."""
    name = node.child_by_field_name("name")
    if name is not None and name.type in ("identifier", "type_identifier"):
        yield text(name)
        return
    waiting = [c.child_by_field_name("name") for c in node.named_children if c.type == "variable_declarator"]
    held = [n for n in waiting if n is not None]
    while held:
        current = held.pop()
        if current.type in ("identifier", "shorthand_property_identifier_pattern"):
            yield text(current)
        else:
            held.extend(c for c in current.named_children if c.type != "property_identifier")
