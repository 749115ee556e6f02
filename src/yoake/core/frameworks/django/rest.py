"""Routers of Django's REST extension: a set of views becomes addresses for its list, its members and what it adds."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Final

from yoake.core.contract.evaluation import (
    UNKNOWN,
    Called,
    CallSite,
    ClassValue,
    Evaluator,
    FunctionValue,
    Model,
    Place,
    Reference,
    Value,
)
from yoake.core.frameworks.django.written import Pattern
from yoake.core.frameworks.regular import regex_template
from yoake.core.frameworks.routing import verbs_in

_LIST: Final = {"list": "GET", "create": "POST"}
_MEMBER: Final = {"retrieve": "GET", "update": "PUT", "partial_update": "PATCH", "destroy": "DELETE"}
_OFFERED: Final[dict[str, tuple[str, ...]]] = {
    "ModelViewSet": (*_LIST, *_MEMBER),
    "ReadOnlyModelViewSet": ("list", "retrieve"),
    "ListModelMixin": ("list",),
    "CreateModelMixin": ("create",),
    "RetrieveModelMixin": ("retrieve",),
    "UpdateModelMixin": ("update", "partial_update"),
    "DestroyModelMixin": ("destroy",),
}


class RestRouter(Model):
    """``DefaultRouter`` and ``SimpleRouter``; the former answers at its root too, and for suffixes that name a format."""

    NAMES: Final = {
        "rest_framework.routers": ("DefaultRouter", "SimpleRouter"),
        "rest_framework_nested.routers": ("DefaultRouter", "SimpleRouter", "NestedSimpleRouter", "NestedDefaultRouter"),
        "rest_framework_extensions.routers": ("ExtendedDefaultRouter", "ExtendedSimpleRouter"),
        "rest_framework_bulk.routes": ("BulkRouter",),
    }

    @staticmethod
    def maker(name: str) -> Callable[[CallSite], RestRouter]:
        """What makes a router of that class."""
        return lambda site: RestRouter(site, name)

    def __init__(self, site: CallSite, name: str) -> None:
        slash = site.get(-1, "trailing_slash", True)
        self.ending = "" if slash is False else "/"
        self.has_root = "Default" in name and "Nested" not in name
        self.has_suffixes = "Default" in name
        self.place = site.place
        self.prefix = ""
        self.entries: list[tuple[str, Value, Place]] = []
        if "Nested" in name:
            above, prefix, lookup = site.get(0), site.get(1), site.get(2, "lookup", "pk")
            if isinstance(above, RestRouter) and isinstance(prefix, str):
                self.prefix = f"{above.prefix}{prefix}/{{{lookup}_pk}}/"
                self.ending = above.ending

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        if name == "urls":  # what is registered later counts too
            return [Pattern("", frozenset(), self, self.place)]
        if name == "registry":
            return [[prefix, view, prefix] for prefix, view, _ in self.entries]
        if name in ("include_root_view", "trailing_slash"):
            return UNKNOWN
        return super().attribute(name, evaluator)

    def do_register(self, site: CallSite) -> None:
        """``router.register(prefix, viewset)``."""
        prefix = site.get(0, "prefix")
        if isinstance(prefix, str):
            self.entries.append((prefix, site.get(1, "viewset"), site.place))

    def do_extend(self, site: CallSite) -> None:
        """Takes the entries of another router."""
        other = site.get(0)
        if isinstance(other, RestRouter):
            self.entries.extend(other.entries)

    def do_get_urls(self, _site: CallSite) -> Value:
        """The patterns as a list."""
        return [Pattern("", frozenset(), self, self.place)]

    def patterns(self) -> Iterator[Pattern]:
        """The patterns of all that is registered."""
        for prefix, view, place in self.entries:
            shown, _ = regex_template(prefix)
            start = self.prefix + (f"{shown}/" if shown else "")
            for path, methods in self._addresses(view):
                address = (start + path).rstrip("/") + self.ending if path or start else ""
                yield from self._with_suffix(Pattern(address, frozenset(), view, place, tuple(methods)))
        if self._says("include_root_view", self.has_root):
            yield from self._with_suffix(
                Pattern(self.prefix, frozenset(), Reference("rest_framework.routers.APIRootView"), self.place, ("GET",))
            )

    def _says(self, name: str, default: bool) -> bool:
        """What a class of the source that inherits from the router says, else the router's own way."""
        if self.holder is None or not default:
            return default
        said = self.holder.attributes.get(name, UNKNOWN)
        if said is UNKNOWN:
            said = _member(self.holder.kind, name)
        return said is not False

    def _with_suffix(self, pattern: Pattern) -> Iterator[Pattern]:
        yield pattern
        if self._says("include_format_suffixes", self.has_suffixes):
            stem = pattern.template.rstrip("/")
            yield Pattern(
                f"{stem}.{{format}}/" if stem else ".{format}/",
                frozenset(),
                pattern.view,
                pattern.place,
                pattern.methods,
            )

    def _addresses(self, view: Value) -> Iterator[tuple[str, list[str]]]:
        if not isinstance(view, ClassValue):
            yield "", ["GET", "POST"]
            yield "{pk}", ["GET", "PUT", "PATCH", "DELETE"]
            return
        allowed = _member(view, "http_method_names")
        offered = set(_offered(view))

        def kept(methods: list[str]) -> list[str]:
            return [m for m in methods if not isinstance(allowed, list) or m.lower() in allowed]

        listed = kept([verb for name, verb in _LIST.items() if name in offered])
        own = kept([verb for name, verb in _MEMBER.items() if name in offered])
        actions = list(_actions(view))
        if listed:
            yield "", listed
        for name, methods, detail in actions:
            if not detail:
                yield name, kept(methods)
        lookup = _lookup(view)
        if own:
            yield lookup, own
        for name, methods, detail in actions:
            if detail:
                yield f"{lookup}/{name}", kept(methods)


