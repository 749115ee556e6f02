"""Routes of Koa applications: routers with prefixes, inside one another, and what mounts them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Final

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
from yoake.core.frameworks.routing import Rule, routes_behind, routes_of, uppermost, verbs_in
from yoake.core.values.routes import ANY, Route, joined

_MAKERS: Final = re.compile(rb"new \(?\s*(?:Koa|koa)\w*|require\([\"']koa[\"']\)|from [\"']koa[\"']")
_JOINS: Final = re.compile(rb"\.use\(")
_DEEPEST: Final = 10


class _Layer(Model):
    """Something that stands below a path in an application: what ``router.routes()`` and ``mount(…)`` give."""

    def __init__(self, path: str, of: _Router | _Application) -> None:
        self.path, self.of = path, of


class _Application(Model):
    """``new Koa()``."""

    def __init__(self, site: CallSite) -> None:
        self.place = site.place
        self.layers: list[_Layer] = []

    def below(self) -> Iterator[_Router | _Application]:
        """What stands right below it."""
        return (layer.of for layer in self.layers)

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        return Native(self._use, name) if name == "use" else UNKNOWN

    def _use(self, site: CallSite) -> Value:
        self.layers.extend(_layers(list(site.arguments)))
        return self

    def walk(self, prefix: str, depth: int = 0) -> Iterator[Route]:
        """Its routes and those below."""
        for layer in self.layers:
            if depth < _DEEPEST:
                yield from layer.of.walk(deeper(prefix, layer.path), depth + 1)


class _Router(Model):
    """``new Router({prefix})``."""

    def __init__(self, site: CallSite) -> None:
        options = site.get(0, default=None)
        prefix = options.get("prefix") if isinstance(options, dict) else ""
        self.prefix = prefix if isinstance(prefix, str) else ""
        self.rules: list[Rule] = []
        self.layers: list[_Layer] = []

    def below(self) -> Iterator[_Router | _Application]:
        """What stands right below it."""
        return (layer.of for layer in self.layers)

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        verb = verb_of(name)
        if verb is not None:
            return Native(lambda site: self._on(site, verb), name)
        if name in ("routes", "middleware"):
            return Native(lambda _: _Layer("", self), name)
        if name == "allowedMethods":
            return Native(lambda _: UNKNOWN, name)
        return super().attribute(name, evaluator)

    def _on(self, site: CallSite, verb: str) -> Value:
        given = list(site.arguments)
        if len(given) > 2 and isinstance(given[0], str) and isinstance(given[1], str | list) and paths_of(given[1]):
            given = given[1:]  # the first is a name
        for path in paths_of(given[0]) if len(given) > 1 else ():
            self.rules.append(Rule(path, (verb,), handler_of(given[1:]), site.place))
        return self

    def do_register(self, site: CallSite) -> Value:
        """``register(path, methods, middleware)``."""
        for path in paths_of(site.get(0)):
            self.rules.append(Rule(path, tuple(verbs_in(site.get(1))) or (ANY,), handler_of([site.get(2)]), site.place))
        return self

    def do_route(self, site: CallSite) -> Value:
        """``route({method, path, handler})``, or a list of them."""
        given = site.get(0)
        for each in given if isinstance(given, list) else [given]:
            if isinstance(each, dict):
                for path in paths_of(each.get("path")):
                    methods = tuple(verbs_in(each.get("method"))) or (ANY,)
                    self.rules.append(Rule(path, methods, handler_of([each.get("handler", UNKNOWN)]), site.place))
        return self

    def do_prefix(self, site: CallSite) -> Value:
        """``prefix(path)``."""
        if isinstance(site.get(0), str):
            self.prefix = site.get(0) + self.prefix
        return self

    def do_use(self, site: CallSite) -> Value:
        """``use([path], …)``: nested routers stand below the path."""
        given = list(site.arguments)
        paths = paths_of(given[0]) if given and isinstance(given[0], str | list) else []
        for layer in _layers(given[1:] if paths else given):
            for path in paths or [""]:
                self.layers.append(_Layer(path + layer.path, layer.of))
        return self

    def walk(self, prefix: str, depth: int = 0) -> Iterator[Route]:
        """Its routes and those below."""
        start = deeper(prefix, self.prefix)
        for each in self.rules:
            path, rest = colon_template(each.path)
            yield from routes_of(below(start, path), each.methods, each.view, each.place, "koa", rest)
        for layer in self.layers:
            if depth < _DEEPEST:
                yield from layer.of.walk(deeper(start, layer.path), depth + 1)


class _Single(Model):
    """``route.get(path, fn)`` of the package for single routes: a router of one."""

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        verb = verb_of(name)
        if verb is None:
            return UNKNOWN

        def call(site: CallSite) -> Value:
            router = _Router(CallSite((), {}, site.place, site.evaluator))
            for path in paths_of(site.get(0)):
                router.rules.append(Rule(path, (verb,), site.get(1), site.place))
            return _Layer("", router)

        return Native(call, name)


def _layers(given: list[Value]) -> Iterator[_Layer]:
    for each in given:
        model = each.model if isinstance(each, Instance) else each
        if isinstance(model, _Layer):
            yield model
        elif isinstance(model, list):
            yield from _layers(model)
        elif isinstance(model, Called):
            yield from _layers([part for part in model.arguments if not isinstance(part, str)])


def _mount(site: CallSite) -> Value:
    path, of = (site.get(0), site.get(1)) if isinstance(site.get(0), str) else ("", site.get(0))
    if isinstance(of, _Application):
        return _Layer(path, of)
    inner = next(_layers([of]), None)
    return _Layer(joined(path, inner.path) if inner.path else path, inner.of) if inner is not None else UNKNOWN


class KoaRoutes:
    """Gathers the routes of one source."""

    def __init__(self) -> None:
        self._applications: list[_Application] = []
        made: dict[str, Callable[[CallSite], Value] | Value] = {
            "koa": self._application,
            "koa-mount": _mount,
            "koa-route": _Single(),
            "koa-compose": lambda site: site.get(0),
        }
        for name in ("koa-router", "@koa/router", "koa-joi-router", "koa-better-router", "koa-tree-router"):
            made[name] = _Router
            made[f"{name}.Router"] = _Router
        self.models: Models = made

    def _application(self, site: CallSite) -> _Application:
        made = _Application(site)
        self._applications.append(made)
        return made

    def routes(self, evaluator: Evaluator) -> Iterator[Route]:
        """The routes of every application that is not mounted in another."""
        return routes_behind(evaluator, _MAKERS, _JOINS, self._applications, uppermost)
