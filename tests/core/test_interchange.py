"""SARIF, CycloneDX and CSV: what other programs need to find in them, against the public schemas."""

from __future__ import annotations

import csv
import io
import json
from datetime import date
from pathlib import Path
from typing import Any

import jsonschema
import pytest
from cyclonedx.schema import SchemaVersion
from cyclonedx.validation.json import JsonStrictValidator

from tests.core.test_project import scan
from yoake.core.inventory.bills import Component, from_cyclonedx
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import Coordinate
from yoake.core.values.errors import BadInput, BadSource
from yoake.formats.cyclonedx import to_cyclonedx
from yoake.formats.records import FINDING
from yoake.formats.sarif import SarifRun, against, from_sarif, sarif_lines, to_sarif
from yoake.formats.tables import findings_csv, read_applications_csv, safe_cell
from yoake.formats.waivers import Waiver, read_waivers, write_waivers

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
        "role": "source",
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
        assert FINDING.read(FINDING.write(finding)) == finding


def test_the_table_has_a_row_a_place(findings) -> None:
    rows = list(csv.DictReader(io.StringIO("".join(findings_csv([("app", findings)])))))
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
    ("text", "said"),
    [
        ("", "empty"),
        ("name,owner\na,b\n", "no column"),
        ("source,colour\n/a,red\n", "colour"),
        ("\u00c6G\r\u00c3^", "unknown columns"),
        ("source," + "x" * 200_000, "cannot be read"),
    ],
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


SCHEMA = json.loads((Path(__file__).parent.parent / "schemas" / "sarif-2.1.0.json").read_text("utf-8"))


def faults(log: dict[str, Any]) -> list[str]:
    validator = jsonschema.validators.validator_for(SCHEMA)(SCHEMA)
    return [error.message for error in validator.iter_errors(log)]


def test_the_log_passes_the_public_schema(findings) -> None:
    assert faults(to_sarif(findings, "1.0.0", {findings[0].key: "accepted"})) == []


def test_a_log_comes_back_with_its_keys_files_and_lines(findings) -> None:
    text = json.dumps(to_sarif(findings, "1.0.0"))
    read = {(e.finding, e.place, e.file, e.line, e.symbol, e.level) for e in from_sarif(text)}
    assert read == {(f.key, p.key, p.file, p.line, p.symbol, p.level) for f in findings for p in f.places}


def test_against_an_earlier_log_new_known_and_gone_places_are_told_apart(findings) -> None:
    before = from_sarif(json.dumps(to_sarif(findings[1:], "1.0.0")))
    log = against(to_sarif(findings[:-1], "1.0.0"), before)
    states = {r["partialFingerprints"]["yoakeFinding/v1"]: r["baselineState"] for r in log["runs"][0]["results"]}
    assert states[findings[0].key] == "new"
    assert states[findings[-1].key] == "absent"
    assert states[findings[1].key] == "unchanged"
    assert faults(log) == []


@pytest.mark.parametrize("text", ["", "[]", "{}", '{"runs": [{"results": [{}]}]}'])
def test_a_log_of_somebody_else_is_refused_with_what_to_do(text: str) -> None:
    with pytest.raises(BadSource, match="--format sarif"):
        from_sarif(text)


def test_an_inventory_passes_the_public_schema_and_is_the_same_each_time() -> None:
    parts = [
        Component(Coordinate("pkg:npm/%40org/ui"), "1.2.3", True, "^1", "package.json"),
        Component(Coordinate("pkg:pypi/django"), ""),
    ]
    made = to_cyclonedx("ferry", "main at 12", parts, "1.0.0")
    assert JsonStrictValidator(SchemaVersion.V1_6).validate_str(json.dumps(made)) is None
    assert made == to_cyclonedx("ferry", "main at 12", reversed(parts), "1.0.0")
    name, found = from_cyclonedx(json.dumps(made))
    assert name == "ferry"
    assert {(c.coordinate, c.version, c.direct, c.wanted) for c in found} == {
        (c.coordinate, c.version, c.direct, c.wanted) for c in parts
    }


@pytest.mark.parametrize("text", ["", "[]", '{"bomFormat": "CycloneDX", "specVersion": "9"}', '{"bomFormat": "SPDX"}'])
def test_what_is_no_bill_of_materials_is_refused(text: str) -> None:
    with pytest.raises(BadSource):
        from_cyclonedx(text)


def test_a_log_that_is_written_as_it_is_read_says_the_same(findings) -> None:
    waived = {findings[0].key: "Ines: later"}
    runs = [SarifRun(name=f"{name}/", findings=iter(findings), waived=waived, base=f"{name}/") for name in ("a", "b")]
    written = json.loads("".join(sarif_lines(runs, "1.0.0")))
    assert faults(written) == []
    for run, name in zip(written["runs"], ("a", "b"), strict=True):
        assert run.pop("automationDetails") == {"id": f"{name}/"}
        assert run == to_sarif(findings, "1.0.0", waived, f"{name}/")["runs"][0]
    assert json.loads("".join(sarif_lines([], "1.0.0")))["runs"] == []


def test_a_file_of_waivers_comes_back_as_it_was_written() -> None:
    written = [
        Waiver(
            finding="k1",
            title="imp",
            by="Inés “Ina” Calder",
            why='goes with "the\\module"\nnext year',
            until=date(2027, 3, 12),
        ),
        Waiver(finding="k2", title="\x7f # [[x]]", by="", why="kept", until=None),
    ]
    assert read_waivers(write_waivers(written)) == written
    assert read_waivers(write_waivers([])) == []


def test_a_waiver_holds_until_the_end_of_its_day() -> None:
    waiver = Waiver(finding="k", title="", by="Ines", why="later", until=date(2027, 3, 12))
    assert [waiver.holds(day) for day in (date(2027, 3, 12), date(2027, 3, 13))] == [True, False]


@pytest.mark.parametrize(
    ("text", "faults"),
    [
        ("[[waiver]]\nfinding = 'k'\n", ["waiver 1: “why” must be given"]),
        ("[[waiver]]\nfinding = 'k'\nwhy = ' '\nuntil = '2027'\nwho = 1\n", ["“who” is not one of", "“why” must", "“until” must be a day"]),
        ("[waiver]\nk = 1\n", ["[[waiver]] tables"]),
        ("waivers = []\n", ["“waivers” is nothing"]),
        ("[[waiver", ["no TOML"]),
    ],
)  # fmt: skip
def test_all_faults_of_a_file_of_waivers_are_told_at_once(text: str, faults: list[str]) -> None:
    with pytest.raises(BadInput) as raised:
        read_waivers(text)
    assert all(any(fault in told for told in raised.value.faults) for fault in faults)
