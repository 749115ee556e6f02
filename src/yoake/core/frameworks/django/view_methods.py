"""Which methods a view of Django answers, as far as its class and its decorators say."""

from __future__ import annotations

from typing import Final

from yoake.core.contract.evaluation import Called, ClassValue, FunctionValue, Member, Reference, Value, target
from yoake.core.frameworks.routing import class_behind, verbs_in, verbs_of_class
from yoake.core.values.routes import ANY

_GET: Final = ("GET",)
_FORM: Final = ("GET", "POST")
_BY_BASE: Final[dict[str, tuple[str, ...]]] = {
    "TemplateView": _GET,
    "ListView": _GET,
    "DetailView": _GET,
    "ArchiveIndexView": _GET,
    "FormView": _FORM,
    "CreateView": _FORM,
    "UpdateView": _FORM,
    "DeleteView": _FORM,
    "LoginView": _FORM,
    "LogoutView": _FORM,
    "PasswordChangeView": _FORM,
    "PasswordResetView": _FORM,
    "ListAPIView": _GET,
    "RetrieveAPIView": _GET,
    "CreateAPIView": ("POST",),
    "DestroyAPIView": ("DELETE",),
    "UpdateAPIView": ("PUT", "PATCH"),
    "ListCreateAPIView": _FORM,
    "RetrieveUpdateAPIView": ("GET", "PUT", "PATCH"),
    "RetrieveDestroyAPIView": ("GET", "DELETE"),
    "RetrieveUpdateDestroyAPIView": ("GET", "PUT", "PATCH", "DELETE"),
}
"""Last part of the path of a class that Django or its REST extension bring → what it answers."""
_BY_MARK: Final = {"require_GET": _GET, "require_POST": ("POST",), "require_safe": _GET}


def methods_of_view(view: Value) -> list[str]:
    """The methods of a view; ``ANY`` where nothing says."""
    mapped = _mapped(view)
    if mapped:
        return mapped
    kind = class_behind(view)
    if kind is not None:
        return _of_class(kind)
    found = target(view)
    if isinstance(found, Reference):
        return list(_BY_BASE.get(found.path.removesuffix(".as_view").rsplit(".", 1)[-1], (ANY,)))
    return _of_marks(found.marks) if isinstance(found, FunctionValue) else [ANY]


def _mapped(view: Value) -> list[str]:
    """``as_view({"get": "list"})``."""
    if (
        isinstance(view, Called)
        and isinstance(view.of, Member)
        and view.arguments
        and isinstance(view.arguments[0], dict)
    ):
        return verbs_in([str(key) for key in view.arguments[0]])
    return []


def _of_class(kind: ClassValue) -> list[str]:
    own = verbs_of_class(kind)
    for path in kind.outside():
        own.extend(_BY_BASE.get(path.rsplit(".", 1)[-1], ()))
    try:
        allowed = verbs_in(kind.member("http_method_names"))
    except KeyError:
        allowed = []
    found = [each for each in dict.fromkeys(own) if not allowed or each in allowed]
    return found or allowed or [ANY]


def _of_marks(marks: list[Value]) -> list[str]:
    for mark in marks:
        of = mark.of if isinstance(mark, Called) else mark
        name = of.path.rsplit(".", 1)[-1] if isinstance(of, Reference) else ""
        if name in _BY_MARK:
            return list(_BY_MARK[name])
        if name in ("require_http_methods", "api_view") and isinstance(mark, Called):
            handed = mark.arguments[0] if mark.arguments else mark.keywords.get("request_method_list", ["GET"])
            return verbs_in(handed) or [ANY]
    return [ANY]
