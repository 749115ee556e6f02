"""Inventory: every manifest form, today's line and where it is said."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from packaging.specifiers import SpecifierSet

from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.ecosystems.python.requirements import poetry_specifier
from yoake.core.inventory.assemble import assemble, is_inventory_file, stated_lines
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.modules import Module

PYTHONS = [Line(x) for x in ("2.7", "3.6", "3.7", "3.8", "3.9", "3.10", "3.11", "3.12", "3.13")]
KNOWN = {PYTHON: PYTHONS, Coordinate("pkg:pypi/django"): [Line(x) for x in ("2.2", "3.2", "4.2", "5.2")]}


def one(files: dict[str, str]) -> Module:
    return assemble({name: text.encode() for name, text in files.items()}, "root", ECOSYSTEMS)[0]


def required(module: Module) -> dict[str, str]:
    return {r.name: r.specifier for r in module.requirements}


PEP621 = """
[project]
name = "desk"
requires-python = ">=3.8"
dependencies = ["Django>=2.2,<3", "requests"]
classifiers = ["Programming Language :: Python :: 3.8"]
[project.optional-dependencies]
pg = ["psycopg2==2.8.6"]
[dependency-groups]
test = ["pytest>=7", {include-group = "pg"}]
"""
POETRY = """
[tool.poetry]
name = "ledger"
[tool.poetry.dependencies]
python = "^3.7"
django = {version = "~3.2", optional = true}
[tool.poetry.group.dev.dependencies]
pytest = "*"
"""


def test_pep_621_with_extras_and_groups() -> None:
    module = one({"pyproject.toml": PEP621})
    assert module.name == "desk"
    assert required(module) == {"Django": "<3,>=2.2", "requests": "", "psycopg2": "==2.8.6", "pytest": ">=7"}
    assert {r.group for r in module.requirements} == {"", "pg", "test"}


def test_poetry_carets_and_tildes_become_ranges() -> None:
    module = one({"pyproject.toml": POETRY})
    assert required(module) == {"django": "<3.3,>=3.2", "pytest": ""}
    assert stated_lines(module, KNOWN, ECOSYSTEMS)[PYTHON].line == "3.7"


@pytest.mark.parametrize(
    "table",
    [
        "[tool.pdm.dev-dependencies]\nt = ['mock']",
        "[tool.hatch.envs.t]\ndependencies = ['mock']",
        "[tool.flit.metadata]\nrequires = ['mock']",
    ],
)
def test_tables_of_other_build_back_ends(table: str) -> None:
    assert required(one({"pyproject.toml": table})) == {"mock": ""}


def test_setup_cfg() -> None:
    text = "[metadata]\nname = x\n[options]\npython_requires = >=3.6\ninstall_requires =\n    Django==2.2.1\n[options.extras_require]\nt =\n    mock\n"
    module = one({"setup.cfg": text})
    assert required(module) == {"Django": "==2.2.1", "mock": ""}
    assert stated_lines(module, KNOWN, ECOSYSTEMS)[Coordinate("pkg:pypi/django")].line == "2.2"


def test_setup_py_is_read_and_never_run() -> None:
    text = "import os\nos.abort()\nbase = ['a>=1']\nmore = ['b']\nsetup(name='x', install_requires=base + more, extras_require={'t': ['c']}, python_requires='>=3.7')\n"
    assert required(one({"setup.py": text})) == {"a": ">=1", "b": "", "c": ""}


METADATA = """Metadata-Version: 2.1
Name: desk
Version: 3.1
Classifier: Programming Language :: Python :: 3.7
Requires-Python: >=3.6
Requires-Dist: Django (<3.3,>=3.2)
Requires-Dist: requests >=2 ; extra == 'web'
Requires-Dist: pytest ; extra == 'testing'

