"""The surface of a Python package read from its text: modules, names, classes and their members.

Read, never imported. A name counts when any branch at the module's top level binds it. Stubs (``.pyi``) are read with
their own rules of re-export and with version conditions evaluated.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Final

from tree_sitter import Node

from yoake.core.ecosystems.python.tree import dotted, parse, string_value
from yoake.core.ecosystems.python.version_tests import read_test
from yoake.core.syntax.tree import statements, text
from yoake.core.values.symbols import SurfaceSymbol

_STAR_ROUNDS: Final = 6  # star imports of star imports; real packages nest at most 3 deep


@dataclass(slots=True, kw_only=True)
class _Module:
    name: str
    is_package: bool
    names: dict[str, SurfaceSymbol] = field(default_factory=dict)
    stars: list[str] = field(default_factory=list)
    dunder_all: set[str] | None = None
    all_from: list[str] = field(default_factory=list)
    all_open: bool = False
    lazy: set[str] | None = None


def read_package(
    files: Mapping[str, bytes], version: tuple[int, ...] | None = None, *, stubs: bool = False
) -> dict[str, SurfaceSymbol]:
    """Symbols of ``files`` (path inside the package root → text).

    ``version`` evaluates ``sys.version_info`` conditions for that Python line; None keeps every branch.
    """
    modules: dict[str, _Module] = {}
    for path in sorted(files):
        name = module_name(path)
        if name is None or name in modules:
            continue  # the stub beside a module says less than the module; sorted, the module comes first
        is_package = path.rsplit("/", 1)[-1].startswith("__init__.")
        reader = _Reader(_Module(name=name, is_package=is_package), version, stubs or path.endswith(".pyi"))
        reader.block(parse(files[path]).root_node)
        modules[name] = reader.module
    _expand_stars(modules)
    return dict(_flatten(modules))


def module_name(path: str) -> str | None:
    """``a/b/__init__.py`` → ``a.b``; None for what cannot be imported."""
    stem = path.removesuffix(".pyi").removesuffix(".py")
    if stem == path:
        return None
    parts = stem.split("/")
    if parts[-1] == "__init__":
        parts.pop()
    if not parts or not all(part.isidentifier() for part in parts):
        return None
    return ".".join(parts)


def _expand_stars(modules: dict[str, _Module]) -> None:
    for _ in range(_STAR_ROUNDS):
        changed = False
        for module in modules.values():
            for source in dict.fromkeys((*module.stars, *module.all_from)):
                other = modules.get(source)
                if other is None:
                    continue
                if source in module.all_from and other.dunder_all is not None and module.dunder_all is not None:
                    fresh = other.dunder_all - module.dunder_all
                    module.dunder_all |= fresh
                    changed = changed or bool(fresh)
                if source in module.stars and _take_star(module, source, other, modules):
                    changed = True
        if not changed:
            return


def _take_star(module: _Module, source: str, other: _Module, modules: Mapping[str, _Module]) -> bool:
    """Names that ``from source import *`` brings; says whether there were new ones."""
    before = len(module.names)
    for name in other.dunder_all if other.dunder_all is not None else list(other.names):
        public = other.dunder_all is not None or not name.startswith("_")
        if not public or name in module.names:
            continue
        if name in other.names:
            module.names[name] = SurfaceSymbol(kind=other.names[name].kind, alias=f"{source}.{name}")
        elif other.dunder_all is not None and f"{source}.{name}" not in modules:
            module.names[name] = SurfaceSymbol(
                kind="v", alias=f"{source}.{name}", unread=True
            )  # listed, made out of our sight
    return len(module.names) > before


def _open_modules(modules: Mapping[str, _Module]) -> set[str]:
    """Modules that may offer more than what was read: stars from outside or from other open modules, lists made by code."""
    found = {name for name, module in modules.items() if any(star not in modules for star in module.stars)}
    lists = {
        name for name, module in modules.items() if module.all_open or any(x not in modules for x in module.all_from)
    }
    for _ in range(_STAR_ROUNDS):
        grown = {
            name
            for name, module in modules.items()
            for star in module.stars
            if star in lists or (star in found and modules[star].dunder_all is None)
        }
        if grown <= found:
            break
        found |= grown
        lists |= {name for name, m in modules.items() if any(x in lists for x in m.all_from)}
    return found


def _flatten(modules: dict[str, _Module]) -> Iterator[tuple[str, SurfaceSymbol]]:
    open_ones = _open_modules(modules)
    for module in modules.values():
        promised = module.dunder_all is not None and not module.all_open
        unread = module.name in open_ones or (module.lazy is not None and not module.lazy and not promised)
        yield module.name, SurfaceSymbol(kind="m", unread=unread)
        for name, symbol in module.names.items():
            path = f"{module.name}.{name}"
            if path not in modules:
                yield path, symbol
        listed = (module.dunder_all or set()) if module.lazy is not None else set()
        for name in sorted(listed - set(module.names)):
            yield (
                f"{module.name}.{name}",
                SurfaceSymbol(kind="v", unread=True),
            )  # __all__ promises it, __getattr__ brings it
        for name in sorted((module.lazy or set()) - listed):
            if name not in module.names:
                yield f"{module.name}.{name}", SurfaceSymbol(kind="v", deprecated=True, unread=True)


class _Reader:
    """Reads one module's top level into a ``_Module``."""

    def __init__(self, module: _Module, version: tuple[int, ...] | None, stubs: bool) -> None:
        self.module = module
        self.version = version
        self.stubs = stubs

    def block(self, node: Node) -> None:
        for statement in statements(node):
            self.statement(statement)

    def statement(self, node: Node) -> None:
        handler = getattr(self, f"on_{node.type}", None)
        if handler is not None:
            handler(node)

    def resolve(self, path: str) -> str:
        """A dotted use inside this module as an absolute path."""
        head, _, rest = path.partition(".")
        known = self.module.names.get(head)
        base = known.alias if known is not None and known.alias else f"{self.module.name}.{head}"
        if known is None:
            base = head
        return f"{base}.{rest}" if rest else base

    def on_expression_statement(self, node: Node) -> None:
        for child in node.named_children:
            if child.type == "assignment":
                self.assignment(child)
            elif child.type == "augmented_assignment" and text(child.child_by_field_name("left")) == "__all__":
                self.grow_all(child.child_by_field_name("right"))
            elif child.type == "call":
                self.called(child)

    def called(self, node: Node) -> None:
        """``__all__.extend(x)``, ``__all__.append("x")``, and functions of the module that may change the list."""
        function, arguments = node.child_by_field_name("function"), node.child_by_field_name("arguments")
        given = arguments.named_children if arguments is not None else []
        if text(function) in ("__all__.extend", "__all__.append", "__all__.remove"):
            for argument in given:
                value = string_value(argument)
                if value is None:
                    self.grow_all(argument)
                elif text(function) == "__all__.append" and self.module.dunder_all is not None:
                    self.module.dunder_all.add(value)
        elif self.module.dunder_all is not None and "__all__" in text(function):
            self.module.all_open = True
        elif function is not None and function.type == "identifier" and "all" in text(function):
            self.module.all_open = True  # extend_all(other): numpy’s way

    def grow_all(self, node: Node | None) -> None:
        """What is added to ``__all__``: strings, other modules’ lists, or something only running code knows."""
        waiting = [node] if node is not None else []
        while waiting:
            current = waiting.pop()
            path = dotted(current)
            if current.type in ("list", "tuple"):
                self.extend_all(current)
                if any(string_value(child) is None for child in current.named_children):
                    self.module.all_open = True
            elif current.type in ("binary_operator", "parenthesized_expression"):
                waiting.extend(current.named_children)
            elif path is not None and path.endswith(".__all__"):
                self.module.all_from.append(self.resolve(path.removesuffix(".__all__")))
            else:
                self.module.all_open = True

    def assignment(self, node: Node) -> None:
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        if left is None:
            return
        while right is not None and right.type == "assignment":
            self.assignment(right)
            right = right.child_by_field_name("right")
        if text(left) == "__getattr__":
            self.module.lazy = set()  # made by some function: any name may be answered
            return
        if text(left) == "__all__":
            self.module.dunder_all = set()
            if right is not None and right.type in ("list", "tuple"):
                self.extend_all(right)
            else:
                self.grow_all(right)
            return
        if right is None and not self.stubs:
            return  # a bare annotation binds nothing
        targets = [left] if left.type == "identifier" else [c for c in left.named_children if c.type == "identifier"]
        path = dotted(right) if right is not None and left.type == "identifier" else None
        alias = None
        if path and path.split(".")[0] in self.module.names:
            alias = self.resolve(path)
        for target in targets:
            if left.type in ("identifier", "pattern_list", "tuple_pattern"):
                self.module.names[text(target)] = SurfaceSymbol(kind="v", alias=alias, unread=True)

    def extend_all(self, node: Node | None) -> None:
        for child in node.named_children if node is not None else ():
            value = string_value(child)
            if value is not None:
                if self.module.dunder_all is None:
                    self.module.dunder_all = set()
                self.module.dunder_all.add(value)

    def on_type_alias_statement(self, node: Node) -> None:
        left = node.child_by_field_name("left")
        self.module.names[text(left).split("[")[0]] = SurfaceSymbol(kind="v")

    def on_if_statement(self, node: Node) -> None:
        condition = node.child_by_field_name("condition")
        test = read_test(condition)
        asked = text(condition)
        if not self.stubs and asked.endswith("TYPE_CHECKING"):
            live: bool | None = asked.startswith("not ")
        else:
            live = test.holds(self.version) if test is not None and self.version else None
        consequence = node.child_by_field_name("consequence")
        if live is not False and consequence is not None:
            self.block(consequence)
        if live is True:
            return
        for child in node.named_children:
            if child.type == "elif_clause":
                self.on_if_statement_branch(child)
                inner = read_test(child.child_by_field_name("condition"))
                if inner is not None and self.version and inner.holds(self.version):
                    return
            elif child.type == "else_clause":
                body = child.child_by_field_name("body")
                if body is not None:
                    self.block(body)

    def on_if_statement_branch(self, node: Node) -> None:
        test = read_test(node.child_by_field_name("condition"))
        body = node.child_by_field_name("consequence")
        if body is not None and not (test is not None and self.version and not test.holds(self.version)):
            self.block(body)

    def on_try_statement(self, node: Node) -> None:
        for child in node.named_children:
            if child.type == "block":
                self.block(child)
            for inner in child.named_children:
                if inner.type == "block":
                    self.block(inner)

    def on_with_statement(self, node: Node) -> None:
        body = node.child_by_field_name("body")
        if body is not None:
            self.block(body)

    on_for_statement = on_with_statement
    on_while_statement = on_with_statement

    def on_delete_statement(self, node: Node) -> None:
        for child in node.named_children:
            for name in [child, *child.named_children]:
                if name.type == "identifier":
                    self.module.names.pop(text(name), None)

    def on_import_statement(self, node: Node) -> None:
        for child in node.named_children:
            if child.type == "aliased_import":
                path, name = text(child.child_by_field_name("name")), text(child.child_by_field_name("alias"))
                if not self.stubs or path == name:
                    self.module.names[name] = SurfaceSymbol(kind="v", alias=path)
            elif child.type == "dotted_name" and not self.stubs:
                head = text(child).split(".")[0]
                self.module.names[head] = SurfaceSymbol(kind="v", alias=head)

    def on_import_from_statement(self, node: Node) -> None:
        source = self.absolute(node.child_by_field_name("module_name"))
        if any(child.type == "wildcard_import" for child in node.named_children):
            self.module.stars.append(source)
            return
        for child in node.children_by_field_name("name"):
            aliased = child.type == "aliased_import"
            original = text(child.child_by_field_name("name")) if aliased else text(child)
            bound = text(child.child_by_field_name("alias")) if aliased else original
            listed = self.module.dunder_all is not None and bound in self.module.dunder_all
            if self.stubs and not (aliased and bound == original) and not listed and not self._relative(node):
                self.module.names.setdefault(bound, SurfaceSymbol(kind="v", alias=f"{source}.{original}"))
                continue
            self.module.names[bound] = SurfaceSymbol(kind="v", alias=f"{source}.{original}")

    @staticmethod
    def _relative(node: Node) -> bool:
        return text(node.child_by_field_name("module_name")).startswith(".")

    def absolute(self, node: Node | None) -> str:
        """The absolute path of an imported module, relative dots resolved."""
        path = text(node)
        if not path.startswith("."):
            return path
        level = len(path) - len(path.lstrip("."))
        parts = self.module.name.split(".")
        keep = len(parts) - level + (1 if self.module.is_package else 0)
        return ".".join([*parts[: max(keep, 0)], *filter(None, [path.lstrip(".")])])

    def on_decorated_definition(self, node: Node) -> None:
        definition = node.child_by_field_name("definition")
        if definition is not None:
            marked = any("deprecated" in text(d)[:60].lower() for d in node.named_children if d.type == "decorator")
            self.statement(definition)
            if marked:
                name = text(definition.child_by_field_name("name"))
                known = self.module.names.get(name)
                if known is not None and not (self.stubs and "overload" in text(node)[:200]):
                    known.deprecated = True

    def on_function_definition(self, node: Node) -> None:
        name = text(node.child_by_field_name("name"))
        if name == "__getattr__":
            shown = text(node)
            looks_up = any(sign in shown for sign in ("import_module", "[name]", "[attr]", ".get(", "__import__"))
            self.module.lazy = set() if looks_up else _strings_in(node)
            return
        self.module.names[name] = SurfaceSymbol(
            kind="f", alias=None, bases=(), signature=signature(node), deprecated=body_warns(node)
        )

    def on_class_definition(self, node: Node) -> None:
        self.read_class(node, "")

    def read_class(self, node: Node, prefix: str) -> None:
        """A class, its bases and members, under ``prefix`` (``Outer.`` for a nested class)."""
        name = prefix + text(node.child_by_field_name("name"))
        arguments = node.child_by_field_name("superclasses")
        bases = []
        for argument in arguments.named_children if arguments is not None else ():
            generic = argument.type == "subscript"  # Generic[T] stands for Generic
            path = dotted(argument.child_by_field_name("value") if generic else argument)
            if path and path != "object":
                bases.append(self.resolve(path))
            elif argument.type == "call":
                bases.append(f"{self.module.name}.?")
        symbol = SurfaceSymbol(kind="c", alias=None, bases=tuple(bases))
        self.module.names[name] = symbol
        body = node.child_by_field_name("body")
        if body is not None:
            self.members(body, name, symbol)

    def members(self, body: Node, owner: str, symbol: SurfaceSymbol) -> None:
        for statement in statements(body):
            decorated = statement.type == "decorated_definition"
            inner = statement.child_by_field_name("definition") if decorated else statement
            if inner is None:
                continue
            marked = decorated and "deprecated(" in text(statement)[:80]
            if inner.type == "function_definition":
                self.method(inner, owner, symbol, marked)
            elif inner.type == "class_definition":
                self.read_class(inner, f"{owner}.")
            elif inner.type == "expression_statement":
                self.class_values(inner, owner)
            elif inner.type == "if_statement":
                self.class_if(inner, owner, symbol)

    def class_if(self, node: Node, owner: str, symbol: SurfaceSymbol) -> None:
        test = read_test(node.child_by_field_name("condition"))
        live = test.holds(self.version) if test is not None and self.version else None
        consequence = node.child_by_field_name("consequence")
        if consequence is not None and live is not False:
            self.members(consequence, owner, symbol)
        for child in node.named_children:
            if child.type in ("else_clause", "elif_clause") and live is not True:
                body = child.child_by_field_name("body") or child.child_by_field_name("consequence")
                if body is not None:
                    self.members(body, owner, symbol)

    def method(self, node: Node, owner: str, symbol: SurfaceSymbol, marked: bool) -> None:
        name = text(node.child_by_field_name("name"))
        warned = marked or body_warns(node)
        shape = signature(node)
        if name in ("__init__", "__new__"):
            symbol.signature = shape
            symbol.deprecated = symbol.deprecated or body_warns(node)
        elif name == "__getattr__":
            symbol.unread = True
        if not name.startswith("__"):
            self.module.names[f"{owner}.{name}"] = SurfaceSymbol(
                kind="f", alias=None, bases=(), signature=shape, deprecated=warned
            )
        for attribute in _own_attributes(node):
            self.module.names.setdefault(f"{owner}.{attribute}", SurfaceSymbol(kind="v", unread=True))

    def class_values(self, node: Node, owner: str) -> None:
        for child in node.named_children:
            left = child.child_by_field_name("left") if child.type == "assignment" else None
            if left is not None and left.type == "identifier":
                right = child.child_by_field_name("right")
                local = f"{owner}.{text(right)}" if right is not None and right.type == "identifier" else ""
                alias = f"{self.module.name}.{local}" if local in self.module.names else None
                name = f"{owner}.{text(left)}"
                self.module.names[name] = SurfaceSymbol(kind="v", alias=alias, unread=True)


