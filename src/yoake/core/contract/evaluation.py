"""What code comes to when it is followed without being run: the values that evaluators of a language hand to frameworks.

Text, numbers, ``None``, lists and dicts of a program stand for themselves. Whatever depends on something that the text does not
say is ``UNKNOWN``. A framework brings *models*: what its classes and functions do, as far as it matters to routes.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any, Final, Protocol, Self, final

Value = Any
"""A constant, list or dict, or one of the classes below."""


@final
class Unknown:
    """What the text does not say."""

    def __repr__(self) -> str:
        return "UNKNOWN"


UNKNOWN: Final = Unknown()


class Pattern(str):
    """A regular expression of a program by its text. ``is_global``: it speaks of every place, not only of the first."""

    __slots__ = ("is_global",)
    is_global: bool

    def __new__(cls, text: str, *, is_global: bool = False) -> Self:
        made = super().__new__(cls, text)
        made.is_global = is_global
        return made


@dataclass(frozen=True, slots=True)
class Place:
    """Where something stands: a file of the source and a line from 1."""

    file: str
    line: int


@dataclass(eq=False, slots=True)
class Scope:
    """Names and what they stand for; ``outer`` is looked at next."""

    names: dict[str, Value]
    outer: Scope | None
    file: str
    owner: Value = None

    def find(self, name: str) -> Value:
        """What a name stands for; None in a one-tuple is a real None, so a missing name raises KeyError."""
        scope: Scope | None = self
        while scope is not None:
            if name in scope.names:
                return scope.names[name]
            scope = scope.outer
        raise KeyError(name)


@dataclass(eq=False, slots=True)
class Reference:
    """Something outside of the source by its dotted path, ``flask.Flask`` or ``express.Router``."""

    path: str


@dataclass(eq=False, slots=True, kw_only=True)
class FunctionValue:
    """A function of the source. ``node`` belongs to the evaluator; ``marks`` are decorators as they came out, the inner first."""

    name: str
    place: Place
    node: Any
    scope: Scope
    bound: Value = None
    holder: Value = None
    marks: list[Value] = field(default_factory=list)
    attributes: dict[str, Value] = field(default_factory=dict)


@dataclass(eq=False, slots=True, kw_only=True)
class ClassValue:
    """A class of the source. ``bases`` are values; ``keywords`` stand beside the bases."""

    name: str
    place: Place
    bases: list[Value]
    members: dict[str, Value]
    marks: list[Value] = field(default_factory=list)
    keywords: dict[str, Value] = field(default_factory=dict)

    def lineage(self) -> list[ClassValue | Reference]:
        """The class and what it inherits from, the nearest first; a base that is not known ends its branch."""
        found: list[ClassValue | Reference] = []
        waiting: list[Value] = [self]
        while waiting:
            each = waiting.pop(0)
            if any(each is seen for seen in found):
                continue
            if isinstance(each, ClassValue):
                found.append(each)
                waiting[0:0] = each.bases
            elif isinstance(each, Reference):
                found.append(each)
        return found

    def outside(self) -> list[str]:
        """Paths of the classes outside that it inherits from."""
        return [each.path for each in self.lineage() if isinstance(each, Reference)]

    def member(self, name: str) -> Value:
        """A member by its name, also of a base; KeyError where there is none."""
        for each in self.lineage():
            if isinstance(each, ClassValue) and name in each.members:
                return each.members[name]
        raise KeyError(name)


@dataclass(eq=False, slots=True)
class Instance:
    """An object of a class of the source. ``model`` stands for what a class outside adds to it."""

    kind: ClassValue
    attributes: dict[str, Value] = field(default_factory=dict)
    model: Model | None = None


@dataclass(eq=False, slots=True)
class ModuleValue:
    """A file of the source as a module."""

    file: str
    scope: Scope


@dataclass(eq=False, slots=True)
class Member:
    """A member that a class of the source inherits from outside, such as ``as_view`` of a view."""

    of: ClassValue | Instance
    name: str


@dataclass(eq=False, slots=True)
class Called:
    """What a call of something that is not known gives: ``of`` is what was called."""

    of: Value
    arguments: list[Value]
    keywords: dict[str, Value]
    place: Place


@dataclass(eq=False, slots=True)
class Native:
    """A function that a model or the language itself brings."""

    call: Callable[[CallSite], Value]
    name: str = ""


@dataclass(frozen=True, slots=True)
class CallSite:
    """One call: what is handed over, where it stands, and the evaluator for what has to be followed further."""

    arguments: Sequence[Value]
    keywords: Mapping[str, Value]
    place: Place
    evaluator: Evaluator

    def get(self, position: int, keyword: str = "", default: Value = UNKNOWN) -> Value:
        """An argument by position or keyword."""
        if keyword and keyword in self.keywords:
            return self.keywords[keyword]
        return self.arguments[position] if 0 <= position < len(self.arguments) else default


class Model:
    """What an object of a framework does. ``attribute`` answers ``UNKNOWN`` for what it does not model.

    ``names_settings``: its members are settings of the application. ``holder``: the object of the source whose class inherits from the
    framework's, if there is one.
    """

    holder: Instance | None = None
    names_settings: bool = False

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        """A member of the object."""
        found = getattr(self, f"do_{name}", None)
        return Native(found, name) if found is not None else UNKNOWN

    def keep(self, name: str, value: Value) -> None:
        """Notes what the program puts on the object."""
        vars(self).setdefault("_kept", {})[name] = value

    def found(self, name: str, evaluator: Evaluator) -> Value:
        """A member of the object, or what the program put there."""
        own = self.attribute(name, evaluator)
        return vars(self).get("_kept", {}).get(name, UNKNOWN) if own is UNKNOWN else own

    def has(self, name: str, evaluator: Evaluator) -> bool | None:
        """Whether the object has a member; None where that is not known."""
        return True if self.attribute(name, evaluator) is not UNKNOWN else None

    def call(self, _site: CallSite) -> Value:
        """What a call of the object itself gives."""
        return UNKNOWN


@dataclass(frozen=True, slots=True, kw_only=True)
class SyntaxWords:
    """What the syntax trees of a language call things, for those who walk them without knowing the language.

    ``definitions``: kinds of nodes that are functions and classes; ``chains``: kinds of ``a.b`` → the fields of what stands before
    the dot and behind it; ``texts``: kinds of literals; ``own``: packages that come with the language; ``tables``: the end of the path of
    a class outside whose subclasses stand for tables.
    """

    definitions: frozenset[str]
    chains: Mapping[str, tuple[str, str]]
    texts: frozenset[str]
    own: frozenset[str]
    tables: re.Pattern[str]


class Exhausted(Exception):
    """The bound of steps was reached."""


class Steps:
    """Counts what was followed. The bound of the whole may be drawn closer for a while."""

    def __init__(self, most: int) -> None:
        self._left = most

    def one(self) -> None:
        """One more. Raises Exhausted at the bound."""
        self._left -= 1
        if self._left < 0:
            raise Exhausted

    @property
    def are_spent(self) -> bool:
        """Whether the bound of the whole was reached."""
        return self._left <= 0

    @contextmanager
    def limited(self, most: int) -> Iterator[None]:
        """At most so many inside; what comes afterwards has what is left of the whole. Raises Exhausted at the bound."""
        apart = max(self._left - most, 0)
        self._left -= apart
        try:
            yield
        finally:
            self._left = max(self._left, 0) + apart


class Evaluator(Protocol):
    """Follows the code of one source."""

    words: SyntaxWords
    steps: Steps

    def text_of(self, path: str) -> bytes | None:
        """The text of a file of the source."""

    def module(self, name: str, file: str = "") -> ModuleValue | None:
        """A module of the source as an import in ``file`` names it, followed to its end."""

    def tree_of(self, file: str) -> Any:
        """The root of a file's syntax tree; None where it cannot be read."""

    def modules(self) -> Sequence[str]:
        """All files that can be followed."""

    def every_path(self) -> Sequence[str]:
        """All paths of the source, whatever they hold."""

    def file_module(self, file: str) -> ModuleValue | None:
        """The module of a file."""

    def attribute(self, of: Value, name: str) -> Value:
        """A member of a value."""

    def call(self, of: Value, arguments: Sequence[Value], keywords: Mapping[str, Value], place: Place) -> Value:
        """What a call gives."""

    def dotted(self, path: str) -> Value:
        """A dotted path from the top, in the source or outside."""

    def was_called(self, function: FunctionValue) -> bool:
        """Whether a function was followed already."""

    def parameters(self, function: FunctionValue) -> Sequence[str]:
        """The names of what a function takes, in their order, as far as they are plain names; an object it is bound to is left out."""


