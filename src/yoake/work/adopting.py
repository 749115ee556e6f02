"""Adopt a path: its stages become work, and every later look says what moved under it."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from yoake.core.planning.adopted_plan import dearer, follow
from yoake.core.planning.alternatives import Ways
from yoake.core.planning.problem import Shape
from yoake.core.values.coordinates import Coordinate
from yoake.core.values.errors import BadInput, Conflict, NotFound
from yoake.core.values.plans import Plan, plan_from_json
from yoake.formats.plan_text import OBJECTIVE_TITLES, TITLES, moves_text
from yoake.store.adopted_paths import adopted_paths, drop_adopted, put_adopted
from yoake.store.applications import Application, get_application
from yoake.store.database import Row
from yoake.store.scans import latest_scan
from yoake.store.steps import add_event
from yoake.work.collisions import expect
from yoake.work.office import Office
from yoake.work.tracking import replan
from yoake.work.travelling import STAYING, shape_from_json, shape_to_json
from yoake.work.waying import look_at


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


def adopted_view(office: Office, application: Application, scan: Row, set_name: str) -> Taken | None:
    """What was adopted for a set, against a search of today bent as it was then; None when nothing was."""
    row = adopted_paths(office.db, application.id, application.destination.id).get(set_name)
    if row is None:
        return None
    look = look_at(office, application, scan, set_name, shape_from_json(json.loads(row["shape"])))
    return taken_of(row, look.ways) if look is not None else None


def taken_of(row: Mapping[str, Any], ways: Ways) -> Taken:
    """One adopted path against a search on today's evidence."""
    stored, choice = plan_from_json(json.loads(row["plan"])), row["choice"]
    way = ways.way(choice)
    if choice in STAYING:
        return Taken(choice, None, _view(row, [], [], fresh=False))
    followed = follow(ways.setting, stored, titled=way.plan if way is not None else None)
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
    return Adopted(choice, _title(choice), at, who, why, moved, finished, fresh, row["version"])


def _title(choice: str) -> str:
    return OBJECTIVE_TITLES.get(choice) or TITLES[choice]


def _adoption(row: Mapping[str, Any] | None) -> Adoption | None:
    if row is None:
        return None
    shape = shape_from_json(json.loads(row["shape"]))
    return Adoption(
        set=row["set_name"],
        choice=row["choice"],
        title=_title(row["choice"]),
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


def adopt(
    office: Office,
    slug: str,
    set_name: str,
    choice: str,
    shape: Shape,
    who: str,
    why: str,
    version: int | None = None,
) -> AdoptionChange:
    """Put a set of modules on a path. Raises NotFound, BadInput, and Conflict.

    ``version``: of the adopted path that was there when this was chosen, 0 for none; another one is Outdated.
    """
    if not who.strip():
        raise BadInput("A path is taken by someone. Choose your name in the top bar.")
    application = get_application(office.db, slug)
    scan = latest_scan(office.db, application.id, application.destination.id)
    look = look_at(office, application, scan, set_name, shape) if scan is not None else None
    if scan is None or look is None:
        raise Conflict("There is no path to take before a scan knows what this stands on.")
    way = look.ways.way(choice)
    staying = next((o for o in look.ways.staying if o.strategy == choice), None)
    if way is None and staying is None:
        raise NotFound(f"There is no way “{choice}” here.")
    before = adopted_view(office, application, scan, set_name)
    finished = [f.title for f in before.view.finished] if before is not None else []
    plan = way.plan if way is not None else look.ways.ways[0].plan if look.ways.ways else None
    values = {
        "application": application.id,
        "destination": application.destination.id,
        "set_name": set_name,
        "choice": choice,
        "shape": json.dumps(shape_to_json(shape)),
        "plan": json.dumps(asdict(plan)) if plan is not None else _no_plan(),
        "finished": json.dumps(finished),
        "by": who,
        "why": why,
        "at": office.stamp,
    }
    with office.db.write() as connection:
        held = _expected(office, application, set_name, version)
        number = _event(connection, office, application, who, "path taken", _title(choice), why)
        put_adopted(connection, {**values, "version": number})
    replan(office, application)
    return AdoptionChange(before=held, version=number)


def _expected(office: Office, application: Application, set_name: str, version: int | None) -> Adoption | None:
    """What is adopted now. Raises Outdated where that is not what the change was begun on."""
    held = _adoption(adopted_paths(office.db, application.id, application.destination.id).get(set_name))
    expect(version, held.version if held is not None else 0, "the path of these modules", held)
    return held


def _no_plan() -> str:
    nothing = {"p50": 0.0, "p80": 0.0}
    return json.dumps({"today": [], "before_keys": [], "before": nothing, "stages": [], "total": nothing})


def leave(office: Office, slug: str, set_name: str, who: str, version: int | None = None) -> AdoptionChange:
    """Take an adopted path back. Raises NotFound, and Outdated when it is not at ``version`` any more."""
    application = get_application(office.db, slug)
    with office.db.write() as connection:
        held = _expected(office, application, set_name, version)
        if held is None:
            raise NotFound("No path was taken here.")
        drop_adopted(connection, application.id, application.destination.id, set_name)
        _event(connection, office, application, who, "path taken back", "", "")
    replan(office, application)
    return AdoptionChange(before=held, version=0)


def _event(
    connection: sqlite3.Connection, office: Office, application: Application, who: str, what: str, after: str, why: str
) -> int:
    values = {"at": office.stamp, "who": who, "application": application.id, "subject": "path", "what": what}
    return add_event(connection, {**values, "after": after or None, "why": why})
