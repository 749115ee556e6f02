"""Minutes from commits: near ones are one session, far ones another, and the order does not matter."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from yoake.core.portfolio.sessions import LEAD, session_minutes

START = datetime(2026, 11, 30, 9, tzinfo=UTC)


def at(*minutes: float) -> list[datetime]:
    return [START + timedelta(minutes=m) for m in minutes]


def test_near_commits_are_one_session_and_far_ones_another() -> None:
    assert session_minutes([]) == 0
    assert session_minutes(at(0)) == LEAD
    assert session_minutes(at(0, 60, 120)) == LEAD + 120
    assert session_minutes(at(0, 60, 60 + 300)) == LEAD + 60 + LEAD


@given(st.lists(st.floats(0, 5_000), max_size=12))
def test_order_and_repeats_do_not_matter(minutes: list[float]) -> None:
    assert session_minutes(at(*minutes)) == session_minutes(at(*reversed(minutes)))
    assert session_minutes(at(*minutes, *minutes)) == session_minutes(at(*minutes))
