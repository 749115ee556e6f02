"""Findings as plain data and back: what is stored, and what goes over the wire."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from yoake.core.values.findings import Finding, Place, Window


def finding_to_json(finding: Finding) -> dict[str, Any]:
    """A finding as plain data."""
    return asdict(finding)


def finding_from_json(body: dict[str, Any]) -> Finding:
    """A finding from what ``finding_to_json`` gave."""
    window = body["window"]
    tuples = {name: tuple(window[name]) for name in ("axis", "old", "new", "both")}
    fields = {
        **body,
        "window": Window(**{**window, **tuples}),
        "places": tuple(Place(**place) for place in body["places"]),
        "evidence": tuple(body["evidence"]),
        "effort": tuple(body["effort"]),
    }
    return Finding(**fields)
