"""Bytes of one source file → facts. Runs in a reader, a process of its own."""

from __future__ import annotations

import codecs
import gc
import re
from multiprocessing.connection import Connection
from typing import Final

from yoake.core.registered import ECOSYSTEMS

_COOKIE: Final = re.compile(rb"^[ \t\f]*#.*?coding[:=][ \t]*([-\w.]+)")
_MAX_LINE: Final = 500_000  # bytes; a parser takes 500 bytes of memory and 7 µs for each, and nobody writes such lines
_TEXT_CODECS: Final = re.compile(
    r"^(utf[-_]?(8|16|32)([-_]?(le|be|sig))?|us[-_]?ascii|ascii|latin[-_]?\d+|l\d|iso[-_]?8859([-_]\d+)*|8859|cp[-_]?\d+\w*|"
    r"windows[-_]?\d+|mac[-_]?\w+|koi8[-_]?\w+|gb\d+|gbk|hz|big5([-_]?hkscs)?|shift[-_]?jis\w*|sjis\w*|s[-_]jis\w*|euc[-_]?\w+|"
    r"iso[-_]?2022[-_]?\w+|johab|tis[-_]?620|ptcp154|kz1048|hp[-_]?roman8)$",
    re.IGNORECASE,
)
"""Encodings that read text in one pass. The registry holds others (punycode, idna …) whose time grows with the square."""

TANGLED: Final = "its syntax can be read in more ways than can be tried"

Item = tuple[str, bytes, str]
"""path, content, digest"""
Read = tuple[str, str, str, str]
"""path, digest, facts as JSON (empty when it failed), reason"""


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


def read_here(items: list[Item]) -> list[Read]:
    """The same in the process that asks for it: what would keep it busy beyond measure is told and left out."""
    kept: list[Item] = []
    tangled: list[Item] = []
    for item in items:
        (kept if ECOSYSTEMS.is_bounded(item[0], item[1]) else tangled).append(item)
    return [*read_batch(kept), *((path, digest, "", TANGLED) for path, _, digest in tangled)]


def read_batch(items: list[Item]) -> list[Read]:
    """Facts of a few files. A file that fails says why and stops nobody."""
    done: list[Read] = []
    gc.collect()
    for path, data, digest in items:
        try:
            text, note = (data, "") if ECOSYSTEMS.is_compiled(path) else normalise(data)
            done.append((path, digest, ECOSYSTEMS.read_source(path, text).to_json(), note))
        except RecursionError:
            done.append((path, digest, "", "nested too deep to be read"))
        except MemoryError:
            done.append((path, digest, "", "too large to be read within the memory that one file may take"))
        except ValueError as error:
            done.append((path, digest, "", str(error) or type(error).__name__))
    return done


def serve(connection: Connection) -> None:
    """Answer batches until the connection ends."""
    gc.disable()  # trees and scopes are freed by counting, so the collector only costs time between batches
    gc.freeze()
    while True:
        connection.send(read_batch(connection.recv()))
