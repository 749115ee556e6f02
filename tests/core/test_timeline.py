"""Timelines: merging surfaces, asking through aliases and bases, writing and reading."""

from __future__ import annotations

import gzip

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yoake.core.knowledge.merge import merge
from yoake.core.knowledge.timeline import Timeline, dump_timeline, load_timeline
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.errors import BadKnowledge
from yoake.core.values.symbols import Surface, SurfaceSymbol

LIB = Coordinate("pkg:pypi/lib")
names = st.sampled_from(["lib", "lib.a", "lib.b", "lib.a.x", "lib.C", "lib.C.m"])
surfaces = st.lists(st.sets(names), min_size=1, max_size=5)


def surface(line: Line, **symbols: SurfaceSymbol) -> Surface:
    return Surface(
        line,
        f"{line}.0",
        "wheel",
        "d",
        {"lib": SurfaceSymbol(kind="m"), **{k.replace("__", "."): v for k, v in symbols.items()}},
    )


def offered(timeline: Timeline, path: str) -> list[Line]:
    return timeline.lines_in(timeline.ask(path).offers)


@given(surfaces)
def test_a_symbol_is_offered_by_exactly_the_lines_whose_surface_has_it(sets: list[set[str]]) -> None:
    made = [
        Surface(Line(f"{i}.0"), "r", "wheel", "d", {n: SurfaceSymbol(kind="m") for n in held})
        for i, held in enumerate(sets)
    ]
    timeline = merge(LIB, reversed(made))
    for name in {n for held in sets for n in held}:
        assert offered(timeline, name) == [f"{i}.0" for i, held in enumerate(sets) if name in held]


@given(surfaces)
def test_what_is_written_reads_back_the_same_and_always_as_the_same_bytes(sets: list[set[str]]) -> None:
    made = [
        Surface(
            Line(f"{i}.0"),
            "r",
            "wheel",
            "d",
            {
                n: SurfaceSymbol(
                    kind="c", alias="lib.a", bases=("lib.b",), signature="a,b", deprecated=True, unread=True
                )
                for n in held
            },
        )
        for i, held in enumerate(sets)
    ]
    timeline = merge(LIB, made)
    data = dump_timeline(timeline)
    again = load_timeline(data)
    assert dict(again.symbols) == dict(timeline.symbols)
    assert again.lines == timeline.lines
    assert dump_timeline(again) == data


def test_an_alias_is_followed_only_on_the_lines_that_have_it() -> None:
    timeline = merge(
        LIB,
        [
            surface(
                Line("1.0"),
                lib__Old=SurfaceSymbol(kind="v", alias="lib.new.Thing"),
                lib__new=SurfaceSymbol(kind="m"),
                lib__new__Thing=SurfaceSymbol(kind="c"),
                lib__new__Thing__run=SurfaceSymbol(kind="f"),
            ),
            surface(
                Line("2.0"),
                lib__new=SurfaceSymbol(kind="m"),
                lib__new__Thing=SurfaceSymbol(kind="c"),
                lib__new__Thing__run=SurfaceSymbol(kind="f"),
            ),
        ],
    )
    assert offered(timeline, "lib.Old.run") == ["1.0"]
    assert offered(timeline, "lib.new.Thing.run") == ["1.0", "2.0"]
    assert timeline.home("lib.Old", 0) == "lib.new.Thing"


def test_a_member_comes_from_a_base_class() -> None:
    timeline = merge(
        LIB,
        [
            surface(
                Line("1.0"),
                lib__Base=SurfaceSymbol(kind="c"),
                lib__Base__go=SurfaceSymbol(kind="f"),
                lib__Child=SurfaceSymbol(kind="c", alias=None, bases=("lib.Base",)),
            )
        ],
    )
    assert offered(timeline, "lib.Child.go") == ["1.0"]
    assert offered(timeline, "lib.Child.stay") == []


