"""Routes of Flask applications: rules, blueprints inside one another, class views and resources of its extensions."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from typing import Any, Final

from yoake.core.contract.evaluation import (
    UNKNOWN,
    CallSite,
    ClassValue,
    Evaluator,
    FunctionValue,
    Instance,
    Model,
    Models,
    Native,
    Place,
    Value,
)
from yoake.core.frameworks.flask import exposed
from yoake.core.frameworks.routing import (
    ASIDE,
    Rule,
    class_behind,
    routes_behind,
    routes_of,
    verbs_in,
    verbs_of_class,
)
from yoake.core.values.routes import Route, joined, rooted

_MAKERS: Final = re.compile(rb"\b\w*(?:Flask|Quart|OpenAPI)(?:\.__init__)?\(|\(\w*Flask\)")
_KINDS: Final = re.compile(r"^[\w.]+\.[A-Z]\w*?(Flask|Blueprint)$")
_PARTS: Final = re.compile(rb"\b\w*(?:Blueprint|APIBlueprint)\(")
_PARAMETER: Final = re.compile(r"<(?:(?P<kind>[a-zA-Z_]\w*)(?:\([^>]*\))?:)?(?P<name>[a-zA-Z_]\w*)>")
_JOINS: Final = re.compile(
    rb"register_blueprint\(|add_url_rule\(|add_resource\(|add_namespace\(|\badd_view(?:_no_menu)?\(|\badd_api\("
)
_DEEPEST: Final = 8  # blueprints inside one another


class _Routed(Model):
    """An application or a blueprint. ``prefix`` is its own; children are put below it."""

    def __init__(self, prefix: Value) -> None:
        self.prefix = prefix if isinstance(prefix, str) else ""
        self.rules: list[Rule] = []
        self.children: list[tuple[_Routed, str | None]] = []
        self.placed: list[Rule] = []  # rules with their whole path
        self.gathers = False  # something registers blueprints on it that are looked for while it starts

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        if name in ("get", "post", "put", "patch", "delete"):
            return Native(lambda site: self._decorate(site, [name.upper()]), name)
        if name == "url_prefix":
            return self.prefix
        return super().attribute(name, evaluator)

    def add(self, rule: Value, methods: Value, view: Value, place: Place) -> None:
        """Takes note of a rule."""
        if isinstance(rule, str):
            self.rules.append(Rule(rule, tuple(verbs_in(methods)), view, place))

    def do_route(self, site: CallSite) -> Value:
        """``@app.route(rule, methods=…)``."""
        return self._decorate(site, site.get(-1, "methods", None))

    def _decorate(self, site: CallSite, methods: Value) -> Value:
        rule = site.get(0, "rule")

        def note(inner: CallSite) -> Value:
            self.add(rule, methods, inner.get(0), site.place)
            return inner.get(0)

        return Native(note)

    def do_add_url_rule(self, site: CallSite) -> None:
        """``app.add_url_rule(rule, endpoint, view_func, methods=…)``."""
        self.add(site.get(0, "rule"), site.get(-1, "methods", None), site.get(2, "view_func"), site.place)

    def do_register_blueprint(self, site: CallSite) -> None:
        """A blueprint below this one."""
        child, prefix = _routed(site.get(0, "blueprint")), site.get(1, "url_prefix", None)
        if child is None:
            self.gathers = True
        elif (child, prefix) not in self.children:
            self.children.append((child, prefix if isinstance(prefix, str) else None))

    def do_register_api(self, site: CallSite) -> None:
        """The same under another name."""
        self.do_register_blueprint(site)

    def set_up(self, evaluator: Evaluator) -> None:
        """Put each rule where the blueprint's own ``make_setup_state`` puts it, where it has one."""
        own = evaluator.attribute(self.holder, "make_setup_state") if isinstance(self.holder, Instance) else None
        if not isinstance(own, FunctionValue) or self.placed:
            return
        for rule in list(self.rules):
            state = evaluator.call(own, [UNKNOWN, {}, False], {}, rule.place)
            model = getattr(state, "model", None)
            if not isinstance(state, Instance) or not isinstance(model, _SetupState):
                return
            state.attributes["url_prefix"] = self.prefix
            evaluator.call(evaluator.attribute(state, "add_url_rule"), [rule.path, None, rule.view], {}, rule.place)
            self.placed += [replace(rule, path=path) for path in model.paths]
        self.rules = []

    def walk(self, prefix: str, depth: int = 0) -> Iterator[Route]:
        """Its routes and those of everything below, under ``prefix``."""
        for each in self.placed:
            path, rest = template(rooted(each.path))
            yield from routes_of(path, each.methods or methods_of(each.view), each.view, each.place, "flask", rest)
        for each in self.rules:
            path, rest = template(joined(prefix, each.path) if prefix else rooted(each.path))
            yield from routes_of(path, each.methods or methods_of(each.view), each.view, each.place, "flask", rest)
        for child, given in self.children:
            inner = child.prefix if given is None else given
            if depth < _DEEPEST:
                yield from child.walk(joined(prefix, inner) if prefix and inner else (prefix or inner), depth + 1)


