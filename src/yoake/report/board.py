"""The one-page report as HTML with everything in it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta
from functools import lru_cache
from typing import Any, Final

from jinja2 import Environment, PackageLoader, select_autoescape
from markupsafe import Markup, escape

from yoake.formats.waves import percent

_WIDTH: Final = 900
_LABEL: Final = 170
_ROW: Final = 20
_MOST_ROWS: Final = 60  # stages that are drawn: a page is a page


def render_board(board: Any) -> str:
    """The page. Text is escaped; nothing is loaded from elsewhere."""
    return (
        _environment()
        .get_template("board.html")
        .render(
            board=board,
            chart=Markup(chart_svg(board.teams, board.today)),  # noqa: S704  built here, its texts escaped
        )
    )


@lru_cache(maxsize=1)
def _environment() -> Environment:
    environment = Environment(
        loader=PackageLoader("yoake.report", "templates"),
        autoescape=select_autoescape(["html"]),
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.filters["day"] = lambda d: f"{d:%-d %b %Y}" if d else "never"
    environment.filters["percent"] = percent
    return environment


def chart_svg(teams: Sequence[Any], today: date) -> str:
    """Stages as bars from their first day to the day they are live, with a line to the 80 % date."""
    rows = [(team.name, bar) for team in teams for bar in team.stages if bar.starts and bar.live][:_MOST_ROWS]
    if not rows:
        return ""
    last = max(max(bar.live, bar.p80 or bar.live) for _, bar in rows)
    days = max((last - today).days, 14) + 7
    scale = (_WIDTH - _LABEL) / days

    def x(day: date) -> float:
        return float(_LABEL + max(0, (day - today).days) * scale)

    parts = []
    month = date(today.year + today.month // 12, today.month % 12 + 1, 1)
    while month <= last + timedelta(days=7):
        parts.append(f'<path d="M{x(month):.1f} 0V{len(rows) * _ROW + 18}" stroke="#ddd8cb"/>')
        if month.month in (1, 4, 7, 10) or days < 200:
            parts.append(f'<text x="{x(month) + 3:.1f}" y="11" font-size="11" fill="#55586e">{month:%b %Y}</text>')
        month = date(month.year + month.month // 12, month.month % 12 + 1, 1)
    for n, (_, bar) in enumerate(rows):
        y = 18 + n * _ROW
        name = escape(f"{bar.name} {bar.number or ''}".strip()[:26])
        wide = max(x(bar.live) - x(bar.starts), 2)
        parts.append(f'<text x="0" y="{y + 13}" font-size="12">{name}</text>')
        parts.append(
            f'<rect x="{x(bar.starts):.1f}" y="{y + 3}" width="{wide:.1f}" height="12" fill="#fff" stroke="#1d1f33"/>'
        )
        if bar.p80 and bar.p80 > bar.live:
            parts.append(f'<path d="M{x(bar.live):.1f} {y + 9}H{x(bar.p80):.1f}" stroke="#e39a4f" stroke-width="4"/>')
    height = len(rows) * _ROW + 22
    return f'<svg width="{_WIDTH}" height="{height}" viewBox="0 0 {_WIDTH} {height}" role="img" aria-label="Stages in time">{"".join(parts)}</svg>'
