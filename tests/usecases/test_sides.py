"""The sides of a run, and the titles of stages: what stands for lines that somebody names, or for a stage."""

from __future__ import annotations

from tests.core.planning.test_following import stage
from tests.core.planning.world import LAMP, ROPE
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import Line
from yoake.core.values.plans import Move
from yoake.shipped import KIT
from yoake.usecases.run_sides import old_side, stage_side
from yoake.usecases.stage_steps import title_of_stage

TO_312 = Move(PYTHON, Line("3.8"), Line("3.12"))


def test_today_is_what_lock_files_say_and_a_stage_is_not(knowledge: Knowledge) -> None:
    assert old_side("today", {}, (), knowledge).locked
    made = stage_side("stage 1", stage(TO_312), knowledge)
    assert not made.locked
    assert made.lines == {PYTHON: "3.12"}


def test_a_stage_is_called_by_what_the_destination_names_and_counts_the_rest() -> None:
    one, two = Move(LAMP, Line("1.0"), Line("2.0")), Move(ROPE, Line("1.0"), Line("2.0"))
    titles = [
        title_of_stage(stage(*moves), {PYTHON}, KIT.ecosystems)
        for moves in ((TO_312,), (TO_312, one), (TO_312, one, two))
    ]
    assert titles == [
        "Move to Python 3.12",
        "Move to Python 3.12 with 1 package",
        "Move to Python 3.12 with 2 packages",
    ]
