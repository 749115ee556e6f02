"""Django: settings and templates."""

from __future__ import annotations

from typing import Final

from yoake.core.contract.ecosystem import Framework, SourceReader
from yoake.core.frameworks.django.names import DJANGO
from yoake.core.frameworks.django.templates import TEMPLATE, read_template

DJANGO_FRAMEWORK: Final = Framework(
    coordinate=DJANGO,
    title="Django",
    subject="django",
    settings_signs=frozenset(
        ("INSTALLED_APPS", "MIDDLEWARE", "MIDDLEWARE_CLASSES", "ROOT_URLCONF", "SECRET_KEY", "DATABASES")
    ),
    settings_object="django.conf.settings",
    app_list="INSTALLED_APPS",
    sources=(SourceReader(path=TEMPLATE, placed="Template", read=lambda _path, text: read_template(text)),),
)
