"""Coordinates, targets and lines."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from yoake.core.ecosystems.python.names import pypi
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.coordinates import Coordinate, Line, line_key, line_matches, parse_coordinate, parse_target
from yoake.core.values.errors import BadCoordinate

numbers = st.lists(st.integers(0, 40), min_size=1, max_size=4).map(lambda parts: ".".join(map(str, parts)))


@pytest.mark.parametrize(
    ("text", "coordinate"),
    [
        ("python", "pkg:generic/python"),
        ("Node", "pkg:generic/node"),
        ("pypi/Django_Rest", "pkg:pypi/django-rest"),
        ("pkg:pypi/django", "pkg:pypi/django"),
        ("npm/@scope/name", "pkg:npm/%40scope/name"),
    ],
)
def test_a_coordinate_is_read_in_its_short_and_its_long_form(text: str, coordinate: Coordinate) -> None:
    assert parse_coordinate(text) == coordinate


def test_the_short_form_reads_back_to_the_same_coordinate() -> None:
    for text in ("python", "pypi/django", "npm/@scope/name"):
        assert parse_coordinate(parse_coordinate(text).short) == parse_coordinate(text)


def test_a_target_splits_at_the_last_at_sign() -> None:
    target = parse_target("npm/@scope/name@17")
    assert (target.coordinate, target.line) == ("pkg:npm/%40scope/name", "17")


@pytest.mark.parametrize("text", ["", "python", "python@", "@3.13", "python@three", "django", "pypi/@3", "pypi/a b@1"])
def test_what_is_no_target_is_refused_with_a_way_out(text: str) -> None:
    with pytest.raises(BadCoordinate, match="write|Write|use"):
        parse_target(text)


@pytest.mark.parametrize(
    ("coordinate", "release", "line"),
    [
        ("pkg:generic/python", "3.8.18", "3.8"),
        ("pkg:pypi/django", "5", "5.0"),
        ("pkg:npm/express", "4.17.1", "4"),
        ("pkg:npm/left", "0.3.9", "0.3"),
        ("pkg:generic/node", "24.1.0", "24"),
    ],
)
def test_a_release_belongs_to_the_line_its_ecosystem_draws(coordinate: str, release: str, line: str) -> None:
    assert ECOSYSTEMS.line_of(Coordinate(coordinate), release) == line


@given(numbers, numbers)
def test_lines_are_ordered_by_number_never_by_letter(a: str, b: str) -> None:
    assert (line_key(a) < line_key(b)) == (tuple(map(int, a.split("."))) < tuple(map(int, b.split("."))))


@given(st.lists(numbers, min_size=1))
def test_lines_sort_as_their_numbers_do_and_stay_the_texts_they_are(names: list[str]) -> None:
    lines = [Line(name) for name in names]
    assert sorted(lines) == sorted(names, key=line_key)
    assert max(lines) == max(names, key=line_key)
    assert set(lines) == set(names)


def test_a_line_beside_a_plain_text_compares_by_numbers_whichever_comes_first() -> None:
    assert Line("3.9") < "3.12"
    assert Line("3.12") > "3.9"
    assert Line("3.9") <= "3.12"
    assert Line("3.12") >= "3.12"


def test_in_records_coordinates_and_lines_are_texts_and_come_back_as_what_they_are() -> None:
    adapter = TypeAdapter(dict[Coordinate, Line])
    written = adapter.dump_json({Coordinate("pkg:pypi/django"): Line("5.2")})
    assert written == b'{"pkg:pypi/django":"5.2"}'
    ((coordinate, line),) = adapter.validate_json(written).items()
    assert (coordinate.short, type(coordinate), type(line)) == ("pypi/django", Coordinate, Line)


@given(numbers)
def test_every_line_matches_its_own_prefixes(line: Line) -> None:
    parts = line.split(".")
    assert all(line_matches(line, ".".join(parts[:i])) for i in range(1, len(parts) + 1))


def test_names_of_pypi_are_made_canonical() -> None:
    assert pypi("Django_REST.framework") == "pkg:pypi/django-rest-framework"
