"""The ratchet only ever tightens; its file comes back as it was, and a damaged one says so."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yoake.core.proof.ratchet import Counted, Recorded, hold_against
from yoake.core.values.errors import BadInput
from yoake.formats.ratchets import read_ratchet, write_ratchet

COUNTS = st.dictionaries(st.sampled_from("abcdef"), st.integers(1, 9).map(lambda n: Counted("a name", n)))


@given(COUNTS, COUNTS)
def test_nothing_is_ever_loosened(before: dict[str, Counted], now: dict[str, Counted]) -> None:
    compared = hold_against(Recorded(("python@3.13",), before), now)
    for key, held in compared.tightened.findings.items():
        assert held.places <= before[key].places
        assert key in now
    assert {g.key for g in compared.grown} == {
        k for k, c in now.items() if c.places > (before[k].places if k in before else 0)
    }


@given(COUNTS, COUNTS)
def test_what_was_tightened_allows_what_there_is_unless_it_grew(
    before: dict[str, Counted], now: dict[str, Counted]
) -> None:
    compared = hold_against(Recorded((), before), now)
    again = hold_against(compared.tightened, now)
    assert again.grown == compared.grown or {g.key for g in again.grown} == {g.key for g in compared.grown}
    assert not again.better


def test_it_says_what_grew_and_by_how_much() -> None:
    before = {"a": Counted("imp", 1)}
    now = {"a": Counted("imp", 3), "b": Counted("asyncore", 1)}
    told = [g.told for g in hold_against(Recorded((), before), now).grown]
    assert told == ["asyncore is new, at 1 place", "imp is used at 2 places more (3, were 1)"]


@given(COUNTS)
def test_the_file_comes_back_as_it_was(counts: dict[str, Counted]) -> None:
    recorded = Recorded(("pypi/django@5.2", "python@3.13"), counts)
    text = write_ratchet(recorded)
    assert read_ratchet(text) == recorded
    assert len([row for row in text.splitlines() if '"title"' in row]) == len(counts)


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ("{", "no JSON"),
        ("[]", "format 1"),
        (json.dumps({"format": 2}), "format 1"),
        (json.dumps({"format": 1, "to": "x", "findings": {}}), "names no lines"),
        (json.dumps({"format": 1, "to": [], "findings": {"a": {"title": "x", "places": 0}}}), "no count of places"),
        (json.dumps({"format": 1, "to": [], "findings": {"a": {"places": 1}}}), "no title"),
    ],
)
def test_a_damaged_file_says_so(body: str, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        read_ratchet(body)
