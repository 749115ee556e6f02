"""What no scan sees: days for lines and majors crossed, and a spread that grows with what is not known."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yoake.core.knowledge.models import Unseen
from yoake.core.readiness.effort import quantiles, unseen

TABLE = Unseen()


def ratio(**fields: Any) -> float:
    """The 80 % of the factor over its 50 %."""
    given: dict[str, Any] = {"crossed": 1, "packages": 0, "unknown": 0.0, "tested": True, **fields}
    found = quantiles(unseen(TABLE, "app", **given))
    return found.p80 / found.p50


def test_the_80_of_a_stage_is_well_above_its_50() -> None:
    assert ratio() == pytest.approx(np.exp(0.8416 * (0.42 + 0.02)), rel=0.05)
    assert ratio(crossed=2, packages=2, tested=False) > 1.5


def test_less_known_more_moved_and_no_tests_spread_it_further() -> None:
    plain = ratio()
    assert plain < ratio(tested=False) < ratio(tested=False, unknown=0.5)
    assert plain < ratio(crossed=5) < ratio(crossed=5, packages=10)


def test_stages_of_one_application_are_uncertain_together() -> None:
    first, second = (unseen(TABLE, "app", crossed=n, packages=0, unknown=0.0, tested=True) for n in (1, 3))
    other = unseen(TABLE, "other", crossed=1, packages=0, unknown=0.0, tested=True)
    assert np.corrcoef(np.log(first), np.log(second))[0, 1] == pytest.approx(1)
    assert abs(np.corrcoef(np.log(first), np.log(other))[0, 1]) < 0.1


@given(st.integers(0, 200), st.integers(0, 400), st.floats(0, 1), st.booleans())
def test_the_factor_has_median_1_and_stays_within_its_bound(
    crossed: int, packages: int, unknown: float, tested: bool
) -> None:
    made = unseen(TABLE, "app", crossed=crossed, packages=packages, unknown=unknown, tested=tested)
    assert np.median(made) == pytest.approx(1, rel=0.06)
    assert quantiles(made).p80 < np.exp(0.8416 * TABLE.most) * 1.06
    assert bool((made > 0).all())
