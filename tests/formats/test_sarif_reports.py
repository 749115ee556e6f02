"""Reports of other tools are read whatever they leave out; what passes, does not apply or was accepted does not count."""

from __future__ import annotations

import json
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from yoake.core.values.errors import BadInput
from yoake.formats.sarif_reports import KEPT, read_sarif


def body(*runs: dict[str, Any]) -> bytes:
    return json.dumps({"version": "2.1.0", "runs": list(runs)}).encode()


def test_the_level_of_a_rule_holds_where_a_result_names_none() -> None:
    rules = [{"id": "A", "defaultConfiguration": {"level": "error"}}, {"id": "B"}]
    results = [
        {"ruleId": "A"},
        {"ruleId": "B"},
        {"rule": {"id": "A"}, "level": "none"},
        {"ruleId": "C", "level": "odd"},
    ]
    (made,) = read_sarif(body({"tool": {"driver": {"name": "x", "rules": rules}}, "results": results}), "it")
    assert (made.errors, made.warnings, made.notes) == (1, 2, 0)


def test_what_passes_was_accepted_or_is_gone_does_not_count_and_runs_of_one_tool_are_one_report() -> None:
    results = [
        {"kind": "pass"},
        {"suppressions": [{"kind": "inSource"}]},
        {"baselineState": "absent"},
        {"level": "error"},
    ]
    run = {"tool": {"driver": {"name": "x"}}, "results": results}
    (made,) = read_sarif(body(run, run), "it")
    assert made.errors == 2
    assert read_sarif(body({}), "it")[0].tool == "a tool without a name"


def test_of_very_many_the_errors_are_kept_and_all_are_counted() -> None:
    results = [{"level": "note"}] * (KEPT + 10) + [{"level": "error", "ruleId": "last"}]
    (made,) = read_sarif(body({"results": results}), "it")
    assert (made.errors, made.notes, len(made.findings)) == (1, KEPT + 10, KEPT)
    assert made.findings[0].rule == "last"


_JSON = st.recursive(st.none() | st.booleans() | st.integers() | st.text(max_size=8), lambda x: st.lists(x, max_size=3) | st.dictionaries(
    st.sampled_from(["tool", "driver", "name", "rules", "results", "id", "ruleId", "rule", "level", "message", "text", "locations",
                     "physicalLocation", "artifactLocation", "uri", "region", "startLine", "kind", "suppressions"]), x, max_size=4), max_leaves=20)  # fmt: skip


@given(st.lists(_JSON, min_size=1, max_size=3))
@settings(max_examples=200, deadline=None)
def test_any_json_is_a_report_or_refused(runs: list[Any]) -> None:
    try:
        for made in read_sarif(json.dumps({"version": "2.1.0", "runs": runs}).encode(), "it"):
            assert made.errors + made.warnings + made.notes >= len(made.findings)
    except BadInput:
        pass
