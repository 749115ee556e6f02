"""SARIF 2.1.0: each place is one result; our keys stand in ``partialFingerprints``."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, Final
from urllib.parse import quote

from yoake.core.coordinates import Coordinate
from yoake.core.scan.model import Finding, Place

SCHEMA: Final = "https://json.schemastore.org/sarif-2.1.0.json"


def rule_id(finding: Finding) -> str:
    """``removed/collections.Mapping``: stable for the same thing in every project."""
    return f"{finding.kind}/{finding.symbol}"


def bites_at(finding: Finding) -> str | None:
    """``python@3.10``, or None when it only warns."""
    return f"{Coordinate(finding.coordinate).short}@{finding.bites_at}" if finding.bites_at else None


def to_sarif(
    findings: Iterable[Finding], version: str, waived: Mapping[str, str] | None = None, base: str = ""
) -> dict[str, Any]:
    """One SARIF log with one run. ``waived``: finding key → justification; ``base`` goes before every path."""
    listed = list(findings)
    rules: dict[str, dict[str, Any]] = {}
    results: list[dict[str, Any]] = []
    for finding in listed:
        rules.setdefault(rule_id(finding), _rule(finding))
        for place in finding.places:
            results.append(_result(finding, place, (waived or {}).get(finding.key), base))  # noqa: PERF401  reads better
    indexes = {name: position for position, name in enumerate(rules)}
    for result in results:
        result["ruleIndex"] = indexes[result["ruleId"]]
    driver = {"name": "Yoake", "version": version, "semanticVersion": version, "rules": list(rules.values())}
    run = {"tool": {"driver": driver}, "columnKind": "unicodeCodePoints", "results": results}
    return {"$schema": SCHEMA, "version": "2.1.0", "runs": [run]}


def _rule(finding: Finding) -> dict[str, Any]:
    at = bites_at(finding)
    shown = f"{finding.title}: {finding.kind}" + (f" at {at}" if at else "")
    rule: dict[str, Any] = {"id": rule_id(finding), "shortDescription": {"text": shown}}
    if finding.remedy:
        rule["help"] = {"text": finding.remedy}
    return rule


def message(finding: Finding) -> str:
    """What a person reads beside the line."""
    at = bites_at(finding)
    what = f"{finding.title} is {finding.kind} at {at}." if at else f"{finding.title} is {finding.kind}."
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
        "partialFingerprints": {"yoakeFinding/v1": finding.key, "yoakePlace/v1": place.key},
        "properties": properties,
    }
    if justification is not None:
        result["suppressions"] = [{"kind": "external", "justification": justification}]
    return result
