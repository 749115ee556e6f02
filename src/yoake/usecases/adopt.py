"""Adopt a path: its stages become work, and every later look says what moved under it."""

from __future__ import annotations

from dataclasses import replace

from yoake.context.context import Context
from yoake.core.values.errors import BadInput, Conflict, NotFound
from yoake.core.values.journeys import Shape
from yoake.core.values.plans import Plan
from yoake.store.adopted_paths import AdoptedPath, adopted_paths, drop_adopted, put_adopted
from yoake.store.applications import Application, get_application
from yoake.store.database import Connection
from yoake.store.events import Event, add_event
from yoake.store.scans import latest_scan
from yoake.usecases.collisions import expect
from yoake.usecases.replan import replan
from yoake.views.adopted_path import Adoption, AdoptionChange, adopted_view, adoption_of, title_of_choice
from yoake.views.alternatives import check_stops, look_at


def adopt(
    context: Context,
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
    application = get_application(context.db, slug)
    scan = latest_scan(context.db, application.id, application.destination.id)
    look = look_at(context, application, scan, set_name, shape) if scan is not None else None
    if scan is None or look is None:
        raise Conflict("There is no path to take before a scan knows what this stands on.")
    check_stops(shape, [look.ways.problem.journey.spans])
    way = look.ways.way(choice)
    staying = next((o for o in look.ways.staying if o.strategy == choice), None)
    if way is None and staying is None:
        raise NotFound(f"There is no option “{choice}” here.")
    before = adopted_view(context, application, scan, set_name)
    path = AdoptedPath(
        set_name=set_name,
        choice=choice,
        shape=shape,
        plan=way.plan if way is not None else look.ways.ways[0].plan if look.ways.ways else Plan(),
        finished=tuple(f.title for f in before.view.finished) if before is not None else (),
        by_whom=who,
        why=why,
        adopted_at=context.stamp,
    )
    with context.db.write() as connection:
        held = _expected(context, application, set_name, version)
        number = _event(
            connection=connection,
            context=context,
            application=application,
            who=who,
            what="path taken",
            after=title_of_choice(choice),
            why=why,
        )
        put_adopted(connection, application.id, application.destination.id, replace(path, version=number))
    replan(context, application)
    return AdoptionChange(before=held, version=number)


def _expected(context: Context, application: Application, set_name: str, version: int | None) -> Adoption | None:
    """What is adopted now. Raises Outdated where that is not what the change was begun on."""
    held = adoption_of(adopted_paths(context.db, application.id, application.destination.id).get(set_name))
    expect(version, held.version if held is not None else 0, "the path of these modules", held)
    return held


def leave(context: Context, slug: str, set_name: str, who: str, version: int | None = None) -> AdoptionChange:
    """Take an adopted path back. Raises NotFound, and Outdated when it is not at ``version`` any more."""
    application = get_application(context.db, slug)
    with context.db.write() as connection:
        held = _expected(context, application, set_name, version)
        if held is None:
            raise NotFound("No path was taken here.")
        drop_adopted(connection, application.id, application.destination.id, set_name)
        _event(
            connection=connection,
            context=context,
            application=application,
            who=who,
            what="path taken back",
            after="",
            why="",
        )
    replan(context, application)
    return AdoptionChange(before=held, version=0)


def _event(
    connection: Connection,
    context: Context,
    application: Application,
    who: str,
    what: str,
    after: str,
    why: str,
) -> int:
    event = Event(
        at=context.stamp,
        who=who,
        application=application.id,
        subject="path",
        what=what,
        after=after or None,
        why=why,
    )
    return add_event(connection, event)
