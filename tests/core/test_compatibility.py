"""What keeps two lines from standing together: each grade, who says it, and when silence is allowed."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.planning.world import LAMP, NODE, ROPE, SAIL, TODAY, facts, lifecycle, record, world
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.compatibility import Compatibility
from yoake.core.knowledge.models import LineFacts
from yoake.core.values.coordinates import Coordinate, Line


def asked(
    knowledge: Knowledge, owner: str, line: str, subject: str, other: str, runtime: str | None = None, **how: Any
):
    found = (
        Compatibility(knowledge, TODAY, **how)
        .between(Coordinate(owner), Line(line), Coordinate(subject), Line(other), Line(runtime) if runtime else None)
        .broken
    )
    return [(c.grade, c.text) for c in found]


def test_metadata_that_does_not_admit_a_runtime_is_hard(knowledge: Knowledge) -> None:
    held = world(knowledge, [record(LAMP, [facts("1.0", runs="3.8 3.9"), facts("2.0")])])
    assert asked(held, LAMP, "1.0", PYTHON, "3.12") == [("hard", "lamp 1.0 needs Python 3.8 3.9")]
    assert asked(held, LAMP, "1.0", PYTHON, "3.9") == []
    assert asked(held, LAMP, "2.0", PYTHON, "3.12") == []


def test_a_compiled_package_without_a_build_is_hard_and_one_without_any_builds_is_not(knowledge: Knowledge) -> None:
    built = {"3.8": ["1.0", "2.0"], "3.12": ["2.0"]}
    held = world(knowledge, [record(LAMP, [facts("1.0"), facts("2.0"), facts("0.9")], built)])
    assert asked(held, LAMP, "1.0", PYTHON, "3.12") == [("hard", "lamp 1.0 has no build for Python 3.12")]
    assert asked(held, LAMP, "2.0", PYTHON, "3.12") == []
    assert asked(held, LAMP, "0.9", PYTHON, "3.12") == []


def test_what_its_own_code_uses_is_observed_from_that_line_on(knowledge: Knowledge) -> None:
    held = world(knowledge, [record(LAMP, [facts("1.0", observed=("3.12", "imp in lamp/__init__.py:3"))])])
    assert asked(held, LAMP, "1.0", PYTHON, "3.11") == []
    ((grade, text),) = asked(held, LAMP, "1.0", PYTHON, "3.13")
    assert grade == "observed"
    assert text == "lamp 1.0 cannot be imported on Python 3.13: it uses imp in lamp/__init__.py:3"


def test_silence_is_allowed_until_a_later_line_claims_what_this_one_does_not(knowledge: Knowledge) -> None:
    old, new = facts("1.0", states=("python@3.8", "python@3.9")), facts("2.0", states=("python@3.9", "python@3.12"))
    held = world(knowledge, [record(LAMP, [old, new])])
    assert asked(held, LAMP, "1.0", PYTHON, "3.12") == [("stated", "lamp 1.0 ends at Python 3.9")]
    assert asked(held, LAMP, "1.0", PYTHON, "3.13") == []
    assert asked(held, LAMP, "1.0", PYTHON, "3.12", lenient=True) == []
    assert asked(held, LAMP, "2.0", PYTHON, "3.8") == []


def test_a_lifecycle_that_lists_runtimes_binds_even_when_lenient(knowledge: Knowledge) -> None:
    lines = [LineFacts(line="1.0", runs_on=("3.8", "3.9", "3.10")), LineFacts(line="2.0", runs_on=("3.10", "3.12"))]
    held = world(knowledge, [record(LAMP, [facts("1.0"), facts("2.0")])], [lifecycle(LAMP, lines)])
    assert asked(held, LAMP, "1.0", PYTHON, "3.11", lenient=True) == [("stated", "lamp 1.0 ends at Python 3.10")]
    assert asked(held, LAMP, "2.0", PYTHON, "3.9") == [("stated", "lamp 2.0 starts at Python 3.10")]
    assert asked(held, LAMP, "2.0", PYTHON, "3.11") == [("stated", "lamp 2.0 does not state Python 3.11")]


def test_requirements_bind_between_packages_and_conditional_ones_only_where_they_hold(knowledge: Knowledge) -> None:
    lamp = facts("1.0", needs={"rope": "<2"}, needs_when=(("rope", ">=1.5", 'python_version >= "3.12"'),))
    held = world(knowledge, [record(LAMP, [lamp]), record(ROPE, [facts("1.0.0"), facts("1.6.0"), facts("2.0.0")])])
    assert asked(held, LAMP, "1.0", ROPE, "2.0") == [("hard", "lamp 1.0 needs rope <2")]
    assert asked(held, LAMP, "1.0", ROPE, "1.0", "3.11") == []
    assert asked(held, LAMP, "1.0", ROPE, "1.0", "3.12") == [("hard", "lamp 1.0 needs rope >=1.5")]
    assert Compatibility(held, TODAY).conditional(LAMP, Line("1.0"), ROPE)


def test_npm_packages_bind_by_engines_and_peers_and_not_by_what_they_install_beside_themselves(
    knowledge: Knowledge,
) -> None:
    mast = "pkg:npm/mast"
    sail = facts("2.0.0", runs=">=18", peers={"mast": "^3.0.0"}, needs={"mast": "^1.0.0"})
    held = world(knowledge, [record(SAIL, [sail]), record(Coordinate(mast), [facts("1.0.0"), facts("3.1.0")])])
    assert asked(held, SAIL, "2", NODE, "16") == [("hard", "sail 2 needs Node >=18")]
    assert asked(held, SAIL, "2", NODE, "20") == []
    assert asked(held, SAIL, "2", mast, "1") == [("hard", "sail 2 needs mast ^3.0.0")]
    assert asked(held, SAIL, "2", mast, "3") == []


def test_what_a_release_asks_for_comes_in_the_order_of_its_record(knowledge: Knowledge) -> None:
    """Who is named first in a sentence must not change from one run to the next."""
    names = [f"plank-{n}" for n in (7, 3, 11, 1, 19, 5, 2)]
    sail = facts("2.0.0", peers=dict.fromkeys(names, "^1.0.0"))
    held = world(knowledge, [record(SAIL, [sail])])
    found = Compatibility(held, TODAY).asks(SAIL, "2.0.0", None)
    assert [subject.name for subject in found] == names


def test_what_a_release_brings_in_binds_as_well(knowledge: Knowledge) -> None:
    """The sail says it goes with any mast; the rope that it brings does not."""
    mast, rope = Coordinate("pkg:npm/mast"), Coordinate("pkg:npm/rope")
    sail = facts("2.0.0", peers={"mast": "*", "rope": "^5.0.0"})
    loose = facts("3.0.0", peers={"mast": "*", "rope": "^5.0.0"}, optional=("rope",))
    ropes = [facts("4.0.0"), facts("5.0.0", peers={"mast": "^3.0.0"}), facts("5.1.0", peers={"mast": "^3.0.0"})]
    masts = record(mast, [facts("1.0.0"), facts("3.1.0")])
    held = world(knowledge, [record(SAIL, [sail, loose]), record(rope, ropes), masts])
    assert asked(held, SAIL, "2", mast, "1") == [("hard", "sail 2 brings rope, which needs mast ^3.0.0")]
    assert asked(held, SAIL, "2", mast, "3") == []
    assert asked(held, SAIL, "3", mast, "1") == []
    one_goes = world(knowledge, [record(SAIL, [sail]), record(rope, [*ropes, facts("5.2.0")]), masts])
    assert asked(one_goes, SAIL, "2", mast, "1") == []


def test_a_framework_claim_of_a_package_counts_like_one_of_a_runtime(knowledge: Knowledge) -> None:
    old, new = facts("1.0", states=("pypi/rope@1.0",)), facts("2.0", states=("pypi/rope@1.0", "pypi/rope@2.0"))
    held = world(knowledge, [record(LAMP, [old, new]), record(ROPE, [facts("1.0"), facts("2.0")])])
    assert asked(held, LAMP, "1.0", ROPE, "2.0") == [("stated", "lamp 1.0 ends at rope 1.0")]
    assert asked(held, LAMP, "2.0", ROPE, "2.0") == []


@pytest.mark.parametrize(("owner", "subject"), [(PYTHON, LAMP), (LAMP, NODE), (SAIL, LAMP)])
def test_what_has_nothing_to_do_with_each_other_goes_together(owner: str, subject: str, knowledge: Knowledge) -> None:
    held = world(knowledge, [record(LAMP, [facts("1.0", runs="3.8")]), record(SAIL, [facts("1.0.0", runs=">=18")])])
    assert asked(held, owner, "1.0", subject, "1.0") == []


def test_withdrawn_and_future_releases_do_not_stand_for_a_line(knowledge: Knowledge) -> None:
    rows = [facts("1.0.0"), facts("1.0.1", withdrawn="broken"), facts("1.0.2", released="2027-01-01")]
    held = Compatibility(world(knowledge, [record(LAMP, rows)]), TODAY)
    assert held.newest(LAMP, Line("1.0")) == "1.0.0"


def test_the_release_that_is_chosen_fits_the_runtime_and_the_other_lines(knowledge: Knowledge) -> None:
    rows = [facts("1.0.0"), facts("1.0.1", needs={"rope": ">=2"}), facts("1.0.2", runs="3.13")]
    held = Compatibility(world(knowledge, [record(LAMP, rows), record(ROPE, [facts("1.0.0")])]), TODAY)
    assert held.choose(LAMP, Line("1.0"), {ROPE: Line("1.0"), PYTHON: Line("3.9")}, Line("3.9")) == "1.0.0"
    assert held.choose(LAMP, Line("1.0"), {PYTHON: Line("3.9")}, Line("3.9")) == "1.0.1"
    assert held.choose(LAMP, Line("1.0"), {PYTHON: Line("3.13")}, Line("3.13")) == "1.0.2"
