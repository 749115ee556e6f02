"""Class files → what they declare, after chapter 4 of the virtual machine specification. Nothing is run; bad bytes are refused.

The signature files of a JDK's own archive have the same format without code.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass, field
from typing import Final

MAGIC: Final = 0xCAFEBABE
PUBLIC: Final = 0x0001
PRIVATE: Final = 0x0002
PROTECTED: Final = 0x0004
STATIC: Final = 0x0008
VARARGS: Final = 0x0080
INTERFACE: Final = 0x0200
SYNTHETIC: Final = 0x1000
MODULE: Final = 0x8000

_UTF8, _INTEGER, _CLASS, _STRING, _NAME_AND_TYPE, _MODULE, _PACKAGE = 1, 3, 7, 8, 12, 19, 20
_MEMBERS: Final = (9, 10, 11)
_WIDTHS: Final = {
    3: 4,
    4: 4,
    5: 8,
    6: 8,
    7: 2,
    8: 2,
    9: 4,
    10: 4,
    11: 4,
    12: 4,
    15: 3,
    16: 2,
    17: 4,
    18: 4,
    19: 2,
    20: 2,
}
_TWO_SLOTS: Final = (5, 6)
_NAMED: Final = (_CLASS, _STRING, _MODULE, _PACKAGE)
_DEPRECATED: Final = "Ljava/lang/Deprecated;"


@dataclass(frozen=True, slots=True, kw_only=True)
class Member:
    """A field or method. ``descriptor`` as the specification writes it; ``removal``: marked for removal, ``since`` when it warns."""

    name: str
    descriptor: str
    access: int
    deprecated: bool = False
    removal: bool = False
    since: str = ""


@dataclass(slots=True, kw_only=True)
class ClassFile:
    """One class. ``name``, ``parent`` and ``interfaces`` are binary names with slashes. ``inner``: binary name of a class inside →
    (binary name of its outer class, simple name, access). ``exports``: of a module, packages (with slashes) it exports to
    everybody. ``references``: (class, member, descriptor) that its code refers to, ``classes`` those it names. ``major``: the
    version of its format, 52 for Java 8.
    """

    name: str
    access: int
    parent: str = ""
    interfaces: tuple[str, ...] = ()
    fields: list[Member] = field(default_factory=list)
    methods: list[Member] = field(default_factory=list)
    deprecated: bool = False
    removal: bool = False
    since: str = ""
    inner: dict[str, tuple[str, str, int]] = field(default_factory=dict)
    exports: tuple[str, ...] = ()
    references: tuple[tuple[str, str, str], ...] = ()
    classes: tuple[str, ...] = ()
    major: int = 0


class BadClassFile(ValueError):
    """Bytes that are no class file."""


class _Reader:
    """Big-endian numbers from bytes."""

    def __init__(self, data: bytes) -> None:
        self.data = data
        self.at = 0

    def u1(self) -> int:
        self.at += 1
        return self.data[self.at - 1]

    def u2(self) -> int:
        self.at += 2
        return (self.data[self.at - 2] << 8) | self.data[self.at - 1]

    def u4(self) -> int:
        self.at += 4
        return int.from_bytes(self.data[self.at - 4 : self.at], "big")

    def skip(self, count: int) -> None:
        self.at += count
        if self.at > len(self.data):
            raise BadClassFile("it ends too early")


def _text(data: bytes) -> str:
    """Text as class files write it: a zero takes two bytes, and what lies beyond the basic plane two groups of three."""
    return data.replace(b"\xc0\x80", b"\0").decode("utf-8", "replace")


class _Constants:
    """The constant pool: texts, and what refers to them."""

    def __init__(self, reader: _Reader) -> None:
        count = reader.u2()
        self.texts: dict[int, str] = {}
        self.named: dict[int, int] = {}
        self.kinds: dict[int, int] = {}
        self.pairs: dict[int, tuple[int, int]] = {}
        self.integers: dict[int, int] = {}
        number = 1
        while number < count:
            kind = reader.u1()
            self.kinds[number] = kind
            if kind == _UTF8:
                length = reader.u2()
                start = reader.at
                reader.skip(length)
                self.texts[number] = _text(reader.data[start : start + length])
            elif kind in _NAMED:
                self.named[number] = reader.u2()
            elif kind == _INTEGER:
                self.integers[number] = reader.u4()
            elif kind in (*_MEMBERS, _NAME_AND_TYPE):
                self.pairs[number] = (reader.u2(), reader.u2())
            elif kind in _WIDTHS:
                reader.skip(_WIDTHS[kind])
            else:
                raise BadClassFile(f"it has a constant of unknown kind {kind}")
            number += 2 if kind in _TWO_SLOTS else 1

    def text(self, number: int) -> str:
        """The text a number stands for; empty for none."""
        return self.texts.get(number, "")

    def name(self, number: int) -> str:
        """The name of a class, module or package."""
        return self.text(self.named.get(number, 0))

    def references(self) -> tuple[tuple[str, str, str], ...]:
        """(class, member, descriptor) of every member that code refers to."""
        found = []
        for number, kind in self.kinds.items():
            if kind in _MEMBERS:
                owner, both = self.pairs[number]
                name, descriptor = self.pairs.get(both, (0, 0))
                found.append((self.name(owner), self.text(name), self.text(descriptor)))
        return tuple(found)

    def classes(self) -> tuple[str, ...]:
        """Names of every class that is referred to."""
        return tuple(self.name(number) for number, kind in self.kinds.items() if kind == _CLASS)


@dataclass(slots=True)
class _Marks:
    deprecated: bool = False
    removal: bool = False
    since: str = ""
    synthetic: bool = False


def read_class(data: bytes, *, references: bool = False) -> ClassFile:
    """The declarations of one class file; ``references``: also what its code refers to. Raises BadClassFile."""
    try:
        return _read(data, references=references)
    except (IndexError, struct.error, UnicodeDecodeError) as error:
        raise BadClassFile("it ends too early or holds text that is none") from error


def _read(data: bytes, *, references: bool) -> ClassFile:
    reader = _Reader(data)
    if reader.u4() != MAGIC:
        raise BadClassFile("it does not begin as class files do")
    reader.u2()
    major = reader.u2()
    constants = _Constants(reader)
    access, name, parent = reader.u2(), constants.name(reader.u2()), constants.name(reader.u2())
    interfaces = tuple(constants.name(reader.u2()) for _ in range(reader.u2()))
    made = ClassFile(name=name, access=access, parent=parent, interfaces=interfaces, major=major)
    made.fields = _members(reader, constants)
    made.methods = _members(reader, constants)
    marks = _Marks()
    for _ in range(reader.u2()):
        kind, length = constants.text(reader.u2()), reader.u4()
        end = reader.at + length
        if kind == "InnerClasses":
            for _ in range(reader.u2()):
                inner, outer = constants.name(reader.u2()), constants.name(reader.u2())
                simple, flags = constants.text(reader.u2()), reader.u2()
                made.inner[inner] = (outer, simple, flags)
        elif kind == "Module":
            made.exports = _exports(reader, constants)
        else:
            _mark(kind, reader, constants, marks)
        reader.at = end
    made.deprecated, made.removal, made.since = marks.deprecated, marks.removal, marks.since
    if references:
        made.references, made.classes = constants.references(), constants.classes()
    return made


def _members(reader: _Reader, constants: _Constants) -> list[Member]:
    found = []
    for _ in range(reader.u2()):
        access, name, descriptor = reader.u2(), constants.text(reader.u2()), constants.text(reader.u2())
        marks = _Marks()
        for _ in range(reader.u2()):
            kind, length = constants.text(reader.u2()), reader.u4()
            end = reader.at + length
            _mark(kind, reader, constants, marks)
            reader.at = end
        if not access & SYNTHETIC:
            found.append(
                Member(
                    name=name,
                    descriptor=descriptor,
                    access=access,
                    deprecated=marks.deprecated,
                    removal=marks.removal,
                    since=marks.since,
                )
            )
    return found


def _mark(kind: str, reader: _Reader, constants: _Constants, marks: _Marks) -> None:
    """Deprecation, as the old attribute and as the annotation with its values."""
    if kind == "Deprecated":
        marks.deprecated = True
    elif kind == "RuntimeVisibleAnnotations":
        for _ in range(reader.u2()):
            _annotation(reader, constants, marks)


def _annotation(reader: _Reader, constants: _Constants, marks: _Marks) -> None:
    own = constants.text(reader.u2()) == _DEPRECATED
    marks.deprecated = marks.deprecated or own
    for _ in range(reader.u2()):
        name = constants.text(reader.u2())
        value = _value(reader, constants)
        if own and name == "forRemoval":
            marks.removal = value == "1"
        elif own and name == "since":
            marks.since = value


def _value(reader: _Reader, constants: _Constants) -> str:
    """One value of an annotation; its text for strings, ``1`` or ``0`` for truth values, else nothing."""
    tag = chr(reader.u1())
    if tag == "s":
        return constants.text(reader.u2())
    if tag == "e":
        reader.skip(4)
    elif tag == "@":
        _annotation(reader, constants, _Marks())
    elif tag == "[":
        for _ in range(reader.u2()):
            _value(reader, constants)
    else:
        number = reader.u2()
        return str(constants.integers.get(number, 0)) if tag == "Z" else ""
    return ""


def _exports(reader: _Reader, constants: _Constants) -> tuple[str, ...]:
    """Packages that a module exports to everybody."""
    reader.skip(6)
    for _ in range(reader.u2()):
        reader.skip(6)
    found = []
    for _ in range(reader.u2()):
        package = constants.name(reader.u2())
        reader.u2()
        only_to = reader.u2()
        reader.skip(2 * only_to)
        if not only_to:
            found.append(package)
    return tuple(found)
