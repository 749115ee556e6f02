"""Which release of every package a stage takes: families move together, nobody moves without need, and what cannot come is told."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import product

from hypothesis import given
from hypothesis import strategies as st

from tests.core.planning.world import LAMP, NODE, TODAY, facts, package, record, world
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.compatibility import Compatibility
from yoake.core.knowledge.models import Catalogue, ReleaseFacts
from yoake.core.planning.brought import BroughtPeers
from yoake.core.planning.settling import Settling, Wish, wishes_of
from yoake.core.values.coordinates import Coordinate, Line, Lines, Releases
from yoake.core.values.plans import Settled

MAST, BOOM, SAIL, FLAG, KEEL = (Coordinate(f"pkg:npm/{name}") for name in ("mast", "boom", "sail", "flag", "keel"))


def settled(
    held: Knowledge,
    wishes: Sequence[Wish],
    lines: Lines,
    before: Releases | None = None,
) -> dict[str, Settled]:
    made = Settling(Compatibility(held, TODAY), wishes).settle(lines, before or {})
    return {one.coordinate: one for one in made}


def wish(coordinate: Coordinate, wanted: str = "", exact: str = "") -> Wish:
    return Wish(coordinate, (wanted,) if wanted else (), exact)


def paired(coordinate: Coordinate, *releases: str) -> Catalogue:
    """A package that asks for just its own release of the mast."""
    return record(coordinate, [facts(r, peers={"mast": r}) for r in releases])


MASTS = record(MAST, [facts("1.0.0"), facts("2.0.0"), facts("2.1.0"), facts("3.0.0")])


def test_a_family_moves_with_the_one_that_is_named(knowledge: Knowledge) -> None:
    held = world(knowledge, [MASTS, paired(BOOM, "1.0.0", "2.0.0", "2.1.0"), paired(SAIL, "1.0.0", "2.1.0", "3.0.0")])
    wishes = [wish(MAST, "^1.0.0"), wish(BOOM, "^1.0.0"), wish(SAIL, "^1.0.0")]
    found = settled(held, wishes, {MAST: Line("2")})
    assert {one.release for one in found.values()} == {"2.1.0"}
    assert found[BOOM].state == "change"
    assert found[BOOM].why == "boom 1.0.0 needs mast 1.0.0"


def test_what_fits_stays_on_its_lock_and_within_its_range(knowledge: Knowledge) -> None:
    held = world(knowledge, [record(SAIL, [facts("1.0.0"), facts("1.2.0"), facts("2.0.0")])])
    assert settled(held, [wish(SAIL, "^1.0.0", "1.0.0")], {})[SAIL].release == "1.0.0"
    assert settled(held, [wish(SAIL, "^1.0.0")], {})[SAIL].release == "1.2.0"
    assert settled(held, [wish(SAIL, "^1.0.0")], {})[SAIL].state == "keeps"


def test_what_has_to_move_goes_to_the_nearest_line_that_fits(knowledge: Knowledge) -> None:
    sails = record(SAIL, [facts("1.0.0", runs="<20"), facts("2.0.0", runs="<20"), facts("3.0.0"), facts("4.0.0")])
    held = world(knowledge, [sails])
    found = settled(held, [wish(SAIL, "^1.0.0")], {NODE: Line("22")})[SAIL]
    assert (found.release, found.state, found.before) == ("3.0.0", "change", "^1.0.0")


def test_nobody_goes_back_behind_the_stage_before(knowledge: Knowledge) -> None:
    held = world(knowledge, [record(SAIL, [facts("1.0.0"), facts("2.0.0")])])
    found = settled(held, [wish(SAIL, ">=1.0.0")], {}, {SAIL: "2.0.0"})[SAIL]
    assert (found.release, found.moves) == ("2.0.0", False)


def test_one_that_nothing_fits_is_left_out_and_told_and_the_others_go_on(knowledge: Knowledge) -> None:
    flags = record(FLAG, [facts("1.0.0", peers={"mast": "^1.0.0"}), facts("1.1.0", peers={"mast": "^1.0.0"})])
    held = world(knowledge, [MASTS, paired(BOOM, "1.0.0", "3.0.0"), flags])
    found = settled(held, [wish(MAST), wish(BOOM), wish(FLAG, "^1.0.0")], {MAST: Line("3")})
    assert found[BOOM].release == "3.0.0"
    assert (found[FLAG].state, found[FLAG].release) == ("none", "")
    assert found[FLAG].why == "no release goes with the others (flag 1.1.0 needs mast ^1.0.0): replace or drop it"


def test_without_a_release_for_the_runtime_the_newest_is_named_and_said_not_to_fit(knowledge: Knowledge) -> None:
    held = world(knowledge, [record(SAIL, [facts("1.0.0", runs="<16"), facts("1.5.0", runs="<16")])])
    found = settled(held, [wish(SAIL, "^1.0.0")], {NODE: Line("24")})[SAIL]
    assert (found.state, found.release) == ("none", "1.5.0")
    assert found.why == "no release up to 1.5.0 runs on Node 24: replace or drop it"


def test_two_that_exclude_each_other_in_their_ranges_meet_on_another_line(knowledge: Knowledge) -> None:
    """The keel was placed first; the sail collides with it wherever it stands, unless the keel is placed anew."""
    keels = record(KEEL, [facts("1.0.0"), facts("2.0.0")])
    sails = record(SAIL, [facts("1.0.0", peers={"keel": "^2.0.0"}), facts("2.0.0", peers={"keel": "^2.0.0"})])
    held = world(knowledge, [keels, sails])
    found = settled(held, [wish(KEEL, "^1.0.0"), wish(SAIL, "^1.0.0")], {})
    assert {coordinate: one.release for coordinate, one in found.items()} == {KEEL: "2.0.0", SAIL: "1.0.0"}


def test_what_has_no_record_and_what_its_range_cannot_read_is_not_known(knowledge: Knowledge) -> None:
    held = world(knowledge, [record(SAIL, [facts("1.0.0")])])
    found = settled(held, [wish(FLAG, "^1.0.0"), wish(SAIL, "~2.0.0-alpha.3")], {})
    assert [found[FLAG].state, found[SAIL].state] == ["unknown", "unknown"]
    assert found[SAIL].why == "its record has no release that ~2.0.0-alpha.3 admits"


def test_a_peer_that_two_bring_in_and_that_no_release_suits_both_leaves_one_of_them_out(knowledge: Knowledge) -> None:
    """Nobody asks for the keel by name; the sail and the flag each bring it, and want different ones."""
    keels = record(KEEL, [facts("1.0.0"), facts("2.0.0")])
    sails = record(SAIL, [facts("1.0.0", peers={"keel": "^1.0.0"})])
    flags = record(FLAG, [facts("1.0.0", peers={"keel": "^2.0.0"})])
    lone = record(BOOM, [facts("1.0.0", peers={"keel": "^1.0.0"}, optional=("keel",))])
    found = settled(world(knowledge, [keels, sails, flags, lone]), [wish(SAIL), wish(FLAG), wish(BOOM)], {})
    assert sorted(one.state for one in found.values()) == ["keeps", "keeps", "none"]
    assert found[BOOM].release == "1.0.0"
    assert KEEL not in found


def test_what_a_peer_brings_in_itself_counts_as_well(knowledge: Knowledge) -> None:
    """The sail brings the keel, and the newest keel brings a mast that does not go with the boom."""
    masts = record(MAST, [facts("1.0.0"), facts("3.0.0", peers={"boom": "^2.0.0"})])
    keels = record(KEEL, [facts("1.0.0"), facts("2.0.0", peers={"mast": "^3.0.0"})])
    sails = record(SAIL, [facts("2.0.0", peers={"keel": "*"}), facts("3.0.0", peers={"keel": "^2.0.0"})])
    held = world(knowledge, [masts, keels, record(BOOM, [facts("1.0.0")]), sails])
    assert settled(held, [wish(BOOM), wish(SAIL, "^2.0.0")], {})[SAIL].release == "2.0.0"
    only = record(SAIL, sails.details[1:])
    lost = settled(
        world(knowledge, [masts, keels, record(BOOM, [facts("1.0.0")]), only]), [wish(BOOM), wish(SAIL)], {}
    )[SAIL]
    assert (lost.state, lost.release) == ("none", "")
    assert lost.why == (
        "sail 3.0.0 brings keel 2.0.0, which brings mast, and no release of that goes with the others "
        "(mast 3.0.0 needs boom ^2.0.0): replace or drop it"
    )


def test_many_that_bring_the_same_are_laid_out_without_an_end_of_the_stack(knowledge: Knowledge) -> None:
    names = [Coordinate(f"pkg:npm/part{n}") for n in range(1200)]
    parts = [record(name, [facts("1.0.0", peers={"keel": "^1.0.0"})]) for name in names]
    held = world(knowledge, [record(KEEL, [facts("1.0.0")]), *parts])
    brought = BroughtPeers(Compatibility(held, TODAY), frozenset(names), lambda p, wanted: frozenset(("1.0.0",)))
    taken = dict.fromkeys(names, "1.0.0")
    assert brought.obstacle(taken, taken, None) == ""


def test_an_older_release_that_brings_nothing_is_taken_instead(knowledge: Knowledge) -> None:
    keels = record(KEEL, [facts("1.0.0"), facts("2.0.0")])
    flags = record(FLAG, [facts("1.0.0", peers={"keel": "^1.0.0"})])
    sails = record(SAIL, [facts("1.0.0"), facts("1.1.0", peers={"keel": "^2.0.0"})])
    found = settled(world(knowledge, [keels, flags, sails]), [wish(FLAG), wish(SAIL, "^1.0.0")], {})
    assert (found[SAIL].release, found[SAIL].state) == ("1.0.0", "keeps")


def test_what_would_have_to_be_built_on_a_newer_runtime_gives_way_to_what_is_built_for_it(knowledge: Knowledge) -> None:
    lamp = record(LAMP, [facts("1.0"), facts("1.1"), facts("2.0")], {"3.8": ["1.1"], "3.12": ["2.0"]})
    held = world(knowledge, [lamp])
    asked = [Wish(LAMP, ("<2",), "", Line("1.1"))]
    python = PYTHON

    def taken(today: Line, line: Line) -> str:
        (one,) = Settling(Compatibility(held, TODAY), asked, {python: today}).settle({python: line}, {})
        return one.release

    assert taken(Line("3.8"), Line("3.8")) == "1.1"
    assert taken(Line("3.8"), Line("3.12")) == "2.0"
    assert taken(Line("3.12"), Line("3.12")) == "1.0"  # built nowhere else, and it runs there today


def test_what_stands_nowhere_known_does_not_go_past_the_destination(knowledge: Knowledge) -> None:
    held = world(knowledge, [record(SAIL, [facts("1.0.0"), facts("2.1.0"), facts("3.0.0")])])
    made = Settling(Compatibility(held, TODAY), [wish(SAIL)], goals={SAIL: Line("2")}).settle({}, {})
    assert [one.release for one in made] == ["2.1.0"]


def test_a_preview_that_the_path_moves_on_is_moved(knowledge: Knowledge) -> None:
    held = world(knowledge, [record(SAIL, [facts("1.0.0"), facts("2.0.0")])])
    pinned = Wish(SAIL, ("1.0.0-beta.3",), "", Line("1"))
    assert settled(held, [pinned], {SAIL: Line("1")})[SAIL].state == "unknown"
    assert settled(held, [pinned], {SAIL: Line("2")})[SAIL].release == "2.0.0"


def test_a_preview_whose_release_does_not_go_with_what_moves_moves_as_well(knowledge: Knowledge) -> None:
    """Nothing is known of the preview itself; the release that it led to asks for the mast of today."""
    flags = [facts(r, peers={"mast": "^1.0.0"}) for r in ("1.0.0", "2.0.0")]
    held = world(knowledge, [MASTS, record(FLAG, [*flags, facts("3.0.0", peers={"mast": ">=2.0.0"})])])
    asked = [wish(MAST), wish(FLAG, "2.0.0-beta.1")]
    assert settled(held, asked, {MAST: Line("1")})[FLAG].state == "unknown"
    moved = settled(held, asked, {MAST: Line("2")})[FLAG]
    assert (moved.release, moved.state) == ("3.0.0", "change")
    alone = world(knowledge, [MASTS, record(FLAG, flags)])
    assert settled(alone, asked, {MAST: Line("2")})[FLAG].state == "none"


def test_one_wish_for_a_package_that_several_manifests_ask_for() -> None:
    one = replace(package(SAIL, "1.0.0"), wanted="^1.0.0")
    two = replace(package(SAIL, "1.2.0"), wanted="~1.2.0")
    locked = replace(package(MAST, "9.0.0"), direct=False)
    assert wishes_of([one, two, locked]) == (Wish(SAIL, ("^1.0.0", "~1.2.0"), "1.2.0", Line("1")),)


def test_a_range_that_two_manifests_share_counts_once_and_none_that_is_empty() -> None:
    wanted = ("^1.0.0", "", "^1.0.0")
    packages = [replace(package(SAIL, "1.0.0"), wanted=each, exact=None) for each in wanted]
    assert wishes_of(packages) == (Wish(SAIL, ("^1.0.0",), "", Line("1")),)


NAMES = ("mast", "boom", "sail", "flag")
RELEASES = ("1.0.0", "1.1.0", "2.0.0", "3.0.0")
RANGES = st.sampled_from(["^1.0.0", "^2.0.0", ">=2.0.0", "1.1.0", "*"])


@st.composite
def fleets(draw: st.DrawFn) -> list[Catalogue]:
    """Records of four packages that ask for one another at random."""
    made = []
    for name in NAMES:
        others = [other for other in NAMES if other != name]
        peers = [draw(st.dictionaries(st.sampled_from(others), RANGES, max_size=2)) for _ in RELEASES]
        details = [ReleaseFacts(release=r, peers=p) for r, p in zip(RELEASES, peers, strict=True)]
        made.append(record(Coordinate(f"pkg:npm/{name}"), details))
    return made


@given(fleets(), st.permutations(NAMES), st.lists(RANGES, min_size=4, max_size=4))
def test_what_is_taken_asks_for_nothing_that_another_is_not(
    knowledge: Knowledge, made: list[Catalogue], order: list[str], ranges: list[str]
) -> None:
    held = world(knowledge, made)
    wishes = [wish(Coordinate(f"pkg:npm/{name}"), wanted) for name, wanted in zip(order, ranges, strict=True)]
    found = settled(held, wishes, {Coordinate("pkg:npm/mast"): Line("2")})
    taken = {coordinate: one.release for coordinate, one in found.items() if one.release}
    compatibility = Compatibility(held, TODAY)
    for coordinate, release in taken.items():
        for other, asked in compatibility.asks(Coordinate(coordinate), release, None).items():
            for wanted in asked:
                admitted = held.ecosystems.admitted(
                    held.ecosystems.package("npm", other[8:]), wanted, [taken.get(other)]
                )
                assert other not in taken or admitted
    assert taken["pkg:npm/mast"] == "2.0.0"


@given(fleets(), st.sampled_from(RELEASES), st.sampled_from(RELEASES))
def test_what_is_taken_has_a_place_for_everything_that_it_brings_in(
    knowledge: Knowledge, made: list[Catalogue], first: str, second: str
) -> None:
    """Two are named; of the two others every choice of releases is looked at, one by one."""
    held = world(knowledge, made)
    found = settled(held, [wish(Coordinate("pkg:npm/mast"), first), wish(Coordinate("pkg:npm/boom"), second)], {})
    taken = {coordinate: one.release for coordinate, one in found.items() if one.release}
    compatibility = Compatibility(held, TODAY)

    def stands(chosen: Mapping[str, str]) -> bool:
        asked = [
            (other, wanted)
            for coordinate, release in chosen.items()
            for other, ranges in compatibility.asks(Coordinate(coordinate), release, None).items()
            if other in chosen or other not in found
            for wanted in ranges
        ]
        return all(
            other in chosen and held.ecosystems.admitted(Coordinate(other), wanted, [chosen[other]])
            for other, wanted in asked
        )

    ways = product(("", *RELEASES), repeat=2)
    laid = ({"pkg:npm/sail": a, "pkg:npm/flag": b} for a, b in ways)
    assert any(
        stands({**taken, **{coordinate: release for coordinate, release in way.items() if release}}) for way in laid
    )
