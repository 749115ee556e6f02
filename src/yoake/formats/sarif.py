"""SARIF 2.1.0, out and in: each place is one result; our keys stand in ``partialFingerprints``."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Final
from urllib.parse import quote, unquote

from yoake.core.values.errors import BadSource
from yoake.core.values.findings import Finding, Place
from yoake.core.values.words import Kind

SCHEMA: Final = "https://json.schemastore.org/sarif-2.1.0.json"


_FINDING: Final = "yoakeFinding/v1"
_PLACE: Final = "yoakePlace/v1"
_COLUMNS: Final = "unicodeCodePoints"


@dataclass(frozen=True, slots=True)
class Earlier:
    """One result of an earlier log, as much of it as is needed to compare."""

    finding: str
    place: str
    rule: str
    level: str
    file: str
    line: int
    symbol: str
    kind: str


def from_sarif(text: str) -> list[Earlier]:
    """The results of a log that Yoake wrote. Raises BadSource for anything else, with what to do."""
    try:
        body = json.loads(text)
        results = [result for run in body["runs"] for result in run.get("results") or []]
        return [_earlier(result) for result in results if result.get("baselineState") != "absent"]
    except (ValueError, KeyError, TypeError, IndexError, AttributeError, RecursionError) as error:
        raise BadSource(
            f"This is no SARIF log that Yoake wrote ({type(error).__name__}: {error}). Write one with --format sarif."
        ) from error


def _earlier(result: Mapping[str, Any]) -> Earlier:
    prints, properties = result["partialFingerprints"], result["properties"]
    place = result["locations"][0]["physicalLocation"]
    region = place["region"]
    line = region.get("endLine", region["startLine"])
    file = unquote(place["artifactLocation"]["uri"])
    names = (result["ruleId"], result["level"], file, line, properties["symbol"], properties["kind"])
    return Earlier(prints[_FINDING], prints[_PLACE], *names)


def against(log: dict[str, Any], before: Iterable[Earlier]) -> dict[str, Any]:
    """The log with ``baselineState`` of every result, and results for the places that are gone."""
    held = {earlier.place: earlier for earlier in before}
    run = log["runs"][0]
    rules = [rule["id"] for rule in run["tool"]["driver"]["rules"]]
    for result in run["results"]:
        known = held.pop(result["partialFingerprints"][_PLACE], None)
        result["baselineState"] = "unchanged" if known is not None else "new"
    for gone in held.values():
        result = {
            "ruleId": gone.rule,
            "level": gone.level,
            "baselineState": "absent",
            "message": {"text": f"{gone.symbol} is no longer used here."},
            "locations": [
                {
                    "physicalLocation": {
                        "artifactLocation": {"uri": quote(gone.file)},
                        "region": {"startLine": max(gone.line, 1)},
                    }
                }
            ],
            "partialFingerprints": {_FINDING: gone.finding, _PLACE: gone.place},
            "properties": {"symbol": gone.symbol, "kind": gone.kind},
        }
        if gone.rule in rules:
            result["ruleIndex"] = rules.index(gone.rule)
        run["results"].append(result)
    return log


def rule_id(finding: Finding) -> str:
    """``removed/collections.Mapping``: stable for the same thing in every project."""
    return f"{finding.kind}/{finding.symbol}"


def bites_at(finding: Finding) -> str | None:
    """``python@3.10``, or None when it only warns."""
    return f"{finding.coordinate.short}@{finding.bites_at}" if finding.bites_at else None


def to_sarif(
    findings: Iterable[Finding], version: str, waived: Mapping[str, str] | None = None, base: str = ""
) -> dict[str, Any]:
    """One SARIF log with one run. ``waived``: finding key → justification; ``base`` goes before every path."""
    rules: dict[str, tuple[int, dict[str, Any]]] = {}
    results = list(_results(findings, waived or {}, base, rules))
    run = {"tool": _tool(version, rules), "columnKind": _COLUMNS, "results": results}
    return {"$schema": SCHEMA, "version": "2.1.0", "runs": [run]}


@dataclass(frozen=True, slots=True, kw_only=True)
class SarifRun:
    """One run of a log that is written as it is read. ``waived`` and ``base`` as in ``to_sarif``."""

    name: str
    findings: Iterable[Finding]
    waived: Mapping[str, str]
    base: str = ""


def sarif_lines(runs: Iterable[SarifRun], version: str) -> Iterator[str]:
    """A SARIF log, one result a line; nothing but the rules of one run is held. The tool stands behind the results."""
    yield f'{{"$schema": {json.dumps(SCHEMA)}, "version": "2.1.0", "runs": ['
    for number, run in enumerate(runs):
        rules: dict[str, tuple[int, dict[str, Any]]] = {}
        head = f'"automationDetails": {json.dumps({"id": run.name}, ensure_ascii=False)}, "columnKind": "{_COLUMNS}"'
        yield f'{"," if number else ""}\n{{{head}, "results": ['
        for at, result in enumerate(_results(run.findings, run.waived, run.base, rules)):
            yield f"{',' if at else ''}\n{json.dumps(result, ensure_ascii=False)}"
        yield f'],\n"tool": {json.dumps(_tool(version, rules), ensure_ascii=False)}}}'
    yield "]}\n"


def _results(
    findings: Iterable[Finding], waived: Mapping[str, str], base: str, rules: dict[str, tuple[int, dict[str, Any]]]
) -> Iterator[dict[str, Any]]:
    """A result for each place; ``rules`` fills with (position, rule) by name in the order in which they are met."""
    for finding in findings:
        index, _ = rules.setdefault(rule_id(finding), (len(rules), _rule(finding)))
        for place in finding.places:
            yield {**_result(finding, place, waived.get(finding.key), base), "ruleIndex": index}


def _tool(version: str, rules: Mapping[str, tuple[int, dict[str, Any]]]) -> dict[str, Any]:
    listed = [rule for _, rule in rules.values()]
    return {"driver": {"name": "Yoake", "version": version, "semanticVersion": version, "rules": listed}}


def _rule(finding: Finding) -> dict[str, Any]:
    at = bites_at(finding)
    shown = f"{finding.title}: {finding.kind}" + (f" at {at}" if at else "")
    rule: dict[str, Any] = {"id": rule_id(finding), "shortDescription": {"text": shown}}
    if finding.remedy:
        rule["help"] = {"text": finding.remedy}
    return rule


_SAID: Final[dict[Kind, str]] = {
    "removed": " is removed",
    "moved": " is moved",
    "reshaped": " is taken otherwise",
    "behaviour": " does something else",
    "deprecated": " is deprecated",
    "package": ",",
    "toolchain": ",",
    "setting": " is read otherwise",
    "leftover": ",",
}
"""What is said of a finding of each kind, between its title and the line at which it bites."""


def message(finding: Finding) -> str:
    """What a person reads beside the line."""
    at = bites_at(finding)
    said = _SAID.get(finding.kind, "")
    what = f"{finding.title}{said} at {at}." if at else f"{finding.title}{said.rstrip(',')}."
    if finding.replacement and finding.replacement != "none":
        what += f" Use {finding.replacement}."
    return f"{what} {finding.remedy}".strip()


def _result(finding: Finding, place: Place, justification: str | None, base: str) -> dict[str, Any]:
    region: dict[str, Any] = {"startLine": max(place.first_line or place.line, 1)}
    if place.first_line:
        region.update(endLine=place.line, endColumn=place.end_column + 1)
    elif place.end_column > place.column:
        region.update(startColumn=place.column + 1, endColumn=place.end_column + 1)
    properties: dict[str, Any] = {
        "symbol": place.symbol,
        "kind": finding.kind,
        "bitesAt": bites_at(finding),
        "guarded": bool(place.guarded),
        "confidence": finding.confidence,
        "coordinate": finding.coordinate,
        "form": place.form,
        "role": place.role,
    }
    if finding.replacement and finding.replacement != "none":
        properties["replacement"] = finding.replacement
    if place.guarded:
        properties["guard"] = place.guarded
    result: dict[str, Any] = {
        "ruleId": rule_id(finding),
        "level": place.level,
        "message": {"text": message(finding)},
        "locations": [{"physicalLocation": {"artifactLocation": {"uri": quote(base + place.file)}, "region": region}}],
        "partialFingerprints": {_FINDING: finding.key, _PLACE: place.key},
        "properties": properties,
    }
    if justification is not None:
        result["suppressions"] = [{"kind": "external", "justification": justification}]
    return result