class _Settings(Model):
    """``app.config``: what it holds is not known, but a class or function that stands in for a setting is what runs without it."""

    def do_get(self, site: CallSite) -> Value:
        """What stands in where a setting is not set."""
        instead = site.get(1, "default", None)
        return instead if isinstance(instead, ClassValue | FunctionValue) else UNKNOWN


class _Application(_Routed):
    """``Flask(…)``."""

    def __init__(self, site: CallSite) -> None:
        super().__init__("")
        self.place = site.place
        self.settings = _Settings()
        folder = site.keywords.get("static_folder", "static")
        at = site.keywords.get("static_url_path")
        if folder is not None:
            where = (
                at
                if isinstance(at, str)
                else f"/{folder}"
                if isinstance(folder, str) and "/" not in folder.strip("/")
                else "/static"
            )
            self.add(f"{where.rstrip('/')}/<path:filename>", "GET", None, site.place)

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        return self.settings if name == "config" else super().attribute(name, evaluator)


class _Blueprint(_Routed):
    """``Blueprint(name, …, url_prefix=…)``."""

    def __init__(self, site: CallSite) -> None:
        super().__init__(site.get(5, "url_prefix", ""))
        folder, at = site.get(2, "static_folder", None), site.get(3, "static_url_path", None)
        if folder is not None and isinstance(at, str):
            self.add(f"{at.strip('/')}/<path:filename>", "GET", None, site.place)
        elif isinstance(folder, str) and self.prefix:
            where = folder.rstrip("/").rsplit("/", 1)[-1]
            self.add(f"{where.strip('/')}/<path:filename>", "GET", None, site.place)


class _SetupState(Model):
    """``BlueprintSetupState(…)``: where a rule of a blueprint ends up. ``paths``: whole paths that were asked for."""

    def __init__(self, _site: CallSite) -> None:
        self.paths: list[str] = []

    def do_add_url_rule(self, site: CallSite) -> None:
        """A rule below the prefix as it stands now."""
        rule = site.get(0, "rule")
        held = self.holder.attributes.get("url_prefix") if isinstance(self.holder, Instance) else None
        if isinstance(rule, str):
            self.paths.append(joined(held, rule) if isinstance(held, str) and held else rule)


class _Resources(_Routed):
    """An object on which resources are registered class by class: ``Api`` of the extensions, and their namespaces."""

    def __init__(self, prefix: Value, holder: Value = None) -> None:
        super().__init__(prefix)
        if isinstance(holder, _Routed):
            holder.children.append((self, None))

    def do_init_app(self, site: CallSite) -> None:
        """Puts everything on an application later."""
        holder = _routed(site.get(0))
        if holder is not None:
            holder.children.append((self, None))

    def do_add_resource(self, site: CallSite) -> None:
        """``api.add_resource(Resource, *urls)``."""
        for each in site.arguments[1:]:
            self.add(each, None, site.get(0), site.place)

    def do_add_namespace(self, site: CallSite) -> None:
        """A namespace below this one."""
        child, path = _routed(site.get(0)), site.get(1, "path", None)
        if child is not None:
            self.children.append((child, path if isinstance(path, str) else None))

    def do_namespace(self, site: CallSite) -> Value:
        """Makes a namespace below this one."""
        made = _namespace(site)
        self.children.append((made, None))
        return made

    def do_resource(self, site: CallSite) -> Value:
        """``@api.resource(*urls)``."""
        return self._class_decorator(site)

    def do_route(self, site: CallSite) -> Value:
        """``@api.route(*urls)`` over a class."""
        return self._class_decorator(site)

    def _class_decorator(self, site: CallSite) -> Value:
        def note(inner: CallSite) -> Value:
            for each in site.arguments:
                self.add(each, site.keywords.get("methods"), inner.get(0), site.place)
            return inner.get(0)

        return Native(note)


def _namespace(site: CallSite) -> _Resources:
    name = site.get(0, "name")
    path = site.keywords.get("path", site.get(2, default=None))
    return _Resources(path if isinstance(path, str) else f"/{name}" if isinstance(name, str) else "")


