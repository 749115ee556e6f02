"""Routes of Express applications: methods on applications and routers, routers inside one another, routes that take several methods."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, Final

from yoake.core.contract.evaluation import (
    UNKNOWN,
    Called,
    CallSite,
    Evaluator,
    Instance,
    Model,
    Models,
    Native,
    Value,
)
from yoake.core.frameworks.colon_paths import below, colon_template, deeper, handler_of, paths_of, verb_of
from yoake.core.frameworks.routing import Rule, follow_handed, routes_behind, routes_of, uppermost

if TYPE_CHECKING:
    from yoake.core.values.routes import Route

_MAKERS: Final = re.compile(
    rb"\bexpress\w*\s*(?:\.\s*default\)?\s*)?\(|require\([\"']express[\"']\)|from [\"']express[\"']"
)
_JOINS: Final = re.compile(
    rb"\.use\(|\b\w*(?:app|App|server|router|Router)\.(?:get|post|put|patch|delete|del|all|route)\("
)
_DEEPEST: Final = 10


class _Router(Model):
    """An application or a router, and what was put on it in order."""

    def __init__(self, site: CallSite) -> None:
        self.place = site.place
        self.rules: list[Rule] = []
        self.children: list[tuple[str, _Router]] = []

    def below(self) -> Iterator[_Router]:
        """What stands right below it."""
        return (child for _, child in self.children)

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        verb = verb_of(name)
        if verb is not None:
            return Native(lambda site: self._on(site, verb), name)
        if name in ("set", "engine", "param", "enable", "disable", "listen", "on", "once"):
            return Native(self._aside, name)
        if name in ("router", "_router", "default"):
            return self
        return super().attribute(name, evaluator)

    def _aside(self, site: CallSite) -> Value:
        follow_handed(site)
        return self

    def _on(self, site: CallSite, verb: str) -> Value:
        if len(site.arguments) > 1:
            for path in paths_of(site.get(0)):
                self.rules.append(Rule(path, (verb,), handler_of(site.arguments[1:]), site.place))
        return self if len(site.arguments) != 1 else UNKNOWN

    def do_use(self, site: CallSite) -> Value:
        """``use([path], …)``: routers and applications among what is handed over stand below the path."""
        given = list(site.arguments)
        paths = paths_of(given[0]) if given else []
        if given and (isinstance(given[0], str) or (paths and isinstance(given[0], list))):
            given = given[1:]
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
            yield from routes_of(below(prefix, path), each.methods, each.view, each.place, "express", rest)
        for path, child in self.children:
            if depth < _DEEPEST:
                yield from child.walk(deeper(prefix, path), depth + 1)


class _Route(Model):
    """``router.route(path)``."""

    def __init__(self, router: _Router, paths: list[str]) -> None:
        self.router, self.paths = router, paths

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        verb = verb_of(name)
        return Native(lambda site: self._on(site, verb), name) if verb is not None else UNKNOWN

    def _on(self, site: CallSite, verb: str) -> Value:
        for path in self.paths:
            self.router.rules.append(Rule(path, (verb,), handler_of(site.arguments), site.place))
        return self


def _routers(given: list[Value]) -> list[_Router]:
    found: list[_Router] = []
    for each in given:
        if isinstance(each, list):
            found.extend(_routers(each))
            continue
        router = _router_of(each)
        if router is not None:
            found.append(router)
    return found


def _router_of(value: Value, depth: int = 0) -> _Router | None:
    """The router behind a value: itself, one that an object carries, or one inside of what wraps it."""
    if isinstance(value, _Router):
        return value
    if isinstance(value, Instance):
        return value.model if isinstance(value.model, _Router) else None
    if isinstance(value, dict):
        for key in ("default", "router"):
            inner = value.get(key)
            if isinstance(inner, _Router):
                return inner
    if isinstance(value, Called) and depth < 4:
        for each in value.arguments:
            found = _router_of(each, depth + 1)
            if found is not None:
                return found
    return None


class ExpressRoutes:
    """Gathers the routes of one source."""

    def __init__(self) -> None:
        self._applications: list[_Router] = []
        made: dict[str, Callable[[CallSite], Value]] = {
            "express": self._application,
            "express.Router": _Router,
            "express.application": self._application,
            "express-promise-router": _Router,
            "express-async-router.AsyncRouter": _Router,
            "router": _Router,
            "express-ws": lambda site: {"app": site.get(0), "getWss": UNKNOWN},
        }
        self.models: Models = made

    def _application(self, site: CallSite) -> _Router:
        made = _Router(site)
        self._applications.append(made)
        return made

    def routes(self, evaluator: Evaluator) -> Iterator[Route]:
        """The routes of every application that is not itself below another."""
        return routes_behind(evaluator, _MAKERS, _JOINS, self._applications, uppermost)
