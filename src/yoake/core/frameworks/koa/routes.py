"""Routes of Koa applications: routers with prefixes, inside one another, and what mounts them."""

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
from yoake.core.frameworks.views import VERBS, follow_makers, routes_of, verbs_in
from yoake.core.values.routes import ANY, Route, joined, rooted

_MAKERS: Final = re.compile(rb"new \(?\s*(?:Koa|koa)\w*|require\([\"']koa[\"']\)|from [\"']koa[\"']")
_JOINS: Final = re.compile(rb"\.use\(")
_DEEPEST: Final = 10


@dataclass(frozen=True, slots=True)
class _Rule:
    path: str
    methods: tuple[str, ...]
    handler: Value
    place: Place


class _Layer(Model):
    """Something that stands below a path in an application: what ``router.routes()`` and ``mount(…)`` give."""

    def __init__(self, path: str, of: _Router | _Application) -> None:
        self.path, self.of = path, of


class _Application(Model):
    """``new Koa()``."""

    def __init__(self) -> None:
        self.layers: list[_Layer] = []

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        return Native(self._use, name) if name == "use" else UNKNOWN

    def _use(self, site: CallSite) -> Value:
        self.layers.extend(_layers(list(site.arguments)))
        return self

    def walk(self, prefix: str, depth: int = 0) -> Iterator[Route]:
        """Its routes and those below."""
        for layer in self.layers:
            if depth < _DEEPEST:
                yield from layer.of.walk(joined(prefix, layer.path) if layer.path.strip("/") else prefix, depth + 1)


class _Router(Model):
    """``new Router({prefix})``."""

    def __init__(self, site: CallSite) -> None:
        options = site.get(0, default=None)
        prefix = options.get("prefix") if isinstance(options, dict) else ""
        self.prefix = prefix if isinstance(prefix, str) else ""
        self.rules: list[_Rule] = []
        self.layers: list[_Layer] = []

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        verb = {"del": "DELETE", "all": ANY}.get(name, name.upper())
        if verb in VERBS or verb == ANY:
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
            self.rules.append(_Rule(path, (verb,), _last(given[1:]), site.place))
        return self

    def do_register(self, site: CallSite) -> Value:
        """``register(path, methods, middleware)``."""
        for path in paths_of(site.get(0)):
            self.rules.append(_Rule(path, tuple(verbs_in(site.get(1))) or (ANY,), _last([site.get(2)]), site.place))
        return self

    def do_route(self, site: CallSite) -> Value:
        """``route({method, path, handler})``, or a list of them."""
        given = site.get(0)
        for each in given if isinstance(given, list) else [given]:
            if isinstance(each, dict):
                for path in paths_of(each.get("path")):
                    methods = tuple(verbs_in(each.get("method"))) or (ANY,)
                    self.rules.append(_Rule(path, methods, _last([each.get("handler", UNKNOWN)]), site.place))
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
        own, _ = colon_template(self.prefix)
        start = joined(prefix, own) if own.strip("/") else prefix
        for each in self.rules:
            path, rest = colon_template(each.path)
            whole = joined(start, path) if path != "/" or not start.strip("/") else rooted(start)
            yield from routes_of(whole, each.methods, each.handler, each.place, "koa", rest)
        for layer in self.layers:
            if depth < _DEEPEST:
                shown, _ = colon_template(layer.path)
                yield from layer.of.walk(joined(start, shown) if shown.strip("/") else start, depth + 1)


class _Single(Model):
    """``route.get(path, fn)`` of the package for single routes: a router of one."""

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        verb = {"del": "DELETE", "all": ANY}.get(name, name.upper())

        def call(site: CallSite) -> Value:
            router = _Router(CallSite((), {}, site.place, site.evaluator))
            for path in paths_of(site.get(0)):
                router.rules.append(_Rule(path, (verb,), site.get(1), site.place))
            return _Layer("", router)

        return Native(call, name) if verb in VERBS or verb == ANY else UNKNOWN


def _last(given: list[Value]) -> Value:
    flat = [each for part in given for each in (part if isinstance(part, list) else [part])]
    known = [each for each in flat if isinstance(each, FunctionValue | Called | Native) or each is not UNKNOWN]
    return known[-1] if known else UNKNOWN


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

    def _application(self, _site: CallSite) -> _Application:
        made = _Application()
        self._applications.append(made)
        return made

    def routes(self, evaluator: Evaluator) -> Iterator[Route]:
        """The routes of every application that is not mounted in another."""
        follow_makers(evaluator, _MAKERS, _JOINS)
        mounted = {id(layer.of) for each in self._applications for layer in each.layers}
        for application in self._applications:
            if id(application) not in mounted:
                yield from application.walk("")
