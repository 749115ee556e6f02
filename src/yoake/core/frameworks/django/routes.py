"""Routes of Django projects: lists of patterns from the root on, what they include, routers of its REST extension, the admin."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from typing import Final

from yoake.core.contract.evaluation import (
    UNKNOWN,
    Called,
    CallSite,
    ClassValue,
    Evaluator,
    Exhausted,
    FunctionValue,
    Instance,
    Member,
    Model,
    Models,
    ModuleValue,
    Reference,
    Value,
)
from yoake.core.frameworks.django.admin import AdminSite, admin_patterns, admin_site
from yoake.core.frameworks.django.captured_addresses import CAPTURED
from yoake.core.frameworks.django.packaged import PACKAGED
from yoake.core.frameworks.django.patterns import path_template
from yoake.core.frameworks.django.rest import RestRouter
from yoake.core.frameworks.django.view_methods import methods_of_view
from yoake.core.frameworks.django.written import Pattern
from yoake.core.frameworks.regular import regex_template
from yoake.core.frameworks.routing import ASIDE, routes_of
from yoake.core.values.routes import ANY, Route, rooted

_SETTINGS_NAMED: Final = re.compile(rb"DJANGO_SETTINGS_MODULE[\"']?\s*(?:,|\]\s*=|=)\s*[\"']?([A-Za-z_][\w.]*)")
_STARTS: Final = ("manage.py", "wsgi.py", "asgi.py")
_DEEPEST: Final = 12
_SLASHED: Final = re.compile(r"\{(path|url)\}")
"""Parameters of addresses that were captured which may hold slashes."""


def _named_settings(paths: Iterable[str], evaluator: Evaluator) -> dict[str, str]:
    """Module of settings → the file that names it."""
    named: dict[str, str] = {}
    for path in paths:
        text = b"" if ASIDE.search(path) else evaluator.text_of(path) or b""
        for match in _SETTINGS_NAMED.finditer(text) if b"DJANGO_SETTINGS_MODULE" in text else ():
            named.setdefault(match.group(1).decode(), path)
    return named


class _Settings(Model):
    """``django.conf.settings``: what the settings module sets."""

    names_settings = True

    def __init__(self) -> None:
        self.modules: list[ModuleValue] = []

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        for module in self.modules:
            if name in module.scope.names:
                return module.scope.names[name]
        return _DEFAULTS.get(name, UNKNOWN) if self.modules else UNKNOWN


class _AppConfig(Model):
    """One installed application: its name, its label, and what its class sets."""

    def __init__(self, name: str, kind: ClassValue | None) -> None:
        self.name, self.kind = name, kind

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        found = evaluator.attribute(self.kind, name) if self.kind is not None else UNKNOWN
        if found is not UNKNOWN and not isinstance(found, Member):
            return found
        if name == "name":
            return self.name
        return self.name.rsplit(".", 1)[-1] if name == "label" else UNKNOWN

    def has(self, name: str, evaluator: Evaluator) -> bool | None:
        """Whether there is such a member; None where its class is not in the source."""
        if self.attribute(name, evaluator) is not UNKNOWN:
            return True
        return None if self.kind is None else False


def _fit(kind: ClassValue, module: ModuleValue) -> tuple[bool, ...]:
    return kind.members.get("default") is True, kind.place.file == module.file, "name" in kind.members


def _app_class(name: str, evaluator: Evaluator) -> ClassValue | None:
    """The class of an installed application: one of its own module rather than one that is only imported there."""
    for place in (f"{name}.apps", name):
        module = evaluator.module(place)
        kinds = [
            value
            for value in (module.scope.names.values() if module is not None else ())
            if isinstance(value, ClassValue) and any(path.endswith("AppConfig") for path in value.outside())
        ]
        if module is not None and kinds:
            return max(kinds, key=lambda kind: _fit(kind, module))
    return None


class _Apps(Model):
    """``django.apps.apps``: what the settings install."""

    def __init__(self, settings: _Settings) -> None:
        self._settings = settings

    def do_is_installed(self, site: CallSite) -> Value:
        """Whether an application is installed."""
        apps = self._settings.attribute("INSTALLED_APPS", site.evaluator)
        return site.get(0) in apps if isinstance(apps, list) else UNKNOWN

    def do_get_app_configs(self, site: CallSite) -> Value:
        """All of them, in order."""
        apps = self._settings.attribute("INSTALLED_APPS", site.evaluator)
        named = [each for each in apps if isinstance(each, str)] if isinstance(apps, list) else []
        names = [_APP_CLASS.sub("", each) for each in named]
        return [_AppConfig(name, _app_class(name, site.evaluator)) for name in names]


def _imported(site: CallSite) -> Value:
    """``import_string("a.b.c")``."""
    path = site.get(0, "dotted_path")
    return site.evaluator.dotted(path) if isinstance(path, str) else UNKNOWN


def _says(kind: ClassValue, name: str) -> bool:
    return any(isinstance(each, ClassValue) and name in each.members for each in kind.lineage())


_MOST_TO_START: Final = 200_000  # steps that one application may take to start
_APP_CLASS: Final = re.compile(r"(?:\.apps)?\.[A-Z]\w*$")
_DEFAULTS: Final[dict[str, Value]] = {"DEBUG": False, "LANGUAGE_CODE": "en-us", "USE_I18N": True}


def _pattern(convert: Callable[[str], tuple[str, frozenset[str]]]) -> Callable[[CallSite], Value]:
    def call(site: CallSite) -> Value:
        route = site.get(0, "route", site.keywords.get("regex", UNKNOWN))
        if isinstance(route, Called):  # a translated text
            route = route.arguments[0] if route.arguments else UNKNOWN
        if not isinstance(route, str):
            return UNKNOWN
        template, rest = convert(route)
        return Pattern(template, rest, site.get(1, "view"), site.place)

    return call


class _Included(Model):
    """``include(…)``: a list of patterns, or a module that has one."""

    def __init__(self, of: Value) -> None:
        self.of = of


def _include(site: CallSite) -> Value:
    return _Included(site.get(0, "arg", site.keywords.get("urlconf_module", UNKNOWN)))


def _old_patterns(site: CallSite) -> Value:
    """``patterns(prefix, …)`` of old: strings after the prefix name views below it."""
    prefix = site.get(0)
    found: list[Value] = []
    for each in site.arguments[1:]:
        if isinstance(each, list) and len(each) >= 2 and isinstance(each[0], str):
            template, rest = regex_template(each[0])
            each = Pattern(template, rest, each[1], site.place)  # noqa: PLW2901 - the same pattern, read
        if isinstance(each, Pattern):
            if isinstance(each.view, str) and isinstance(prefix, str) and prefix:
                each.view = f"{prefix}.{each.view}"
            found.append(each)
    return found


def _translated(site: CallSite) -> Value:
    """``i18n_patterns(…)``: the language stands in front."""
    inner = [each for part in site.arguments for each in (part if isinstance(part, list) else [part])]
    if site.keywords.get("prefix_default_language", True) is False:
        return inner
    return [Pattern("{language}/", frozenset(), inner, site.place)]


class DjangoRoutes:
    """Gathers the routes of one source."""

    def __init__(self) -> None:
        self._settings = _Settings()
        self._admin = AdminSite(is_default=True)
        made: dict[str, Value] = {
            "django.conf.settings": self._settings,
            "django.contrib.admin.site": self._admin,
            "django.contrib.admin.sites.site": self._admin,
            "django.contrib.admin.AdminSite": lambda _site: AdminSite(),
            "django.contrib.admin.sites.AdminSite": lambda _site: AdminSite(),
            "django.contrib.admin.register": self._admin.do_decorator,
            "django.contrib.admin.decorators.register": self._admin.do_decorator,
            "django.contrib.auth.get_user_model": self._user_model,
            "django.contrib.admin.autodiscover": self._autodiscover,
            "django.conf.urls.i18n.i18n_patterns": _translated,
            "django.utils.module_loading.import_string": _imported,
            "django.conf.urls.static.static": lambda _site: [],
            "django.contrib.staticfiles.urls.staticfiles_urlpatterns": lambda _site: [],
            "django.urls.reverse_lazy": lambda _site: UNKNOWN,
            "django.apps.apps": _Apps(self._settings),
            "django.apps.registry.apps": _Apps(self._settings),
            "rest_framework.urlpatterns.format_suffix_patterns": lambda site: site.get(0),
        }
        for package in ("django.urls", "django.conf.urls", "django.conf.urls.defaults", "django.urls.conf"):
            made[f"{package}.path"] = _pattern(path_template)
            made[f"{package}.re_path"] = made[f"{package}.url"] = _pattern(regex_template)
            made[f"{package}.include"] = _include
            made[f"{package}.patterns"] = _old_patterns
        for package, classes in RestRouter.NAMES.items():
            for name in classes:
                made[f"{package}.{name}"] = RestRouter.maker(name)
        self.models: Models = made
        self._walked: set[int] = set()

    def _user_model(self, site: CallSite) -> Value:
        named = self._settings.attribute("AUTH_USER_MODEL", site.evaluator)
        label, _, name = named.partition(".") if isinstance(named, str) else ("auth", "", "User")
        apps = self._settings.attribute("INSTALLED_APPS", site.evaluator)
        for app in apps if isinstance(apps, list) else ():
            if isinstance(app, str) and _APP_CLASS.sub("", app).rsplit(".", 1)[-1] == label:
                module = site.evaluator.module(f"{_APP_CLASS.sub('', app)}.models")
                found = module.scope.names.get(name) if module is not None else None
                if found is not None:
                    return found
        return Reference(f"django.contrib.{label}.models.{name}")

    def _autodiscover(self, site: CallSite) -> None:
        self._follow_admins(site.evaluator)

    def _follow_admins(self, evaluator: Evaluator) -> None:
        apps = self._settings.attribute("INSTALLED_APPS", evaluator)
        for each in apps if isinstance(apps, list) else ():
            if isinstance(each, str) and not each.startswith("django."):
                name = _APP_CLASS.sub("", each)
                evaluator.module(f"{name}.admin") or evaluator.module(f"{each.rpartition('.')[0]}.admin")

    def routes(self, evaluator: Evaluator) -> Iterator[Route]:
        """The routes from every root on."""
        roots = list(self._roots(evaluator))
        for root in roots:
            yield from self._walk(root.scope.names.get("urlpatterns"), "", frozenset(), evaluator, 0)

    def _roots(self, evaluator: Evaluator) -> Iterator[ModuleValue]:
        """The modules that settings name as root; without settings, modules of patterns that nobody includes."""
        found: dict[str, ModuleValue] = {}
        for module in self._settings_modules(evaluator):
            self._settings.modules = [module]
            named = module.scope.names.get("ROOT_URLCONF")
            if isinstance(named, str):
                self._start_applications(evaluator)
            root = evaluator.module(named, module.file) if isinstance(named, str) else None
            if root is not None and root.file not in found:
                found[root.file] = root
                self._follow_admins(evaluator)
                yield root
        if found:
            return
        candidates = [path for path in evaluator.modules() if path.endswith("urls.py") and not ASIDE.search(path)] or [
            path for path in evaluator.modules() if b"urlpatterns" in (evaluator.text_of(path) or b"")
        ]
        modules = [m for path in candidates if (m := evaluator.file_module(path)) is not None]
        included: set[str] = set()
        for module in modules:
            included |= self._included_files(module.scope.names.get("urlpatterns"), evaluator, 0)
        yield from (module for module in modules if module.file not in included and "urlpatterns" in module.scope.names)

    def _start_applications(self, evaluator: Evaluator) -> None:
        """Follows ``ready()`` of the installed applications that put addresses together while they start."""
        apps = self._settings.attribute("INSTALLED_APPS", evaluator)
        for each in apps if isinstance(apps, list) else ():
            name = _APP_CLASS.sub("", each) if isinstance(each, str) and not each.startswith("django.") else ""
            kind = _app_class(name, evaluator) if name else None
            own = [part for part in kind.lineage() if isinstance(part, ClassValue)] if kind is not None else []
            if kind is None or not any(b"urlpatterns" in (evaluator.text_of(part.place.file) or b"") for part in own):
                continue
            with suppress(Exhausted), evaluator.steps.limited(_MOST_TO_START):
                made = evaluator.call(kind, [name, UNKNOWN], {}, kind.place)
                if isinstance(made, Instance):
                    made.attributes |= {"label": name.rpartition(".")[2]} | (
                        {} if _says(kind, "name") else {"name": name}
                    )
                    ready = evaluator.attribute(made, "ready")
                    if isinstance(ready, FunctionValue):
                        evaluator.call(ready, [], {}, kind.place)
            if evaluator.steps.are_spent:
                raise Exhausted

    def _settings_modules(self, evaluator: Evaluator) -> Iterator[ModuleValue]:
        """Settings that the starting points name, else any file; without a root among them, files that set one."""
        starts = [path for path in evaluator.modules() if path.rsplit("/", 1)[-1] in _STARTS]
        named = _named_settings(starts, evaluator) or _named_settings(evaluator.modules(), evaluator)
        found: dict[str, ModuleValue] = {}
        for name, path in named.items():
            module = evaluator.module(name, path)
            if module is not None:
                found[module.file] = module
        if not any("ROOT_URLCONF" in module.scope.names for module in found.values()):
            for path in evaluator.modules():
                sets = b"ROOT_URLCONF" in (evaluator.text_of(path) or b"") and not ASIDE.search(path)
                module = evaluator.file_module(path) if sets else None
                if module is not None:
                    found[path] = module
        yield from found.values()

    def _included_files(self, patterns: Value, evaluator: Evaluator, depth: int) -> set[str]:
        found: set[str] = set()
        for each in patterns if isinstance(patterns, list) and depth < _DEEPEST else ():
            view = each.view if isinstance(each, Pattern) else None
            if isinstance(view, _Included):
                module = self._module_of(view.of, evaluator)
                if module is not None:
                    found.add(module.file)
            elif isinstance(view, list):
                found |= self._included_files(view, evaluator, depth + 1)
        return found

    @staticmethod
    def _module_of(of: Value, evaluator: Evaluator) -> ModuleValue | None:
        if isinstance(of, list) and of:
            of = of[0]
        if isinstance(of, str):
            return evaluator.module(of)
        return of if isinstance(of, ModuleValue) else None

    def _walk(
        self, patterns: Value, prefix: str, rest: frozenset[str], evaluator: Evaluator, depth: int
    ) -> Iterator[Route]:
        if not isinstance(patterns, list) or id(patterns) in self._walked or depth >= _DEEPEST:
            return
        self._walked.add(id(patterns))  # what includes itself is there once
        try:
            yield from self._walk_inside(patterns, prefix, rest, evaluator, depth)
        finally:
            self._walked.discard(id(patterns))

    def _walk_inside(
        self, patterns: list[Value], prefix: str, rest: frozenset[str], evaluator: Evaluator, depth: int
    ) -> Iterator[Route]:
        for each in list(patterns):
            evaluator.steps.one()
            if isinstance(each, list):
                yield from self._walk(each, prefix, rest, evaluator, depth + 1)
            if not isinstance(each, Pattern):
                continue
            whole, slashes = prefix + each.template, rest | each.rest
            below = self._below(each, evaluator)
            if below is not None:
                yield from self._walk(below, whole, slashes, evaluator, depth + 1)
                continue
            view = evaluator.dotted(each.view) if isinstance(each.view, str) else each.view
            yield from routes_of(
                rooted(whole), each.methods or methods_of_view(view), view, each.place, "django", slashes
            )

    def _below(self, each: Pattern, evaluator: Evaluator) -> Value | None:
        """The patterns below a pattern; None where a view answers."""
        view = each.view
        if isinstance(view, RestRouter):
            return list(view.patterns())
        if isinstance(view, _Included):
            of = (
                view.of[0] if isinstance(view.of, list) and view.of and not isinstance(view.of[0], Pattern) else view.of
            )
            if isinstance(of, str):
                module = evaluator.module(of, each.place.file) if of not in PACKAGED else None
                if module is not None:
                    return module.scope.names.get("urlpatterns", [])
                return [
                    Pattern(path, frozenset(_SLASHED.findall(path)), Reference(of), each.place, methods)
                    for path, methods in PACKAGED.get(of, ()) or [(path, (ANY,)) for path in CAPTURED.get(of, ())]
                ]
            if isinstance(of, Reference):
                return self._below(Pattern("", frozenset(), _Included(of.path), each.place), evaluator)
            if isinstance(of, ModuleValue):
                return of.scope.names.get("urlpatterns", [])
            if admin_site(of) is not None:
                return self._of_admin(of, each, evaluator)
            return of if isinstance(of, list) else []
        if isinstance(view, list):
            return view[0] if view and isinstance(view[0], list) else view
        if admin_site(view) is not None:
            return self._of_admin(view, each, evaluator)
        return None

    def _of_admin(self, site: Value, each: Pattern, evaluator: Evaluator) -> Value:
        apps = self._settings.attribute("INSTALLED_APPS", evaluator)
        users = self._settings.attribute("AUTH_USER_MODEL", evaluator)
        own_users = isinstance(users, str) and users != "auth.User"
        return admin_patterns(site, each.place, evaluator, apps, own_users=own_users)