Requires-Dist: nobody
"""


def test_an_unpacked_wheel_says_what_it_is_and_what_was_installed_below_does_not() -> None:
    module = one(
        {
            "desk-3.1.dist-info/METADATA": METADATA,
            "desk/libs/rope-1.dist-info/METADATA": METADATA.replace("Django", "rope"),
        }
    )
    assert module.name == "desk"
    assert [(r.name, r.specifier, r.group, r.line) for r in module.requirements] == [
        ("Django", "<3.3,>=3.2", "", 6),
        ("requests", ">=2", "web", 7),
    ]
    stated = stated_lines(module, KNOWN, ECOSYSTEMS)
    assert (stated[PYTHON].line, stated[PYTHON].how, stated[PYTHON].file) == (
        "3.6",
        "range",
        "desk-3.1.dist-info/METADATA",
    )
    assert stated[Coordinate("pkg:pypi/django")].line == "3.2"


def test_requirements_follow_includes_inside_the_folder_once() -> None:
    files = {
        "requirements.txt": "-r requirements/base.txt\n-c constraints.txt\n-r ../outside.txt\n-e .\nplain # why\nhashed==1.0 \\\n    --hash=sha256:abc\n",
        "requirements/base.txt": "Django==2.2.1\n-r ../requirements.txt\n",
        "constraints.txt": "six<2\n",
    }
    found = required(one(files))
    assert found == {"Django": "==2.2.1", "six": "<2", "plain": "", "hashed": "==1.0"}


def test_a_link_with_an_egg_name_is_a_requirement() -> None:
    assert required(one({"requirements.txt": "git+https://example.test/x.git@main#egg=thing\n"})) == {"thing": ""}


def test_lock_files_win_over_ranges() -> None:
    lock = '[[package]]\nname = "django"\nversion = "3.2.25"\n'
    module = one({"pyproject.toml": PEP621, "poetry.lock": lock})
    stated = stated_lines(module, KNOWN, ECOSYSTEMS)[Coordinate("pkg:pypi/django")]
    assert (stated.line, stated.how, stated.line_number) == ("3.2", "lock", 2)


def test_pipfile_states_packages_groups_and_python() -> None:
    text = """[[source]]
url = "https://example.test/simple"
[packages]
Django = "~=3.2"
requests = "*"
thing = {version = ">=1", extras = ["x"]}
[dev-packages]
pytest = "==6.2"
[docs]
sphinx = ">=3"
[requires]
python_version = "3.8"
[scripts]
go = "python manage.py"
"""
    module = one({"Pipfile": text})
    assert required(module) == {"Django": "~=3.2", "requests": "", "thing": ">=1", "pytest": "==6.2", "sphinx": ">=3"}
    assert {r.name.lower(): r.group for r in module.requirements}["pytest"] == "dev"
    assert next(r.line for r in module.requirements if r.name.lower() == "django") == 4
    assert stated_lines(module, KNOWN, ECOSYSTEMS)[PYTHON].line == "3.8"


def test_pipfile_lock_states_packages_and_python() -> None:
    body = {
        "_meta": {"requires": {"python_version": "3.6"}},
        "default": {"django": {"version": "==2.2.9"}},
        "develop": {},
    }
    stated = stated_lines(one({"Pipfile.lock": json.dumps(body)}), KNOWN, ECOSYSTEMS)
    assert (stated[PYTHON].line, stated[Coordinate("pkg:pypi/django")].line) == ("3.6", "2.2")


@pytest.mark.parametrize(
    ("name", "text", "line", "how"),
    [
        (".python-version", "3.8.18\n", "3.8", "pin"),
        (".python-version", "pypy3.9\n3.7\n", "3.7", "pin"),
        ("runtime.txt", "python-3.6.15\n", "3.6", "pin"),
        ("Dockerfile", "ARG X\nFROM --platform=linux/amd64 registry.test/python:3.7-slim AS b\n", "3.7", "container"),
        ("tox.ini", "[tox]\nenvlist = py{36,38}, lint\n", "3.6", "ci"),
        ("tox.ini", "[tox]\nenvlist =\n    py310\n    py27\n[testenv]\ndeps = py39\n", "2.7", "ci"),
        (".github/workflows/t.yml", "    matrix:\n      python-version: ['3.9', \"3.10\"]\n", "3.9", "ci"),
        (".travis.yml", "python:\n  - 3.7\n  - 3.8\ninstall: x\n", "3.7", "ci"),
        (".gitlab-ci.yml", "image: python:3.8-slim\n", "3.8", "ci"),
        ("pyproject.toml", "[project]\nname='x'\nrequires-python='>=3.9,<3.12'\n", "3.9", "range"),
        ("setup.py", "setup(classifiers=['Programming Language :: Python :: 2.7'])", "2.7", "classifier"),
    ],
)
def test_todays_python_and_where_it_is_said(name: str, text: str, line: Line, how: str) -> None:
    assert is_inventory_file(name, ECOSYSTEMS)
    stated = stated_lines(one({name: text}), KNOWN, ECOSYSTEMS)[PYTHON]
    assert (stated.line, stated.how, stated.file) == (line, how, name)


def test_disagreements_are_shown() -> None:
    stated = stated_lines(one({"Dockerfile": "FROM python:3.8\n", ".python-version": "3.9\n"}), KNOWN, ECOSYSTEMS)[
        PYTHON
    ]
    assert stated.line == "3.8"
    assert stated.disagreements == (".python-version:1 says 3.9",)


def test_several_modules_in_one_repository() -> None:
    found = assemble(
        {"a/pyproject.toml": PEP621.encode(), "b/setup.py": b"setup(name='bee')", ".python-version": b"3.9\n"},
        "root",
        ECOSYSTEMS,
    )
    assert [(m.path, m.name) for m in found] == [("a", "desk"), ("b", "bee")]
    assert stated_lines(found[1], KNOWN, ECOSYSTEMS)[PYTHON].line == "3.9"


def test_a_root_with_code_of_its_own_stays_a_module() -> None:
    found = assemble({"a/setup.py": b"setup(name='a')"}, "root", ECOSYSTEMS, ["main.py", "a/x.py"])
    assert [m.path for m in found] == ["", "a"]


@pytest.mark.parametrize(
    ("name", "text"),
    [("pyproject.toml", "[project\n"), ("setup.cfg", "[x\n"), ("Pipfile.lock", "{"), ("poetry.lock", "= 3")],
)
def test_a_manifest_that_cannot_be_read_says_so_and_stops_nothing(name: str, text: str) -> None:
    module = one({name: text, "requirements.txt": "six\n"})
    assert [f.file for f in module.faults] == [name]
    assert required(module) == {"six": ""}


@given(st.sampled_from(PYTHONS), st.sampled_from([">=", "==", "~=", ">"]))
def test_the_lowest_allowed_line_is_allowed_and_no_older_known_one_is(line: Line, op: str) -> None:
    specifier = f"{op}{line}" + (".*" if op == "==" else "")
    found = ECOSYSTEMS.lowest_line(PYTHON, specifier, PYTHONS)
    if found is not None:
        allowed = SpecifierSet(specifier)
        older = PYTHONS[: PYTHONS.index(found)]
        assert any(allowed.contains(f"{found}{patch}") for patch in ("", ".1", ".99"))
        assert not any(allowed.contains(f"{o}{patch}") for o in older for patch in ("", ".1", ".99"))


@pytest.mark.parametrize(
    ("said", "meant"),
    [
        ("^1.2.3", ">=1.2.3,<2"),
        ("^0.2.3", ">=0.2.3,<0.3"),
        ("~1.2", ">=1.2,<1.3"),
        ("*", ""),
        ("1.4", "==1.4"),
        (">=2,<3", ">=2,<3"),
        ({"version": "^2"}, ">=2,<3"),
    ],
)
def test_poetry_specifiers(said: object, meant: str) -> None:
    assert poetry_specifier(said) == meant


CONDA = """
name: charts
channels: [conda-forge]
dependencies:
  # python=3.6 was enough
  - {python}
  - conda-forge::numpy=1.19
  - pip
  - pip:
    - requests==2.20
    - git+no package
