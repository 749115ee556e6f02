"""Small applications, read from disk as any other: what another version does otherwise is found, and nothing that only looks like it;
what is claimed of it is what somebody read (``make expected``)."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from ruamel.yaml import YAML

from tests.conftest import write
from tests.expected import differing_block
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import parse_target
from yoake.core.values.findings import Finding
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import FolderSnapshot
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot

CASES: list[dict[str, Any]] = YAML(typ="safe").load(
    Path(__file__).with_name("small_applications.yaml").read_text("utf-8")
)
_OF_MANIFESTS = ("package", "toolchain", "leftover")


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["name"])
def test_what_is_done_otherwise_is_found(
    case: dict[str, Any], knowledge: Knowledge, extractor: Extractor, tmp_path: Path
) -> None:
    folder = write(tmp_path / "app", case["files"])
    targets = tuple(knowledge.check_target(parse_target(each)) for each in case["to"].split())
    scanned = scan_snapshot(FolderSnapshot(folder), knowledge, targets, (), extractor, Control())
    found = {
        (finding.symbol, place.file, place.line)
        for finding in scanned.result.findings
        for place in finding.places
        if place.file in case["in"] and finding.kind not in _OF_MANIFESTS
    }
    lines = {line for _, _, line in found}
    assert bool(found) is case["found"], found
    if "line" in case:
        text = case["files"][case["in"][0]].split("\n")
        assert any(case["line"] in line and n in lines for n, line in enumerate(text, 1)), found
    wrong = differing_block("small_applications", case["name"], [_in_a_line(f) for f in scanned.result.findings])
    assert not wrong, wrong


def _in_a_line(finding: Finding) -> str:
    """Everything that a finding claims, and where."""
    goes = "ready" if finding.mechanical else ""
    window = " ".join((finding.window.state, *finding.window.both)) if finding.window.both else finding.window.state
    places = [f"{p.file}:{p.line}:{p.column}-{p.end_column} {p.form} {p.guarded or p.level}" for p in finding.places]
    claims = [
        f"{finding.kind} {finding.coordinate.short}@{finding.bites_at} {finding.level} {finding.confidence}",
        finding.title,
        window,
        "/".join(f"{minutes:g}" for minutes in finding.effort),
        goes,
        f"→ {finding.replacement}" if finding.replacement else "",
        f"after {finding.after}" if finding.after else "",
        *places,
    ]
    return " | ".join(filter(None, claims))
