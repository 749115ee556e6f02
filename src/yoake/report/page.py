"""The printable report: one HTML file with everything in it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from functools import lru_cache
from typing import Any

from jinja2 import Environment, PackageLoader, select_autoescape
from markupsafe import Markup

_WIDTH, _LANE = 560, 9
_MONTHS_BEFORE, _MIN_DAYS_AFTER = 182, 540
_FADE_DAYS = 182


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportStage:
    """A stage of the path: moves (name, from, to), why, steps still open, days of work, and when it is done."""

    number: int
    moves: list[tuple[str, str, str]]
    reasons: list[str]
    steps: int
    effort50: float
    effort80: float
    arrives50: date


@dataclass(frozen=True, slots=True)
class ReportApplication:
    """What the report shows of one application: views of the screens, stages, the first findings and how many there are."""

    row: Any
    evidence: Any
    stages: list[ReportStage]
    findings: list[Any]
    finding_count: int


def render_report(title: str, applications: list[ReportApplication], today: date, portfolio: Any | None) -> str:
    """The whole page. Text from scanned sources is escaped; nothing is loaded from elsewhere."""
    axis = Axis.around(today, [a.row for a in applications])
    template = _environment().get_template("report.html")
    return template.render(
        title=title,
        applications=applications,
        today=today,
        portfolio=portfolio,
        axis=axis,
        lane=lambda row: Markup(lane_svg(row, axis, today)),  # noqa: S704  built from numbers only
    )


@lru_cache(maxsize=1)
def _environment() -> Environment:
    """The template's surroundings; a template is compiled once."""
    environment = Environment(
        loader=PackageLoader("yoake.report", "templates"),
        autoescape=select_autoescape(default=True),
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.filters.update(day=day, weeks=weeks, percent=percent, days=days)
    return environment


def day(value: date | str | None) -> str:
    """``12 Mar 2027``."""
    if value is None:
        return "not known"
    shown = date.fromisoformat(value[:10]) if isinstance(value, str) else value
    return f"{shown.day} {shown:%b %Y}"


def weeks(value: int | None) -> str:
    """Days as weeks with their sign: ``−38 w``."""
    if value is None:
        return "not known"
    count = round(value / 7)
    return f"{'−' if count < 0 else '+'}{abs(count)} w"


def percent(value: float | None) -> str:
    """``71 %``, or that it is not known."""
    return "not known" if value is None else f"{int(value * 100)} %"


def days(value: float) -> str:
    """``3.5 d``."""
    return f"{value:.1f} d"


@dataclass(frozen=True, slots=True)
class Axis:
    """A time axis: dates to points across."""

    start: date
    end: date

    @staticmethod
    def around(today: date, rows: list[Any]) -> Axis:
        """From half a year back to past the last arrival."""
        last = max((row.arrival80 for row in rows if row.arrival80), default=today)
        return Axis(
            today - timedelta(days=_MONTHS_BEFORE),
            max(last + timedelta(days=60), today + timedelta(days=_MIN_DAYS_AFTER)),
        )

    def x(self, at: date) -> float:
        """Position of a date, kept inside the axis."""
        share = (at - self.start).days / max((self.end - self.start).days, 1)
        return round(min(max(share, 0.0), 1.0) * _WIDTH, 1)


def lane_svg(row: Any, axis: Axis, today: date) -> str:
    """The lanes of one application: bright while supported, hatched after, a line for today."""
    parts: list[str] = []
    for index, lane in enumerate(row.lanes):
        y = 14 + index * (_LANE + 2)
        for segment in lane.segments:
            parts.extend(_segment(segment, axis, y))
    if not row.lanes:
        parts.append(f'<rect x="0" y="14" width="{_WIDTH}" height="{_LANE}" fill="url(#dots)"/>')
    height = 14 + max(len(row.lanes), 1) * (_LANE + 2)
    if row.arrival50 and row.arrival80:
        a, b = axis.x(row.arrival50), axis.x(row.arrival80)
        parts.append(
            f'<path d="M{a} 7H{b}M{b} 3V11" stroke="#1d1f33" fill="none"/><circle cx="{a}" cy="7" r="3.5" fill="#e39a4f" stroke="#1d1f33"/>'
        )
    at = axis.x(today)
    parts.append(f'<line x1="{at}" x2="{at}" y1="0" y2="{height}" stroke="#0d6186" stroke-width="1.5"/>')
    return f'<svg viewBox="0 0 {_WIDTH} {height}" width="{_WIDTH}" height="{height}" role="img" aria-label="light over time">{"".join(parts)}</svg>'


def _segment(segment: Any, axis: Axis, y: int) -> list[str]:
    left, right = axis.x(segment.since or axis.start), axis.x(segment.until or axis.end)
    if right <= left:
        return []
    if segment.support_ends is None:
        return [f'<rect x="{left}" y="{y}" width="{right - left:.1f}" height="{_LANE}" fill="url(#dots)"/>']
    edge = min(max(axis.x(segment.support_ends), left), right)
    fade = min(max(axis.x(segment.support_ends - timedelta(days=_FADE_DAYS)), left), edge)
    found = []
    for a, b, fill in ((left, fade, "#f2dc96"), (fade, edge, "url(#fade)"), (edge, right, "url(#dark)")):
        if b > a:
            found.append(f'<rect x="{a}" y="{y}" width="{b - a:.1f}" height="{_LANE}" fill="{fill}"/>')
    return found
