"""Laws of ranges: a line is admitted exactly when some release of it is, however narrow the range."""

from __future__ import annotations

from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st
from packaging.specifiers import SpecifierSet
from semantic_version import NpmSpec, Version

from yoake.core.ecosystems.javascript.names import NODE
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.coordinates import Coordinate, Line

EXPRESS, SIX = Coordinate("pkg:npm/express"), Coordinate("pkg:pypi/six")
PARTS = range(5)
GRID = [".".join(map(str, parts)) for parts in product(PARTS, PARTS, PARTS)]
NPM_LINES = [Line(major) for major in PARTS]
PYPI_LINES = [f"{major}.{minor}" for major in PARTS for minor in PARTS]

RELEASES = st.tuples(*(st.integers(0, 3),) * 3).map(lambda parts: ".".join(map(str, parts)))
SHORT = st.one_of(RELEASES, st.tuples(st.integers(0, 3), st.integers(0, 3)).map(lambda p: f"{p[0]}.{p[1]}"))
NPM_ONE = st.one_of(
    st.tuples(st.sampled_from(("^", "~", ">=", ">", "<=", "<", "")), RELEASES).map("".join),
    SHORT.map(lambda release: f"{release}.x" if release.count(".") == 1 else release),
    st.tuples(RELEASES, RELEASES).map(lambda pair: f">={min(pair)} <{max(pair)}"),
)
NPM_RANGES = st.lists(NPM_ONE, min_size=1, max_size=2).map(" || ".join)
PYPI_ONE = st.one_of(
    st.tuples(st.sampled_from((">=", ">", "<=", "<", "!=", "~=")), SHORT).map("".join), SHORT.map(lambda r: f"=={r}.*")
)
PYPI_RANGES = st.lists(PYPI_ONE, min_size=1, max_size=3).map(",".join)


@given(wanted=NPM_RANGES)
def test_an_npm_range_stands_for_the_lowest_line_that_has_a_release_in_it(wanted: str) -> None:
    spec = NpmSpec(wanted)
    fitting = {release.split(".")[0] for release in GRID if spec.match(Version(release))}
    assert {line for line in NPM_LINES if ECOSYSTEMS.admits(EXPRESS, wanted, line)} >= fitting
    if fitting:
        assert ECOSYSTEMS.lowest_line(EXPRESS, wanted, NPM_LINES) == min(fitting)


@given(wanted=PYPI_RANGES)
def test_a_python_range_stands_for_the_lowest_line_that_has_a_release_in_it(wanted: str) -> None:
    allowed = SpecifierSet(wanted)
    fitting = {release.rpartition(".")[0] for release in GRID if release in allowed}
    assert {line for line in PYPI_LINES if ECOSYSTEMS.admits(SIX, wanted, Line(line))} >= fitting


@given(wanted=NPM_RANGES, line=st.sampled_from(NPM_LINES))
def test_no_line_is_admitted_without_a_release_in_the_range(wanted: str, line: Line) -> None:
    spec = NpmSpec(wanted)
    dense = [f"{line}.{minor}.{patch}" for minor in (*PARTS, 9, 99) for patch in (*range(8), 9, 99)]
    assert ECOSYSTEMS.admits(EXPRESS, wanted, line) == any(spec.match(Version(release)) for release in dense)


@pytest.mark.parametrize(
    ("wanted", "line"),
    [
        ("~12.2.0", "12"),
        ("16.8.x", "16"),
        ("12.2.0 - 12.4.0", "12"),
        (">12.2.3 <12.2.5", "12"),
        ("workspace:~3.1.4", "3"),
        ("npm:other@~5.0.1", "5"),
        ("~16.8.0 || ~17.0.2", "16"),
    ],
)
def test_narrow_ranges_name_their_line(wanted: str, line: Line) -> None:
    lines = [Line(str(major)) for major in range(25)]
    assert ECOSYSTEMS.lowest_line(EXPRESS, wanted, lines) == line
    assert ECOSYSTEMS.lowest_line(NODE, wanted.replace("npm:other@", ""), lines) == line


@pytest.mark.parametrize(
    ("wanted", "admitted"),
    [
        (">= 0.14.0 < 17.0.0-0", ["1.0.0", "16.8.0"]),
        (">= 16.8.0", ["16.8.0", "17.0.2"]),
        ("~> 1.0", ["1.0.0"]),
        ("^ v16.0.0", ["16.8.0"]),
        ("1.0.0-beta1", []),
        ("0.14.x || 16.x.x", ["16.8.0"]),
    ],
)
def test_an_npm_range_admits_what_npm_takes_it_to_admit(wanted: str, admitted: list[str]) -> None:
    """Operators apart from their version and previews, as real packages write them."""
    assert ECOSYSTEMS.admitted(EXPRESS, wanted, ["0.13.0", "1.0.0", "16.8.0", "17.0.2"]) == admitted
