"""Addresses that Django's own parts bring when they are included."""

from __future__ import annotations

from typing import Final

_BOTH: Final = ("GET", "POST")
PACKAGED: Final[dict[str, tuple[tuple[str, tuple[str, ...]], ...]]] = {
    "django.contrib.auth.urls": (
        ("login/", _BOTH),
        ("logout/", _BOTH),
        ("password_change/", _BOTH),
        ("password_change/done/", ("GET",)),
        ("password_reset/", _BOTH),
        ("password_reset/done/", ("GET",)),
        ("reset/{uidb64}/{token}/", _BOTH),
        ("reset/done/", ("GET",)),
    ),
    "django.conf.urls.i18n": (("setlang/", ("POST",)),),
    "django.contrib.flatpages.urls": (("{url}", ("GET",)),),
    "rest_framework.urls": (("login/", _BOTH), ("logout/", _BOTH)),
    "django.contrib.admindocs.urls": (
        ("", ("GET",)),
        ("bookmarklets/", ("GET",)),
        ("tags/", ("GET",)),
        ("filters/", ("GET",)),
        ("views/", ("GET",)),
        ("views/{view}/", ("GET",)),
        ("models/", ("GET",)),
        ("models/{app_label}.{model_name}/", ("GET",)),
        ("templates/{template}/", ("GET",)),
    ),
}
"""Module that is included → (path below, methods)."""