def test_a_base_of_another_coordinate_is_not_guessed_but_named() -> None:
    timeline = merge(
        LIB, [surface(Line("1.0"), lib__Case=SurfaceSymbol(kind="c", alias=None, bases=("unittest.TestCase",)))]
    )
    answer = timeline.ask("lib.Case.assertEquals")
    assert (answer.offers, answer.unknown, answer.redirect) == (0, 1, "unittest.TestCase.assertEquals")


def test_aliases_that_run_in_a_circle_end() -> None:
    timeline = merge(
        LIB,
        [
            surface(
                Line("1.0"),
                lib__a=SurfaceSymbol(kind="v", alias="lib.b"),
                lib__b=SurfaceSymbol(kind="v", alias="lib.a"),
            )
        ],
    )
    assert timeline.ask("lib.a.x").offers == 0


def test_the_inside_of_a_plain_value_is_not_known() -> None:
    timeline = merge(LIB, [surface(Line("1.0"), lib__value=SurfaceSymbol(kind="v"))])
    assert timeline.ask("lib.value.anything").unknown == 1


def test_what_instances_of_a_class_have_is_not_known_on_a_line_that_only_shows_the_class() -> None:
    held, member = SurfaceSymbol(kind="c"), SurfaceSymbol(kind="v")
    whole = {"lib__A": held, "lib__A()": held, "lib__A()__m": member}
    timeline = merge(LIB, [surface(Line("1.0"), **whole), surface(Line("2.0"), lib__A=held), surface(Line("3.0"))])
    assert offered(timeline, "lib.A().m") == ["1.0"]
    assert timeline.lines_in(timeline.ask("lib.A().m").unknown) == ["2.0"]
    assert timeline.lines_in(timeline.ask("lib.A().n").unknown) == ["2.0"]
    assert timeline.lines_in(timeline.ask("lib.A()").unknown) == ["2.0"]


def test_a_line_between_captured_ones_stands_on_the_one_before() -> None:
    timeline = merge(LIB, [surface(Line("1.0")), surface(Line("1.9")), surface(Line("1.10"))])
    assert (timeline.floor(Line("1.9")), timeline.floor(Line("1.11")), timeline.floor(Line("0.9"))) == (1, 2, None)


@pytest.mark.parametrize(
    "data",
    [b"", b"not gzip", gzip.compress(b"{}"), gzip.compress(b'{"format": 99}')],
    ids=["nothing", "no gzip", "no format", "another format"],
)
def test_what_is_no_timeline_is_refused(data: bytes) -> None:
    with pytest.raises(BadKnowledge, match="knowledge build|Build it again"):
        load_timeline(data)


def test_symbols_are_made_from_their_rows_when_asked_for_and_are_the_same_each_time() -> None:
    timeline = merge(
        LIB,
        [
            surface(Line("1.0"), lib__a=SurfaceSymbol(kind="f", alias=None, bases=(), signature="a,b")),
            surface(Line("2.0")),
        ],
    )
    again = load_timeline(dump_timeline(timeline))
    assert again.symbols["lib.a"] is again.symbols["lib.a"]
    assert again.symbols.get("lib.a") == timeline.symbols["lib.a"]
    assert again.symbols.get("lib.never") is None
    assert ("lib.a" in again.symbols, "lib.never" in again.symbols, len(again.symbols)) == (True, False, 2)
    assert again.top_levels == {"lib"}
    with pytest.raises(KeyError):
        again.symbols["lib.never"]


@pytest.mark.parametrize(
    "body",
    ['{"symbols":[],"strings":[]}', '{"symbols":{"lib":[]},"strings":[]}', '{"symbols":{"lib":7},"strings":[]}', "{}"],
)
def test_a_file_whose_rows_are_no_rows_is_refused_at_once(body: str) -> None:
    head = gzip.decompress(dump_timeline(merge(LIB, [surface(Line("1.0"))]))).split(b"\n")[0]
    with pytest.raises(BadKnowledge, match="no timeline file"):
        load_timeline(gzip.compress(head + b"\n" + body.encode()))
