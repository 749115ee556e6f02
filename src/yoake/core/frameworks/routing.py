"""What the readers of routes share: rules as they are declared, which methods a class answers, and where an application is put together."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Final, Protocol, TypeVar

from yoake.core.contract.evaluation import (
    CallSite,
    ClassValue,
    Evaluator,
    FunctionValue,
    Instance,
    ModuleValue,
    Place,
    Value,
    name_of,
    place_of,
    target,
)
from yoake.core.values.routes import Route

N = TypeVar("N", bound="Nested")
VERBS: Final = ("GET", "POST", "PUT", "PATCH", "DELETE", "HEAD", "OPTIONS", "TRACE")
ASIDE: Final = re.compile(
    r"(^|/)(tests?|testing|docs?|examples?|samples?|benchmarks?|node_modules|vendor)/|(^|/)(conftest|test_[^/]*|[^/]*_test)\.py$|\.(test|spec)\.[cm]?[jt]sx?$|(^|/)__tests__/|\.min\.js$"
)
"""Files that are no part of what runs: an application put together there is not the application."""
_WRITTEN: Final = re.compile(r"(^|/)src/")
_BUILT: Final = re.compile(r"(^|/)(dist|build|out)/")


@dataclass(frozen=True, slots=True)
class Rule:
    """One path as it is declared, what answers it, and where that is said. Without methods the framework decides."""

    path: str
    methods: tuple[str, ...]
    view: Value
    place: Place


class Nested(Protocol):
    """An application or a router with others below it."""

    def below(self) -> Iterable[Nested]:
        """Those that stand right below it."""


def uppermost(applications: Sequence[N]) -> Iterator[N]:
    """Applications that do not stand below another one."""
    seen: set[int] = set()
    waiting: list[Nested] = [child for each in applications for child in each.below()]
    while waiting:
        each = waiting.pop()
        if id(each) not in seen:
            seen.add(id(each))
            waiting.extend(each.below())
    yield from (each for each in applications if id(each) not in seen)


def follow_handed(site: CallSite) -> None:
    """Follows functions that are handed over to be called later, such as what runs once a server listens."""
    for each in site.arguments:
        if isinstance(each, FunctionValue) and not site.evaluator.was_called(each):
            site.evaluator.call(each, [], {}, site.place)


def verbs_of_class(kind: ClassValue) -> list[str]:
    """The methods for which a class has a function of that name, itself or by inheritance inside the source."""
    found = []
    for verb in VERBS[:5]:
        try:
            kind.member(verb.lower())
        except KeyError:
            continue
        found.append(verb)
    return found


def verbs_in(value: Value) -> list[str]:
    """Methods of a list of their names; empty for anything else."""
    names = [value] if isinstance(value, str) else value if isinstance(value, list) else []
    found = [each.upper() for each in names if isinstance(each, str)]
    return list(dict.fromkeys(each for each in found if each in VERBS))


def class_behind(value: Value) -> ClassValue | None:
    """The class of ``Class.as_view(…)`` or of an instance, through whatever is wrapped around it."""
    found = target(value)
    return found if isinstance(found, ClassValue) else None


def routes_of(
    path: str,
    methods: Iterable[str],
    view: Value,
    declared: Place,
    framework: str,
    rest: frozenset[str] = frozenset(),
) -> Iterator[Route]:
    """A route a method."""
    at = place_of(view) or declared
    for method in methods:
        yield Route(
            method=method,
            path=path,
            handler=name_of(view),
            file=at.file,
            line=at.line,
            framework=framework,
            rest=rest,
            declared=f"{declared.file}:{declared.line}",
        )


def follow_makers(evaluator: Evaluator, makers: re.Pattern[bytes], joins: re.Pattern[bytes]) -> None:
    """Follows every file in which an application is made, then those in which parts are put together, then functions that make or
    join and that nobody called."""
    every = [path for path in evaluator.modules() if makers.search(evaluator.text_of(path) or b"")]
    files = [path for path in every if not ASIDE.search(path)] or every
    if any(_WRITTEN.search(path) for path in files):  # what a tool made of it says the same again
        files = [path for path in files if not _BUILT.search(path)]
    joining = [
        path
        for path in evaluator.modules()
        if not ASIDE.search(path)
        and not _BUILT.search(path)
        and path not in files
        and joins.search(evaluator.text_of(path) or b"")
    ]
    modules = [module for path in (*files, *joining) if (module := evaluator.file_module(path)) is not None]
    text = b"\n".join(evaluator.text_of(module.file) or b"" for module in modules)
    for signs in (makers, joins):
        waiting = [each for module in modules for each in _uncalled(evaluator, module, signs)]
        for function, holder in sorted(waiting, key=lambda pair: _is_named(pair[0].name, text)):
            if not evaluator.was_called(function):
                _follow(evaluator, function, holder)


def _is_named(name: str, text: bytes) -> bool:
    """Whether something calls a function of that name: then the caller is followed first."""
    calls = len(re.findall(rb"\b" + re.escape(name.encode()) + rb"\s*\(", text))
    defined = len(re.findall(rb"(?:def|function)\s+" + re.escape(name.encode()) + rb"\s*\(", text))
    return calls > defined


def _uncalled(
    evaluator: Evaluator, module: ModuleValue, signs: re.Pattern[bytes]
) -> Iterator[tuple[FunctionValue, ClassValue | None]]:
    lines = (evaluator.text_of(module.file) or b"").split(b"\n")
    for each in list(module.scope.names.values()):
        for function, holder in _functions(each, module.file):
            text = b"\n".join(lines[function.place.line - 1 : function.node.end_point.row + 1])
            if not evaluator.was_called(function) and signs.search(text):
                yield function, holder


def _follow(evaluator: Evaluator, function: FunctionValue, holder: ClassValue | None) -> None:
    if holder is None:
        evaluator.call(function, [], {}, function.place)
    elif function.name == "__init__":
        evaluator.call(holder, [], {}, holder.place)
    else:
        evaluator.call(evaluator.attribute(Instance(holder), function.name), [], {}, function.place)


def _functions(value: Value, file: str) -> list[tuple[FunctionValue, ClassValue | None]]:
    """Functions that a name of a file stands for, and those of a class."""
    if isinstance(value, FunctionValue):
        return [(value, None)] if value.place.file == file else []
    if isinstance(value, ClassValue) and value.place.file == file:
        return [(each, value) for each in value.members.values() if isinstance(each, FunctionValue)]
    return []