def _restful(site: CallSite) -> _Resources:
    prefix = site.get(1, "prefix", "")
    return _Resources(prefix if isinstance(prefix, str) else "", _routed(site.get(0, "app", None)))


def _restx(site: CallSite) -> _Resources:
    prefix = site.keywords.get("prefix", "")
    made = _Resources(prefix, _routed(site.get(0, "app", None)))
    doc = site.keywords.get("doc", "/")
    if isinstance(doc, str):
        made.add(doc, "GET", None, site.place)
    made.add("/swagger.json", "GET", None, site.place)
    made.add("/", "GET", None, site.place)
    return made


def _routed(value: Value) -> _Routed | None:
    if isinstance(value, _Routed):
        return value
    model = getattr(value, "model", None)
    return model if isinstance(model, _Routed) else None


def methods_of(view: Value) -> list[str]:
    """What a view answers where the rule does not say: a class by its functions, else GET."""
    kind = class_behind(view)
    if kind is None:
        return ["GET"]
    try:
        listed = verbs_in(kind.member("methods"))
    except KeyError:
        listed = []
    return listed or verbs_of_class(kind) or ["GET"]


def template(rule: str) -> tuple[str, frozenset[str]]:
    """A rule as a template, and its parameters that may hold slashes."""
    rest = frozenset(m.group("name") for m in _PARAMETER.finditer(rule) if m.group("kind") == "path")
    return _PARAMETER.sub(lambda m: f"{{{m.group('name')}}}", rule), rest


class _Named(dict[str, Callable[[CallSite], Value]]):
    """Models by path; what other packages call ``…Flask`` or ``…Blueprint`` is one of a kind of theirs."""

    def get(self, path: str, default: Any = None) -> Any:
        """The model of a path."""
        found = super().get(path, default)
        if found is default and (kind := _KINDS.search(path)):
            return super().get(f"flask.{kind[1]}", default)
        return found


class FlaskRoutes:
    """Gathers the routes of one source."""

    def __init__(self) -> None:
        self._applications: list[_Application] = []
        self._blueprints: list[_Blueprint] = []
        made: dict[str, Callable[[CallSite], Value]] = {}
        for package in ("flask", "flask.app", "quart", "quart.app", "apiflask", "flask_openapi3"):
            for name in ("Flask", "Quart", "APIFlask", "OpenAPI"):
                made[f"{package}.{name}"] = self._application
            for name in ("Blueprint", "APIBlueprint"):
                made[f"{package}.{name}"] = self._blueprint
        made |= {
            "flask.blueprints.BlueprintSetupState": _SetupState,
            "flask.blueprints.Blueprint": self._blueprint,
            "quart.blueprints.Blueprint": self._blueprint,
            "flask_smorest.Blueprint": self._blueprint,
            "flask_smorest.Api": lambda site: _Resources("", _routed(site.get(0, "app", None))),
            "flask_restful.Api": _restful,
            "flask_restx.Api": _restx,
            "flask_restplus.Api": _restx,
            "flask_restx.Namespace": _namespace,
            "flask_restplus.Namespace": _namespace,
            **exposed.models(_routed, _Routed),
        }
        self.models: Models = _Named(made)

    def _application(self, site: CallSite) -> _Application:
        made = _Application(site)
        self._applications.append(made)
        return made

    def _blueprint(self, site: CallSite) -> _Blueprint:
        made = _Blueprint(site)
        self._blueprints.append(made)
        return made

    def routes(self, evaluator: Evaluator) -> Iterator[Route]:
        """The routes of every application that the code makes."""
        return routes_behind(
            evaluator, _MAKERS, _JOINS, self._applications, lambda held: self._serving(held, evaluator)
        )

    def _serving(self, applications: Sequence[_Application], evaluator: Evaluator) -> Iterator[_Application]:
        """Those that answer anything beside their static files."""
        self._gather(applications, evaluator)
        for blueprint in self._blueprints:
            blueprint.set_up(evaluator)
        for each in applications:
            if each.children or any(rule.view is not None for rule in each.rules):
                yield each

    def _gather(self, applications: Sequence[_Application], evaluator: Evaluator) -> None:
        """Blueprints of the source that nothing registers go to the application that registers what it looks for while it starts."""
        gathering = next((each for each in applications if each.gathers), None)
        if gathering is None:
            return
        for path in evaluator.modules():
            if not ASIDE.search(path) and _PARTS.search(evaluator.text_of(path) or b""):
                evaluator.file_module(path)
        held = {id(child) for each in (*applications, *self._blueprints) for child, _ in each.children}
        gathering.children += [(each, None) for each in self._blueprints if id(each) not in held]
