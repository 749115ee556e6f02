"""Routes of Express applications: methods on applications and routers, routers inside one another, routes that take several methods."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Final

from yoake.core.contract.evaluation import (
    UNKNOWN,
    Called,
    CallSite,
    Evaluator,
    FunctionValue,
    Instance,
    Model,
    Models,
    Native,
    Place,
    Value,
)
from yoake.core.frameworks.colon_paths import colon_template, paths_of
from yoake.core.frameworks.views import VERBS, follow_makers, routes_of
from yoake.core.values.routes import ANY, Route, joined, rooted

_MAKERS: Final = re.compile(
    rb"\bexpress\w*\s*(?:\.\s*default\)?\s*)?\(|require\([\"']express[\"']\)|from [\"']express[\"']"
)
_JOINS: Final = re.compile(rb"\.use\(")
_DEEPEST: Final = 10


@dataclass(frozen=True, slots=True)
class _Rule:
    path: str
    methods: tuple[str, ...]
    handler: Value
    place: Place


class _Router(Model):
    """An application or a router, and what was put on it in order."""

    def __init__(self, place: Place) -> None:
        self.place = place
        self.rules: list[_Rule] = []
        self.children: list[tuple[str, _Router]] = []
        self.is_application = False

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        verb = {"del": "DELETE", "all": ANY}.get(name, name.upper())
        if verb in VERBS or verb == ANY:
            return Native(lambda site: self._on(site, verb), name)
        if name in ("use", "route"):
            return Native(getattr(self, f"do_{name}"), name)
        if name in ("set", "engine", "param", "enable", "disable", "listen", "on", "once"):
            return Native(self._aside, name)
        if name in ("router", "_router", "default"):
            return self
        return UNKNOWN

    def _aside(self, site: CallSite) -> Value:
        for each in site.arguments:
            if isinstance(each, FunctionValue) and not site.evaluator.was_called(each):
                site.evaluator.call(each, [], {}, site.place)
        return self

    def call(self, _site: CallSite) -> Value:
        return UNKNOWN

    def _on(self, site: CallSite, verb: str) -> Value:
        if len(site.arguments) > 1:
            for path in paths_of(site.get(0)):
                self.rules.append(_Rule(path, (verb,), _handler(list(site.arguments[1:])), site.place))
        return self if len(site.arguments) != 1 else UNKNOWN

    def do_use(self, site: CallSite) -> Value:
        """``use([path], …)``: routers and applications among what is handed over stand below the path."""
        given = list(site.arguments)
        paths = paths_of(given[0]) if given else []
        if given and (isinstance(given[0], str) or (paths and isinstance(given[0], list))):
            given = given[1:]
        elif given and given[0] is UNKNOWN and len(given) > 1:
            return self  # below a path that nobody knows
        for child in _routers(given):
            for path in paths or [""]:
                if child is not self:
                    self.children.append((path, child))
        return self

    def do_route(self, site: CallSite) -> Value:
        """``route(path)``: methods follow."""
        return _Route(self, paths_of(site.get(0)))

    def walk(self, prefix: str, depth: int = 0) -> Iterator[Route]:
        """Its routes and those below."""
        for each in self.rules:
            path, rest = colon_template(each.path)
            whole = joined(prefix, path) if path != "/" or not prefix.strip("/") else rooted(prefix)
            yield from routes_of(whole, each.methods, each.handler, each.place, "express", rest)
        for path, child in self.children:
            if depth < _DEEPEST:
                shown, _ = colon_template(path)
                yield from child.walk(joined(prefix, shown) if shown.strip("/") else prefix, depth + 1)


class _Route(Model):
    """``router.route(path)``."""

    def __init__(self, router: _Router, paths: list[str]) -> None:
        self.router, self.paths = router, paths

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        verb = {"del": "DELETE", "all": ANY}.get(name, name.upper())
        return Native(lambda site: self._on(site, verb), name) if verb in VERBS or verb == ANY else UNKNOWN

    def _on(self, site: CallSite, verb: str) -> Value:
        for path in self.paths:
            self.router.rules.append(_Rule(path, (verb,), _handler(list(site.arguments)), site.place))
        return self


def _handler(given: list[Value]) -> Value:
    """The last of what is handed over answers."""
    flat = [each for part in given for each in (part if isinstance(part, list) else [part])]
    known = [each for each in flat if each is not UNKNOWN]
    return known[-1] if known else UNKNOWN


def _routers(given: list[Value]) -> list[_Router]:
    found: list[_Router] = []
    for each in given:
        if isinstance(each, list):
            found.extend(_routers(each))
            continue
        router = router_of(each)
        if router is not None:
            found.append(router)
    return found


def router_of(value: Value, depth: int = 0) -> _Router | None:
    """The router behind a value: itself, one that an object carries, or one inside of what wraps it."""
    if isinstance(value, _Router):
        return value
    if isinstance(value, Instance):
        if isinstance(value.model, _Router):
            return value.model
        return None
    if isinstance(value, dict):
        for key in ("default", "router"):
            inner = value.get(key)
            if isinstance(inner, _Router):
                return inner
    if isinstance(value, Called) and depth < 4:
        for each in value.arguments:
            found = router_of(each, depth + 1)
            if found is not None:
                return found
    return None


class ExpressRoutes:
    """Gathers the routes of one source."""

    def __init__(self) -> None:
        self._applications: list[_Router] = []
        made: dict[str, Callable[[CallSite], Value]] = {
            "express": self._application,
            "express.Router": lambda site: _Router(site.place),
            "express.application": self._application,
            "express-promise-router": lambda site: _Router(site.place),
            "express-async-router.AsyncRouter": lambda site: _Router(site.place),
            "router": lambda site: _Router(site.place),
            "express-ws": lambda site: {"app": site.get(0), "getWss": UNKNOWN},
        }
        self.models: Models = made

    def _application(self, site: CallSite) -> _Router:
        made = _Router(site.place)
        made.is_application = True
        self._applications.append(made)
        return made

    def routes(self, evaluator: Evaluator) -> Iterator[Route]:
        """The routes of every application that is not itself below another."""
        follow_makers(evaluator, _MAKERS, _JOINS)
        below = {id(child) for each in self._applications for child in _below(each)}
        for application in self._applications:
            if id(application) not in below:
                yield from application.walk("")


def _below(router: _Router, depth: int = 0) -> Iterator[_Router]:
    for _, child in router.children:
        yield child
        if depth < _DEEPEST:
            yield from _below(child, depth + 1)
