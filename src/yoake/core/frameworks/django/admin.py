"""Addresses of Django's admin: those of the site, and those of every model that was registered with it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from yoake.core.contract.evaluation import (
    UNKNOWN,
    CallSite,
    ClassValue,
    Evaluator,
    FunctionValue,
    Instance,
    Model,
    Native,
    Place,
    Reference,
    Value,
)
from yoake.core.frameworks.django.packaged import SHOWN_BY
from yoake.core.frameworks.django.written import Pattern

_BOTH: Final = ("GET", "POST")
_SITE: Final = (
    ("", ("GET",)),
    ("login/", _BOTH),
    ("logout/", _BOTH),
    ("password_change/", _BOTH),
    ("password_change/done/", ("GET",)),
    ("autocomplete/", ("GET",)),
    ("jsi18n/", ("GET",)),
    ("r/{content_type_id}/{object_id}/", ("GET",)),
)
_MODEL: Final = (
    ("", _BOTH),
    ("add/", _BOTH),
    ("{object_id}/history/", ("GET",)),
    ("{object_id}/delete/", _BOTH),
    ("{object_id}/change/", _BOTH),
    ("{object_id}/", ("GET",)),
)
_OWN: Final = {
    "django.contrib.auth": ("auth/group/", "auth/user/"),
    "django.contrib.sites": ("sites/site/",),
    "django.contrib.flatpages": ("flatpages/flatpage/",),
    "django.contrib.redirects": ("redirects/redirect/",),
    "rest_framework.authtoken": ("authtoken/tokenproxy/",),
    "allauth.account": ("account/emailaddress/",),
    "allauth.socialaccount": (
        "socialaccount/socialaccount/",
        "socialaccount/socialapp/",
        "socialaccount/socialtoken/",
    ),
    "social_django": ("social_django/association/", "social_django/nonce/", "social_django/usersocialauth/"),
    "oauth2_provider": (
        "oauth2_provider/accesstoken/",
        "oauth2_provider/application/",
        "oauth2_provider/grant/",
        "oauth2_provider/idtoken/",
        "oauth2_provider/refreshtoken/",
    ),
    "django_otp.plugins.otp_totp": ("otp_totp/totpdevice/",),
    "django_otp.plugins.otp_static": ("otp_static/staticdevice/",),
    "django_celery_beat": (
        "django_celery_beat/clockedschedule/",
        "django_celery_beat/crontabschedule/",
        "django_celery_beat/intervalschedule/",
        "django_celery_beat/periodictask/",
        "django_celery_beat/solarschedule/",
    ),
    "django_celery_results": ("django_celery_results/groupresult/", "django_celery_results/taskresult/"),
    "taggit": ("taggit/tag/",),
    "auditlog": ("auditlog/logentry/",),
    "rest_framework_api_key": ("rest_framework_api_key/apikey/",),
    "axes": ("axes/accessattempt/", "axes/accesslog/"),
    "waffle": ("waffle/flag/", "waffle/sample/", "waffle/switch/"),
    "rest_framework_simplejwt.token_blacklist": (
        "token_blacklist/blacklistedtoken/",
        "token_blacklist/outstandingtoken/",
    ),
}
"""Parts of Django, and packages that many use, which register models of their own (recalled)."""


_USERS: Final = "django.contrib.auth.admin.UserAdmin"
_OF_DJANGO: Final = re.compile(r"django\.contrib\.(\w+)\.models\.(\w+)$")


class AdminSite(Model):
    """A site of the admin and what is registered with it: class of the model → class that shows it."""

    def __init__(self, *, is_default: bool = False) -> None:
        self.is_default = is_default
        self.registered: list[tuple[Value, Value, Place]] = []
        self.taken_out: list[Value] = []

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        return self if name == "urls" else super().attribute(name, evaluator)

    def do_get_urls(self, _site: CallSite) -> Value:
        """Its patterns, for a site that adds some of its own."""
        return [Pattern("", frozenset(), _Plain(self), Place("", 0))]

    def do_register(self, site: CallSite) -> None:
        """``admin.site.register(model, shown_by)``."""
        models = site.get(0)
        for each in models if isinstance(models, list) else [models]:
            self.registered.append((each, site.get(1, "admin_class", None), site.place))

    def do_unregister(self, site: CallSite) -> None:
        """Takes models out again."""
        models = site.get(0)
        for each in models if isinstance(models, list) else [models]:
            self.registered = [row for row in self.registered if row[0] is not each]
            self.taken_out.append(each)

    def do_decorator(self, site: CallSite) -> Value:
        """``@admin.register(*models)``."""

        def note(inner: CallSite) -> Value:
            target = site.keywords.get("site")
            model = target.model if isinstance(target, Instance) else target
            kept = model if isinstance(model, AdminSite) else self
            kept.registered.extend((each, inner.get(0), site.place) for each in site.arguments)
            return inner.get(0)

        return Native(note)


class _Plain(Model):
    """The patterns of a site as they are without what its class adds."""

    def __init__(self, site: AdminSite) -> None:
        self.site = site


def admin_site(view: Value) -> AdminSite | None:
    """The site behind what a pattern names."""
    if isinstance(view, _Plain):
        return view.site
    return view if isinstance(view, AdminSite) else None


def admin_patterns(view: Value, place: Place, evaluator: Evaluator, apps: Value, *, own_users: bool) -> list[Value]:
    """The patterns of a site: what its own class says, else those that every site has. ``own_users``: the application has a model of
    users of its own, and that of Django is not registered."""
    site = admin_site(view)
    if site is None:
        return []
    holder = site.holder
    if isinstance(holder, Instance) and not isinstance(view, _Plain):
        own = evaluator.attribute(holder, "get_urls")
        if isinstance(own, FunctionValue):
            found = evaluator.call(own, [], {}, place)
            return found if isinstance(found, list) else []
    return list(_patterns(site, place, evaluator, apps, own_users=own_users))


def _patterns(site: AdminSite, place: Place, evaluator: Evaluator, apps: Value, *, own_users: bool) -> list[Pattern]:
    found = [
        Pattern(path, frozenset(), Reference("django.contrib.admin.AdminSite"), place, methods)
        for path, methods in _SITE
    ]
    labels: set[str] = set()
    seen: set[str] = set()
    for model, shown, where in site.registered:
        start = _address(model, evaluator)
        if start is None or start in seen:
            continue
        seen.add(start)
        labels.add(start)
        found.extend(_added(start, shown, evaluator))
        found.extend(_of_model(start, shown, where))
    seen |= {start for each in site.taken_out if (start := _address(each, evaluator)) is not None}
    for app in apps if isinstance(apps, list) and site.is_default else ():
        for start in _OWN.get(app, ()) if isinstance(app, str) else ():
            if start not in seen and not (start == "auth/user/" and own_users):
                labels.add(start)
                found.extend(_of_model(start, Reference(f"{app}.admin"), place))
                if start == "auth/user/":
                    found.append(_password(start, place))
    if labels:
        found.append(Pattern("{app_label}/", frozenset(), Reference("django.contrib.admin.AdminSite"), place, ("GET",)))
    found.append(Pattern("{url}", frozenset(("url",)), Reference("django.contrib.admin.AdminSite"), place, ("GET",)))
    return found


def _of_model(start: str, shown: Value, place: Place) -> Iterator[Pattern]:
    for path, methods in _MODEL:
        yield Pattern(
            start + path,
            frozenset(),
            shown if shown is not None else Reference("django.contrib.admin.ModelAdmin"),
            place,
            methods,
        )


def _password(start: str, place: Place) -> Pattern:
    """Where the admin of Django sets a password of somebody else."""
    return Pattern(f"{start}{{id}}/password/", frozenset(), Reference(_USERS), place, ("GET", "POST"))


def _added(start: str, shown: Value, evaluator: Evaluator) -> Iterator[Pattern]:
    """What the class that shows a model adds to its addresses."""
    if not isinstance(shown, ClassValue):
        return
    for each in shown.lineage():
        for below in SHOWN_BY.get(each.path, ()) if isinstance(each, Reference) else ():
            yield Pattern(start + below, frozenset(), each, shown.place, ("GET", "POST"))
    own = evaluator.attribute(Instance(shown), "get_urls")
    found = evaluator.call(own, [], {}, shown.place) if isinstance(own, FunctionValue) else None
    for each in found if isinstance(found, list) else ():
        if isinstance(each, Pattern) and not isinstance(each.view, _Plain):
            yield Pattern(start + each.template, each.rest, each.view, each.place, each.methods)


def _address(model: Value, evaluator: Evaluator) -> str | None:
    """``label/name/`` of a model: the label is what its class says, else the folder that holds its module."""
    if isinstance(model, Reference) and (inside := _OF_DJANGO.match(model.path)):
        return f"{inside.group(1)}/{inside.group(2).lower()}/"
    if not isinstance(model, ClassValue):
        return None
    label = _meta(model, "app_label")
    if not isinstance(label, str):
        label = _label_of_folder(model.place.file, evaluator)
    return f"{label}/{model.name.lower()}/"


def _meta(model: ClassValue, name: str) -> Value:
    meta = model.members.get("Meta")
    return meta.members.get(name, UNKNOWN) if isinstance(meta, ClassValue) else UNKNOWN


def _label_of_folder(file: str, evaluator: Evaluator) -> str:
    folder = (
        re.sub(r"/?models(/.*|\.py)$", "", file)
        if re.search(r"(^|/)models(/|\.py$)", file)
        else file.rpartition("/")[0]
    )
    apps = evaluator.text_of(f"{folder}/apps.py") or b""
    named = re.search(rb"^\s+label\s*=\s*[\"'](\w+)[\"']", apps, re.MULTILINE)
    return named.group(1).decode() if named else folder.rsplit("/", 1)[-1]
