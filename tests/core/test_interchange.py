"""SARIF and CSV: what other programs need to find in them."""

from __future__ import annotations

import csv
import io

import pytest

from tests.core.test_project import scan
from yoake.core.errors import BadInput
from yoake.core.interchange.sarif import to_sarif
from yoake.core.interchange.tables import findings_csv, read_applications_csv, safe_cell
from yoake.core.knowledge.base import Knowledge
from yoake.core.scan.report import finding_from_json, finding_to_json

TEXT = "from collections import Mapping\ntry:\n    import imp\nexcept ImportError:\n    imp = None\nimport datetime\ndatetime.datetime.utcnow()\n"


@pytest.fixture(scope="module")
def findings(knowledge: Knowledge):
    return scan(knowledge, {"pkg/a b.py": TEXT}).findings


def test_each_place_is_one_result_with_its_properties(findings) -> None:
    run = to_sarif(findings, "1.0")["runs"][0]
    assert len(run["results"]) == sum(len(f.places) for f in findings)
    result = next(r for r in run["results"] if r["properties"]["symbol"] == "collections.Mapping")
    assert result["level"] == "error"
    assert result["properties"] | {"confidence": ""} == {
        "symbol": "collections.Mapping",
        "kind": "removed",
        "bitesAt": "python@3.10",
        "guarded": False,
        "confidence": "",
        "coordinate": "pkg:generic/python",
        "form": "import",
        "replacement": "collections.abc.Mapping",
    }
    place = result["locations"][0]["physicalLocation"]
    assert place["artifactLocation"]["uri"] == "pkg/a%20b.py"
    assert place["region"]["startLine"] == 1
    assert run["tool"]["driver"]["rules"][result["ruleIndex"]]["id"] == result["ruleId"]
    assert set(result["partialFingerprints"]) == {"yoakeFinding/v1", "yoakePlace/v1"}


def test_guarded_and_deprecated_places_are_notes(findings) -> None:
    levels = {
        (r["properties"]["symbol"], r["properties"]["guarded"]): r["level"]
        for r in to_sarif(findings, "1")["runs"][0]["results"]
    }
    assert levels["imp", True] == "note"
    assert levels["datetime.datetime.utcnow", False] == "note"


def test_a_waived_finding_is_suppressed_with_its_reason(findings) -> None:
    log = to_sarif(findings, "1", {findings[0].key: "Ines: later"})
    held = [r for r in log["runs"][0]["results"] if r["partialFingerprints"]["yoakeFinding/v1"] == findings[0].key]
    assert all(r["suppressions"] == [{"kind": "external", "justification": "Ines: later"}] for r in held)


def test_a_finding_survives_being_stored(findings) -> None:
    for finding in findings:
        assert finding_from_json(finding_to_json(finding)) == finding


def test_the_table_has_a_row_a_place(findings) -> None:
    rows = list(csv.DictReader(io.StringIO(findings_csv([("app", findings)]))))
    assert len(rows) == sum(len(f.places) for f in findings)
    assert {r["application"] for r in rows} == {"app"}


@pytest.mark.parametrize("cell", ["=1+1", "+1", "-1", "@x", "\tx"])
def test_no_cell_is_a_formula(cell: str) -> None:
    assert safe_cell(cell) == f"'{cell}"


def test_a_pasted_list_is_read_in_any_column_order_and_with_other_separators() -> None:
    rows = read_applications_csv("\ufeffTeam;Source;Name\nSales;/srv/a;Desk\n;;\n;/srv/b;\n")
    assert [(r.number, r.name, r.source, r.team) for r in rows] == [
        (2, "Desk", "/srv/a", "Sales"),
        (4, "", "/srv/b", ""),
    ]


@pytest.mark.parametrize(
    ("text", "said"), [("", "empty"), ("name,owner\na,b\n", "no column"), ("source,colour\n/a,red\n", "colour")]
)
def test_a_list_that_cannot_be_read_says_what_its_first_line_must_be(text: str, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        read_applications_csv(text)


def test_a_name_on_a_later_line_of_its_import_is_a_region_from_the_statement_on(knowledge: Knowledge) -> None:
    findings = scan(
        knowledge, {"a.py": "import os\nfrom collections import (\n    OrderedDict,\n    Mapping,\n)\n"}
    ).findings
    result = to_sarif(findings, "1")["runs"][0]["results"][0]
    assert result["locations"][0]["physicalLocation"]["region"] == {"startLine": 2, "endLine": 4, "endColumn": 12}
    assert findings[0].places[0].line == 4
