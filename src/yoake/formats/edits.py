"""Edits as the command line writes them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from yoake.core.edits.sides import hunks
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.edits import MOVE, EditedFile, Proposal
from yoake.core.values.findings import Finding


def edits_json(
    proposal: Proposal, findings: Sequence[Finding], knowledge: Knowledge, commits: Sequence[tuple[str, str]]
) -> dict[str, Any]:
    """Files with their edits, commits, what is left and why, and what the checks came to."""
    by_key = {f.key: f for f in findings}
    files = [_file(file, by_key, knowledge) for file in proposal.files]
    refused = [file.why for file in proposal.files if file.outcome == "cannot"]
    changed = sum(file.outcome == "changed" for file in proposal.files)
    return {
        "files": files,
        "commits": [
            {"step": step.message.splitlines()[0], "sha": sha, "files": sorted(step.files)}
            for step, (sha, _) in zip(proposal.steps, commits, strict=False)
        ],
        "steps": [
            {
                "key": s.key,
                "title": s.message.splitlines()[0],
                "places": s.places,
                "files": sorted(s.files),
                "safe": s.safe,
            }
            for s in proposal.steps
        ],
        "left": [*_left(proposal, by_key)],
        "checks": {
            "parsed": changed,
            "resolved": changed,
            "rescanned": changed,
            "steady": changed,
            "refused": len(refused),
        },
    }


def _file(file: EditedFile, by_key: dict[str, Finding], knowledge: Knowledge) -> dict[str, Any]:
    return {
        "path": file.path,
        "outcome": file.outcome,
        "why": file.why or "; ".join(dict.fromkeys(file.hand.values())),
        "edits": _edits(file, by_key, knowledge) if file.outcome == "changed" else [],
    }


def _edits(file: EditedFile, by_key: dict[str, Finding], knowledge: Knowledge) -> list[dict[str, Any]]:
    """One row a place that was changed: the finding, where it comes from, and the line before and after."""
    old, new = (data.decode("utf-8", "replace") for data in (file.before, file.after))
    changed = _changed_lines(old, new)
    found = []
    for key in file.keys:
        finding = by_key.get(key)
        symbol, source = (finding.symbol, _source(finding, knowledge)) if finding is not None else (MOVE, "path")
        lines = [p.line for p in finding.places if p.file == file.path] if finding is not None else sorted(changed)
        for line in lines or [0]:
            was, now = changed.get(line, ("", ""))
            rule = symbol if source == "rule" else ""
            found.append(
                {"finding": key, "symbol": symbol, "rule": rule, "source": source, "line": line, "was": was, "now": now}
            )
    return found


def _source(finding: Finding, knowledge: Knowledge) -> str:
    return "rule" if finding.symbol in knowledge.rules_by_id else "timeline"


def _changed_lines(old: str, new: str) -> dict[int, tuple[str, str]]:
    """Line of the old text → (old, new) as they stand beside each other."""
    found: dict[int, tuple[str, str]] = {}
    for hunk in hunks(old, new):
        came = {row.new: row.text for row in hunk.rows if row.kind == "new"}
        found |= {row.old: (row.text, came.get(row.beside, "")) for row in hunk.rows if row.kind == "gone"}
    return found


def _left(proposal: Proposal, by_key: dict[str, Finding]) -> list[dict[str, Any]]:
    """Findings whose places, all or some, are left to a person."""
    whys = {key: why for key, (_, why) in proposal.by_hand.items()}
    for file in proposal.files:
        whys |= {key: why for key, why in file.hand.items() if key not in whys}
        if file.outcome == "cannot":
            whys |= {key: file.why for key in file.keys if key not in whys}
    rows = []
    for key, why in whys.items():
        finding = by_key.get(key)
        places = [f"{p.file}:{p.line}" for p in finding.places] if finding is not None else []
        rows.append(
            {"finding": key, "symbol": finding.symbol if finding is not None else key, "places": places, "why": why}
        )
    return rows
