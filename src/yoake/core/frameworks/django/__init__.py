"""Django: settings and templates."""

from __future__ import annotations

import re
from typing import Final

from yoake.core.contract.ecosystem import Framework, SourceReader
from yoake.core.contract.route_readers import RouteReader
from yoake.core.frameworks.django.names import DJANGO
from yoake.core.frameworks.django.routes import DjangoRoutes
from yoake.core.frameworks.django.templates import TEMPLATE, read_template

DJANGO_FRAMEWORK: Final = Framework(
    coordinate=DJANGO,
    title="Django",
    subject="django",
    settings_signs=frozenset(
        ("INSTALLED_APPS", "MIDDLEWARE", "MIDDLEWARE_CLASSES", "ROOT_URLCONF", "SECRET_KEY", "DATABASES")
    ),
    settings_files=re.compile(r"(?:^|/)(?:[\w-]*settings[\w-]*|settings/(?:[\w-]+/)*[\w-]+)\.py$"),
    settings_object="django.conf.settings",
    app_list="INSTALLED_APPS",
    kept_files=re.compile(r"(?:^|/)migrations/\d{4}_\w+\.py$"),
    routes=RouteReader(name="django", language="python", signs=(b"django",), begin=DjangoRoutes),
    sources=(SourceReader(path=TEMPLATE, placed="Template", read=lambda _path, text: read_template(text)),),
)
