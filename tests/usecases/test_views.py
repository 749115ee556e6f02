"""What the Horizon says in a sentence, and in which order it lists."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path

import pytest

from tests.conftest import NOW, write
from yoake.context.context import Context
from yoake.formats.tables import ApplicationRow
from yoake.report.page import Axis, day, lane_svg, percent, weeks
from yoake.runner.extraction import Extractor
from yoake.usecases.progress import Control
from yoake.usecases.scan_application import scan_application
from yoake.usecases.take_in import preview, take_in
from yoake.views.application_rows import portfolio


def look_after(context: Context, extractor: Extractor, tmp_path: Path, **lines: str) -> None:
    rows = [
        ApplicationRow(
            number=i,
            name=n,
            source=str(write(tmp_path / n, {".python-version": f"{v}\n", "a.py": "import asyncore\n"})),
        )
        for i, (n, v) in enumerate(lines.items())
    ]
    for number in take_in(context, preview(context, rows, "python@3.13"), ""):
        scan_application(context, number, extractor, Control())


@pytest.mark.parametrize(
    ("lines", "heading"),
    [
        ({"a": "3.8"}, "The one application stands in the dark today."),
        ({"a": "3.8", "b": "3.9"}, "All two applications stand in the dark today."),
        ({"a": "3.8", "b": "3.12"}, "One of two applications stands in the dark today."),
        ({"a": "3.12", "b": "3.13"}, "Every application that is known of arrives in the light."),
    ],
)
def test_the_heading_is_the_answer(
    lines: dict[str, str], heading: str, context: Context, extractor: Extractor, tmp_path: Path
) -> None:
    look_after(context, extractor, tmp_path, **lines)
    assert portfolio(context).heading == heading


def test_the_worst_margin_comes_first_and_what_is_not_known_last(
    context: Context, extractor: Extractor, tmp_path: Path
) -> None:
    look_after(context, extractor, tmp_path, fine="3.12", dark="3.8", there="3.13")
    js = write(tmp_path / "js", {"package.json": "{}", "x.js": ""})
    for number in take_in(
        context, preview(context, [ApplicationRow(number=1, name="js", source=str(js))], "python@3.13"), ""
    ):
        scan_application(context, number, extractor, Control())
    names = [row.name for row in portfolio(context).rows]
    assert names[:2] == ["dark", "fine"]
    assert set(names[2:]) == {"js", "there"}


def test_time_passes_and_margins_shrink_without_a_scan(context: Context, extractor: Extractor, tmp_path: Path) -> None:
    look_after(context, extractor, tmp_path, a="3.12")
    before = portfolio(context).rows[0].margin
    context.clock = lambda: NOW + timedelta(days=30)
    assert portfolio(context).rows[0].margin == before - 30


def test_the_lanes_of_a_row_follow_its_stages(context: Context, extractor: Extractor, tmp_path: Path) -> None:
    look_after(context, extractor, tmp_path, a="3.8")
    row = portfolio(context).rows[0]
    assert [s.line for s in row.lanes[0].segments] == ["3.8", "3.13"]
    assert row.lanes[0].segments[0].until == row.stages[-1].arrives50 == row.arrival50


def test_the_printed_lane_is_dotted_where_nothing_is_known(
    context: Context, extractor: Extractor, tmp_path: Path
) -> None:
    look_after(context, extractor, tmp_path, a="3.8")
    js = write(tmp_path / "js", {"package.json": "{}", "x.js": ""})
    for number in take_in(
        context, preview(context, [ApplicationRow(number=1, name="js", source=str(js))], "python@3.13"), ""
    ):
        scan_application(context, number, extractor, Control())
    known, unknown = portfolio(context).rows
    axis = Axis.around(context.today, [known, unknown])
    assert "url(#dark)" in lane_svg(known, axis, context.today)
    assert "url(#dots)" in lane_svg(unknown, axis, context.today)


def test_figures_in_print_are_written_as_on_screen() -> None:
    assert (day("2027-03-12"), weeks(-266), percent(0.999), percent(None)) == (
        "12 Mar 2027",
        "−38 w",
        "99 %",
        "not known",
    )
