"""What is missing beside a release or its tests, told from what a command said: things that nobody writes down because they were always there."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from yoake.runner.clients.python.trying import BESIDE

_FIXTURE: Final = re.compile(r"fixture '(\w+)' not found")
_MODULE: Final = re.compile(r"No module named '?(\w+)")
_FIXTURES: Final = {
    "aiohttp_client": "pytest-aiohttp",
    "benchmark": "pytest-benchmark",
    "client": "pytest-django",
    "datadir": "pytest-datadir",
    "db": "pytest-django",
    "django_user_model": "pytest-django",
    "event_loop": "pytest-asyncio<0.23",
    "faker": "faker",
    "freezer": "pytest-freezer",
    "httpbin": "pytest-httpbin",
    "httpserver": "pytest-httpserver",
    "httpx_mock": "pytest-httpx",
    "mocker": "pytest-mock",
    "requests_mock": "requests-mock",
    "responses": "pytest-responses",
    "settings": "pytest-django",
    "snapshot": "syrupy",
    "subtests": "pytest-subtests",
}
"""A fixture that no file here makes → the plugin that does."""
_TOOLS: Final = {
    "ddt": "ddt",
    "django_webtest": "django-webtest",
    "factory": "factory-boy",
    "faker": "faker",
    "freezegun": "freezegun",
    "httpretty": "httpretty",
    "hypothesis": "hypothesis",
    "mock": "mock",
    "model_bakery": "model-bakery",
    "moto": "moto",
    "nose": "nose",
    "parameterized": "parameterized",
    "pytest_httpbin": "pytest-httpbin",
    "pyfakefs": "pyfakefs",
    "responses": "responses",
    "testfixtures": "testfixtures",
    "testtools": "testtools",
    "time_machine": "time-machine",
    "vcr": "vcrpy",
    "webtest": "webtest",
}
"""A module that only tests import → its package."""


def missing_beside(output: str, *, sound: bool) -> Iterator[str]:
    """Requirements that may be missing, the likeliest first. ``sound``: whether more tests passed than failed, so that
    what is tested can surely be imported."""
    for name in dict.fromkeys(_FIXTURE.findall(output)):
        if name in _FIXTURES:
            yield _FIXTURES[name]
    for name in dict.fromkeys(_MODULE.findall(output)):
        if name in _TOOLS:
            yield _TOOLS[name]
    if not sound:
        yield from (beside for sign, beside in BESIDE if sign.search(output))