def unknown_piece(before: str, value: Value, after: str, mark: str) -> str | None:
    """What stands for a value that nobody knows between two pieces of a path; None where they are no path.

    A prefix out of settings is empty more often than not, so nothing stands for it; further inside it is a parameter, as ``mark``.
    """
    if not isinstance(value, Unknown | Reference | Called | Member):
        return None
    if not before:
        return "" if after.startswith("/") else None
    return mark if "/" in before else None


Models = Mapping[str, Callable[[CallSite], Value] | Value]
"""Path outside → what a call of it gives, or the value it stands for."""


def target(value: Value) -> Value:
    """The function or class behind decorators, ``as_view()``, partial calls and whatever else wraps it."""
    for _ in range(12):
        if isinstance(value, Called):
            inner = value.of
            if isinstance(inner, Member):
                value = inner.of
                continue
            if isinstance(inner, FunctionValue | ClassValue):
                return inner
            wrapped = [
                each for each in value.arguments if isinstance(each, FunctionValue | ClassValue | Called | Instance)
            ]
            if not wrapped:
                return inner if isinstance(inner, Reference) else value
            value = wrapped[0]
        elif isinstance(value, Member | Instance):
            value = value.of if isinstance(value, Member) else value.kind
        else:
            return value
    return value


def place_of(value: Value) -> Place | None:
    """Where what is behind a value stands; None where it is not in the source."""
    found = target(value)
    return found.place if isinstance(found, FunctionValue | ClassValue) else None


def name_of(value: Value) -> str:
    """The name of what is behind a value."""
    found = target(value)
    if isinstance(found, FunctionValue):
        holder = found.holder
        return f"{holder.name}.{found.name}" if isinstance(holder, ClassValue) else found.name
    if isinstance(found, ClassValue):
        return found.name
    return found.path if isinstance(found, Reference) else ""
