"""Routes of FastAPI and Starlette applications: path operations, routers with prefixes, mounted applications, lists of routes."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Final

from yoake.core.contract.evaluation import CallSite, Evaluator, Model, Models, Native, Place, Value
from yoake.core.frameworks.routing import (
    VERBS,
    Rule,
    class_behind,
    routes_behind,
    routes_of,
    uppermost,
    verbs_in,
    verbs_of_class,
)
from yoake.core.values.routes import ANY, Route, rooted

_MAKERS: Final = re.compile(rb"\b(?:FastAPI|Starlette)\(|\((?:fastapi\.)?FastAPI\)")
_PARAMETER: Final = re.compile(r"\{\s*(\w+)\s*(?::\s*(\w+))?\s*\}")
_JOINS: Final = re.compile(rb"include_router\(|add_api_route\(|\.mount\(")
_DEEPEST: Final = 8
_WEBSOCKET: Final = "WEBSOCKET"


class _Listed(Model):
    """``Route(…)``, ``Mount(…)`` and ``WebSocketRoute(…)`` in a list of routes."""

    def __init__(self, site: CallSite, kind: str) -> None:
        self.kind, self.site = kind, site


class _Router(Model):
    """An application or a router; ``framework`` is what its routes are said to be of."""

    def __init__(self, site: CallSite, framework: str, prefix: Value = "") -> None:
        self.framework = framework
        self.place = site.place
        self.prefix = prefix if isinstance(prefix, str) else ""
        self.rules: list[Rule] = []
        self.children: list[tuple[str, _Router]] = []
        routes = site.keywords.get("routes")
        for each in routes if isinstance(routes, list) else ():
            self.take(each)

    def below(self) -> Iterator[_Router]:
        """What stands right below it."""
        return (child for _, child in self.children)

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        if name.upper() in VERBS:
            return Native(lambda site: self._decorate(site, [name.upper()]), name)
        if name == "router":
            return self
        if name == "prefix":
            return self.prefix
        return super().attribute(name, evaluator)

    def add(self, path: Value, methods: list[str], view: Value, place: Place) -> None:
        """Takes note of a route; a router's prefix stands before all it declares itself."""
        if isinstance(path, str):
            self.rules.append(Rule(f"{self.prefix}{path}", tuple(methods), view, place))

    def take(self, each: Value) -> None:
        """A route out of a list."""
        if isinstance(each, _Router):
            self.children.append(("", each))
            return
        if not isinstance(each, _Listed):
            return
        site = each.site
        if each.kind == "mount":
            self._mounted(site)
        elif each.kind == "websocket":
            self.add(site.get(0, "path"), [_WEBSOCKET], site.get(1, "endpoint"), site.place)
        else:
            view = site.get(1, "endpoint")
            self.add(site.get(0, "path"), _answered(site.keywords.get("methods"), view), view, site.place)

    def _decorate(self, site: CallSite, methods: list[str]) -> Value:
        def note(inner: CallSite) -> Value:
            self.add(site.get(0, "path"), methods, inner.get(0), site.place)
            return inner.get(0)

        return Native(note)

    def do_api_route(self, site: CallSite) -> Value:
        """``@router.api_route(path, methods=…)``."""
        return self._decorate(site, verbs_in(site.keywords.get("methods")) or ["GET"])

    def do_route(self, site: CallSite) -> Value:
        """``@router.route(path, methods=…)``."""
        return self._decorate(site, verbs_in(site.get(1, "methods", None)) or ["GET"])

    def do_websocket(self, site: CallSite) -> Value:
        """``@router.websocket(path)``."""
        return self._decorate(site, [_WEBSOCKET])

    do_websocket_route = do_websocket

    def do_add_api_route(self, site: CallSite) -> None:
        """``router.add_api_route(path, endpoint, methods=…)``."""
        view = site.get(1, "endpoint")
        self.add(site.get(0, "path"), verbs_in(site.keywords.get("methods")) or ["GET"], view, site.place)

    def do_add_route(self, site: CallSite) -> None:
        """``app.add_route(path, route, methods)``."""
        view = site.get(1, "endpoint", site.keywords.get("route"))
        self.add(site.get(0, "path"), _answered(site.get(2, "methods", None), view), view, site.place)

    def do_add_websocket_route(self, site: CallSite) -> None:
        """``app.add_websocket_route(path, endpoint)``."""
        self.add(site.get(0, "path"), [_WEBSOCKET], site.get(1, "endpoint"), site.place)

    do_add_api_websocket_route = do_add_websocket_route

    def do_include_router(self, site: CallSite) -> None:
        """A router below a prefix."""
        child, prefix = _router(site.get(0, "router")), site.get(1, "prefix", "")
        prefix = site.keywords.get("prefix", prefix)
        if child is not None:
            self.children.append((self.prefix + (prefix if isinstance(prefix, str) else ""), child))

    def do_mount(self, site: CallSite) -> None:
        """An application below a path."""
        self._mounted(site)

    def _mounted(self, site: CallSite) -> None:
        path, child = site.get(0, "path"), _router(site.get(1, "app", None))
        if not isinstance(path, str):
            return
        if child is not None:
            self.children.append((path.rstrip("/"), child))
        routes = site.keywords.get("routes", site.get(2, default=None))
        if isinstance(routes, list):
            inner = _Router(CallSite((), {"routes": routes}, site.place, site.evaluator), self.framework)
            self.children.append((path.rstrip("/"), inner))

    def walk(self, prefix: str = "", depth: int = 0) -> Iterator[Route]:
        """Its routes and those below."""
        for each in self.rules:
            path, rest = template(rooted(prefix + each.path) if not prefix else prefix + each.path)
            yield from routes_of(rooted(path), each.methods, each.view, each.place, self.framework, rest)
        for inner, child in self.children:
            if depth < _DEEPEST:
                yield from child.walk(prefix + inner, depth + 1)


