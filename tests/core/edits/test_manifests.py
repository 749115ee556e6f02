"""What a stage writes into manifests and pins: the range in its own manner, the rest of the file to the byte."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from tests.core.test_rule_samples import KNOWLEDGE
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.edits.manifests import edit_manifest, floors_of
from yoake.core.inventory.assemble import assemble
from yoake.core.knowledge.models import Catalogue
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.coordinates import Coordinate, Line, Lines, Releases
from yoake.core.values.edits import applied

TAKEN: Releases = {
    Coordinate("pkg:pypi/django"): "5.2.19",
    Coordinate("pkg:npm/react"): "18.3.1",
    Coordinate("pkg:npm/react-dom"): "18.3.1",
    Coordinate("pkg:generic/python"): "3.13",
    Coordinate("pkg:generic/node"): "24",
}


def edited(
    path: str, text: str, taken: Releases | None = None, floors: Lines | None = None
) -> tuple[str, tuple[str, ...]]:
    data = text.encode()
    modules = assemble({path: data}, "desk", ECOSYSTEMS, {})
    made = edit_manifest(path, data, modules, taken or TAKEN, ECOSYSTEMS, floors or {})
    return applied(data, made.changes).decode(), made.refused


def test_what_a_wheel_says_of_itself_is_not_rewritten() -> None:
    said = "Name: desk\nRequires-Dist: Django (==3.2)\n"
    refused = "is written by what builds the package: change it where that is built"
    assert edited("desk-1.dist-info/METADATA", said) == (said, (refused,))


@pytest.mark.parametrize(
    ("path", "before", "after"),
    [
        (
            "requirements.txt",
            "# pins\r\nDjango==2.2.28  # kept\r\nrequests\r\n",
            "# pins\r\nDjango==5.2.19  # kept\r\nrequests\r\n",
        ),
        (
            "requirements.txt",
            "django[argon2] >=2.2, <3 ; python_version>'3'\n",
            "django[argon2] >=5.2,<6 ; python_version>'3'\n",
        ),
        (
            "package.json",
            '{\n  "name": "kiosk",\n  "engines": { "node": "18" },\n  "dependencies": {}\n}\n',
            '{\n  "name": "kiosk",\n  "engines": { "node": "24" },\n  "dependencies": {}\n}\n',
        ),
        (
            "package.json",
            '{"name": "kiosk", "engines": {"npm": ">=6", "node": ">=14 <19"}}\n',
            '{"name": "kiosk", "engines": {"npm": ">=6", "node": "^24.0"}}\n',
        ),
        ("requirements.txt", "django>=2.2\ndjangorestframework==3.9\n", "django>=2.2\ndjangorestframework==3.9\n"),
        ("requirements/base.txt", "Django~=2.2\n", "Django~=5.2\n"),
        (
            "setup.cfg",
            "[options]\npython_requires = >=3.7,<3.9\ninstall_requires =\n    Django>=2.2,<3\n",
            "[options]\npython_requires = >=3.13,<4\ninstall_requires =\n    Django>=5.2,<6\n",
        ),
        (
            "pyproject.toml",
            '[project]\nname = "desk"\n# ü\ndependencies = ["django>=2.2,<3"]\n',
            '[project]\nname = "desk"\n# ü\ndependencies = ["django>=5.2,<6"]\n',
        ),
        (
            "package.json",
            '{\n  "name": "kiosk",\n  "dependencies": {"react": "^16.8.0",\n    "react-dom": "16.8.0"}\n}\n',
            '{\n  "name": "kiosk",\n  "dependencies": {"react": "^18.3.1",\n    "react-dom": "18.3.1"}\n}\n',
        ),
        (
            "package.json",
            '{"name": "react", "scripts": {"react": "react"}, "dependencies": {"react": "~16.0.0"}, "peerDependencies": {"react": ">=16"}}',
            '{"name": "react", "scripts": {"react": "react"}, "dependencies": {"react": "~18.3.1"}, "peerDependencies": {"react": ">=16"}}',
        ),
        (
            "pyproject.toml",
            '[tool.poetry]\nname = "desk"\ndescription = "with django"\n[tool.poetry.dependencies]\ndjango = "^2.2"\n',
            '[tool.poetry]\nname = "desk"\ndescription = "with django"\n[tool.poetry.dependencies]\ndjango = "^5.2"\n',
        ),
        (
            "Pipfile",
            '[packages]\ndjango = {version = "~=2.2", extras = ["argon2"]}\n[requires]\npython_version = "3.7"\n',
            '[packages]\ndjango = {version = "~=5.2", extras = ["argon2"]}\n[requires]\npython_version = "3.13"\n',
        ),
        (".python-version", "3.7\n", "3.13\n"),
        ("Dockerfile", "FROM python:3.7-slim\nRUN echo 3.7\n", "FROM python:3.13-slim\nRUN echo 3.7\n"),
        (".nvmrc", "12\n", "24\n"),
    ],
)
def test_ranges_and_pins_move_in_their_own_manner(path: str, before: str, after: str) -> None:
    assert edited(path, before) == (after, ())
    assert edited(path, after) == (after, ())  # making it again changes nothing


@pytest.mark.parametrize(
    ("path", "text", "why"),
    [
        ("tox.ini", "[tox]\nenvlist = py37,py38\n", "names several versions of python"),
    ],
)
def test_what_is_not_plain_is_left_to_a_person(path: str, text: str, why: str) -> None:
    made, refused = edited(path, text)
    assert made == text
    assert why in " ".join(refused)


@pytest.mark.parametrize(
    ("path", "before", "after"),
    [
        ("setup.cfg", "[options]\npython_requires = >=3.8\n", "[options]\npython_requires = >=3.10\n"),
        ("setup.cfg", "[options]\npython_requires = >=3.11\n", "[options]\npython_requires = >=3.11\n"),
        ("setup.cfg", "[options]\npython_requires = >=3.7,<3.9\n", "[options]\npython_requires = >=3.7,<3.9\n"),
        (
            "pyproject.toml",
            '[project]\nname = "desk"\nrequires-python = ">= 3.8, <4"\n',
            '[project]\nname = "desk"\nrequires-python = ">= 3.10, <4"\n',
        ),
        (".python-version", "3.8\n", "3.8\n"),
    ],
)
def test_a_range_of_the_runtime_is_raised_to_where_all_that_is_taken_runs(path: str, before: str, after: str) -> None:
    python = {PYTHON: Line("3.10")}
    assert edited(path, before, {Coordinate("pkg:pypi/django"): "5.2.19"}, python) == (after, ())
    assert edited(path, after, {Coordinate("pkg:pypi/django"): "5.2.19"}, python) == (after, ())


def test_the_oldest_line_comes_from_the_metadata_of_what_is_taken() -> None:
    def record(fits: dict[str, tuple[str, ...]]) -> Catalogue:
        releases = tuple(dict.fromkeys(r for held in fits.values() for r in held))
        return Catalogue(format=1, coordinate="", as_of=date(2026, 1, 1), how="", releases=releases, fits=fits)

    old, new = ("1.0",), ("1.0", "2.0")
    knowledge = replace(
        KNOWLEDGE,
        catalogues={
            Coordinate("pkg:pypi/crane"): record({"3.9": old, "3.10": new, "3.11": new}),
            Coordinate("pkg:pypi/anchor"): record({"3.9": old, "3.10": old, "3.11": new}),
        },
    )
    assert floors_of({Coordinate("pkg:pypi/crane"): "1.0", Coordinate("pkg:pypi/anchor"): "1.0"}, knowledge) == {}
    assert floors_of({Coordinate("pkg:pypi/crane"): "2.0"}, knowledge) == {"pkg:generic/python": "3.10"}
    assert floors_of({Coordinate("pkg:pypi/crane"): "2.0", Coordinate("pkg:pypi/anchor"): "2.0"}, knowledge) == {
        "pkg:generic/python": "3.11"
    }
    assert floors_of({Coordinate("pkg:pypi/nowhere"): "2.0", Coordinate("pkg:generic/python"): "3.13"}, knowledge) == {}