def _own_attributes(function: Node) -> Iterator[str]:
    """``self.x = …`` (``cls.x`` in a class method) anywhere in a method."""
    stack = [function.child_by_field_name("body")]
    while stack:
        node = stack.pop()
        if node is None:
            continue
        if node.type == "assignment":
            left = node.child_by_field_name("left")
            if (
                left is not None
                and left.type == "attribute"
                and text(left.child_by_field_name("object")) in ("self", "cls")
            ):
                yield text(left.child_by_field_name("attribute"))
        stack.extend(child for child in node.named_children if child.type not in ("call", "string", "lambda"))


def signature(function: Node) -> str:
    """Parameters as ``a,b,*args,*,key,**kw``; ``/name`` is positional only."""
    parts: list[str] = []
    parameters = function.child_by_field_name("parameters")
    for node in parameters.named_children if parameters is not None else ():
        if node.type == "positional_separator":
            parts = [f"/{part}" for part in parts]
            continue
        if node.type == "keyword_separator":
            parts.append("*")
            continue
        target = node.child_by_field_name("name") or (node.named_children[0] if node.named_children else node)
        if node.type in ("list_splat_pattern", "dictionary_splat_pattern"):
            target = node
        shown = text(target if node.type != "identifier" else node).replace(" ", "")
        if node.type != "comment":
            parts.append(shown)
    return ",".join(parts)


def body_warns(function: Node) -> bool:
    """Whether a function warns of its own removal whatever its arguments: a statement at its first level."""
    body = function.child_by_field_name("body")
    for statement in statements(body) if body is not None else ():
        if statement.type != "expression_statement" or not statement.named_children:
            continue
        call = statement.named_children[0]
        if call.type == "call" and text(call.child_by_field_name("function")).endswith(("warn", "_deprecated")):
            shown = text(call.child_by_field_name("arguments"))
            if "DeprecationWarning" in shown or "RemovedIn" in shown or "Deprecated" in shown:
                return True
    return False


def _strings_in(function: Node) -> set[str]:
    """Identifiers that stand as strings in a module's ``__getattr__``: what it may answer to."""
    found: set[str] = set()
    stack = [function]
    while stack:
        node = stack.pop()
        if node.type == "comparison_operator":
            found.update(v for v in map(string_value, node.named_children) if v and v.isidentifier())
        stack.extend(node.named_children)
    return found