def _answered(methods: Value, view: Value) -> list[str]:
    kind = class_behind(view)
    return (
        verbs_in(methods) or (verbs_of_class(kind) if kind is not None else []) or (["GET"] if kind is None else [ANY])
    )


def _router(value: Value) -> _Router | None:
    if isinstance(value, _Router):
        return value
    model = getattr(value, "model", None)
    return model if isinstance(model, _Router) else None


def template(path: str) -> tuple[str, frozenset[str]]:
    """A path as a template, and its parameters that may hold slashes."""
    rest = frozenset(m.group(1) for m in _PARAMETER.finditer(path) if m.group(2) == "path")
    return _PARAMETER.sub(lambda m: f"{{{m.group(1)}}}", path), rest


class FastApiRoutes:
    """Gathers the routes of one source."""

    def __init__(self) -> None:
        self._applications: list[_Router] = []
        made: dict[str, Callable[[CallSite], Value]] = {}
        for path in ("fastapi.FastAPI", "fastapi.applications.FastAPI"):
            made[path] = self._fastapi
        for path in ("fastapi.APIRouter", "fastapi.routing.APIRouter", "fastapi.routers.APIRouter"):
            made[path] = lambda site: _Router(site, "fastapi", site.keywords.get("prefix", ""))
        made["starlette.applications.Starlette"] = self._starlette
        made["starlette.routing.Router"] = _router_of_list
        for package in ("starlette.routing", "fastapi.routing"):
            made[f"{package}.Route"] = made[f"{package}.APIRoute"] = lambda site: _Listed(site, "route")
            made[f"{package}.WebSocketRoute"] = made[f"{package}.APIWebSocketRoute"] = lambda site: _Listed(
                site, "websocket"
            )
            made[f"{package}.Mount"] = lambda site: _Listed(site, "mount")
        self.models: Models = made

    def _fastapi(self, site: CallSite) -> _Router:
        made = _Router(site, "fastapi")
        schema = site.keywords.get("openapi_url", "/openapi.json")
        if isinstance(schema, str):
            made.add(schema, ["GET"], None, site.place)
            docs, redoc = site.keywords.get("docs_url", "/docs"), site.keywords.get("redoc_url", "/redoc")
            if isinstance(docs, str):
                made.add(docs, ["GET"], None, site.place)
                made.add(
                    site.keywords.get("swagger_ui_oauth2_redirect_url", "/docs/oauth2-redirect"),
                    ["GET"],
                    None,
                    site.place,
                )
            if isinstance(redoc, str):
                made.add(redoc, ["GET"], None, site.place)
        return self._kept(made)

    def _starlette(self, site: CallSite) -> _Router:
        routes = site.get(1, "routes", None)
        return self._kept(_Router(CallSite((), {"routes": routes}, site.place, site.evaluator), "starlette"))

    def _kept(self, made: _Router) -> _Router:
        self._applications.append(made)
        return made

    def routes(self, evaluator: Evaluator) -> Iterator[Route]:
        """The routes of every application that is not itself below another."""
        return routes_behind(evaluator, _MAKERS, _JOINS, self._applications, uppermost)


def _router_of_list(site: CallSite) -> _Router:
    return _Router(CallSite((), {"routes": site.get(0, "routes", None)}, site.place, site.evaluator), "starlette")