"""


@pytest.mark.parametrize(
    ("written", "how", "version"),
    [
        ("python=3.8", "pin", "3.8"),
        ("python==3.8.1", "pin", "3.8.1"),
        ("conda-forge::python=3.8.*=h12debd9", "pin", "3.8"),
        ("python>=3.7,<3.10", "range", ">=3.7,<3.10"),
    ],
)
def test_an_environment_of_conda_names_its_python_and_what_pip_installs(written: str, how: str, version: str) -> None:
    module = one({"environment.yml": CONDA.replace("{python}", written)})
    assert [(pin.how, pin.version, pin.line) for pin in module.pins] == [(how, version, 6)]
    assert [(r.name, r.specifier, r.line) for r in module.requirements] == [("requests", "==2.20", 10)]
    assert [f.reason for f in module.faults] == ["1 package of Conda is not looked at, only what pip installs"]


@pytest.mark.parametrize(
    ("text", "fault"),
    [
        ("python: 3.8\n", ""),
        ("dependencies: [python, 'python=3.7|3.8', pip, 3, {a: b}]\n", "1 package of Conda is"),
        ("dependencies: [", "not valid YAML"),
        ("#" * 100_001, "longer than 100000"),
    ],
)
def test_what_is_no_environment_of_conda_states_nothing(text: str, fault: str) -> None:
    module = one({"environment.yml": text})
    assert (module.pins, module.requirements, module.manifests) == ([], [], [])
    assert [fault in f.reason for f in module.faults] == ([True] if fault else [])
