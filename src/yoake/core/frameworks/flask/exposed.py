"""Views as classes whose methods say where they answer, put on an application by a builder (Flask-AppBuilder), which adds its own."""

from __future__ import annotations

from collections.abc import Callable, Container, Iterator
from typing import Any, Final, Protocol

from yoake.core.contract.evaluation import (
    CallSite,
    ClassValue,
    FunctionValue,
    Instance,
    Model,
    Native,
    Place,
    Reference,
    Value,
    target,
)
from yoake.core.frameworks.routing import Rule, class_behind, verbs_in
from yoake.core.values.routes import joined

_PACKAGE: Final = "flask_appbuilder"
_MARK: Final = "_urls"  # the package's own name for what its decorator leaves on a function
_GET, _POST, _FORM = ("GET",), ("POST",), ("GET", "POST")

Urls = tuple[tuple[str, tuple[str, ...]], ...]
Exposures = dict[str, Urls]
"""Name of a method → where it answers, and to what."""

_CHART: Final[Exposures] = {"chart": (("/chart/", _GET), ("/chart/<group_by>", _GET))}
_SIMPLE_FORM: Final[Exposures] = {"this_form_get": (("/form", _GET),), "this_form_post": (("/form", _POST),)}
_REST: Final[Exposures] = {
    "api": (("/api", _GET),),
    "api_read": (("/api/read", _GET),),
    "api_readvalues": (("/api/readvalues", _GET),),
    "api_get": (("/api/get/<pk>", _GET),),
    "api_create": (("/api/create", _POST),),
    "api_update": (("/api/update/<pk>", ("PUT",)),),
    "api_delete": (("/api/delete/<pk>", ("DELETE",)),),
    "api_column_add": (("/api/column/add/<col_name>", _GET),),
    "api_column_edit": (("/api/column/edit/<col_name>", _GET),),
}
_MODEL: Final[Exposures] = {
    **_REST,
    "list": (("/list/", _GET),),
    "show": (("/show/<pk>", _GET),),
    "add": (("/add", _FORM),),
    "edit": (("/edit/<pk>", _FORM),),
    "delete": (("/delete/<pk>", _FORM),),
    "download": (("/download/<string:filename>", _GET),),
    "action": (("/action/<string:name>/<pk>", _FORM),),
    "action_post": (("/action_post", _POST),),
}
_MODEL_API: Final[Exposures] = {
    "info": (("/_info", _GET),),
    "get_list": (("/", _GET),),
    "get": (("/<int:pk>", _GET),),
    "post": (("/", _POST),),
    "put": (("/<pk>", ("PUT",)),),
    "delete": (("/<pk>", ("DELETE",)),),
}
_USERS: Final[Exposures] = {**_MODEL, "userinfo": (("/userinfo/", _GET),)}
_CLASSES: Final[dict[str, Exposures]] = {
    "BaseView": {},
    "BaseModelView": {},
    "BaseFormView": {},
    "BaseCRUDView": {},
    "AuthView": {"login": (("/login/", _FORM),), "logout": (("/logout/", _GET),)},
    "IndexView": {"index": (("/", _GET),)},
    "SimpleFormView": _SIMPLE_FORM,
    "PublicFormView": _SIMPLE_FORM,
    "RestCRUDView": _REST,
    "ModelView": _MODEL,
    "GeneralView": _MODEL,
    "MasterDetailView": {"list": (("/list/<pk>", _GET), ("/list/", _GET))},
    "MultipleView": {"list": (("/list/", _GET),)},
    "CompactCRUDMixin": {
        "list": (("/list/", _FORM),),
        "add": (("/add/", _FORM),),
        "edit": (("/edit/<pk>", _FORM),),
        "delete": (("/delete/<pk>", _FORM),),
    },
    "ChartView": _CHART,
    "DirectChartView": _CHART,
    "GroupByChartView": _CHART,
    "DirectByChartView": _CHART,
    "TimeChartView": {"chart": (("/chart/", _GET), ("/chart/<group_by>/<period>", _GET))},
    "BaseApi": {},
    "BaseModelApi": {},
    "ModelRestApi": _MODEL_API,
    "UserDBModelView": _USERS,
    "UserLDAPModelView": _USERS,
    "UserOAuthModelView": _USERS,
    "UserRemoteUserModelView": _USERS,
    "RoleModelView": _MODEL,
}
"""Classes of the package that an application builds on, and what they answer; asked of Flask-AppBuilder 4.3.11 itself."""

_APIS: Final = frozenset(("BaseApi", "BaseModelApi", "ModelRestApi"))
_BUILT_IN: Final[tuple[tuple[str, Exposures], ...]] = (
    ("", {"index": (("/", _GET),), "back": (("/back", _GET),), "lang": (("/lang/<string:locale>", _GET),)}),
    ("", {"login": (("/login/", _FORM),), "logout": (("/logout/", _GET),)}),
    ("/api/v1", {"menu": (("/menu/", _GET),), "login": (("/security/login", _POST),), "refresh": (("/security/refresh", _POST),)}),
    ("/static/appbuilder", {"static": (("/<path:filename>", _GET),)}),
    ("/resetpassword", _SIMPLE_FORM),
    ("/resetmypassword", _SIMPLE_FORM),
    ("/userinfoeditview", _SIMPLE_FORM),
    ("/userstatschartview", _CHART),
    ("/users", _USERS),
    ("/roles", _MODEL),
    ("/permissions", _MODEL),
    ("/permissionviews", _MODEL),
    ("/viewmenus", _MODEL),
)  # fmt: skip
"""What a builder answers by itself, with accounts in the database: asked of the same release."""


