"""What something takes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class Effort:
    """Days at 50 % and at 80 %."""

    p50: float
    p80: float


NO_EFFORT: Final = Effort(0.0, 0.0)
