"""What the demo's screens and some made-up applications said when somebody last read it, one text each.

A text is compared as a whole. Where a change is wanted, ``make expected`` writes the texts anew, and the difference is read before it
is committed.
"""

from __future__ import annotations

import difflib
import json
import os
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

_HERE = Path(__file__).parent
AWKWARD = _HERE / "awkward.yaml"
ASKED = _HERE / "week_asked.txt"
_WRITING = os.environ.get("EXPECTED") == "write"
_WIDE = 140  # columns of a record on one line
_LONG = 4  # lines of a block that is named when it comes again, not written twice


def differing(name: str, value: Any) -> str:
    """Where a value is no longer what was read, as a difference of texts; empty where it is."""
    path = _HERE / f"{name}.txt"
    found = written(value)
    if _WRITING:
        path.write_text(found, "utf-8")
    read = path.read_text("utf-8") if path.exists() else ""
    return "\n".join(
        difflib.unified_diff(read.splitlines(), found.splitlines(), f"{name}, as read", "now", lineterm="", n=1)
    )


def differing_block(name: str, block: str, lines: list[str]) -> str:
    """The same of one block of a text of many; blocks begin with ``== `` and a name and stand in the order of names."""
    path = _HERE / f"{name}.txt"
    parts = re.split(r"(?m)^== ", path.read_text("utf-8"))[1:] if path.exists() else []
    blocks = {title: body.splitlines() for title, _, body in (part.partition("\n") for part in parts)}
    if _WRITING:
        blocks[block] = lines
        path.write_text("".join("\n".join((f"== {title}", *blocks[title])) + "\n" for title in sorted(blocks)), "utf-8")
    return "\n".join(difflib.unified_diff(blocks.get(block, []), lines, f"{block}, as read", "now", lineterm="", n=1))


def written(value: Any) -> str:
    """A value of JSON as lines that can be read: nothing that is empty or false, small records on one line, nothing twice."""
    if not isinstance(value, dict | list):
        return f"{_short(value)}\n"
    return "\n".join(_lines(value, "", {})) + "\n"


def timeless(record: dict[str, Any]) -> dict[str, Any]:
    """A record without how long it took, which is another time every time."""
    return {key: held for key, held in record.items() if key != "seconds"}


def _lines(value: Any, at: str, before: dict[str, str]) -> Iterator[str]:
    for key, held in value.items() if isinstance(value, dict) else ((str(n), v) for n, v in enumerate(value)):
        if not held and not (isinstance(held, int | float) and isinstance(value, list)):
            continue
        here = f"{at}.{key}" if at else str(key)
        short = _short(held)
        if len(short) <= _WIDE or not isinstance(held, dict | list):
            yield f"{key}: {short}"
        elif short in before:
            yield f"{key}: as {before[short]}"
        else:
            inner = [f"  {line}" for line in _lines(held, here, before)]
            if len(inner) >= _LONG:
                before[short] = here
            yield f"{key}:"
            yield from inner


def _short(value: Any) -> str:
    if isinstance(value, dict):
        return "{" + ", ".join(f"{key}: {_short(held)}" for key, held in value.items() if held) + "}"
    if isinstance(value, list):
        return "[" + ", ".join(map(_short, value)) + "]"
    if isinstance(value, float):
        return f"{value:.6g}"
    return value if isinstance(value, str) and "\n" not in value else json.dumps(value, ensure_ascii=False)
