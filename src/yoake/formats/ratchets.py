"""The file of a ratchet: JSON, one finding a line, so that a review shows what went."""

from __future__ import annotations

import json
from typing import Any, Final

from yoake.core.proof.ratchet import Counted, Recorded
from yoake.core.values.errors import BadInput

_FORMAT: Final = 1


def write_ratchet(recorded: Recorded) -> str:
    """The file, findings by title."""
    rows = sorted(recorded.findings.items(), key=lambda item: (item[1].title, item[0]))
    lines = [
        f"  {json.dumps(key, ensure_ascii=False)}: {json.dumps({'title': held.title, 'places': held.places}, ensure_ascii=False)}"
        for key, held in rows
    ]
    to = json.dumps(list(recorded.to), ensure_ascii=False)
    body = ",\n".join(lines)
    return f'{{\n "format": {_FORMAT},\n "to": {to},\n "findings": {{{chr(10) + body + chr(10) + " " if lines else ""}}}\n}}\n'


def read_ratchet(text: str) -> Recorded:
    """The content of a file. Raises BadInput with what is wrong."""
    try:
        body: Any = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise BadInput(f"The file of the ratchet is no JSON: {error}. Write it anew with --record.") from error
    if not isinstance(body, dict) or body.get("format") != _FORMAT:
        raise BadInput(f"The file of the ratchet is not of format {_FORMAT}. Write it anew with --record.")
    to, findings = body.get("to"), body.get("findings")
    if not isinstance(to, list) or not all(isinstance(line, str) for line in to) or not isinstance(findings, dict):
        raise BadInput("The file of the ratchet names no lines or no findings. Write it anew with --record.")
    for key, held in findings.items():
        places = held.get("places") if isinstance(held, dict) else None
        if (
            not isinstance(places, int)
            or isinstance(places, bool)
            or places < 1
            or not isinstance(held.get("title"), str)
        ):
            raise BadInput(f"“{key[:100]}” in the file of the ratchet has no title or no count of places.")
    return Recorded(tuple(to), {key: Counted(held["title"], held["places"]) for key, held in findings.items()})
