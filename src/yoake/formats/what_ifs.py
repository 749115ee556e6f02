"""What-ifs as files: changes to the plan of a portfolio, validated with all faults at once."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Final

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from yoake.core.values.errors import BadInput

_MOST: Final = 200  # changes of one kind
Name = Annotated[str, Field(min_length=1, max_length=120)]
Days = Annotated[float, Field(ge=0, le=7, allow_inf_nan=False)]
Work = Annotated[float, Field(ge=0, le=5_000, allow_inf_nan=False)]


class _Change(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class CapacityChange(_Change):
    """One more person in a team, or other days for one who is there; 0 days: they leave."""

    team: Name
    person: str = Field("one more person", max_length=120)
    days: Days
    since: date | None = None
    until: date | None = None


class DateChange(_Change):
    """Another support end for a line: bought support, or an announcement. Without ``application`` for all."""

    coordinate: Name
    line: Name
    end: date
    application: str = Field("", max_length=120)


class BoughtApplication(_Change):
    """An application that comes along: one stage of so many days, with the end of the line that it leaves."""

    name: Name
    team: Name
    days: Work
    days80: Work | None = None
    end: date | None = None


class StrategyChange(_Change):
    """Another way for a set of modules, by the name that Path has for it: work, stages, danger, hold, …"""

    application: Name
    choice: Name
    set: str = Field("", max_length=1000)


class DestinationChange(_Change):
    """Another destination for an application, against which it was scanned once."""

    application: Name
    destination: Name


class FixedChange(_Change):
    """A stage on a day, by its number; None lets it go."""

    application: Name
    stage: Annotated[int, Field(ge=0, le=1_000)]
    begins: date | None


class FreezeChange(_Change):
    """Days on which nothing goes live; without ``application`` nowhere."""

    first: date
    last: date
    title: str = Field("freeze", max_length=120)
    application: str = Field("", max_length=120)


class FeaturesChange(_Change):
    """Another share of a team's days that features take."""

    team: Name
    share: Annotated[float, Field(ge=0, le=0.95, allow_inf_nan=False)]


class WhatIf(_Change):
    """Changes to the plan of the portfolio. ``first``: applications that come before all others, in this order; ``drop``: out of it."""

    capacity: list[CapacityChange] = Field(default_factory=list, max_length=_MOST)
    dates: list[DateChange] = Field(default_factory=list, max_length=_MOST)
    drop: list[Name] = Field(default_factory=list, max_length=5_000)
    bought: list[BoughtApplication] = Field(default_factory=list, max_length=_MOST)
    strategy: list[StrategyChange] = Field(default_factory=list, max_length=_MOST)
    destination: list[DestinationChange] = Field(default_factory=list, max_length=_MOST)
    first: list[Name] = Field(default_factory=list, max_length=5_000)
    fixed: list[FixedChange] = Field(default_factory=list, max_length=_MOST)
    freezes: list[FreezeChange] = Field(default_factory=list, max_length=_MOST)
    features: list[FeaturesChange] = Field(default_factory=list, max_length=_MOST)

    @property
    def empty(self) -> bool:
        """Whether nothing would be otherwise."""
        return not any(getattr(self, name) for name in type(self).model_fields)


def read_what_if(value: object) -> WhatIf:
    """Changes from a parsed file. Raises BadInput with all faults."""
    try:
        return WhatIf.model_validate(value)
    except ValidationError as error:
        faults = tuple(f"{'.'.join(map(str, e['loc'])) or 'the file'}: {e['msg']}" for e in error.errors())
        raise BadInput(f"This what-if cannot be read: {faults[0]}.", faults) from error