def _member(view: ClassValue, name: str) -> Value:
    try:
        return view.member(name)
    except KeyError:
        return UNKNOWN


def _lookup(view: ClassValue) -> str:
    named = _member(view, "lookup_url_kwarg")
    if not isinstance(named, str):
        named = _member(view, "lookup_field")
    return f"{{{named if isinstance(named, str) else 'pk'}}}"


def _offered(view: ClassValue) -> Iterator[str]:
    for each in view.lineage():
        if isinstance(each, ClassValue):
            yield from (name for name in (*_LIST, *_MEMBER) if name in each.members)
        else:
            yield from _OFFERED.get(each.path.rsplit(".", 1)[-1], ())


def _actions(view: ClassValue) -> Iterator[tuple[str, list[str], bool]]:
    """(path below, methods, whether of one member) of what ``@action`` marks."""
    seen: set[str] = set()
    for each in view.lineage():
        for name, member in each.members.items() if isinstance(each, ClassValue) else ():
            if name in seen or not isinstance(member, FunctionValue):
                continue
            seen.add(name)
            for mark in member.marks:
                found = _action(mark, name)
                if found is not None:
                    yield found


def _action(mark: Value, name: str) -> tuple[str, list[str], bool] | None:
    if not isinstance(mark, Called) or not isinstance(mark.of, Reference):
        return None
    kind = mark.of.path.rsplit(".", 1)[-1]
    if kind not in ("action", "detail_route", "list_route", "link") or not mark.of.path.startswith("rest_framework"):
        return None
    methods = verbs_in(mark.keywords.get("methods", mark.arguments[0] if mark.arguments else None)) or ["GET"]
    detail = mark.keywords.get("detail", kind != "list_route") is not False
    path = mark.keywords.get("url_path", name)
    shown, _ = regex_template(re.sub(r"^\^|\$$", "", path)) if isinstance(path, str) else (name, None)
    return shown, methods, detail
