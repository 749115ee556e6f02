"""What an index lists for a line is held against what releases say that they require."""

from __future__ import annotations

from yoake.core.ecosystems.python.listings import really_listed
from yoake.core.knowledge.models import ReleaseFacts

_DETAILS = (ReleaseFacts(release="8.1.8", runs=">=3.7"), ReleaseFacts(release="8.4.2", runs=">=3.10"))


def test_a_release_that_refuses_a_line_is_not_there_for_it() -> None:
    listed = {"3.8": ("8.1.8", "8.4.2"), "3.10": ("8.1.8", "8.4.2")}
    assert really_listed(listed, _DETAILS) == {"3.8": ("8.1.8",), "3.10": ("8.1.8", "8.4.2")}


def test_a_release_that_was_not_read_requires_what_the_nearest_older_one_does() -> None:
    assert really_listed({"3.8": ("8.1.9", "8.5.0")}, _DETAILS) == {"3.8": ("8.1.9",)}


def test_what_is_older_than_all_that_was_read_stays() -> None:
    assert really_listed({"2.7": ("7.0",)}, _DETAILS) == {"2.7": ("7.0",)}


def test_a_range_with_a_patch_holds_for_its_line_and_a_damaged_one_says_nothing() -> None:
    details = (ReleaseFacts(release="1.0", runs=">=3.8.1"), ReleaseFacts(release="2.0", runs="three or so"))
    assert really_listed({"3.8": ("1.0", "2.0")}, details) == {"3.8": ("1.0", "2.0")}
