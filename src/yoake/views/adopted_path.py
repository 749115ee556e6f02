"""The path that was adopted for a set of modules: what is left of it, and what changed under it."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from yoake.context.context import Context
from yoake.core.planning.adopted_plan import dearer, follow
from yoake.core.planning.alternatives import Ways
from yoake.core.values.coordinates import Coordinate
from yoake.core.values.plans import Plan, plan_from_json
from yoake.formats.plan_text import OBJECTIVE_TITLES, TITLES, moves_text
from yoake.store.adopted_paths import adopted_paths
from yoake.store.applications import Application
from yoake.store.database import Row
from yoake.views.alternatives import look_at
from yoake.views.journeys import STAYING, shape_from_json


@dataclass(frozen=True, slots=True)
class Finished:
    """A stage of the adopted path that was reached."""

    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Adoption:
    """What was adopted, as it is sent to adopt it again: lines as COORD@LINE, coordinates, orders as COORD>COORD."""

    set: str
    choice: str
    title: str
    pin: list[str]
    avoid: list[str]
    order: list[str]
    out: list[str]
    drop: list[str]
    who: str
    why: str
    at: str
    version: int


@dataclass(frozen=True, slots=True, kw_only=True)
class AdoptionChange:
    """What stood there before, None where nothing was adopted, and the version there is now (0: nothing is adopted)."""

    before: Adoption | None
    version: int


@dataclass(frozen=True, slots=True)
class Adopted:
    """The path that was taken. ``moved``: what changed under it; ``fresh``: whether a new plan can be taken instead."""

    choice: str
    title: str
    at: str
    who: str
    why: str
    moved: list[str]
    finished: list[Finished]
    fresh: bool
    version: int


@dataclass(frozen=True, slots=True)
class Taken:
    """An adopted path with what is left of it; ``plan`` is None when it cannot be walked any more."""

    choice: str
    plan: Plan | None
    view: Adopted


def adopted_view(context: Context, application: Application, scan: Row, set_name: str) -> Taken | None:
    """What was adopted for a set, against a search of today bent as it was then; None when nothing was."""
    row = adopted_paths(context.db, application.id, application.destination.id).get(set_name)
    if row is None:
        return None
    look = look_at(context, application, scan, set_name, shape_from_json(json.loads(row["shape"])))
    return taken_of(row, look.ways) if look is not None else None


def taken_of(row: Mapping[str, Any], ways: Ways) -> Taken:
    """One adopted path against a search on today's evidence."""
    stored, choice = plan_from_json(json.loads(row["plan"])), row["choice"]
    way = ways.way(choice)
    if choice in STAYING:
        return Taken(choice, None, _view(row, [], [], fresh=False))
    followed = follow(ways.problem, stored, titled=way.plan if way is not None else None)
    moved = list(followed.moved)
    said = dearer(followed.plan, way.plan) if followed.plan is not None and way is not None else ""
    if said:
        moved.append(said)
    earlier = [Finished(title) for title in json.loads(row["finished"])]
    now = [Finished(stage.title or moves_text(stage)) for stage in followed.finished]
    finished = [*earlier, *(f for f in now if f not in earlier)]
    return Taken(choice, followed.plan, _view(row, moved, finished, fresh=bool(moved) and way is not None))


def _view(row: Mapping[str, Any], moved: list[str], finished: list[Finished], *, fresh: bool) -> Adopted:
    choice = row["choice"]
    at, who, why = row["adopted_at"], row["by_whom"], row["why"]
    return Adopted(choice, title_of_choice(choice), at, who, why, moved, finished, fresh, row["version"])


def title_of_choice(choice: str) -> str:
    """What a choice is called."""
    return OBJECTIVE_TITLES.get(choice) or TITLES[choice]


def adoption_of(row: Mapping[str, Any] | None) -> Adoption | None:
    """A stored adoption as it is sent."""
    if row is None:
        return None
    shape = shape_from_json(json.loads(row["shape"]))
    return Adoption(
        set=row["set_name"],
        choice=row["choice"],
        title=title_of_choice(row["choice"]),
        pin=[str(t) for t in shape.pins],
        avoid=[str(t) for t in shape.avoid],
        order=[f"{Coordinate(first).short}>{Coordinate(then).short}" for first, then in shape.order],
        out=sorted(Coordinate(purl).short for purl in shape.out),
        drop=sorted(Coordinate(purl).short for purl in shape.dropped),
        who=row["by_whom"],
        why=row["why"],
        at=row["adopted_at"],
        version=row["version"],
    )