class Holder(Protocol):
    """What rules are put on."""

    rules: list[Rule]


def expose(site: CallSite) -> Value:
    """``@expose(url, methods)``: leaves on the function where it answers."""
    url, methods = site.get(0, "url", "/"), verbs_in(site.get(1, "methods", None)) or list(_GET)

    def note(inner: CallSite) -> Value:
        function = target(inner.get(0))
        if isinstance(function, FunctionValue) and isinstance(url, str):
            function.attributes.setdefault(_MARK, []).append((url, tuple(methods)))
        return inner.get(0)

    return Native(note)


def rules_of(kind: ClassValue) -> Iterator[Rule]:
    """The rules of a class of views, its own and those that it inherits."""
    base = _base_of(kind)
    if base is None:
        return
    only, never = _names(kind, "include_route_methods"), _names(kind, "exclude_route_methods") or ()
    for name, (urls, view) in _exposed(kind).items():
        if (only is None or name in only) and name not in never:
            for url, methods in urls:
                yield Rule(joined(base, url), methods, view, kind.place)


def _exposed(kind: ClassValue) -> dict[str, tuple[Urls, Value]]:
    """Name of a method → where it answers, and the function; the nearest of a name decides, also against the others."""
    found: dict[str, tuple[Urls, Value]] = {}
    hidden: set[str] = set()
    for each in kind.lineage():
        if isinstance(each, Reference):
            for name, urls in _CLASSES.get(each.path.rsplit(".", 1)[-1], {}).items():
                if name not in hidden:
                    found.setdefault(name, (urls, kind))
            continue
        for name, value in each.members.items():
            function = target(value)
            if not isinstance(function, FunctionValue) or name in hidden or name in found:
                continue
            said = function.attributes.get(_MARK)
            if said:
                found[name] = (tuple(said), function)
            else:
                hidden.add(name)
    return found


def _base_of(kind: ClassValue) -> str | None:
    """Where the routes of a class begin; None where it is none of these classes, or where that is not known."""
    outside = {path.rsplit(".", 1)[-1] for path in kind.outside() if path.startswith(f"{_PACKAGE}.")}
    if outside.isdisjoint(_CLASSES):
        return None
    base = _member(kind, "route_base")
    if isinstance(base, str):
        return base.rstrip("/")
    if outside.isdisjoint(_APIS):
        return "" if "AuthView" in outside or "IndexView" in outside else f"/{kind.name.lower()}"
    name, version = _member(kind, "resource_name"), _member(kind, "version")
    return (
        f"/api/{version if isinstance(version, str) else 'v1'}/{name if isinstance(name, str) else kind.name.lower()}"
    )


def _member(kind: ClassValue, name: str) -> Value:
    try:
        return kind.member(name)
    except KeyError:
        return None


def _names(kind: ClassValue, name: str) -> Container[str] | None:
    """What a class says of its methods: anything that ``in`` can be asked of, one name as a text too."""
    found = _member(kind, name)
    return found if isinstance(found, str | list | tuple | set | frozenset) else None


class View(Model):
    """What a class of views gets from the package: a blueprint of itself."""

    def __init__(self, blueprint: Callable[[str], Any]) -> None:
        self._blueprint = blueprint

    def do_create_blueprint(self, _site: CallSite) -> Value:
        """Its rules as a blueprint; they have their whole path."""
        made = self._blueprint("")
        if isinstance(self.holder, Instance):
            made.rules.extend(rules_of(self.holder.kind))
        return made


class Builder(Model):
    """``AppBuilder(app, session)``: views and interfaces are put on the application class by class."""

    def __init__(self, site: CallSite, application: Callable[[Value], Holder | None]) -> None:
        self._application = application
        self._waiting: list[Rule] = []
        self._holder: Holder | None = None
        self._add(_built_in(site.place))
        self._put_on(site.get(0, "app", None))

    def do_init_app(self, site: CallSite) -> None:
        """Puts everything on an application later."""
        self._put_on(site.get(0, "app"))

    def do_add_view(self, site: CallSite) -> Value:
        """A view, with its place in the menu."""
        kind = class_behind(site.get(0, "baseview"))
        if kind is not None:
            self._add(list(rules_of(kind)))
        return site.get(0, "baseview")

    do_add_view_no_menu = do_add_api = do_add_view

    def _put_on(self, app: Value) -> None:
        self._holder = self._application(app) or self._holder
        if self._holder is not None:
            self._holder.rules.extend(self._waiting)
            self._waiting = []

    def _add(self, rules: list[Rule]) -> None:
        (self._waiting if self._holder is None else self._holder.rules).extend(rules)


def _built_in(place: Place) -> list[Rule]:
    return [
        Rule(f"{base}{url}", methods, None, place)
        for base, exposures in _BUILT_IN
        for urls in exposures.values()
        for url, methods in urls
    ]


def models(application: Callable[[Value], Holder | None], blueprint: Callable[[str], Any]) -> dict[str, Any]:
    """Path of what the package has → its model."""
    found: dict[str, Any] = {}
    for module in ("", ".baseviews", ".views", ".api", ".charts.views", ".security.views"):
        for name in _CLASSES:
            found[f"{_PACKAGE}{module}.{name}"] = lambda _site: View(blueprint)
        found[f"{_PACKAGE}{module}.expose"] = expose
    for module in ("", ".base"):
        found[f"{_PACKAGE}{module}.AppBuilder"] = lambda site: Builder(site, application)
    return found
