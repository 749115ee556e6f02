"""Routes of Fastify applications: methods, full declarations, plugins that are registered below a prefix, folders that are loaded."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Callable, Iterator
from typing import Final

from yoake.core.contract.evaluation import (
    UNKNOWN,
    CallSite,
    Evaluator,
    FunctionValue,
    Model,
    Models,
    Native,
    Place,
    Reference,
    Value,
)
from yoake.core.frameworks.colon_paths import colon_template, verb_of
from yoake.core.frameworks.routing import Rule, follow_handed, follow_makers, routes_of, verbs_in
from yoake.core.values.routes import ANY, Route, joined, rooted

_MAKERS: Final = re.compile(rb"\b[Ff]astify\w*\s*\(|require\([\"']fastify[\"']\)|from [\"']fastify[\"']")
_JOINS: Final = re.compile(rb"\.register\(")
_ROUTED: Final = re.compile(r"\.[cm]?[jt]s$")


class _Skipping(Model):
    """A plugin that is wrapped so that it is not kept apart from what registers it."""

    def __init__(self, inner: Value) -> None:
        self.inner = inner


class _Scope(Model):
    """An application, or what a plugin is handed. ``rules`` are shared by all of one application."""

    def __init__(self, prefix: str, rules: list[Rule], carried: dict[str, Value] | None = None) -> None:
        self.prefix, self.rules = prefix, rules
        self.carried = carried if carried is not None else {}

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        verb = verb_of(name)
        if verb is not None:
            return Native(lambda site: self._on(site, verb), name)
        if name in ("after", "ready", "addHook", "setErrorHandler", "setNotFoundHandler", "listen"):
            return Native(self._aside, name)
        if name == "withTypeProvider":
            return Native(lambda _: self, name)
        if name == "default":
            return self
        if name in self.carried:
            return self.carried[name]
        return super().attribute(name, evaluator)

    def _aside(self, site: CallSite) -> Value:
        follow_handed(site)
        return self

    def add(self, path: Value, methods: tuple[str, ...], handler: Value, place: Place) -> None:
        """Takes note of a route. The root of a prefix answers with and without a slash at its end."""
        if not isinstance(path, str):
            return
        if path in ("", "/") and self.prefix:
            for each in dict.fromkeys((self.prefix, f"{self.prefix.rstrip('/')}/") if path == "/" else (self.prefix,)):
                self.rules.append(Rule(each, methods, handler, place))
            return
        self.rules.append(Rule(joined(self.prefix, path) if self.prefix else path, methods, handler, place))

    def _on(self, site: CallSite, verb: str) -> Value:
        options = site.get(1, default=None)
        handler = site.arguments[-1] if len(site.arguments) > 1 else UNKNOWN
        if isinstance(handler, dict) and isinstance(options, dict):
            handler = options.get("handler", UNKNOWN)
        self.add(site.get(0), (verb,), handler, site.place)
        return self

    def do_route(self, site: CallSite) -> Value:
        """``route({method, url, handler})``."""
        given = site.get(0)
        if isinstance(given, dict):
            methods = tuple(verbs_in(given.get("method"))) or (ANY,)
            self.add(given.get("url", given.get("path")), methods, given.get("handler", UNKNOWN), site.place)
        return self

    def do_decorate(self, site: CallSite) -> Value:
        """What a program puts on the application is found there later."""
        if isinstance(site.get(0), str):
            self.carried[site.get(0)] = site.get(1)
        return self

    def do_register(self, site: CallSite) -> Value:
        """``register(plugin, {prefix})``."""
        plugin, options = site.get(0), site.get(1, default=None)
        if isinstance(options, FunctionValue):
            options = site.evaluator.call(options, [self], {}, site.place)
        options = options if isinstance(options, dict) else {}
        if _is_folder_loader(plugin):
            self._load(options, site)
            return self
        if isinstance(plugin, dict) and "default" in plugin:
            plugin = plugin["default"]
        self._plug(plugin, options, site)
        return self

    def _plug(self, plugin: Value, options: dict[str, Value], site: CallSite) -> None:
        prefix = options.get("prefix")
        if prefix is None and isinstance(plugin, FunctionValue):
            prefix = plugin.attributes.get("autoPrefix")
        inner: _Scope = self
        if isinstance(plugin, _Skipping):
            plugin = plugin.inner
        else:
            below = joined(self.prefix, prefix) if isinstance(prefix, str) and prefix.strip("/") else self.prefix
            inner = _Scope(below, self.rules, dict(self.carried))
        if isinstance(plugin, FunctionValue | Native):
            site.evaluator.call(plugin, [inner, options, Native(lambda _: None)], {}, site.place)

    def _load(self, options: dict[str, Value], site: CallSite) -> None:
        """Every file of a folder is a plugin; folders below give prefixes."""
        folder = options.get("dir")
        if not isinstance(folder, str):
            return
        start = f"{folder.strip('/')}/"
        given = options.get("options")
        handed = given if isinstance(given, dict) else {}
        named = options.get("dirNameRoutePrefix", True) is not False
        for path in sorted(site.evaluator.modules()):
            inner = path.removeprefix(start)
            if not path.startswith(start) or not _ROUTED.search(path) or ".test." in path or ".d.ts" in path:
                continue
            module = site.evaluator.file_module(path)
            exports = module.scope.names["module"]["exports"] if module is not None else None
            plugin = exports.get("default", exports) if isinstance(exports, dict) else exports
            own = exports.get("autoPrefix") if isinstance(exports, dict) else None
            below = posixpath.dirname(inner) if named else ""
            below = re.sub(r"(^|/)_(\w+)", r"\1:\2", below) if options.get("routeParams") is True else below
            prefix = "/".join(
                part.strip("/")
                for part in (handed.get("prefix"), own if isinstance(own, str) else below)
                if isinstance(part, str) and part.strip("/")
            )
            self._plug(plugin, {**handed, "prefix": f"/{prefix}" if prefix else ""}, site)


def _is_folder_loader(value: Value) -> bool:
    return isinstance(value, Reference) and value.path.split(".")[0] in ("@fastify/autoload", "fastify-autoload")


class FastifyRoutes:
    """Gathers the routes of one source."""

    def __init__(self) -> None:
        self._rules: list[list[Rule]] = []
        made: dict[str, Callable[[CallSite], Value]] = {
            "fastify": self._application,
            "fastify.fastify": self._application,
            "fastify-plugin": lambda site: _Skipping(site.get(0)),
            "fastify-plugin.fastifyPlugin": lambda site: _Skipping(site.get(0)),
        }
        self.models: Models = made

    def _application(self, _site: CallSite) -> _Scope:
        rules: list[Rule] = []
        self._rules.append(rules)
        return _Scope("", rules)

    def routes(self, evaluator: Evaluator) -> Iterator[Route]:
        """The routes of every application."""
        follow_makers(evaluator, _MAKERS, _JOINS)
        if not any(self._rules):
            self._started_by_the_tool(evaluator)
        for rules in self._rules:
            for each in rules:
                path, rest = colon_template(each.path)
                yield from routes_of(rooted(path), each.methods, each.view, each.place, "fastify", rest)

    def _started_by_the_tool(self, evaluator: Evaluator) -> None:
        """An application that only exports its plugin: ``app.js`` is handed an application from outside."""
        for path in evaluator.modules():
            if re.search(r"(^|/)(app|server|plugin)\.[cm]?[jt]s$", path) and b"fastify" in (
                evaluator.text_of(path) or b""
            ):
                module = evaluator.file_module(path)
                exports = module.scope.names["module"]["exports"] if module is not None else None
                plugin = exports.get("default") if isinstance(exports, dict) else exports
                if isinstance(plugin, FunctionValue | _Skipping):
                    rules: list[Rule] = []
                    self._rules.append(rules)
                    site = CallSite(
                        (plugin,), {}, plugin.place if isinstance(plugin, FunctionValue) else Place(path, 1), evaluator
                    )
                    _Scope("", rules).do_register(site)
