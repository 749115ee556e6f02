"""Routes as work: one that nobody calls is taken out, and the old side goes off when no route and no call is left."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from datetime import timedelta
from typing import Final

from yoake.context.context import Context
from yoake.core.crossing.rules import CrossingRules, Side, Standing
from yoake.core.values.errors import NotFound
from yoake.core.values.plans import OLD_SIDE, ROUTE_PREFIX
from yoake.core.values.words import StepState
from yoake.formats.crossing_rules import written_name
from yoake.store.applications import Application, application_by_id
from yoake.store.crossings import CallSource, StoredCrossing, StoredRoute, days_counted, stored_routes
from yoake.store.database import Connection, Row
from yoake.store.events import Event, add_event
from yoake.store.steps import is_route, put_step, renew_live, set_step_state, steps_of

_MINUTES: Final = (
    60.0  # to take one route out: its handler, its tests, a look at who links to it; a guess, shown as such
)
_OLD_SIDE_MINUTES: Final = (
    480.0  # to take a whole side off: servers, jobs, secrets, a last copy of its data; a guess too
)


def retire(context: Context, crossing: StoredCrossing, names: Sequence[str], who: str, why: str) -> None:
    """Make steps of taking routes out. Raises NotFound."""
    known = {row.route.name: row for row in stored_routes(context.db, crossing.application_id) if row.side is Side.OLD}
    for name in names:
        if name not in known:
            raise NotFound(f"The old side has no route “{name}”.")
    application = application_by_id(context.db, crossing.application_id)
    with context.db.write() as connection:
        for name in names:
            _put(
                connection=connection,
                context=context,
                application=application,
                key=ROUTE_PREFIX + name,
                title=f"Retire {name}",
                file=known[name].route.file,
                minutes=_MINUTES,
            )
            add_event(
                connection,
                Event(
                    at=context.stamp,
                    who=who,
                    application=application.id,
                    subject=f"route {name}",
                    what="to be retired",
                    why=why,
                ),
            )
        renew_live(connection, application.id)


def renew_route_steps(context: Context, crossing: StoredCrossing, rules: CrossingRules) -> None:
    """Bring steps in line with the routes: a route that is gone is retired; with no route left on the old side it goes off, once it was
    quiet for as long as was asked for. What comes back opens its step again."""
    application = application_by_id(context.db, crossing.application_id)
    known = {row["finding_key"]: row for row in steps_of(context.db, application.id, application.destination.id)}
    routes = [row for row in stored_routes(context.db, application.id) if row.side is Side.OLD]
    left = _left(rules, routes)
    changes = [*_retired(known, routes), *_old_side(context, crossing, known.get(OLD_SIDE), left)]
    begins = bool(routes) and left == 0 and OLD_SIDE not in known
    if not changes and not begins:
        return
    with context.db.write() as connection:
        if begins:
            _put(
                connection=connection,
                context=context,
                application=application,
                key=OLD_SIDE,
                title="Switch the old side off",
                file="",
                minutes=_OLD_SIDE_MINUTES,
            )
        for row, state, why in changes:
            set_step_state(connection, row["id"], state, why, context.stamp if state == "closed" else None)
            event = Event(
                at=context.stamp,
                application=application.id,
                subject=f"step {row['title']}",
                what="state",
                before=row["state"],
                after=state,
                why=why,
            )
            add_event(connection, event)
        renew_live(connection, application.id)


def _retired(known: Mapping[str, Row], routes: Sequence[StoredRoute]) -> Iterator[tuple[Row, StepState, str]]:
    """Steps of single routes whose state changes: (step, state, why)."""
    gone = {row.route.name: row.gone_at is not None for row in routes}
    for key, row in known.items():
        is_gone = gone.get(key.removeprefix(ROUTE_PREFIX)) if is_route(key) else None
        if is_gone and row["state"] != "closed":
            yield row, "closed", "the code has no such route any more"
        elif is_gone is False and row["state"] == "closed":
            yield row, "reopened", "the code has the route again"


def _old_side(
    context: Context, crossing: StoredCrossing, step: Row | None, left: int
) -> Iterator[tuple[Row, StepState, str]]:
    if step is None:
        return
    if left and step["state"] == "closed":
        yield step, "reopened", f"{left} routes stand on the old side again"
    elif not left and step["state"] != "closed" and is_quiet(context, crossing):
        why = f"no route is left on the old side, and the gateway saw no call of it for {crossing.quiet} days"
        yield step, "closed", why


def _left(rules: CrossingRules, routes: Sequence[StoredRoute]) -> int:
    """Routes of the old side that do not stand on the new one."""
    arrived = {rule.route.name for rule in rules.routes if rule.standing is Standing.NEW}
    return sum(1 for row in routes if not row.gone_at and written_name(row.route) not in arrived)


def is_quiet(context: Context, crossing: StoredCrossing) -> bool:
    """Whether a gateway counted for as long as was asked for, up to yesterday at least, and the old side answered nothing in that
    time. Where nobody counted, nobody knows."""
    first = (context.today - timedelta(days=crossing.quiet)).isoformat()
    counted = days_counted(context.db, crossing.application_id, CallSource.GATEWAY)
    answered = days_counted(context.db, crossing.application_id, CallSource.OLD_SIDE)
    watched = bool(counted) and counted[0] <= first and counted[-1] >= (context.today - timedelta(days=1)).isoformat()
    return watched and not any(day > first for day in answered)


def _put(
    connection: Connection, context: Context, application: Application, key: str, title: str, file: str, minutes: float
) -> None:
    put_step(
        connection,
        {
            "application": application.id,
            "destination": application.destination.id,
            "key": key,
            "stage": 0,
            "title": title,
            "state": "open",
            "why": "",
            "places": 1,
            "minutes": minutes,
            "files": json.dumps([file] if file else []),
            "at": context.stamp,
        },
    )
