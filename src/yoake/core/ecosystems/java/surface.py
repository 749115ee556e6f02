"""The surface of a Java platform or library, read from its class files: packages, classes, and the members that others may use.

A method or field stands for a value of its type: what it gives back is kept as its base, so that what is asked of the value is
found. Overloads share one path; the counts of arguments they take are its signature (``/1,/2``, with ``**`` where the last may
be repeated).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import Final

from yoake.core.ecosystems.java.class_file import MODULE, PRIVATE, PROTECTED, PUBLIC, VARARGS, ClassFile, Member
from yoake.core.ecosystems.java.names import package_part
from yoake.core.values.symbols import SurfaceSymbol

CONSTRUCTOR: Final = "<init>"
_ARGUMENT: Final = re.compile(r"\[*(?:[BCDFIJSZ]|L[^;]+;)")


def surface_of(classes: Iterable[ClassFile], exported: frozenset[str] | None = None) -> dict[str, SurfaceSymbol]:
    """All symbols of some class files. ``exported``: packages (with slashes) that others may use; all when None."""
    held = {made.name: made for made in classes if not made.access & MODULE}
    seen = {name: made for name, made in held.items() if exported is None or _package(name) in exported}
    inner = {name: entry for made in seen.values() for name, entry in made.inner.items()}
    symbols: dict[str, SurfaceSymbol] = {}
    for name in sorted(seen):
        path = class_path(name, inner)
        if path is not None:
            symbols.setdefault(path.split(".", 1)[0], SurfaceSymbol(kind="m"))
            _add_class(path, seen[name], seen, inner, symbols)
    return symbols


def _package(name: str) -> str:
    return name.rpartition("/")[0]


def class_path(name: str, inner: Mapping[str, tuple[str, str, int]]) -> str | None:
    """The path of a class by its binary name; None for classes that nobody outside can name."""
    parts: list[str] = []
    at = name
    while at in inner:
        outer, simple, access = inner[at]
        if not outer or not simple or access & PRIVATE:
            return None
        parts.insert(0, simple)
        at = outer
    package, _, top = at.rpartition("/")
    if not package or not top or top == "package-info":
        return None
    return ".".join([package_part(package.replace("/", ".")), top, *parts])


def _add_class(
    path: str,
    made: ClassFile,
    seen: Mapping[str, ClassFile],
    inner: Mapping[str, tuple[str, str, int]],
    symbols: dict[str, SurfaceSymbol],
) -> None:
    above = [name for name in (made.parent, *made.interfaces) if name]
    bases = [base for name in above if (base := class_path(name, inner)) is not None]
    hidden = any(name not in seen and _package(name) == _package(made.name) for name in above)
    symbols[path] = SurfaceSymbol(
        kind="c",
        bases=tuple(bases),
        deprecated=made.deprecated,
        unread=hidden,
        note=_note(made.deprecated, made.removal, made.since),
    )
    for member in made.fields:
        if _usable(member):
            symbols[f"{path}.{member.name}"] = SurfaceSymbol(
                kind="v",
                bases=_value_of(member.descriptor, inner),
                deprecated=member.deprecated,
                note=_note(member.deprecated, member.removal, member.since),
            )
    overloads: dict[str, list[Member]] = {}
    for member in made.methods:
        if _usable(member) and member.name != "<clinit>":
            overloads.setdefault(member.name, []).append(member)
    for name, members in overloads.items():
        symbols[f"{path}.{name}"] = _method(members, inner)


def _usable(member: Member) -> bool:
    return bool(member.access & (PUBLIC | PROTECTED))


def _method(members: list[Member], inner: Mapping[str, tuple[str, str, int]]) -> SurfaceSymbol:
    values = dict.fromkeys(base for m in members for base in _value_of(m.descriptor.rpartition(")")[2], inner))
    gone = [m for m in members if m.deprecated]
    every = len(gone) == len(members)
    accepted = {f"/{arguments(m.descriptor)}" for m in members}
    if any(m.access & VARARGS for m in members):
        accepted.add("**")
    removal = all(m.removal for m in members)
    since = max((m.since for m in members), default="")
    return SurfaceSymbol(
        kind="f",
        bases=tuple(values),
        signature=",".join(sorted(accepted)),
        deprecated=every,
        note=_note(every, removal, since) if every else "",
    )


def arguments(descriptor: str) -> int:
    """How many arguments a method takes."""
    return len(_ARGUMENT.findall(descriptor[1 : descriptor.rindex(")")]))


def _value_of(descriptor: str, inner: Mapping[str, tuple[str, str, int]]) -> tuple[str, ...]:
    """The class of a value, as far as it is one."""
    if not descriptor.startswith("L"):
        return ()
    path = class_path(descriptor[1:-1], inner)
    return (path,) if path is not None else ()


def _note(deprecated: bool, removal: bool, since: str) -> str:
    if not deprecated or not (removal or since):
        return ""
    when = f", deprecated since {since}" if since else ""
    return f"marked for removal{when}" if removal else f"deprecated since {since}"
