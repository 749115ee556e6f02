"""Personal data in what is kept: the shape of a value stays, the value does not."""

from __future__ import annotations

import re
from typing import Final

_EMAIL: Final = re.compile(r"[\w.+-]+@[\w-]+\.[\w.-]+")
_LONG_NUMBER: Final = re.compile(r"\d(?:[\d -]{4,}\d)")
_TOKEN: Final = re.compile(r"[A-Za-z0-9_\-]{20,}")
_NAME: Final = re.compile(r"\b[A-Z][a-z]+ [A-Z][a-z]+\b")
_PERSONAL: Final = re.compile(
    r"(?:^|_)(?:name|surname|firstname|lastname|e?mail|phone|mobile|address|street|city|birth\w*|iban|card|password|token|secret)(?:$|_)"
)
_LONGEST: Final = 120


def masked(text: str) -> str:
    """A text in which addresses, names, long numbers and tokens cannot be read any more; plain words and short figures stay."""
    shown = _EMAIL.sub("…@…", text[: _LONGEST * 4])
    shown = _TOKEN.sub("…", shown)
    shown = _LONG_NUMBER.sub(lambda m: re.sub(r"\d", "9", m.group()), shown)
    shown = _NAME.sub("X… X…", shown)
    return shown[:_LONGEST]


def masked_at(where: str, value: object) -> str:
    """A value of JSON at a path: of a person's data only that there is some."""
    key = where.rsplit(".", 1)[-1].split("[", 1)[0]
    if value not in (None, "", [], {}) and _PERSONAL.search(re.sub(r"(?<=[a-z])(?=[A-Z])", "_", key).lower()):
        return "…"
    return masked(str(value))


def masked_path(path: str) -> str:
    """A path whose long numbers and tokens cannot be read any more, without its query."""
    return masked(path.split("?", 1)[0])
