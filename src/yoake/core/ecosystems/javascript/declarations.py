"""TypeScript declaration files → what a module offers: names, members of classes, namespaces, re-exports."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Final

from tree_sitter import Node

from yoake.core.ecosystems.javascript.tree import literal, member_chain, parse_script
from yoake.core.syntax.tree import text
from yoake.core.values.symbols import SurfaceSymbol

_KINDS: Final = {
    "function_signature": "f",
    "function_declaration": "f",
    "generator_function_declaration": "f",
    "class_declaration": "c",
    "abstract_class_declaration": "c",
    "interface_declaration": "t",
    "type_alias_declaration": "t",
    "enum_declaration": "c",
    "internal_module": "v",
    "module": "v",
}
_MEMBERS: Final = frozenset(
    (
        "method_signature",
        "public_field_definition",
        "property_signature",
        "method_definition",
        "abstract_method_signature",
    )
)
_DEPRECATED: Final = re.compile(r"@deprecated\b[ \t]*([^\n*@]*)")
_MAX_NOTE: Final = 160


@dataclass(slots=True)
class Declared:
    """One declared name: what it is, and the names inside it."""

    symbol: SurfaceSymbol
    inner: dict[str, Declared] = field(default_factory=dict)
    members: dict[str, SurfaceSymbol] = field(default_factory=dict)
    base: str = ""


@dataclass(slots=True, kw_only=True)
class Declarations:
    """One file. ``exports``: name → (specifier, name there) or ("", local name); ``whole`` is what ``export =`` names."""

    local: dict[str, Declared] = field(default_factory=dict)
    imports: dict[str, tuple[str, str]] = field(default_factory=dict)
    exports: dict[str, tuple[str, str]] = field(default_factory=dict)
    stars: list[str] = field(default_factory=list)
    whole: str = ""
    is_module: bool = False


def read_declarations(source: bytes, grammar: str = "typescript") -> Declarations:
    """Everything one declaration file declares and exports."""
    made = Declarations()
    _block(list(parse_script(source, grammar).root_node.named_children), made, made.local, exported=False)
    return made


def _block(nodes: list[Node], file: Declarations, into: dict[str, Declared], *, exported: bool) -> None:
    comment = ""
    for node in nodes:
        kind = node.type
        if kind == "comment":
            comment = text(node)
            continue
        if kind == "import_statement":
            _import(node, file)
        elif kind == "export_statement":
            _export(node, file, into, comment)
        elif kind in ("ambient_declaration", "expression_statement"):
            _block(node.named_children, file, into, exported=exported)
        else:
            for name, declared in _declared(node, file, comment):
                _put(into, name, declared)
        comment = ""


def _put(into: dict[str, Declared], name: str, declared: Declared) -> None:
    """Declarations of one name are put together: a function and its namespace, an interface and its variable."""
    known = into.get(name)
    if known is None:
        into[name] = declared
        return
    known.inner.update(declared.inner)
    known.members.update(declared.members)
    known.base = known.base or declared.base
    if known.symbol.kind in "tv" and declared.symbol.kind != "t":
        known.symbol.kind = declared.symbol.kind
    known.symbol.deprecated = known.symbol.deprecated and declared.symbol.deprecated


def _symbol(kind: str, comment: str) -> SurfaceSymbol:
    found = _DEPRECATED.search(comment)
    return SurfaceSymbol(
        kind=kind, deprecated=found is not None, note=found.group(1).strip()[:_MAX_NOTE] if found else ""
    )


def _declared(node: Node, file: Declarations, comment: str) -> Iterator[tuple[str, Declared]]:
    kind = node.type
    if kind in ("lexical_declaration", "variable_declaration"):
        for child in node.named_children:
            name = child.child_by_field_name("name")
            if child.type == "variable_declarator" and name is not None:
                yield text(name), Declared(_symbol("v", comment))
        return
    name = node.child_by_field_name("name")
    if kind not in _KINDS or name is None or name.type == "string":
        return
    made = Declared(_symbol(_KINDS[kind], comment))
    body = node.child_by_field_name("body")
    if kind in ("internal_module", "module"):
        inner = Declarations() if body is not None else None
        if body is not None and inner is not None:
            _block(body.named_children, inner, inner.local, exported=True)
            made.inner = inner.local
    elif kind == "enum_declaration":
        names = body.named_children if body is not None else []
        made.inner = {text(c): Declared(_symbol("v", "")) for c in names if c.type == "property_identifier"}
    elif body is not None:
        _members(body, made)
        made.base = _base(node)
    outer, *rest = text(name).split(".")
    for part in reversed(rest):  # namespace a.b { … }
        made = Declared(_symbol("v", ""), {part: made})
    yield outer, made


def _members(body: Node, made: Declared) -> None:
    comment = ""
    for child in body.named_children:
        if child.type == "comment":
            comment = text(child)
            continue
        name = child.child_by_field_name("name")
        words = {c.type if not c.is_named else text(c) for c in child.children[:4]}
        hidden = "private" in words or (
            name is not None and name.type in ("private_property_identifier", "computed_property_name")
        )
        if child.type in _MEMBERS and name is not None and not hidden and text(name) != "constructor":
            symbol = _symbol("f" if "method" in child.type else "v", comment)
            shown = text(name).strip("'\"")
            if "static" in words:
                made.inner[shown] = Declared(symbol)
            elif "." not in shown:
                made.members[shown] = symbol
        comment = ""


def _base(node: Node) -> str:
    for child in node.named_children:
        if child.type == "class_heritage":
            clause = next((c for c in child.named_children if c.type == "extends_clause"), None)
            value = clause.child_by_field_name("value") if clause is not None else None
            return text(value).split("<", 1)[0] if value is not None else ""
    return ""


def _import(node: Node, file: Declarations) -> None:
    file.is_module = True
    source = literal(node.child_by_field_name("source"))
    for clause in node.named_children:
        if clause.type == "import_require_clause":
            names = [text(c) for c in clause.named_children if c.type == "identifier"]
            file.imports.update({name: (literal(clause.child_by_field_name("source")) or "", "*") for name in names})
        for child in clause.named_children if clause.type == "import_clause" and source else ():
            if child.type == "identifier":
                file.imports[text(child)] = (source or "", "default")
            elif child.type == "namespace_import" and child.named_children:
                file.imports[text(child.named_children[0])] = (source or "", "*")
            for specifier in child.named_children if child.type == "named_imports" else ():
                name = specifier.child_by_field_name("name")
                alias = specifier.child_by_field_name("alias") or name
                file.imports[text(alias)] = (source or "", text(name))


def _export(node: Node, file: Declarations, into: dict[str, Declared], comment: str) -> None:
    file.is_module = True
    source = literal(node.child_by_field_name("source"))
    declaration = node.child_by_field_name("declaration")
    default = any(child.type == "default" for child in node.children)
    if declaration is not None:
        inner = declaration.named_children if declaration.type == "ambient_declaration" else [declaration]
        for part in inner:
            for name, declared in _declared(part, file, comment):
                _put(into, name, declared)
                file.exports["default" if default else name] = ("", name)
        return
    value = node.child_by_field_name("value")
    if value is not None:
        found = member_chain(value)
        name = ".".join([text(found[0]), *found[1]]) if found else ""
        if name not in into:
            into.setdefault("default", Declared(_symbol("v", comment)))
        file.exports["default"] = ("", name if name in into or name in file.imports else "default")
        return
    if any(child.type == "=" for child in node.children):
        file.whole = text(node.named_children[-1]) if node.named_children else ""
        return
    _export_names(node, file, source)


def _export_names(node: Node, file: Declarations, source: str | None) -> None:
    for child in node.named_children:
        if child.type == "export_clause":
            for specifier in child.named_children:
                name = specifier.child_by_field_name("name")
                if specifier.type == "export_specifier" and name is not None:
                    shown = text(specifier.child_by_field_name("alias") or name)
                    file.exports[shown] = (source or "", text(name))
            return
        if child.type == "namespace_export" and child.named_children:
            file.exports[text(child.named_children[0])] = (source or "", "*")
            return
    if source:
        file.stars.append(source)
