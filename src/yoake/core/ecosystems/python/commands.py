"""What can be run in a module of Python: its tests, as its files say that they are run."""

from __future__ import annotations

import re
import shlex
from collections.abc import Callable, Collection, Iterator
from typing import Final

from yoake.core.contract.procfiles import served_by
from yoake.core.ecosystems.python.tox import tox_test_settings
from yoake.core.values.runs import Command

_TEST_FILE: Final = re.compile(r"(?:^|/)(?:test_[^/]*|[^/]*_test|tests)\.py$")
_PYTEST_FILES: Final = {
    "pytest.ini": re.compile(r"\[pytest\]"),
    "tox.ini": re.compile(r"\[pytest\]"),
    "setup.cfg": re.compile(r"\[tool:pytest\]"),
    "pyproject.toml": re.compile(r"\[tool\.pytest\b"),
}
_CI: Final = re.compile(r"^\.(?:github/workflows/[^/]+|gitlab-ci|travis)\.ya?ml$")
_RUNS_PYTEST: Final = re.compile(r"\b(?:python\s+-m\s+)?py\.?test\b")
_RUNS_DJANGO: Final = re.compile(r"\bmanage\.py\s+test\b")

_POSITIONS: Final = re.compile(r"\{posargs(?::([^{}]*))?\}|\[\]")
_COVERAGE: Final = re.compile(r"^coverage\s+run\s+(?:--?(?!m\b)[\w-]+(?:=\S+)?\s+)*")

_SERVERS: Final = ("python", "gunicorn", "uvicorn", "hypercorn", "flask", "waitress-serve", "daphne")

_PYTEST: Final = ("python", "-m", "pytest")
_DJANGO: Final = ("python", "manage.py", "test", "--noinput")
_UNITTEST: Final = ("python", "-m", "unittest", "discover")


def python_commands(paths: Collection[str], read: Callable[[str], str]) -> tuple[Command, ...]:
    """Tests of a module, the way that its files speak of first."""
    found = {command.words: command for command in reversed(list(_told(paths, read)))}
    return tuple(reversed(found.values()))


def _told(paths: Collection[str], read: Callable[[str], str]) -> Iterator[Command]:
    manage = "manage.py" in paths
    if "tox.ini" in paths:
        _, commands = tox_test_settings(read("tox.ini"))
        yield from (made for row in commands if (made := _of_tox(row)) is not None)
    for name, sign in _PYTEST_FILES.items():
        if name in paths and sign.search(read(name)):
            yield Command(name="pytest", words=_PYTEST, why=name)
    for path in sorted(p for p in paths if _CI.match(p)):
        text = read(path)
        if manage and _RUNS_DJANGO.search(text):
            yield Command(name="manage.py test", words=_DJANGO, why=path)
        if _RUNS_PYTEST.search(text):
            yield Command(name="pytest", words=_PYTEST, why=path)
    if "conftest.py" in paths or "tests/conftest.py" in paths:
        yield Command(name="pytest", words=_PYTEST, why="conftest.py")
    yield from _unspoken(paths, manage=manage)
    yield from _serving(paths, read, manage=manage)


def _unspoken(paths: Collection[str], *, manage: bool) -> Iterator[Command]:
    """What can be run though no file says how."""
    if manage:
        yield Command(name="manage.py test", words=_DJANGO, why="manage.py")
        yield Command(name="check", words=("python", "manage.py", "check"), kind="check", why="manage.py")
    elif first := next((p for p in sorted(paths) if _TEST_FILE.search(p)), ""):
        yield Command(name="pytest", words=_PYTEST, why=first)  # it runs tests of unittest too
        yield Command(name="unittest", words=_UNITTEST, why=first)


def _serving(paths: Collection[str], read: Callable[[str], str], *, manage: bool) -> Iterator[Command]:
    """How it is served, as its files say."""
    if "Procfile" in paths and (made := served_by(read("Procfile"), _SERVERS)) is not None:
        yield made
    if manage:
        yield Command(
            name="runserver",
            words=("python", "manage.py", "runserver", "127.0.0.1:{port}", "--noreload"),
            kind="serve",
            why="manage.py",
        )


def _of_tox(row: str) -> Command | None:
    """The command of an environment for tests, as it runs without tox; None for what does not run tests."""
    text = _POSITIONS.sub(lambda m: m.group(1) or "", row.lstrip("-").strip())
    text = text.replace("{envpython}", "python").replace("{toxinidir}", ".")
    text = _COVERAGE.sub("python ", text)
    if "{" in text:
        return None
    try:
        words = shlex.split(text, comments=True)
    except ValueError:
        return None
    if words[:1] in (["pytest"], ["py.test"]):
        return Command(name="pytest", words=("python", "-m", "pytest", *words[1:]), why="tox.ini")
    runs_tests = any("test" in word for word in words[1:]) and words[:1] in (["python"], ["django-admin"])
    return Command(name=" ".join(words[:4]), words=tuple(words), why="tox.ini") if runs_tests else None
