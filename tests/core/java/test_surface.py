"""Class files and the surfaces they make."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.java.berth import BERTH, CRANE
from yoake.core.ecosystems.java.class_file import BadClassFile, read_class
from yoake.core.ecosystems.java.names import path_of, regrouped, shown
from yoake.core.ecosystems.java.platform import releases_of
from yoake.core.ecosystems.java.surface import surface_of

SURFACE = surface_of([read_class(BERTH), read_class(CRANE)])
QUAY = path_of("quay")


def test_a_surface_has_what_others_may_use_and_nothing_else() -> None:
    assert {shown(path) for path in SURFACE} == {
        "quay",
        "quay.Berth",
        "new quay.Berth",
        "quay.Berth.LENGTH",
        "quay.Berth.tow",
        "quay.Berth.moor",
        "quay.Berth.Crane",
        "quay.Berth.Crane.lift",
    }


def test_a_method_stands_for_what_it_gives_back_and_the_counts_it_takes() -> None:
    tow = SURFACE[f"{QUAY}.Berth.tow"]
    assert tow.bases == (path_of("java.lang.Thread"),)
    assert tow.signature == "**,/1,/2"
    assert SURFACE[f"{QUAY}.Berth"].bases == (path_of("java.util.ArrayList"),)


def test_a_method_warns_only_when_every_overload_does() -> None:
    assert not SURFACE[f"{QUAY}.Berth.tow"].deprecated
    overloads = [m for m in read_class(BERTH).methods if m.name == "tow"]
    assert sorted((m.deprecated, m.removal, m.since) for m in overloads) == [(False, False, ""), (True, True, "2")]


def test_packages_that_a_module_keeps_to_itself_are_no_surface() -> None:
    assert surface_of([read_class(BERTH)], frozenset()) == {}


@given(st.binary(max_size=400), st.integers(0, len(BERTH)))
def test_bytes_that_are_no_class_file_are_refused_and_nothing_else_happens(noise: bytes, cut: int) -> None:
    for data in (noise, BERTH[:cut] + noise):
        try:
            read_class(data)
        except BadClassFile:
            continue


@pytest.mark.parametrize(
    ("entry", "releases"), [("89A/java.base/java/lang/Thread.sig", (8, 9, 10)), ("P/java.base/x.sig", (25,))]
)
def test_an_entry_of_the_archive_belongs_to_the_releases_of_its_folder(entry: str, releases: tuple[int, ...]) -> None:
    assert releases_of(entry) == releases


def test_a_package_with_capital_letters_is_known_by_who_owns_it() -> None:
    path = path_of("org.omg.CORBA.ORB.init")
    assert shown(path) == "org.omg.CORBA.ORB.init"
    assert path.split(".")[0] != regrouped(path, {path_of("org.omg"), "org\u2024omg\u2024CORBA"}).split(".")[0]
    assert regrouped(path, set()) == path
