"""Scripts that a tool put together from others: their source is elsewhere, and changing them here changes nothing for long."""

from __future__ import annotations

import re
from typing import Final

_DENSE_LINE: Final = 250  # mean bytes a line, comments left out; code written by people stays below 100
_DENSE_SIZE: Final = 500
_COMMENTS: Final = re.compile(rb"/\*[\s\S]*?\*/|^[ \t]*//[^\n]*\n", re.MULTILINE)
_LOOKED_AT: Final = 400_000  # bytes; comments of longer files are counted as code
_LOADERS: Final = re.compile(
    rb"\bwebpackJsonp\w*\b|\b__webpack_(?:require|modules|exports)__\b|\bwebpackChunk\w*\b|\bparcelRequire\w*\b"
    rb"|\(function e\(t,n,r\)\{|\(function\(\)\{function r\(e,n,t\)\{|\bfunction __commonJS\b|\bvar __commonJS ="
    rb"|^System\.register\(\[",
    re.MULTILINE,
)
"""What bundlers put around the modules that they bring together."""
_SIGNS: Final = (
    b"webpack",
    b"parcelRequire",
    b"function e(t,n,r)",
    b"function r(e,n,t)",
    b"__commonJS",
    b"System.register",
)
"""One of these stands in all of them; looking for plain bytes takes a tenth of the time."""
_AROUND: Final = 6_000  # bytes at either end in which a loader shows


def is_assembled(path: str, data: bytes) -> bool:
    """Whether a script was put together by a tool: by what bundlers write around modules, or by lines nobody would write."""
    if not path.endswith((".js", ".mjs", ".cjs")):
        return False
    if any(_loads(end) for end in (data[:_AROUND], data[-_AROUND:])):
        return True
    if len(data) <= _DENSE_SIZE or len(data) / (data.count(b"\n") + 1) < _DENSE_LINE / 2:
        return False
    code = _COMMENTS.sub(b"", data) if len(data) <= _LOOKED_AT else data
    return len(code) > _DENSE_SIZE and len(code) / (code.strip().count(b"\n") + 1) > _DENSE_LINE


def _loads(end: bytes) -> bool:
    return any(sign in end for sign in _SIGNS) and _LOADERS.search(end) is not None
