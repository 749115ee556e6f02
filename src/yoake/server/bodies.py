"""What every request body has in common: no field of another name, no text that cannot be stored."""

from __future__ import annotations

from typing import Annotated, Final

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints, field_validator

SHORT: Final = 120  # characters of a name, an owner, a team
_DATE: Final = r"^(\d{4}-\d{2}-\d{2})?$"


def storable(text: str) -> str:
    """The text. Raises ValueError where it holds what no record, file name or answer can."""
    if "\0" in text:
        raise ValueError("it holds a NUL character")
    try:
        text.encode("utf-8")
    except UnicodeEncodeError as error:
        raise ValueError("it holds half a character (a lone surrogate)") from error
    return text


def _filled(text: str) -> str:
    if not text.strip():
        raise ValueError("it is blank")
    return text.strip()


Named = Annotated[str, StringConstraints(max_length=SHORT)]
Filled = Annotated[str, StringConstraints(max_length=SHORT), AfterValidator(_filled)]
Day = Annotated[str, StringConstraints(max_length=10, pattern=_DATE)]
Reason = Annotated[str, StringConstraints(max_length=2000), AfterValidator(_filled)]
DaysPerWeek = Annotated[float, Field(ge=0.01, le=35, allow_inf_nan=False)]


Version = Annotated[int, Field(ge=0, le=2**63 - 1)]


class Problem(BaseModel):
    """Why a request was not answered as it was asked: what happened and what to do, and each fault by itself."""

    problem: str
    faults: list[str]


class Body(BaseModel):
    """A request's body; a field of another name is refused, so that a slip does not pass unseen."""

    model_config = ConfigDict(extra="forbid")

    @field_validator("*", mode="after")
    @classmethod
    def _storable(cls, value: object) -> object:
        for text in value if isinstance(value, list) else (value,):
            if isinstance(text, str):
                storable(text)
        return value
