"""What can be run in a module is told from its own files."""

from __future__ import annotations

import json

import pytest

from yoake.core.ecosystems.javascript.commands import node_commands
from yoake.core.ecosystems.python.commands import python_commands
from yoake.core.ecosystems.python.tox import tox_test_settings


def commands_of(files: dict[str, str]) -> list[str]:
    return [" ".join(c.words) for c in python_commands(files, files.__getitem__)]


@pytest.mark.parametrize(
    ("files", "expected"),
    [
        ({"setup.cfg": "[tool:pytest]\n"}, "python -m pytest"),
        ({"pyproject.toml": "[tool.pytest.ini_options]\n"}, "python -m pytest"),
        ({"manage.py": "", "a/tests.py": ""}, "python manage.py test --noinput"),
        ({"manage.py": "", "pytest.ini": "[pytest]\n"}, "python -m pytest"),
        (
            {"manage.py": "", ".github/workflows/ci.yml": "run: python manage.py test"},
            "python manage.py test --noinput",
        ),
        ({"tox.ini": "[testenv]\ncommands = pytest {posargs:tests} --quiet\n"}, "python -m pytest tests --quiet"),
        (
            {"tox.ini": "[testenv]\ncommands =\n  - coverage run --source=a -m unittest {posargs}\n  flake8 a\n"},
            "python -m unittest",
        ),
        ({"tox.ini": "[testenv]\ncommands = {envpython} runtests.py\n"}, "python runtests.py"),
        ({"tests/test_a.py": ""}, "python -m pytest"),
    ],
)
def test_the_likeliest_command_of_python(files: dict[str, str], expected: str) -> None:
    assert commands_of(files)[0] == expected


def test_nothing_is_made_up_where_no_test_lies() -> None:
    assert commands_of({"setup.py": "", "a.py": ""}) == []


def test_a_command_with_parts_that_only_tox_knows_is_left_out() -> None:
    assert commands_of({"tox.ini": "[testenv]\ncommands = pytest {env:SUITE}\n"}) == []


def test_what_tests_need_on_a_line_and_what_factors_ask_for_on_others() -> None:
    text = "[testenv]\ndeps =\n    # a comment\n    mock\n    py{36,37}: typing\n    py38,py39: new\n    !py38: old\ncommands = pytest\n"
    assert tox_test_settings(text, "3.8") == (["mock", "new"], ["pytest"])
    assert tox_test_settings(text, "3.6")[0] == ["mock", "typing"]


def test_a_damaged_tox_file_says_nothing() -> None:
    assert tox_test_settings("[testenv\ndeps", "3.8") == ([], [])


@pytest.mark.parametrize(
    ("scripts", "files", "expected"),
    [
        ({"test": "mocha", "build": "tsc", "lint": "eslint ."}, [], ["npm test", "npm run build", "npm run lint"]),
        ({"test": 'echo "Error: no test specified" && exit 1'}, [], []),
        ({}, ["test/a.js"], ["node --test"]),
        ({}, ["src/a.spec.mjs"], ["node --test"]),
    ],
)
def test_commands_of_node(scripts: dict[str, str], files: list[str], expected: list[str]) -> None:
    held = {"package.json": json.dumps({"scripts": scripts}), **dict.fromkeys(files, "")}
    assert [c.name for c in node_commands(held, held.__getitem__)] == expected


def test_a_damaged_package_file_offers_nothing() -> None:
    held = {"package.json": "{"}
    assert node_commands(held, held.__getitem__) == ()
