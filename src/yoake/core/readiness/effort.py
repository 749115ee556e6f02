"""Effort of findings: three-point minutes, simulated sums, the 50 % and 80 % quantiles.

A single edit is drawn from the beta-PERT distribution (mean (a + 4m + b) ÷ 6; Malcolm and others, 1959). Draws of
different findings are independent. The seed comes from the inputs, so the same findings give the same figures.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, Final

import numpy as np
from numpy.typing import NDArray

from yoake.core.readiness.estimate import three_point
from yoake.core.values.effort import Effort

if TYPE_CHECKING:
    from yoake.core.knowledge.models import EffortTable, Unseen
    from yoake.core.values.findings import Finding

DRAWS: Final = 2000  # keeps the error of the 80 % quantile under about 2 % of its spread
MANY: Final = 1_000
"""Findings up to which each is drawn by itself."""

ALIKE: Final = 30
"""Draws whose sum is taken for normal."""

_AT_HAND: Final = 2_000
"""Findings whose draws are kept: the ways of one path ask for the same ones again and again. Each takes 16 kB."""

Samples = NDArray[np.float64]


def draw(findings: Sequence[Finding], table: EffortTable) -> Samples:
    """Samples (DRAWS,) of the summed effort of ``findings``, in days.

    Of very many findings (``MANY``) those that are alike are drawn at once: a sum of at least ``ALIKE`` independent draws of
    one distribution is normal for any use made of it here (central limit theorem).
    """
    total: Samples = np.zeros(DRAWS)
    if len(findings) <= MANY:
        for finding in findings:
            total += _one(finding, *three_point(finding, table))
        return total / table.minutes_per_day
    alike: dict[tuple[float, float, float], list[Finding]] = {}
    for finding in findings:
        alike.setdefault(three_point(finding, table), []).append(finding)
    for (low, likely, high), held in alike.items():
        if high > low and len(held) >= ALIKE:
            total += _sum_of_alike(low, likely, high, len(held))
        else:
            for finding in held:
                total += _one(finding, low, likely, high)
    return total / table.minutes_per_day


def _one(finding: Finding, low: float, likely: float, high: float) -> Samples:
    if high <= low:
        return np.full(DRAWS, likely)
    alpha, beta = 1 + 4 * (likely - low) / (high - low), 1 + 4 * (high - likely) / (high - low)
    return np.asarray(low + _shares(f"{finding.key}{len(finding.places)}", alpha, beta) * (high - low))


@lru_cache(_AT_HAND)
def _shares(name: str, alpha: float, beta: float) -> Samples:
    """Samples (DRAWS,) of a beta distribution, the same for the same name; not to be written to."""
    seed = int.from_bytes(hashlib.sha256(name.encode()).digest()[:8], "big")
    samples = np.random.default_rng(seed).beta(alpha, beta, DRAWS)
    samples.flags.writeable = False
    return samples


def _sum_of_alike(low: float, likely: float, high: float, count: int) -> Samples:
    """The sum of ``count`` draws of one beta-PERT: its mean and variance are those of the beta distribution, times ``count``."""
    alpha, beta = 1 + 4 * (likely - low) / (high - low), 1 + 4 * (high - likely) / (high - low)
    mean = low + alpha / (alpha + beta) * (high - low)
    deviation = math.sqrt(alpha * beta / ((alpha + beta) ** 2 * (alpha + beta + 1))) * (high - low)
    seed = int.from_bytes(hashlib.sha256(f"{low} {likely} {high} {count}".encode()).digest()[:8], "big")
    return np.asarray(np.random.default_rng(seed).normal(count * mean, math.sqrt(count) * deviation, DRAWS))


def unseen(table: Unseen, name: str, *, crossed: int, packages: int, unknown: float, tested: bool) -> Samples:
    """Factors (DRAWS,) of median 1 by which a stage takes more or less than what is seen of it.

    What is not seen is much the same for every stage of one application: stages of the same ``name`` are drawn alike, so that their
    sum is as uncertain as they are. The 80 % of a lognormal factor is e^(0.84 σ): 1.5 at σ = 0.48.
    """
    spread = (
        table.spread + table.spread_line * crossed + table.spread_package * packages + table.spread_unknown * unknown
    )
    spread = min(spread + (0.0 if tested else table.spread_untested), table.most)
    seed = int.from_bytes(hashlib.sha256(f"unseen {name}".encode()).digest()[:8], "big")
    return np.asarray(np.exp(spread * np.random.default_rng(seed).standard_normal(DRAWS)))


def quantiles(samples: Samples) -> Effort:
    """The 50 % and 80 % quantiles of samples in days."""
    p50, p80 = np.quantile(samples, (0.5, 0.8))
    return Effort(float(p50), float(p80))
