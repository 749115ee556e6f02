"""Move an application piece by piece: begin, put a route elsewhere, say what is safe, choose slices, take in logs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Final

from yoake.context.context import Context
from yoake.core.crossing.rules import CrossingRules, Standing
from yoake.core.values.errors import BadInput, Conflict, NotFound
from yoake.core.values.routes import Route
from yoake.formats.crossing_rules import Entry, new_rules, read_rules, with_entries, with_sides, written_name
from yoake.runner.answers import write_whole
from yoake.store.applications import get_application
from yoake.store.crossings import (
    ChosenSlice,
    Move,
    StoredCrossing,
    add_moves,
    crossing_of,
    drop_crossing,
    put_crossing,
    put_slices,
    set_mended,
    stored_routes,
)
from yoake.store.database import Connection
from yoake.store.events import Event, add_event
from yoake.store.jobs import add_application_job
from yoake.usecases.collisions import expect

MOST_SLICES: Final = 200


def crossing_rules(context: Context, crossing: StoredCrossing) -> CrossingRules:
    """The rules as their file says now, read again when it changed. Raises BadInput."""
    path = Path(crossing.rules)
    try:
        stamp = path.stat()
    except OSError as error:
        raise _unreadable(path, error) from error
    key = (crossing.rules, stamp.st_mtime_ns, stamp.st_size, stamp.st_ino)
    return context.crossing_rules.get(key, lambda: read_rules(rules_text(path)))


def note(
    connection: Connection,
    context: Context,
    application: int,
    who: str,
    subject: str,
    what: str,
    *,
    why: str = "",
    before: str | None = None,
    after: str | None = None,
) -> None:
    """Append an event of a crossing."""
    event = Event(
        at=context.stamp,
        who=who,
        application=application,
        subject=subject,
        what=what,
        why=why,
        before=before,
        after=after,
    )
    add_event(connection, event)


def rules_text(path: Path) -> str:
    """The file of rules. Raises BadInput."""
    try:
        return path.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise _unreadable(path, error) from error


def _unreadable(path: Path, error: Exception) -> BadInput:
    return BadInput(f"The rules {path} cannot be read: {error}. Put the file back, or end the crossing.")


def find_crossing(context: Context, slug: str) -> StoredCrossing:
    """The crossing of an application. Raises NotFound."""
    application = get_application(context.db, slug)
    found = crossing_of(context.db, application.id)
    if found is None:
        raise NotFound(f"{application.name} does not move piece by piece yet: begin under Crossing.")
    return found


def begin_crossing(context: Context, slug: str, new_slug: str, old: str, new: str, who: str) -> int:
    """Begin to move an application piece by piece to another that is taken in; answers the job that reads the routes of both.
    Raises BadInput, Conflict and NotFound."""
    application = get_application(context.db, slug)
    if crossing_of(context.db, application.id) is not None:
        raise Conflict(f"{application.name} moves piece by piece already.")
    new_id = None
    if new_slug:
        other = get_application(context.db, new_slug)
        if other.id == application.id:
            raise BadInput("The new side is another application than the old one.")
        new_id = other.id
    text = new_rules(application.slug, old, new)
    read_rules(text)
    folder = context.home.folder / "crossings" / application.slug
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / "rules.yaml"
    with context.db.write() as connection:
        put_crossing(
            connection,
            StoredCrossing(
                application_id=application.id,
                new_id=new_id,
                rules=str(path),
                answers=200,
                days=3,
                quiet=14,
                tests=True,
                grows=False,
                read_until=0,
                counted={},
                begun_at=context.stamp,
                routes_at=None,
                version=1,
            ),
        )
        note(
            connection,
            context,
            application.id,
            who,
            "crossing",
            "begins to move piece by piece",
            after=f"{old} → {new}",
        )
        job = add_application_job(connection, "routes", application.id, who, context.stamp)
        if not path.exists():  # one that was there before is taken up again
            write_whole(path, text)
    return job


def end_crossing(context: Context, slug: str, who: str) -> None:
    """End a crossing: its records go, the file of rules stays."""
    crossing = find_crossing(context, slug)
    with context.db.write() as connection:
        drop_crossing(connection, crossing.application_id)
        note(
            connection,
            context,
            crossing.application_id,
            who,
            "crossing",
            "moves piece by piece no more",
            before=crossing.rules,
        )


def ask_routes(context: Context, slug: str, who: str) -> int:
    """Have the routes of both sides read again; answers the job."""
    crossing = find_crossing(context, slug)
    with context.db.write() as connection:
        return add_application_job(connection, "routes", crossing.application_id, who, context.stamp)


def set_crossing(
    context: Context,
    slug: str,
    *,
    new_slug: str | None,
    old: str | None,
    new: str | None,
    answers: int,
    days: int,
    quiet: int,
    tests: bool,
    grows: bool,
    who: str,
    version: int | None,
) -> None:
    """Change the sides and what a route has to show. Raises BadInput, NotFound and Outdated."""
    with context.db.write() as connection:
        crossing = find_crossing(context, slug)
        expect(version, crossing.version, "this crossing", None)
        new_id = crossing.new_id
        if new_slug is not None:
            new_id = get_application(context.db, new_slug).id if new_slug else None
            if new_id == crossing.application_id:
                raise BadInput("The new side is another application than the old one.")
        path = Path(crossing.rules)
        before = rules_text(path)
        text = with_sides(before, old, new)
        read_rules(text)
        put_crossing(
            connection,
            replace(
                crossing,
                new_id=new_id,
                answers=answers,
                days=days,
                quiet=quiet,
                tests=tests,
                grows=grows,
                version=crossing.version + 1,
            ),
        )
        note(
            connection,
            context,
            crossing.application_id,
            who,
            "crossing",
            "what a route has to show",
            before=_asked_for(
                crossing.answers, crossing.days, crossing.quiet, tests=crossing.tests, grows=crossing.grows
            ),
            after=_asked_for(answers, days, quiet, tests=tests, grows=grows),
        )
        if text != before:
            write_whole(path, text)


def _asked_for(answers: int, days: int, quiet: int, *, tests: bool, grows: bool) -> str:
    more = (", a test" if tests else "") + (", shares grow by themselves" if grows else "")
    return f"{answers} answers, {days} days, quiet for {quiet}{more}"


def move_routes(
    context: Context, slug: str, names: Sequence[str], standing: Standing, share: float, who: str, why: str
) -> None:
    """Put routes elsewhere: in the file of rules, with an event each. Raises BadInput and NotFound."""
    if standing is Standing.SHARED and not 0 < share <= 100:
        raise BadInput("A share lies above 0 and up to 100 percent.")
    given = share if standing is Standing.SHARED else 0.0
    with context.db.write() as connection:
        crossing = find_crossing(context, slug)
        known = _known(context, crossing)
        for name in names:
            if name not in known:
                raise NotFound(f"The old side has no route “{name}”.")
        before = {rule.route.name: rule for rule in crossing_rules(context, crossing).routes}
        entries = [Entry(route=known[name], standing=standing, share=given) for name in names]
        add_moves(
            connection,
            crossing.application_id,
            [Move(route=name, standing=standing, share=given, at=context.stamp, who=who, why=why) for name in names],
        )
        for name in names:
            was = before.get(written_name(known[name]))
            note(
                connection,
                context,
                crossing.application_id,
                who,
                f"route {name}",
                "moved",
                why=why,
                before=told_standing(was.standing, was.share) if was is not None else Standing.OLD.value,
                after=told_standing(standing, given),
            )
        _rewrite(crossing, entries)


def _rewrite(crossing: StoredCrossing, entries: Sequence[Entry]) -> None:
    """Write entries into the file of rules, inside the transaction that tells of them: one writer at a time, and nothing half done."""
    path = Path(crossing.rules)
    text = with_entries(rules_text(path), entries)
    read_rules(text)
    write_whole(path, text)


def told_standing(standing: Standing, share: float) -> str:
    """How a route stands, in words."""
    return f"{standing.value} {share:g} %" if standing is Standing.SHARED else standing.value


def _known(context: Context, crossing: StoredCrossing) -> dict[str, Route]:
    return {
        row.route.name: row.route for row in stored_routes(context.db, crossing.application_id) if row.side == "old"
    }


def _route(context: Context, crossing: StoredCrossing, name: str) -> Route:
    found = _known(context, crossing).get(name)
    if found is None:
        raise NotFound(f"The old side has no route “{name}”.")
    return found


def declare_safe(context: Context, slug: str, name: str, *, safe: bool, who: str, why: str) -> None:
    """Say that a route may be asked of both sides though it changes something: there is test data behind the new side."""
    with context.db.write() as connection:
        crossing = find_crossing(context, slug)
        route = _route(context, crossing, name)
        rules = crossing_rules(context, crossing)
        rule = next((each for each in rules.routes if each.route.name == written_name(route)), None)
        standing, share = (rule.standing, rule.share) if rule is not None else (Standing.OLD, 0.0)
        note(
            connection,
            context,
            crossing.application_id,
            who,
            f"route {name}",
            "may be asked twice" if safe else "may not be asked twice",
            why=why,
        )
        _rewrite(crossing, [Entry(route=route, standing=standing, share=share, safe=safe)])


def say_mended(context: Context, slug: str, name: str, who: str, why: str) -> None:
    """A difference was mended on the new side: comparisons count from now on."""
    crossing = find_crossing(context, slug)
    route = _route(context, crossing, name)
    with context.db.write() as connection:
        set_mended(connection, crossing.application_id, route, context.stamp)
        note(connection, context, crossing.application_id, who, f"route {name}", "differences mended", why=why)


def choose_slices(context: Context, slug: str, slices: Sequence[ChosenSlice], who: str) -> None:
    """The slices and their order, as a person wants them. Raises BadInput for a route that is in two."""
    crossing = find_crossing(context, slug)
    if len(slices) > MOST_SLICES:
        raise BadInput(f"There are more than {MOST_SLICES} slices.")
    seen: set[str] = set()
    for each in slices:
        for name in each.routes:
            if name in seen:
                raise BadInput(f"{name} stands in two slices.")
            seen.add(name)
    with context.db.write() as connection:
        put_slices(connection, crossing.application_id, slices)
        note(
            connection,
            context,
            crossing.application_id,
            who,
            "crossing",
            "slices chosen",
            after=", ".join(f"{each.name} ({len(each.routes)})" for each in slices)[:500],
        )
