"""What the readers of routes share: rules as they are declared, which methods a class answers, and where an application is put together."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from typing import Final, Protocol, TypeVar

from yoake.core.contract.evaluation import (
    UNKNOWN,
    CallSite,
    ClassValue,
    Evaluator,
    Exhausted,
    FunctionValue,
    ModuleValue,
    Place,
    Value,
    name_of,
    place_of,
    target,
)
from yoake.core.values.routes import Route

N = TypeVar("N", bound="Nested")
W = TypeVar("W", bound="Walked")
VERBS: Final = ("GET", "POST", "PUT", "PATCH", "DELETE", "HEAD", "OPTIONS", "TRACE")
ASIDE: Final = re.compile(
    r"(^|/)(tests?|testing|docs?|examples?|samples?|benchmarks?|node_modules|vendor)/|(^|/)(conftest|test_[^/]*|[^/]*_test)\.py$|\.(test|spec)\.[cm]?[jt]sx?$|(^|/)__tests__/|\.min\.js$"
)
"""Files that are no part of what runs: an application put together there is not the application."""
_APPLICATION: Final = re.compile(
    r"^_?(?:\w+_)?(?:app|application|server|fastify|koa|express)$|^\w*(?:App|Application)$"
)
"""Names of parameters that stand for the application."""
_HANDS_ON: Final = re.compile(rb"[(,]\s*(?:self\.|this\.)?(?:app|application|server)\s*[,)]")
_WALKS: Final = re.compile(rb"\bimport_module\(|\b__import__\(|\bwalk_packages\(|\biter_modules\(|\bfind_modules\(")
"""A module that brings in others by names it makes or looks for."""
_ADDS: Final = re.compile(rb"^@\w+(?:\.\w+)*\.(?:route|get|post|put|patch|delete|websocket)\(", re.MULTILINE)
_HELD: Final = ("app", "server", "expressApp")
_TAKEN: Final = re.compile(r"[{,]\s*(?:app|server|expressApp)\b")
"""Under which names an object that is handed to hooks holds the application."""
_BUILDERS: Final = ("__init__", "constructor")
_MOST_ASIDE: Final = 300_000
"""Steps for a function that nobody calls: one that puts routes together takes far fewer."""
_MOST_AT_LAST: Final = 1_500_000
"""Steps for one of those that came to that bound, when all others are done."""
_EXPORTED: Final = 3  # objects inside one another: module, its exports, and a table in them
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


class Walked(Protocol):
    """An application whose routes can be listed; ``place`` is where it is made."""

    place: Place

    def walk(self, prefix: str) -> Iterator[Route]:
        """Its routes and those below."""


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


def meant(applications: Sequence[W], file: str) -> Value:
    """The application that code of a file means by *the* application: the nearest by its folder, and of those the one with the most
    routes so far."""

    def near(each: W) -> tuple[int, int]:
        common = posixpath.commonpath([f"/{posixpath.dirname(each.place.file)}", f"/{posixpath.dirname(file)}"])
        return len(common), sum(1 for _ in each.walk(""))

    return max(applications, key=near, default=UNKNOWN)


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


def follow_makers(
    evaluator: Evaluator,
    makers: re.Pattern[bytes],
    joins: re.Pattern[bytes],
    main: Callable[[str], Value] = lambda _: UNKNOWN,
) -> None:
    """Follows every file in which an application is made, then those in which parts are put together, then functions that make or
    join and that nobody called. Such a function is handed the application of ``main`` where it asks for one by name: whoever calls it
    by a hook or a registry hands it over too. Raises Exhausted."""
    every = [path for path in evaluator.modules() if makers.search(evaluator.text_of(path) or b"")]
    files = _written([path for path in every if not ASIDE.search(path)] or every)
    made = set(files)
    joining = _written(
        [
            path
            for path in evaluator.modules()
            if path not in made and not ASIDE.search(path) and joins.search(evaluator.text_of(path) or b"")
        ],
        files,
    )
    modules = [module for path in (*files, *joining) if (module := evaluator.file_module(path)) is not None]
    text = b"\n".join(evaluator.text_of(module.file) or b"" for module in modules)
    begun = [module for module in modules if module.file in made]
    long: list[tuple[FunctionValue, ClassValue | None]] = []
    for signs, inside in ((makers, modules), (_HANDS_ON, begun), (joins, modules)):
        waiting = [each for module in inside for each in _uncalled(evaluator, module, signs)]
        for function, holder in sorted(waiting, key=lambda pair: _is_named(pair[0].name, text)):
            if evaluator.was_called(function):
                continue
            if signs is makers:
                _follow(evaluator, function, holder, UNKNOWN)
                continue
            try:
                with evaluator.steps.limited(_MOST_ASIDE):
                    _follow(evaluator, function, holder, main(function.place.file))
            except Exhausted:
                long.append((function, holder))
            if evaluator.steps.are_spent:
                raise Exhausted
    _follow_walked(evaluator)
    for function, holder in long:  # what starts a whole application takes more; by now nothing else can go short of it
        with suppress(Exhausted), evaluator.steps.limited(_MOST_AT_LAST):
            _follow(evaluator, function, holder, main(function.place.file))
        if evaluator.steps.are_spent:
            return


def _follow_walked(evaluator: Evaluator) -> None:
    """Follows files that add routes to a part which others make, where the source brings in modules by names that it looks for."""
    own = [path for path in evaluator.modules() if path.endswith(".py") and not ASIDE.search(path)]
    if any(_WALKS.search(evaluator.text_of(path) or b"") for path in own):
        for path in own:
            if _ADDS.search(evaluator.text_of(path) or b""):
                evaluator.file_module(path)


def routes_behind(
    evaluator: Evaluator,
    makers: re.Pattern[bytes],
    joins: re.Pattern[bytes],
    applications: Sequence[W],
    upper: Callable[[Sequence[W]], Iterable[W]],
) -> Iterator[Route]:
    """The routes of the uppermost of the ``applications`` that turn up while makers are followed. Raises Exhausted after what was found
    before the bound."""
    ended: Exhausted | None = None
    try:
        follow_makers(evaluator, makers, joins, lambda file: meant(applications, file))
    except Exhausted as error:
        ended = error
    for application in upper(applications):
        yield from application.walk("")
    if ended is not None:
        raise ended


def _written(paths: Sequence[str], beside: Sequence[str] = ()) -> list[str]:
    """Without what a tool made of sources that are there too: it says the same again."""
    if any(_WRITTEN.search(path) and not _BUILT.search(path) for path in (*paths, *beside)):
        return [path for path in paths if not _BUILT.search(path)]
    return list(paths)


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


def _follow(evaluator: Evaluator, function: FunctionValue, holder: ClassValue | None, main: Value) -> None:
    if holder is None:
        evaluator.call(function, _handed(evaluator, function, main), {}, function.place)
        return
    builds = next((each for name in _BUILDERS if isinstance(each := holder.members.get(name), FunctionValue)), None)
    made = evaluator.call(holder, _handed(evaluator, builds, main) if builds is not None else [], {}, holder.place)
    if function.name not in _BUILDERS:
        method = evaluator.attribute(made, function.name)
        evaluator.call(method, _handed(evaluator, function, main), {}, function.place)


def _handed(evaluator: Evaluator, function: FunctionValue, main: Value) -> list[Value]:
    """What stands for the arguments of a function that nobody calls."""
    if main is UNKNOWN:
        return []
    given = [_standing_for(evaluator, function, name, main) for name in evaluator.parameters(function)]
    last = max((at for at, each in enumerate(given) if each is not UNKNOWN), default=-1)
    return given[: last + 1]


def _standing_for(evaluator: Evaluator, function: FunctionValue, name: str, main: Value) -> Value:
    """The application for a parameter of its name, and an object that holds it for one that is asked for it."""
    if _APPLICATION.search(name):
        return main
    if not name or function.place.file.endswith(".py"):
        return UNKNOWN
    if name.startswith("{"):
        return dict.fromkeys(_HELD, main) if _TAKEN.search(name) else UNKNOWN
    lines = (evaluator.text_of(function.place.file) or b"").split(b"\n")
    text = b"\n".join(lines[function.place.line - 1 : function.node.end_point.row + 1])
    asked = re.search(rb"(?<![\w.$])" + re.escape(name.encode()) + rb"\.(?:app|server|expressApp)\b", text)
    return dict.fromkeys(_HELD, main) if asked else UNKNOWN


def _functions(value: Value, file: str, depth: int = 0) -> Iterator[tuple[FunctionValue, ClassValue | None]]:
    """Functions that a name of a file stands for, those of a class, and those of what a file exports."""
    if isinstance(value, FunctionValue):
        if value.place.file == file:
            yield value, None
    elif isinstance(value, ClassValue):
        if value.place.file == file:
            yield from ((each, value) for each in list(value.members.values()) if isinstance(each, FunctionValue))
    elif isinstance(value, dict) and depth < _EXPORTED:
        for inner in list(value.values()):
            yield from _functions(inner, file, depth + 1)
