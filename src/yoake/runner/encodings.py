"""Bytes of a source file as UTF-8, by the encoding that it names itself, and back."""

from __future__ import annotations

import codecs
import re
from typing import Final

_COOKIE: Final = re.compile(rb"^[ \t\f]*#.*?coding[:=][ \t]*([-\w.]+)")
_MAX_LINE: Final = 500_000  # bytes; a parser takes 500 bytes of memory and 7 µs for each, and nobody writes such lines
_TEXT_CODECS: Final = re.compile(
    r"^(utf[-_]?(8|16|32)([-_]?(le|be|sig))?|us[-_]?ascii|ascii|latin[-_]?\d+|l\d|iso[-_]?8859([-_]\d+)*|8859|cp[-_]?\d+\w*|"
    r"windows[-_]?\d+|mac[-_]?\w+|koi8[-_]?\w+|gb\d+|gbk|hz|big5([-_]?hkscs)?|shift[-_]?jis\w*|sjis\w*|s[-_]jis\w*|euc[-_]?\w+|"
    r"iso[-_]?2022[-_]?\w+|johab|tis[-_]?620|ptcp154|kz1048|hp[-_]?roman8)$",
    re.IGNORECASE,
)
"""Encodings that read text in one pass. The registry holds others (punycode, idna …) whose time grows with the square."""


def normalise(data: bytes) -> tuple[bytes, str]:
    """Source bytes as UTF-8, and what had to be said about their encoding. Raises ValueError for binary content."""
    for mark, name in ((codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16")):
        if data.startswith(mark):
            return data.decode(name).encode(), "UTF-16"
    if b"\0" in data[:8192]:
        raise ValueError("binary content in a source file")
    if len(data) > _MAX_LINE and max(map(len, data.split(b"\n"))) > _MAX_LINE:
        raise ValueError(f"a line of more than {_MAX_LINE // 1000} kB: made by a program, not read")
    cookie = next((m for m in map(_COOKIE.match, data.split(b"\n", 2)[:2]) if m), None)
    name = cookie.group(1).decode() if cookie else "utf-8"
    if name.lower().removesuffix("-unix").removesuffix("-dos") in ("utf-8", "utf8", "utf_8"):
        name = "utf-8"
    if not _TEXT_CODECS.match(name):
        return data.decode("latin-1").encode(), f"unknown encoding “{name[:40]}”, read as Latin-1"
    try:
        shown = data.decode(name)
    except LookupError:
        return data.decode("latin-1").encode(), f"unknown encoding “{name[:40]}”, read as Latin-1"
    except UnicodeDecodeError as error:
        return data.decode("latin-1").encode(), f"not valid {name} at byte {error.start}, read as Latin-1"
    return (data if name == "utf-8" else shown.encode("utf-8", "replace")), ""


def as_it_was(text: bytes, data: bytes) -> bytes:
    """UTF-8 text in the encoding that ``data``, from which it was made, says of itself."""
    for mark in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE):
        if data.startswith(mark):
            return text.decode().encode("utf-16")
    cookie = next((m for m in map(_COOKIE.match, data.split(b"\n", 2)[:2]) if m), None)
    name = cookie.group(1).decode().lower().removesuffix("-unix").removesuffix("-dos") if cookie else "utf-8"
    if name in ("utf-8", "utf8", "utf_8") or not _TEXT_CODECS.match(name):
        return text
    try:
        return text.decode().encode(name)
    except (LookupError, UnicodeError):
        return text
