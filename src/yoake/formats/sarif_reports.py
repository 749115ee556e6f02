"""Reports of other tools, as SARIF 2.1.0 (OASIS): what each of them found, read from any machine."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any, Final
from urllib.parse import unquote

from yoake.core.values.checks import CheckFinding, CheckLevel, CheckReport
from yoake.core.values.errors import BadInput

MAX_FILE: Final = 64 * 1024**2
"""Bytes: 100,000 results with their texts."""
KEPT: Final = 500
"""Findings of one report that are kept; beyond them they are counted."""

_MOST_RUNS: Final = 50
_MOST_TEXT: Final = 300
_LEVELS: Final[dict[str, CheckLevel]] = {"error": "error", "warning": "warning", "note": "note"}
_ORDER: Final = ("error", "warning", "note")


def read_sarif(data: bytes, name: str) -> list[CheckReport]:
    """The reports in a file, one a tool. Raises BadInput for what is no SARIF 2 or too large."""
    if len(data) > MAX_FILE:
        raise BadInput(f"{name} has more than {MAX_FILE // 1024**2} MB. Give it in parts.")
    try:
        body = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise BadInput(f"{name} is no whole JSON.") from error
    runs = body.get("runs") if isinstance(body, dict) else None
    if not isinstance(runs, list) or not str(body.get("version", "")).startswith("2."):
        raise BadInput(f"{name} is no SARIF 2: it has no “runs” or another version.")
    if not 0 < len(runs) <= _MOST_RUNS:
        raise BadInput(f"{name} holds {len(runs)} runs; 1 to {_MOST_RUNS} are taken.")
    by_tool: dict[str, list[CheckFinding]] = {}
    for run in runs:
        by_tool.setdefault(_tool(run), []).extend(_findings(run))
    return [_report(tool, found) for tool, found in by_tool.items()]


def _report(tool: str, found: list[CheckFinding]) -> CheckReport:
    counts = [sum(1 for f in found if f.level == level) for level in _ORDER]
    kept = sorted(found, key=lambda f: (_ORDER.index(f.level), f.path, f.line))[:KEPT]
    return CheckReport(tool, counts[0], counts[1], counts[2], tuple(kept))


def _tool(run: Any) -> str:
    name = _at(run, "tool", "driver", "name")
    return name.strip()[:120] if isinstance(name, str) and name.strip() else "a tool without a name"


def _findings(run: Any) -> Iterator[CheckFinding]:
    """Results that complain: those that pass, do not apply or were accepted in the report are left out."""
    rules = _at(run, "tool", "driver", "rules")
    levels = {
        str(rule.get("id")): _at(rule, "defaultConfiguration", "level")
        for rule in (rules if isinstance(rules, list) else ())
        if isinstance(rule, dict)
    }
    results = _at(run, "results")
    for result in results if isinstance(results, list) else ():
        if not isinstance(result, dict) or result.get("kind", "fail") != "fail" or result.get("suppressions"):
            continue
        if result.get("baselineState") == "absent":
            continue
        rule = result.get("ruleId") or _at(result, "rule", "id") or ""
        level = result.get("level") or levels.get(str(rule)) or "warning"
        if level == "none":
            continue
        place = _first(result.get("locations"))
        path = _at(place, "physicalLocation", "artifactLocation", "uri")
        line = _at(place, "physicalLocation", "region", "startLine")
        yield CheckFinding(
            rule=_text(rule),
            level=_LEVELS.get(str(level), "warning"),
            message=_text(_at(result, "message", "text") or _at(result, "message", "markdown")),
            path=unquote(_text(path)).removeprefix("file://"),
            line=line if isinstance(line, int) and not isinstance(line, bool) and 0 < line < 10**9 else 0,
        )


def _at(value: Any, *names: str) -> Any:
    for name in names:
        value = value.get(name) if isinstance(value, dict) else None
    return value


def _first(value: Any) -> Any:
    return value[0] if isinstance(value, list) and value else None


def _text(value: Any) -> str:
    return " ".join(str(value if isinstance(value, str) else "").split())[:_MOST_TEXT]
