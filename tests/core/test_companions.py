"""Who has to move with a destination: peers and requirements either way, chains, ranges that float, and what the new lines take away."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from tests.core.planning.world import facts, record, world
from yoake.core.ecosystems.javascript.names import npm
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import Catalogue
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.companions import Company, possible_companions
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import Coordinate, Line, parse_target
from yoake.core.values.findings import PackageState
from yoake.core.values.journeys import Span
from yoake.core.values.modules import Module, Requirement
from yoake.core.values.results import ScanResult
from yoake.shipped import KIT

KNOWN = KIT.knowledge()
HULL, MAST, FLAG, KEEL = (Coordinate(f"pkg:npm/{name}") for name in ("hull", "mast", "flag", "keel"))

FLEET = (
    record(HULL, [facts("1.0.0"), facts("2.0.0"), facts("3.0.0", peers={"keel": "^2.0.0"})]),
    record(
        MAST,
        [
            facts("1.0.0", peers={"hull": "^1.0.0"}),
            facts("2.0.0", peers={"hull": "^1.0.0 || ^2.0.0"}),
            facts("3.0.0", peers={"hull": "^3.0.0"}),
            facts("4.0.0", peers={"hull": "^3.0.0"}),
        ],
    ),
    record(FLAG, [facts("1.0.0", peers={"mast": "^1.0.0"}), facts("2.0.0", peers={"mast": "^3.0.0"})]),
    record(KEEL, [facts("1.0.0"), facts("2.0.0")]),
)


def moved(
    knowledge: Knowledge, wanted: Sequence[tuple[str, str]], goal: Line, records: Sequence[Catalogue] = FLEET
) -> dict[str, tuple[str, str, str]]:
    """Name → (today, goal, line at which it bites) of what moves along when hull goes from 1 to ``goal``."""
    company = Company({HULL: Span(Line("1"), goal)}, world(knowledge, records))
    asked = [
        Requirement(coordinate=Coordinate(p), name=Coordinate(p).name, specifier=spec, file="package.json", line=1)
        for p, spec in wanted
    ]
    found = company.gather({}, asked)
    return {Coordinate(p).name: (c.today, c.goal, c.bites_at) for p, c in found.items()}


def test_a_peer_that_is_left_out_takes_the_package_to_the_nearest_line_that_goes(knowledge: Knowledge) -> None:
    assert moved(knowledge, [(MAST, "^1.0.0")], Line("2")) == {"mast": ("1", "2", "2")}
    assert moved(knowledge, [(MAST, "^2.0.0")], Line("3")) == {"mast": ("2", "3", "3")}


def test_what_moves_takes_others_along_and_the_new_line_asks_as_well(knowledge: Knowledge) -> None:
    found = moved(knowledge, [(MAST, "1.0.0"), (FLAG, "1.0.0"), (KEEL, "1.0.0")], Line("3"))
    assert found == {"mast": ("1", "3", "2"), "flag": ("1", "2", "2"), "keel": ("1", "2", "3")}


def test_a_range_that_lets_a_line_in_that_goes_stays(knowledge: Knowledge) -> None:
    assert moved(knowledge, [(MAST, ">=1.0.0")], Line("3")) == {}
    assert moved(knowledge, [(MAST, "*")], Line("3")) == {}


def test_what_has_no_line_that_goes_is_told_and_moves_nowhere(knowledge: Knowledge) -> None:
    records = [*FLEET[:1], record(MAST, [facts("1.0.0", peers={"hull": "^1.0.0"})])]
    assert moved(knowledge, [(MAST, "1.0.0")], Line("3"), records) == {"mast": ("1", "", "2")}


def test_one_fix_of_a_line_that_goes_is_enough(knowledge: Knowledge) -> None:
    odd = record(
        MAST, [facts("2.1.8", peers={"hull": "2.0.0"}), facts("2.1.9", peers={"hull": "2.0.7"}), facts("3.0.0")]
    )
    assert moved(knowledge, [(MAST, "^2.0.0")], Line("2"), [FLEET[0], odd]) == {}


def test_silence_counts_where_the_next_line_names_what_is_new_and_leaves_out_what_is_old(knowledge: Knowledge) -> None:
    silent = record(MAST, [facts("1.0.0"), facts("2.0.0", peers={"hull": "^2.0.0 || ^3.0.0"})])
    assert moved(knowledge, [(MAST, "^1.0.0")], Line("3"), [*FLEET[:1], silent]) == {"mast": ("1", "2", "2")}
    company = Company({HULL: Span(Line("1"), Line("3"))}, world(knowledge, [FLEET[0], silent]))
    found = company.gather(
        {}, [Requirement(coordinate=Coordinate(MAST), name="mast", specifier="^1.0.0", file="package.json", line=1)]
    )
    assert found[MAST].is_claimed
    assert found[MAST].constraint.text == "mast 1 names no hull; mast 2 needs ^2.0.0 || ^3.0.0"
    two = Company(
        {HULL: Span(Line("1"), Line("3")), KEEL: Span(Line("1"), Line("2"))},
        world(knowledge, [*FLEET[:1], FLEET[3], silent]),
    )
    open_ = record(
        MAST, [facts("1.0.0", peers={"keel": ">=1"}), facts("2.0.0", peers={"hull": "^3.0.0", "keel": ">=1"})]
    )
    speaking = Company(
        {HULL: Span(Line("1"), Line("3")), KEEL: Span(Line("1"), Line("2"))},
        world(knowledge, [*FLEET[:1], FLEET[3], open_]),
    )
    asked = [Requirement(coordinate=Coordinate(MAST), name="mast", specifier="^1.0.0", file="package.json", line=1)]
    assert (list(two.gather({}, asked)), list(speaking.gather({}, asked))) == ([MAST], [])
    broad = record(MAST, [facts("1.0.0"), facts("2.0.0", peers={"hull": ">=1.0.0"})])
    assert moved(knowledge, [(MAST, "^1.0.0")], Line("3"), [*FLEET[:1], broad]) == {}


def test_nothing_moves_where_nothing_of_the_destination_does(knowledge: Knowledge) -> None:
    assert moved(knowledge, [(MAST, "1.0.0")], Line("1")) == {}


@given(
    st.lists(st.tuples(st.integers(1, 4), st.integers(1, 4)), min_size=1, max_size=4),
    st.integers(2, 4),
)
def test_what_moves_goes_with_what_is_decided_and_never_back(bounds: list[tuple[int, int]], goal: int) -> None:
    """Each line of mast lets hull in between two majors: after gathering, mast stands nowhere that shuts the goal out."""
    hull = record(HULL, [facts(f"{n}.0.0") for n in range(1, 5)])
    lines = [facts(f"{n}.0.0", peers={"hull": f">={a}.0.0 <={b}.9.9"}) for n, (a, b) in enumerate(bounds, 1)]
    found = moved(KNOWN, [(MAST, "^1.0.0")], Line(str(goal)), [hull, record(MAST, lines)])
    opens = [n for n, (a, b) in enumerate(bounds, 1) if a <= goal <= b]
    if opens and opens[0] == 1:
        assert found == {}
    else:
        assert found["mast"][:2] == ("1", str(opens[0]) if opens else "")


# what a scan says of it


def scanned(knowledge: Knowledge, wanted: dict[str, str], code: str, *to: str) -> ScanResult:
    made = ECOSYSTEMS.read_source("src/main.js", code.encode())
    asked = [
        Requirement(coordinate=npm(n), name=n, specifier=spec, file="package.json", line=1)
        for n, spec in wanted.items()
    ]
    module = Module(path="", name="boat", manifests=["package.json"], requirements=asked)
    return run_scan(
        ScanInput(facts={"src/main.js": made}, files=[], modules=[module], destination=tuple(map(parse_target, to))),
        knowledge,
    )


def states(result: ScanResult) -> dict[str, PackageState]:
    return {Coordinate(p.coordinate).name: p for p in result.packages}


def test_naming_one_member_of_a_family_looks_at_all_of_it(knowledge: Knowledge) -> None:
    code = 'import ReactDOM from "react-dom";\nReactDOM.render(null, document.body);\n'
    result = scanned(knowledge, {"react": "^16.8.0", "react-dom": "^16.8.0"}, code, "npm/react@19")
    assert ("pkg:npm/react-dom", "react-dom.render") in {(f.coordinate, f.symbol) for f in result.findings}
    assert states(result)["react-dom"].state == "fails"
    assert "react-dom from 16 to 19" in " ".join(result.notes)


def test_what_stays_says_what_lets_it(knowledge: Knowledge) -> None:
    result = scanned(
        knowledge, {"react": "16.8.0", "react-router-dom": "5.0.0", "no-record": "1.0.0"}, "", "npm/react@19"
    )
    held = states(result)
    assert (held["react-router-dom"].state, held["react-router-dom"].note) == (
        "unknown",
        "nothing speaks against react-router-dom 5.0.0, and nothing says that it goes with react 19",
    )
    ended = states(scanned(knowledge, {"react": "16.8.0", "react-redux": "7.2.9"}, "", "npm/react@17"))["react-redux"]
    assert (ended.state, ended.grade, ended.note) == ("holds", "hard", "7.2.9 admits react 17")
    assert held["no-record"].state == "unknown"


def test_a_pinned_release_may_shut_out_what_its_line_lets_in(knowledge: Knowledge) -> None:
    late = replace(
        knowledge,
        catalogues={
            Coordinate("pkg:npm/react"): knowledge.catalogues[Coordinate("pkg:npm/react")],
            MAST: record(MAST, [facts("1.0.0", peers={"react": "^16"}), facts("1.9.0", peers={"react": "^16 || ^17"})]),
        },
    )
    held = states(scanned(late, {"react": "16.8.0", "mast": "1.0.0"}, "", "npm/react@17"))["mast"]
    assert (held.state, held.note, held.suggestion) == ("fails", "mast 1.0.0 needs react ^16", "1.9.0")
    assert states(scanned(late, {"react": "16.8.0", "mast": "1.9.0"}, "", "npm/react@17"))["mast"].state == "holds"


def test_texts_of_what_may_move_along_are_read(knowledge: Knowledge) -> None:
    assert "pkg:npm/vue-router" in possible_companions([Coordinate("pkg:npm/vue")], knowledge)
    assert possible_companions([Coordinate("pkg:generic/python")], knowledge) == {"pkg:generic/python"}


def test_what_is_only_claimed_leaves_the_word_to_the_runtime(knowledge: Knowledge) -> None:
    asked = [
        Requirement(
            coordinate=Coordinate("pkg:pypi/django"), name="django", specifier="==2.2", file="requirements.txt", line=1
        ),
        Requirement(
            coordinate=Coordinate("pkg:pypi/djangorestframework"),
            name="djangorestframework",
            specifier="==3.9.0",
            file="requirements.txt",
            line=2,
        ),
    ]
    module = Module(path="", name="boat", manifests=["requirements.txt"], requirements=asked)
    alone = run_scan(
        ScanInput(facts={}, files=[], modules=[module], destination=(parse_target("pypi/django@5.2"),)), knowledge
    )
    found = states(alone)["djangorestframework"]
    assert (found.state, found.note) == ("unknown", "djangorestframework 3.9 ends at Django 2.2")
    both = (parse_target("pypi/django@5.2"), parse_target("python@3.13"))
    result = run_scan(
        ScanInput(facts={}, files=[], modules=[module], destination=both, said=(parse_target("python@3.8"),)), knowledge
    )
    assert states(result)["djangorestframework"].note.startswith("nothing speaks against djangorestframework 3.9.0")
    assert [f.level for f in result.findings if f.symbol == "release djangorestframework"] == ["warning"]


def test_what_describes_another_goes_in_step_with_it(knowledge: Knowledge) -> None:
    wanted = {"react": "16.8.0", "@types/react": "16.9.0", "@types/react-dom": "18.0.0"}
    found = states(scanned(knowledge, wanted, "", "npm/react@18"))
    said = "@types/react 16 goes in step with react 16, and there is a @types/react 18 for react 18"
    assert (found["@types/react"].state, found["@types/react"].note) == ("unknown", said)
    assert found["@types/react-dom"].state == "holds"


def test_packages_whose_releases_have_the_same_numbers_go_in_step(knowledge: Knowledge) -> None:
    numbers = [f"{major}.{minor}.0" for major in (1, 2) for minor in range(1, 7)]
    hull = record(HULL, [facts(n) for n in numbers])
    same = record(MAST, [facts(n) for n in numbers[:-1]])
    own = record(KEEL, [facts(n) for n in ("1.1.0", "2.1.0", "2.7.0", "2.8.0", "2.9.0")])
    few = record(FLAG, [facts(n) for n in ("1.1.0", "2.1.0", "2.2.0", "2.3.0", "2.4.0")])  # as many packages have them
    wanted = [(MAST, "1.6.0"), (KEEL, "1.1.0"), (FLAG, "1.1.0")]
    longer = record(HULL, [*hull.details, *(facts(f"2.{n}.0") for n in range(7, 20))])
    assert moved(knowledge, wanted[2:], Line("2"), [longer, few]) == {}
    found = moved(knowledge, wanted[:2], Line("2"), [hull, same, own])
    assert found == {"mast": ("1", "2", "2")}


def test_a_scope_goes_in_step_where_the_package_itself_says_nothing(knowledge: Knowledge) -> None:
    deck, rail, own = ("pkg:npm/%40boat/" + n for n in ("deck", "rail", "own"))
    records = [
        record(Coordinate(deck), [facts("1.0.0"), facts("2.0.0"), facts("3.0.0")]),
        record(Coordinate(rail), [facts("1.0.0"), facts("2.0.0")]),
        record(
            Coordinate(own), [facts("1.0.0", peers={"@boat/deck": ">=1"}), facts("2.0.0", peers={"@boat/deck": ">=1"})]
        ),
    ]

    def along(goal: Line) -> set[str]:
        company = Company({Coordinate(deck): Span(Line("1"), goal)}, world(knowledge, records))
        asked = [
            Requirement(
                coordinate=Coordinate(p), name=Coordinate(p).name, specifier="^1.0.0", file="package.json", line=1
            )
            for p in (rail, own)
        ]
        return {Coordinate(p).name for p in company.gather({}, asked)}

    assert along(Line("2")) == {"@boat/rail"}
    assert along(Line("3")) == set()
