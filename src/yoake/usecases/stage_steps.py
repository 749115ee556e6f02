"""Stages as work: where a path was adopted, every stage that moves lines is a step, closed by a scan that reads those lines."""

from __future__ import annotations

import json

from yoake.context.context import Context
from yoake.core.contract.registry import Registry
from yoake.core.values.coordinates import Coordinate, Lines
from yoake.core.values.plans import STAGE_PREFIX, Plan, Stage, stage_key
from yoake.store.applications import Application
from yoake.store.database import Connection
from yoake.store.steps import is_stage, put_step, set_stage, set_step_state, steps_of


def stages_of(plan: Plan) -> dict[str, int]:
    """Finding key → the stage it goes with; what is not in it is done before any version moves (stage 0)."""
    return {key: stage.number for stage in reversed(plan.stages) for key in stage.finding_keys}


def title_of_stage(stage: Stage, named: set[Coordinate], ecosystems: Registry) -> str:
    """What the step of a stage is called: the lines of the destination that it moves, and how many packages come along."""
    moved = [m for m in stage.moves if m.coordinate in named] or list(stage.moves)
    lines = ", ".join(f"{ecosystems.spoken(m.coordinate)} {m.goal}" for m in moved)
    along = len(stage.moves) - len(moved)
    more = f" with {along} {'package' if along == 1 else 'packages'}" if along else ""
    return f"Move to {lines}{more}"


def renew_stage_steps(
    connection: Connection,
    context: Context,
    application: Application,
    plan: Plan,
    today: Lines,
    *,
    adopted: bool,
) -> None:
    """Bring steps in line with a plan: numbers of stages for findings, and one step for each stage of an adopted path."""
    known = {row["finding_key"]: row for row in steps_of(context.db, application.id, application.destination.id)}
    stages = stages_of(plan)
    for key, row in known.items():
        if not is_stage(key) and row["stage"] != stages.get(key, 0):
            set_stage(connection, row["id"], stages.get(key, 0))
    named = {t.coordinate for t in application.destination.targets}
    wanted = {stage_key(s, named): s for s in plan.stages if s.moves} if adopted else {}
    for key, stage in wanted.items():
        put_step(
            connection,
            {
                "application": application.id,
                "destination": application.destination.id,
                "key": key,
                "stage": stage.number,
                "title": title_of_stage(stage, named, context.ecosystems),
                "state": "open",
                "why": "",
                "places": 1,
                "minutes": context.knowledge.effort.stage_base_days * context.knowledge.effort.minutes_per_day,
                "files": json.dumps([]),
                "kind": "stage",
                "coordinate": "",
                "at": context.stamp,
            },
        )
    for key, row in known.items():
        if is_stage(key) and key not in wanted and row["state"] != "closed":
            why = "a scan reads these lines" if _reached(key, today) else "no longer part of the path"
            set_step_state(connection, row["id"], "closed", why, context.stamp)


def _reached(key: str, today: Lines) -> bool:
    """Whether today's lines are those of a stage, or past them."""
    moves = [part.rpartition("@") for part in key.removeprefix(STAGE_PREFIX).split("+")]
    return all(Coordinate(name) in today and today[Coordinate(name)] >= line for name, _, line in moves)
