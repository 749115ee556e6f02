"""The Horizon as a window: which rows fit a filter, in which order and groups, and that nothing is made twice."""

from __future__ import annotations

import gzip
import json
from pathlib import Path

import pytest

from tests.conftest import write
from yoake.context.context import Context
from yoake.formats.tables import ApplicationRow
from yoake.runner.extraction import Extractor
from yoake.usecases.progress import Control
from yoake.usecases.scan_application import scan_application
from yoake.usecases.take_in import preview, take_in
from yoake.usecases.track import change_applications
from yoake.views.horizon import Grouping, HorizonQuery, Order, horizon, packed_horizon

APPLICATIONS = {
    "berth": ("3.8", "Harbour", "Ines"),
    "app-1": ("3.12", "Team 1", ""),
    "app-2": ("3.9", "Team 2", "Jon"),
    "zebra": ("", "Team 1", ""),
}


@pytest.fixture
def portfolio(context: Context, extractor: Extractor, tmp_path: Path) -> Context:
    for name, (line, team, owner) in APPLICATIONS.items():
        files = {"a.py": "import asyncore\n", **({".python-version": f"{line}\n"} if line else {})}
        source = str(write(tmp_path / name, files))
        row = ApplicationRow(number=1, name=name, source=source, team=team, owner=owner)
        [number] = take_in(context, preview(context, [row], "python@3.13"), "")
        if line:
            scan_application(context, number, extractor, Control())
    return context


def names(
    context: Context, text: str = "", order: Order = Order.MARGIN, grouping: Grouping = Grouping.NONE
) -> list[str]:
    return [row.name for row in horizon(context, HorizonQuery(text, order, grouping), 0, 100).rows]


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("harbour 3.8", {"berth"}),
        ("harbour 4.2", set()),
        ("team:harb", {"berth"}),
        ('team:"team 1"', {"app-1", "zebra"}),
        ('"team 2" jon', {"app-2"}),
        ("owner:ines", {"berth"}),
        ("dark", {"berth", "app-2"}),
        ("never", {"zebra"}),
        ("", set(APPLICATIONS)),
    ],
)
def test_every_word_must_occur_somewhere_or_in_the_field_that_is_named(
    portfolio: Context, text: str, found: set[str]
) -> None:
    assert set(names(portfolio, text)) == found


def test_what_has_no_figure_comes_last_whatever_the_order(portfolio: Context) -> None:
    assert set(names(portfolio)[:2]) == {"berth", "app-2"}
    assert names(portfolio, order=Order.NAME) == ["app-1", "app-2", "berth", "zebra"]
    assert [names(portfolio, order=order)[-1] for order in (Order.MARGIN, Order.ARRIVAL, Order.CLEAR)] == ["zebra"] * 3


def test_groups_keep_the_order_inside_and_lose_nobody(portfolio: Context) -> None:
    window = horizon(portfolio, HorizonQuery("", Order.NAME, Grouping.TEAM), 0, 100)
    assert [(group.title, group.count) for group in window.groups] == [("Team 1", 2), ("Team 2", 1), ("Harbour", 1)]
    assert [row.name for row in window.rows] == ["app-1", "zebra", "app-2", "berth"]
    assert horizon(portfolio, HorizonQuery(grouping=Grouping.OWNER), 0, 9).groups[-1].title == "no owner"


def test_windows_follow_one_another_and_the_first_names_all(portfolio: Context) -> None:
    pages = [horizon(portfolio, HorizonQuery(order=Order.NAME), at, 2) for at in (0, 2)]
    assert [row.name for page in pages for row in page.rows] == [entry.name for entry in pages[0].entries]
    assert [(page.held, page.total, len(page.entries)) for page in pages] == [(4, 4, 4), (4, 4, 0)]


def test_a_window_is_packed_again_only_after_a_change(portfolio: Context) -> None:
    first = packed_horizon(portfolio, HorizonQuery(), 0, 100)
    assert packed_horizon(portfolio, HorizonQuery(), 0, 100) is first
    assert packed_horizon(portfolio, HorizonQuery("berth"), 0, 100) is not first
    change_applications(portfolio, ["app-1"], {"owner": "Asa"}, "Ines")
    assert b"Asa" in gzip.decompress(packed_horizon(portfolio, HorizonQuery(), 0, 100))


def test_rows_are_made_again_only_where_something_changed(portfolio: Context) -> None:
    before = horizon(portfolio, HorizonQuery(order=Order.NAME), 0, 100).rows
    assert all(
        a is b for a, b in zip(before, horizon(portfolio, HorizonQuery(order=Order.NAME), 0, 100).rows, strict=True)
    )
    change_applications(portfolio, ["app-1"], {"owner": "Asa"}, "Ines")
    after = horizon(portfolio, HorizonQuery(order=Order.NAME), 0, 100).rows
    assert [a is b for a, b in zip(before, after, strict=True)] == [False, True, True, True]


def test_what_is_sent_is_the_window_whole(portfolio: Context) -> None:
    sent = json.loads(gzip.decompress(packed_horizon(portfolio, HorizonQuery(), 0, 3)))
    assert [row["name"] for row in sent["rows"]] == names(portfolio)[:3]
    assert (
        sent["last_arrival"]
        == max(row.arrival80 for row in horizon(portfolio, HorizonQuery(), 0, 9).rows if row.arrival80).isoformat()
    )
