"""How manifests of Python ask for a package, and the same in its manner for another release."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import TYPE_CHECKING, Final

from yoake.core.values.coordinates import line_key

if TYPE_CHECKING:
    from yoake.core.values.modules import Requirement

_CLAUSE: Final = r"(?:===|==|~=|!=|<=|>=|<|>|\^|~)\s*[\w.*+!-]+"


@lru_cache(maxsize=512)
def requirement_at(name: str) -> re.Pattern[str]:
    """``name[extra] >=1,<2`` anywhere in a line, or ``name = "^1"`` and ``name = {version = "^1"}`` of a TOML table."""
    spelled = re.sub(r"[-_.]+", "[-_.]+", re.escape(name).replace(r"\-", "-").replace(r"\.", "."))
    plain = rf"(?<![\w.-]){spelled}(?:\s*\[[^\]]*\])?\s*\(?\s*(?={_CLAUSE})"
    table = rf"^\s*[\"']?{spelled}[\"']?\s*=\s*(?:\{{[^}}]*?version\s*=\s*)?[\"']"
    wanted = rf"(?P<range>{_CLAUSE}(?:\s*,\s*{_CLAUSE})*|(?<=[\"'])\d[^\"',\s]*)"
    return re.compile(f"(?:{plain}|{table}){wanted}", re.IGNORECASE)


def ranges_in(text: str, requirement: Requirement) -> list[tuple[int, int]]:
    """Where the line of a requirement gives a range, (from, to) in characters of the whole text."""
    rows = text.split("\n")
    if not 0 < requirement.line <= len(rows):
        return []
    start = sum(len(row) + 1 for row in rows[: requirement.line - 1])
    found = requirement_at(requirement.name).finditer(rows[requirement.line - 1])
    return [(start + a, start + b) for m in found for a, b in [m.span("range")]]


def respecified(wanted: str, release: str) -> str:
    """``==1.2`` becomes ``==5.2.1``, ``>=1,<2`` becomes ``>=5.2,<6``, ``~=1.2`` becomes ``~=5.2``."""
    key = line_key(release)
    line = ".".join(str(part) for part in key[:2])
    above = str(key[0] + 1) if key[0] else f"0.{key[1] + 1}"
    clauses = [clause.strip() for clause in wanted.split(",")]
    if len(clauses) == 1 and clauses[0][:1] in "^~" and not clauses[0].startswith("~="):
        return f"{clauses[0][0]}{line}"
    if len(clauses) == 1 and clauses[0].startswith("=="):
        return f"=={'=' if clauses[0].startswith('===') else ''}{release}"
    if len(clauses) == 1 and clauses[0].startswith("~="):
        return f"~={line}"
    if clauses[0][:1] not in "<>=!~^":
        return release
    upper = any(clause.startswith("<") for clause in clauses)
    return f">={line},<{above}" if upper else f">={line}"
