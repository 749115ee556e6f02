"""Waivers as a file, for builds that scan without a server: TOML, one table a waiver, found again by the key of its finding."""

from __future__ import annotations

import json
import tomllib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Final

from yoake.core.values.errors import BadInput

_FIELDS: Final = ("finding", "title", "by", "why", "until")
_HEAD: Final = "# Findings that were accepted on purpose; written by Yoake, read by “yoake scan --waivers”.\n"


def in_force(until: date | None, today: date) -> bool:
    """Whether a waiver has not run out: it lasts to the end of its last day."""
    return until is None or until >= today


@dataclass(frozen=True, slots=True, kw_only=True)
class Waiver:
    """A finding accepted by somebody for a reason, until the end of a day or for good."""

    finding: str
    title: str
    by: str
    why: str
    until: date | None

    def holds(self, today: date) -> bool:
        """Whether it has not run out."""
        return in_force(self.until, today)

    @property
    def justification(self) -> str:
        """By whom and why, in a line."""
        return f"{self.by}: {self.why}" if self.by else self.why


def write_waivers(waivers: Iterable[Waiver]) -> str:
    """The file, in the order given. A text of JSON is a basic string of TOML, save for the character DEL."""
    tables = []
    for waiver in waivers:
        lines = [f"{name} = {_string(getattr(waiver, name))}" for name in ("finding", "title", "by", "why")]
        if waiver.until is not None:
            lines.append(f"until = {waiver.until.isoformat()}")
        tables.append("\n".join(["[[waiver]]", *lines]))
    return _HEAD + "".join(f"\n{table}\n" for table in tables)


def _string(text: str) -> str:
    return json.dumps(text, ensure_ascii=False).replace("\x7f", "\\u007f")


def read_waivers(text: str) -> list[Waiver]:
    """Read the file. Raises BadInput with every fault at once."""
    try:
        body = tomllib.loads(text)
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        raise BadInput(f"The file of waivers is no TOML: {error}.") from error
    tables = body.get("waiver", [])
    unknown = sorted(set(body) - {"waiver"})
    faults = [f"“{name}” is nothing that a file of waivers has: write [[waiver]] tables" for name in unknown]
    if not isinstance(tables, list) or not all(isinstance(table, dict) for table in tables):
        raise BadInput("Waivers are written as [[waiver]] tables, one each.")
    for number, table in enumerate(tables, 1):
        faults += [f"waiver {number}: {fault}" for fault in _faults(table)]
    if faults:
        raise BadInput("The file of waivers has faults: " + "; ".join(faults[:5]) + ".", tuple(faults))
    return [_waiver(table) for table in tables]


def _faults(table: Mapping[str, object]) -> list[str]:
    faults = [f"“{name}” is not one of {', '.join(_FIELDS)}" for name in table if name not in _FIELDS]
    given = {name: table.get(name) for name in ("finding", "why")}
    faults += [
        f"“{name}” must be given" for name, value in given.items() if not (isinstance(value, str) and value.strip())
    ]
    faults += [f"“{name}” must be text" for name in ("title", "by") if not isinstance(table.get(name, ""), str)]
    until = table.get("until")
    if until is not None and (not isinstance(until, date) or isinstance(until, datetime)):
        faults.append("“until” must be a day such as 2027-03-12, without quotes")
    return faults


def _waiver(table: Mapping[str, object]) -> Waiver:
    until = table.get("until")
    texts = {name: str(table.get(name, "")) for name in ("finding", "title", "by", "why")}
    return Waiver(**texts, until=until if isinstance(until, date) else None)
