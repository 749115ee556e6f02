"""The ecosystems and frameworks that Yoake ships with: the one place that names them all."""

from __future__ import annotations

from typing import Final

from yoake.core.contract.registry import Registry
from yoake.core.ecosystems.java import JAVA_ECOSYSTEM
from yoake.core.ecosystems.javascript import JAVASCRIPT
from yoake.core.ecosystems.python import PYTHON_ECOSYSTEM
from yoake.core.frameworks.django import DJANGO_FRAMEWORK
from yoake.core.frameworks.express import EXPRESS_FRAMEWORK
from yoake.core.frameworks.fastapi import FASTAPI_FRAMEWORK
from yoake.core.frameworks.fastify import FASTIFY_FRAMEWORK
from yoake.core.frameworks.flask import FLASK_FRAMEWORK
from yoake.core.frameworks.koa import KOA_FRAMEWORK

ECOSYSTEMS: Final = Registry(
    (PYTHON_ECOSYSTEM, JAVASCRIPT, JAVA_ECOSYSTEM),
    (
        DJANGO_FRAMEWORK,
        FLASK_FRAMEWORK,
        FASTAPI_FRAMEWORK,
        EXPRESS_FRAMEWORK,
        KOA_FRAMEWORK,
        FASTIFY_FRAMEWORK,
    ),
)
