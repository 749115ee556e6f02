"""Which release of a package to take, which lines of it keep this code whole, and ranges of both ecosystems."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from yoake.core.ecosystems.javascript.names import NODE
from yoake.core.ecosystems.javascript.versions import NPM
from yoake.core.ecosystems.python.names import PYTHON, pypi
from yoake.core.ecosystems.python.versions import PEP440
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.compatibility import Compatibility
from yoake.core.knowledge.delta import delta
from yoake.core.knowledge.models import Catalogue, ReleaseFacts, TriedFact
from yoake.core.knowledge.timeline import CapturedLine, Symbol, Timeline
from yoake.core.planning.choose_release import choose_release
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.packages import clean_lines, observed_break
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import Coordinate, Line, Lines, Target
from yoake.core.values.findings import Finding, PackageState
from yoake.core.values.modules import Module, Requirement
from yoake.shipped import KIT

EXPRESS = Coordinate("pkg:npm/express")
TODAY = date(2026, 11, 23)
KNOWN = KIT.knowledge()


def record(*details: ReleaseFacts) -> Catalogue:
    return Catalogue(
        format=1,
        coordinate=EXPRESS,
        as_of=TODAY,
        how="test",
        releases=tuple(d.release for d in details),
        details=details,
    )


HELD = record(
    ReleaseFacts(release="3.0.0", runs=">=0.8 <12"),
    ReleaseFacts(release="4.18.0", runs=">=12"),
    ReleaseFacts(release="5.0.0", runs=">=18", peers={"react": "^18"}),
)


def choose(state: Lines, wanted: str = "^4.0.0", clean: frozenset[str] = frozenset()) -> tuple[str, str, str]:
    made = choose_release(
        coordinate=EXPRESS,
        record=HELD,
        state=state,
        wanted=wanted,
        exact="",
        clean_lines=clean,
        today=TODAY,
        knowledge=KNOWN,
    )
    return made.state, made.take, made.clean


def test_the_newest_release_that_fits_runtime_and_other_packages() -> None:
    assert choose({NODE: Line("24")}) == ("keeps", "5.0.0", "")
    assert choose({NODE: Line("16")}) == ("keeps", "4.18.0", "")
    assert choose({NODE: Line("24"), Coordinate("pkg:npm/react"): Line("17")}) == ("keeps", "4.18.0", "")
    assert choose({NODE: Line("24")}, "^3.0.0") == ("change", "5.0.0", "")


def test_the_newest_release_without_new_findings_stands_beside_it() -> None:
    assert choose({NODE: Line("24")}, clean=frozenset({"3", "4"})) == ("keeps", "5.0.0", "4.18.0")


def test_nothing_fits_says_why_and_what_people_do() -> None:
    made = choose_release(
        coordinate=EXPRESS,
        record=record(ReleaseFacts(release="3.0.0", runs="<12")),
        state={NODE: Line("24")},
        wanted="",
        exact="",
        clean_lines=frozenset(),
        today=TODAY,
        knowledge=KNOWN,
    )
    assert made.state == "none"
    assert "3.0.0" in made.why
    assert "replace it" in made.why


def test_without_a_record_nothing_is_claimed() -> None:
    assert (
        choose_release(
            coordinate=EXPRESS,
            record=None,
            state={NODE: Line("24")},
            wanted="",
            exact="",
            clean_lines=frozenset(),
            today=TODAY,
            knowledge=KNOWN,
        ).state
        == "unknown"
    )


def test_a_withdrawn_release_is_not_taken() -> None:
    held = record(ReleaseFacts(release="4.0.0"), ReleaseFacts(release="5.0.0", withdrawn="broken"))
    assert (
        choose_release(
            coordinate=EXPRESS,
            record=held,
            state={NODE: Line("24")},
            wanted="",
            exact="",
            clean_lines=frozenset(),
            today=TODAY,
            knowledge=KNOWN,
        ).take
        == "4.0.0"
    )


def timeline() -> Timeline:
    lines = tuple(CapturedLine(Line(x), f"{x}.0", "test", "") for x in ("1", "2", "3"))
    symbols = {
        "lib": Symbol(kind="m", offers=0b111),
        "lib.kept": Symbol(kind="f", offers=0b111),
        "lib.lost": Symbol(kind="f", offers=0b011),
        "lib.late": Symbol(kind="f", offers=0b100),
        "lib.old": Symbol(kind="m", offers=0b001),
        "lib.old.inner": Symbol(kind="f", offers=0b001),
        "lib.warned": Symbol(kind="f", offers=0b111, deprecates=0b110, notes=(("use kept", 0b110),)),
    }
    return Timeline(coordinate=Coordinate("pkg:npm/lib"), lines=lines, symbols=symbols)


def test_lines_that_keep_this_code_whole() -> None:
    assert clean_lines(timeline(), ["lib.kept"], Line("1")).lines == ("1", "2", "3")
    found = clean_lines(timeline(), ["lib.lost", "lib.kept", "lib.never_seen"], Line("1"))
    assert found.lines == ("1", "2")
    assert found.breaks == (("3", "lib.lost"),)


def test_a_delta_tells_each_change_once_and_what_is_used() -> None:
    found = {(c.symbol, c.kind, c.at, c.used) for c in delta(timeline(), Line("1"), Line("3"), ["lib.lost"])}
    assert found == {
        ("lib.lost", "removed", "3", True),
        ("lib.old", "removed", "2", False),
        ("lib.warned", "deprecated", "2", False),
        ("lib.late", "new", "3", False),
    }
    assert delta(timeline(), Line("3"), Line("1")) == []


@pytest.mark.parametrize(
    ("coordinate", "wanted", "line", "expected"),
    [
        (EXPRESS, "^4.17.0", "4", True),
        (EXPRESS, "^4.17.0", "5", False),
        (EXPRESS, "~0.5.1", "0.5", True),
        (EXPRESS, "1.x || >=3", "2", False),
        (EXPRESS, "github:a/b", "9", True),
        (NODE, ">=14 <20", "18", True),
        (NODE, "18", "20", False),
        (PYTHON, ">=3.8,<3.12", "3.11", True),
        (PYTHON, ">=3.8,<3.12", "3.12", False),
    ],
)
def test_ranges_as_each_ecosystem_writes_them(coordinate: Coordinate, wanted: str, line: Line, expected: bool) -> None:
    assert ECOSYSTEMS.admits(coordinate, wanted, line) is expected


def test_exact_and_lowest() -> None:
    assert NPM.exact("4.17.1") == "4.17.1"
    assert NPM.exact("npm:other@1.0.0") == "1.0.0"
    assert NPM.exact("^4.17.1") is None
    assert PEP440.exact("==3.2.1") == "3.2.1"
    assert ECOSYSTEMS.lowest_line(NODE, ">=16.5", [Line("14"), Line("16"), Line("18")]) == "16"
    assert ECOSYSTEMS.lowest_line(EXPRESS, "*", [Line("3"), Line("4")]) is None


def test_a_package_of_another_language_than_the_destination_is_left_alone() -> None:
    found = choose_release(
        coordinate=EXPRESS,
        record=None,
        state={PYTHON: Line("3.13")},
        wanted="",
        exact="",
        clean_lines=frozenset(),
        today=TODAY,
        knowledge=KNOWN,
    )
    assert found.state == "apart"
    assert "Node" in found.why


def pinned(record: Catalogue, wanted: str, facts: tuple[TriedFact, ...] = ()) -> tuple[PackageState, list[Finding]]:
    """What a scan says of one pinned package on the way to Python 3.13."""
    known = replace(KNOWN, catalogues={record.coordinate: record}, read_tried=lambda: facts)
    module = Module(path="", name="app")
    module.requirements.append(
        Requirement(coordinate=pypi("lamp"), name="lamp", specifier=wanted, file="requirements.txt", line=1)
    )
    targets = (Target(PYTHON, Line("3.13")),)
    result = run_scan(
        ScanInput(facts={}, files=[], modules=[module], destination=targets, said=(Target(PYTHON, Line("3.8")),)), known
    )
    return result.packages[0], [f for f in result.findings if f.kind == "package"]


def lamp(*details: ReleaseFacts, built: dict[str, tuple[str, ...]] | None = None) -> Catalogue:
    releases = tuple(d.release for d in details)
    return Catalogue(
        format=1,
        coordinate="pkg:pypi/lamp",
        as_of=TODAY,
        how="test",
        releases=releases,
        fits=dict.fromkeys(("3.8", "3.12", "3.13", "3.14"), releases),
        built=built or {},
        details=details,
    )


def test_metadata_that_only_keeps_nothing_out_is_no_reason_to_say_that_it_runs() -> None:
    state, findings = pinned(lamp(ReleaseFacts(release="1.0", runs=">=3.6")), "==1.0")
    assert (state.state, state.grade, state.release) == ("unknown", "none", "1.0")
    assert "nothing speaks against lamp 1.0" in state.note
    assert findings == []


def test_a_claim_and_a_build_for_just_that_line_are_reasons() -> None:
    stated, _ = pinned(lamp(ReleaseFacts(release="1.0", states=("python@3.13",))), "==1.0")
    assert (stated.state, stated.grade) == ("holds", "stated")
    builds = {"3.12": (), "3.13": ("1.0",), "3.14": ()}
    built, _ = pinned(lamp(ReleaseFacts(release="1.0"), built=builds), "==1.0")
    assert (built.state, built.grade) == ("holds", "hard")
    everywhere = {"3.8": (), **dict.fromkeys(("3.12", "3.13", "3.14"), ("1.0",))}
    plain, _ = pinned(lamp(ReleaseFacts(release="1.0"), built=everywhere), "==1.0")
    assert (plain.state, plain.grade) == ("unknown", "none")


def test_code_that_cannot_be_imported_any_more_fails_as_observed_for_older_releases_of_its_line_too() -> None:
    record = lamp(
        ReleaseFacts(release="1.0"),
        ReleaseFacts(release="1.1", observed=("3.12", "imp in lamp/__init__.py:1")),
        ReleaseFacts(release="2.0", states=("python@3.13",)),
    )
    state, findings = pinned(record, "==1.1")
    assert (state.state, state.grade, state.suggestion) == ("fails", "observed", "2.0")
    assert (findings[0].bites_at, findings[0].level) == ("3.12", "warning")
    assert "imp in lamp/__init__.py:1" in findings[0].title
    assert pinned(record, "==2.0")[0].state == "holds"


def test_what_was_seen_in_one_line_says_nothing_of_another() -> None:
    record = lamp(
        ReleaseFacts(release="1.0", observed=("3.9", "imp in lamp/__init__.py:1")),
        ReleaseFacts(release="2.0"),
        ReleaseFacts(release="2.1", observed=("3.14", "later in lamp/__init__.py:1")),
    )
    assert pinned(record, "==2.0")[0].state == "unknown"
    assert pinned(record, "==2.1")[0].state == "unknown"
    assert pinned(record, "==1.0")[0].grade == "observed"


def test_a_package_without_a_pin_is_told_where_its_manifest_asks_for_it() -> None:
    state, _ = pinned(lamp(ReleaseFacts(release="1.0")), "")
    assert (state.file, state.line_number, state.how) == ("requirements.txt", 1, "not stated")


def tried(release: str, *, runs: bool, beside: str = "", note: str = "") -> TriedFact:
    return TriedFact(
        coordinate="pkg:pypi/lamp", release=release, on="3.13", runs=runs, beside=beside, note=note, as_of=TODAY
    )


def test_what_was_really_run_says_more_than_metadata_claims_and_code() -> None:
    record = lamp(
        ReleaseFacts(release="1.0", observed=("3.12", "imp in lamp/__init__.py:1")),
        ReleaseFacts(release="2.0", states=("python@3.13",)),
        ReleaseFacts(release="2.1"),
    )
    facts = (
        tried("1.0", runs=True, beside="setuptools<81"),
        tried("2.0", runs=False, note="cannot be imported: ImportError: x"),
    )
    runs, nothing = pinned(record, "==1.0", facts)
    assert (runs.state, runs.grade, runs.release, nothing) == ("holds", "tried", "1.0", [])
    assert "installed and imported there on 23 Nov 2026, with setuptools<81 beside it" in runs.note
    fails, findings = pinned(record, "==2.0", facts)
    assert (fails.state, fails.grade, fails.suggestion) == ("fails", "tried", "2.1")
    assert [(f.title, f.bites_at, f.level) for f in findings] == [
        ("lamp 2.0 does not run on Python 3.13: cannot be imported: ImportError: x", "3.13", "error")
    ]
    assert pinned(record, "==2.1", facts)[0].grade == "none"


def test_a_range_is_judged_by_the_release_that_would_be_taken() -> None:
    record = lamp(ReleaseFacts(release="1.0"), ReleaseFacts(release="1.1"))
    assert pinned(record, ">=1", (tried("1.1", runs=False, note="does not install"),))[0].state == "fails"
    assert pinned(record, ">=1", (tried("1.0", runs=False, note="does not install"),))[0].state == "unknown"


def test_no_release_is_taken_that_was_tried_in_vain_and_a_line_that_ran_stands() -> None:
    record = lamp(ReleaseFacts(release="1.0"), ReleaseFacts(release="2.0", observed=("3.12", "imp in lamp.py:1")))

    def known(*facts: TriedFact) -> Knowledge:
        return replace(KNOWN, catalogues={record.coordinate: record}, read_tried=lambda: facts)

    def take(knowledge: Knowledge) -> str:
        lamp_coordinate = Coordinate("pkg:pypi/lamp")
        state = {PYTHON: Line("3.13")}
        return choose_release(
            coordinate=lamp_coordinate,
            record=record,
            state=state,
            wanted="",
            exact="",
            clean_lines=frozenset(),
            today=TODAY,
            knowledge=knowledge,
        ).take

    assert take(known()) == "2.0"
    assert take(known(tried("2.0", runs=False, note="x"))) == "1.0"

    def broken(knowledge: Knowledge, line: Line) -> list[str]:
        relation = Compatibility(knowledge, TODAY).between(
            Coordinate("pkg:pypi/lamp"), line, PYTHON, Line("3.13"), Line("3.13")
        )
        return [c.grade for c in relation.broken]

    assert broken(known(), Line("2.0")) == ["observed"]
    assert broken(known(tried("2.0", runs=True)), Line("2.0")) == []
    newer = tried("2.0", runs=True).model_copy(update={"on": "3.14"})
    assert broken(known(newer), Line("2.0")) == []
    older = tried("2.0", runs=True).model_copy(update={"on": "3.12"})
    assert broken(known(older), Line("2.0")) == ["observed"]
    assert broken(known(tried("1.0", runs=False, note="x")), Line("1.0")) == ["tried"]


def test_a_name_that_today_does_not_have_says_nothing_wherever_it_stands() -> None:
    """In the order of names lib.late comes first: the losses after it are told all the same, each line by its first name."""
    found = clean_lines(timeline(), ["lib.lost", "lib.late", "lib.old.inner", "lib.kept"], Line("1"))
    assert found.lines == ("1",)
    assert found.breaks == (("2", "lib.old.inner"), ("3", "lib.lost"))


def test_what_was_observed_of_one_release_speaks_for_its_own_line_only() -> None:
    seen = ReleaseFacts(release="4.18.2", observed=("3.10", "imp.reload"))
    held = record(ReleaseFacts(release="4.18.0"), seen, ReleaseFacts(release="5.0.0"))
    assert observed_break(held, "4.18.1", Line("3.12"), KNOWN) == ("3.10", "imp.reload")
    assert observed_break(held, "4.18.0", Line("3.12"), KNOWN) is None
    assert observed_break(held, "4.18.2", Line("3.9"), KNOWN) is None
    assert observed_break(held, "4.18.2", Line("3.10"), KNOWN) == ("3.10", "imp.reload")
    assert observed_break(held, "3.1.0", Line("3.12"), KNOWN) is None
    assert observed_break(held, "5.0.1", Line("3.12"), KNOWN) is None
