"""What dealing with findings takes, one by one: three-point minutes and their mean. Sums are drawn in ``effort``."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yoake.core.knowledge.models import EffortTable
    from yoake.core.values.findings import Finding


def needs_work(finding: Finding) -> bool:
    """Whether a finding must be dealt with before the destination: not just a note, nor only in code that is not written here."""
    return finding.level != "note" and (not finding.places or any(place.is_work for place in finding.places))


def three_point(finding: Finding, table: EffortTable) -> tuple[float, float, float]:
    """Low, likely, high minutes for all open places: the first in full, the others by the repeat factor."""
    places = sum(1 for place in finding.places if place.is_work) or 1
    repeat = table.mechanical_repeat if finding.mechanical else table.repeat
    factor = 1 + repeat * (places - 1)
    review = table.review_minutes if finding.mechanical else 0.0
    low, likely, high = (minutes * factor + review for minutes in finding.effort)
    return low, likely, max(high, low)


def mean_days(finding: Finding, table: EffortTable) -> float:
    """The mean effort of one finding in days, (a + 4m + b) ÷ 6: sums of it can be compared without drawing."""
    low, likely, high = three_point(finding, table)
    return (low + 4 * likely + high) / 6 / table.minutes_per_day
