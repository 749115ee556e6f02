"""Python's outside, as the contract wants it."""

from __future__ import annotations

from typing import Final

from yoake.core.ecosystems.python import PYTHON_ECOSYSTEM
from yoake.runner.clients.contract import Client
from yoake.runner.clients.locking import LockWriter
from yoake.runner.clients.python.environments import python_environment
from yoake.runner.clients.python.interpreters import interpreter_for, own_pip
from yoake.runner.clients.python.records import pypi_record, pypi_records
from yoake.runner.clients.python.surfaces import build_pypi, build_python, wheel_surface
from yoake.runner.clients.python.trying import try_release

PYTHON_CLIENT: Final = Client(
    ecosystem=PYTHON_ECOSYSTEM,
    runtime=build_python,
    package=build_pypi,
    file=wheel_surface,
    files="a wheel",
    record=pypi_record,
    records=pypi_records,
    try_release=try_release,
    environment=python_environment,
    available=interpreter_for,
    installer=own_pip,
    locks={
        "poetry.lock": LockWriter("pyproject.toml", ("poetry", "lock", "--no-interaction")),
        "uv.lock": LockWriter("pyproject.toml", ("uv", "lock")),
        "pdm.lock": LockWriter("pyproject.toml", ("pdm", "lock", "--update-reuse")),
        "Pipfile.lock": LockWriter("Pipfile", ("pipenv", "lock")),
    },
)
