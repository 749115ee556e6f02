"""Findings that come from manifests: pins, requirements, releases, settings; and today's line where nothing says it."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from yoake.core.ecosystems.python.syntax import read_python
from yoake.core.inventory.assemble import assemble
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import Catalogue
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import Coordinate, Line, parse_target
from yoake.core.values.findings import FileResult
from yoake.core.values.results import ScanResult

LINES = ("3.8", "3.9", "3.10", "3.11", "3.12", "3.13")


def scan(
    knowledge: Knowledge,
    manifests: dict[str, str],
    sources: dict[str, str] | None = None,
    to: str = "python@3.13",
    start: str = "",
) -> ScanResult:
    facts = {name: read_python(text.encode()) for name, text in (sources or {}).items()}
    modules = assemble({n: t.encode() for n, t in manifests.items()}, "app", ECOSYSTEMS, facts)
    targets = [parse_target(t) for t in to.split()]
    return run_scan(
        ScanInput(
            facts=facts,
            files=[FileResult(path=n, state="scanned") for n in facts],
            modules=modules,
            destination=targets,
            said=[parse_target(t) for t in start.split()],
        ),
        knowledge,
    )


def kinds(result: ScanResult, kind: str) -> list[tuple[str, str]]:
    return [(f.level, f.title) for f in result.findings if f.kind == kind]


def with_record(knowledge: Knowledge, fits: dict[str, tuple[str, ...]], built: dict[str, tuple[str, ...]]) -> Knowledge:
    record = Catalogue(
        format=1,
        coordinate="pkg:pypi/thing",
        as_of=date(2026, 11, 23),
        how="by hand",
        releases=("1.0", "2.0"),
        fits=fits,
        built=built,
    )
    return replace(knowledge, catalogues={Coordinate("pkg:pypi/thing"): record})


def test_a_pin_file_of_an_older_line_is_an_error_and_a_ci_file_a_warning(knowledge: Knowledge) -> None:
    result = scan(knowledge, {".python-version": "3.8\n", "tox.ini": "[tox]\nenvlist = py38\n"})
    assert kinds(result, "toolchain") == [
        ("error", ".python-version names Python 3.8"),
        ("warning", "tox.ini names Python 3.8"),
    ]


def test_a_ci_file_that_also_lists_the_destination_is_fine(knowledge: Knowledge) -> None:
    result = scan(knowledge, {".python-version": "3.8\n", "tox.ini": "[tox]\nenvlist = py38, py313\n"})
    assert [t for _, t in kinds(result, "toolchain")] == [".python-version names Python 3.8"]


def test_a_range_that_leaves_the_destination_out_is_told_and_one_that_admits_it_is_not(knowledge: Knowledge) -> None:
    closed = scan(knowledge, {"pyproject.toml": "[project]\nname='x'\nrequires-python='>=3.8,<3.12'\n"})
    open_ = scan(knowledge, {"pyproject.toml": "[project]\nname='x'\nrequires-python='>=3.8'\n"})
    assert len(kinds(closed, "toolchain")) == 1
    assert kinds(open_, "toolchain") == []


def test_a_classifier_promises_and_stops_nothing(knowledge: Knowledge) -> None:
    result = scan(knowledge, {"setup.py": "setup(classifiers=['Programming Language :: Python :: 3.8'])"})
    assert kinds(result, "toolchain") == []


def test_a_requirement_that_keeps_the_destination_out(knowledge: Knowledge) -> None:
    result = scan(knowledge, {"requirements.txt": "Django>=2.2,<3\n", ".python-version": "3.8\n"}, to="pypi/django@5.2")
    assert kinds(result, "package") == [("error", "django <3,>=2.2 keeps 5.2 out")]
    assert kinds(scan(knowledge, {"requirements.txt": "Django>=2.2\n"}, to="pypi/django@5.2"), "package") == []


def test_a_package_without_a_release_record_is_not_known(knowledge: Knowledge) -> None:
    result = scan(replace(knowledge, catalogues={}), {"requirements.txt": "thing==1.0\n", ".python-version": "3.8\n"})
    assert result.checks.by_sort["package"].unknown == 120
    assert result.packages[0].state == "unknown"


@pytest.mark.parametrize(
    ("specifier", "fits", "built", "level"),
    [
        ("==1.0", ("2.0",), ("2.0",), "error"),
        ("==2.0", ("1.0", "2.0"), ("2.0",), None),
        ("<2", ("1.0", "2.0"), ("2.0",), "warning"),
        ("", ("1.0", "2.0"), ("1.0", "2.0"), None),
        (">=3", ("1.0", "2.0"), ("2.0",), "error"),
    ],
)
def test_a_package_is_held_against_the_destinations_python(
    knowledge: Knowledge, specifier: str, fits: tuple[str, ...], built: tuple[str, ...], level: str | None
) -> None:
    old = dict.fromkeys(LINES[:-1], ("1.0", "2.0"))
    known = with_record(knowledge, {**old, "3.13": fits}, {**old, "3.13": built})
    found = [
        f
        for f in scan(known, {"requirements.txt": f"thing{specifier}\n", ".python-version": "3.8\n"}).findings
        if f.kind == "package"
    ]
    assert [f.level for f in found] == ([level] if level else [])
    if level == "error":
        assert "2.0 is the newest release for Python 3.13" in found[0].remedy


SETTINGS = "SECRET_KEY = 'x'\nINSTALLED_APPS = []\nUSE_TZ = True\nDEFAULT_AUTO_FIELD = 'x'\n"


def test_settings_that_go_away_and_settings_that_are_missing(knowledge: Knowledge) -> None:
    text = SETTINGS.replace("USE_TZ = True\n", "") + "USE_L10N = True\n"
    result = scan(
        knowledge, {}, {"site/settings.py": text}, "python@3.13 pypi/django@5.2", "python@3.10 pypi/django@3.2"
    )
    result = (
        result
        if result.findings
        else scan(knowledge, {"requirements.txt": "django==3.2\n"}, {"site/settings.py": text}, "pypi/django@5.2")
    )
    assert {(f.kind, f.symbol, f.level) for f in result.findings if f.kind in ("setting", "behaviour")} == {
        ("setting", "USE_L10N", "error"),
        ("behaviour", "USE_TZ", "warning"),
    }


def test_a_setting_is_no_matter_outside_a_settings_file_or_past_its_line(knowledge: Knowledge) -> None:
    manifests = {"requirements.txt": "django==3.2\n"}
    assert kinds(scan(knowledge, manifests, {"a.py": "USE_L10N = True\n"}, "pypi/django@5.2"), "setting") == []
    assert (
        kinds(scan(knowledge, manifests, {"a.py": SETTINGS + "USE_L10N = True\n"}, "pypi/django@3.2"), "setting") == []
    )


@pytest.mark.parametrize(
    ("text", "line"),
    [
        ("print 'x'\n", "2.7"),
        ("from collections import Mapping\n", "3.9"),
        ("import asyncore\nimport tomllib\n", "3.11"),
        ("async = 1\n", "3.6"),
    ],
)
def test_where_nothing_says_it_the_newest_line_on_which_the_code_resolves(
    knowledge: Knowledge, text: str, line: Line
) -> None:
    stated = scan(knowledge, {}, {"a.py": text}).today[""][Coordinate("pkg:generic/python")]
    assert (stated.line, stated.how) == (line, "inferred")


def test_an_inferred_python_is_one_that_todays_library_states_support_for(knowledge: Knowledge) -> None:
    today = scan(
        knowledge, {"requirements.txt": "Django==2.2.28\n"}, {"a.py": "import django\n"}, "python@3.13 pypi/django@5.2"
    ).today[""]
    assert today[Coordinate("pkg:generic/python")].line == "3.9"


def test_a_library_that_no_manifest_names_is_inferred_from_its_imports(knowledge: Knowledge) -> None:
    text = "from django.utils.translation import ugettext\nfrom django.db.models import JSONField\n"
    stated = scan(knowledge, {".python-version": "3.8\n"}, {"a.py": text}, "pypi/django@5.2").today[""][
        Coordinate("pkg:pypi/django")
    ]
    assert (stated.line, stated.how) == ("3.2", "inferred")


def test_a_package_says_on_which_of_its_lines_this_code_finds_all_it_uses(knowledge: Knowledge) -> None:
    """``ugettext`` is in Django up to 3.2; a package of which nothing is used says nothing."""
    manifests = {"requirements.txt": "django==3.2.1\ncelery==5.0.0\n"}
    sources = {"a.py": "from django.utils.translation import ugettext\nugettext('x')\n"}
    packages = {p.coordinate: p for p in scan(knowledge, manifests, sources, "python@3.13", "python@3.8").packages}
    held = packages[Coordinate("pkg:pypi/django")]
    assert "3.2" in held.clean
    assert "4.0" not in held.clean
    assert dict(held.breaks)[Line("4.0")] == "django.utils.translation.ugettext"
    assert packages[Coordinate("pkg:pypi/celery")].clean == ()
