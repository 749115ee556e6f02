"""The demo: make its repositories, take them in, scan their history commit by commit, and assign some of the work."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date, datetime, timedelta

from yoake.context.context import Context, open_context
from yoake.context.kit import Kit
from yoake.core.crossing.rules import Standing
from yoake.core.portfolio.capacity import Person
from yoake.core.values.coordinates import parse_target
from yoake.core.values.journeys import Shape
from yoake.demo.build import DemoApplication, build_repository, demo_applications, demo_people
from yoake.demo.calls import write_log
from yoake.demo.sides import NEW, OLD
from yoake.formats.tables import ApplicationRow
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.store.applications import ensure_destination, get_application, list_applications
from yoake.store.crossings import ChosenSlice
from yoake.store.facts_cache import FactsCache
from yoake.store.jobs import set_job
from yoake.store.teams import DaysOff
from yoake.store.waves import Outside
from yoake.usecases.adopt import adopt
from yoake.usecases.ask_vendor import set_outside
from yoake.usecases.count_calls import CallsWorker, calls_task, keep_calls, log_folder
from yoake.usecases.cross import begin_crossing, choose_slices, move_routes
from yoake.usecases.progress import Control
from yoake.usecases.read_sides import RoutesWorker, keep_sides, routes_task
from yoake.usecases.scan_application import scan_application
from yoake.usecases.set_capacity import add_days, set_team
from yoake.usecases.take_in import preview, take_in
from yoake.usecases.track import change_applications, change_step_fields
from yoake.usecases.watch import keep_forecast
from yoake.views.work import StepQuery, work

Say = Callable[[str], None]
DESTINATION = "Spring 2027 baseline"
_TARGETS = ("python@3.13", "pypi/django@5.2", "node@24")
_WHO = "Ines Calder"
_PATHS = (
    ("berth-planner", "danger", "One line at a time: the tariffs must not stop."),
    ("passenger-portal", "work", "Before the summer sailings."),
)


def make_demo(home: Home, kit: Kit, say: Say, now: datetime) -> None:
    """Make and scan the demo below ``home``; what is there already is kept, so a second run takes seconds."""
    applications = demo_applications()
    commits = max(len(a.commits) for a in applications)
    at = now - timedelta(days=7 * (commits - 1))
    context = open_context(home, kit, lambda: at)
    try:
        if list_applications(context.db):
            say("The demo portfolio is there already.")
            return
        cache = FactsCache(home.facts)
        extractor = Extractor(cache, kit.ecosystems)
        try:
            for upto in range(1, commits + 1):
                at = now - timedelta(days=7 * (commits - upto))
                _lay(context, applications, home, upto, say)
                if upto == 1:
                    _people(context, now)
                for application in list_applications(context.db):
                    scan_application(context, application.id, extractor, Control())
                keep_forecast(context)
                say(f"Scanned {len(applications)} applications, commit {upto} of {commits}.")
        finally:
            extractor.close()
            cache.close()
        _take_paths(context)
        _assign(context, now)
        _tell(context)
        for days, do in _CROSSING:
            at = now - timedelta(days=days)
            do(context)
        _calls(context, now)
    finally:
        context.db.close()


def _lay(context: Context, applications: list[DemoApplication], home: Home, upto: int, say: Say) -> None:
    """Bring every repository to its ``upto``-th commit; the first time, take all of them in."""
    places = {a.name: build_repository(a, home.folder / "harrowmere", upto) for a in applications}
    if upto > 1:
        return
    with context.db.write() as connection:
        ensure_destination(connection, DESTINATION, tuple(parse_target(text) for text in _TARGETS))
    rows = [
        ApplicationRow(
            number=i,
            name=a.name,
            source=str(places[a.name]),
            ref="main",
            subfolder="",
            owner=a.owner,
            team=a.team,
            destination=a.destination,
        )
        for i, a in enumerate(applications, 1)
    ]
    take_in(context, preview(context, rows, DESTINATION), _WHO)
    for application in applications:
        if application.days_per_week is not None:
            change_applications(context, [application.name], {"days_per_week": application.days_per_week}, _WHO)
    say(f"Made {len(places)} repositories below {home.folder / 'harrowmere'}.")


def _take_paths(context: Context) -> None:
    """Two teams have chosen their way."""
    for slug, choice, why in _PATHS:
        owner = get_application(context.db, slug).owner
        adopt(context=context, slug=slug, set_name="", choice=choice, shape=Shape(), who=owner, why=why)


def _tell(context: Context) -> None:
    """What is closed took somebody a while, and they said so."""
    for number, step in enumerate(work(context, StepQuery(state="closed"), limit=5_000).rows):
        if step.minutes > 0:
            change_step_fields(
                context, step.id, {}, step.owner or _WHO, spent=_TOOK[number % len(_TOOK)] * step.minutes
            )


def _people(context: Context, now: datetime) -> None:
    """Who is in the teams, the days on which they are not, and a vendor who moves one of the applications."""
    people = demo_people()
    for name, (features, held) in people.teams.items():
        set_team(context, name, features, [Person(name=who, days=days) for who, days in held.items()], _WHO)
    for kind, team, person, first, last, title in people.days:
        begins = _next(first, now.date())
        add_days(
            context,
            DaysOff(kind=kind, team=team, person=person, first=begins, last=_next(last, begins), title=title),
            _WHO,
        )
    promised = now.date() + timedelta(days=75)
    outside = Outside(
        vendor="Weighbridge Works",
        contact="service desk",
        asked=now.date() - timedelta(days=30),
        answer="in their spring release",
        promised=promised,
        chase=promised - timedelta(days=21),
        arrived=None,
    )
    set_outside(context, "freight-scales", outside, _WHO)


def _begin_crossing(context: Context) -> None:
    """The desk at the quay moves piece by piece: the routes of both sides as they were then."""
    job = begin_crossing(context, OLD, NEW, "http://127.0.0.1:8711", "http://127.0.0.1:8712", _CROSSES)
    number = get_application(context.db, OLD).id
    task = routes_task(context, number)
    as_it_was = replace(task, old=replace(task.old, ref="main~1"))
    keep_sides(context, number, RoutesWorker(context.kit)(as_it_was, lambda _what, _how: None))
    with context.db.write() as connection:
        set_job(connection, job, "done", context.stamp)  # the lines above were it


def _read_again(context: Context) -> None:
    """A scan of the old side sees a route that was added meanwhile."""
    number = get_application(context.db, OLD).id
    keep_sides(context, number, RoutesWorker(context.kit)(routes_task(context, number), lambda _what, _how: None))


def _move(standing: Standing, share: float, why: str, *routes: str) -> Callable[[Context], None]:
    def do(context: Context) -> None:
        move_routes(context=context, slug=OLD, names=routes, standing=standing, share=share, who=_CROSSES, why=why)

    return do


_TOOK = (1.6, 0.9, 1.2, 0.7)  # times the estimate

_CROSSES = "Tomas Reeve"
_SLICES = (
    ChosenSlice("sailings", ("GET /sailings", "GET /sailings/{day}", "GET /ports/{port}/board")),
    ChosenSlice("tickets", ("GET /tickets/{code}", "POST /tickets", "POST /tickets/{code}/refund", "GET /fares")),
    ChosenSlice("account", ("POST /login", "GET /account")),
    ChosenSlice("back office", ("GET /office/manifests", "GET /office/loads")),
)


def _slice(context: Context) -> None:
    choose_slices(context, OLD, _SLICES, _CROSSES)


_CROSSING: tuple[tuple[int, Callable[[Context], None]], ...] = (
    (26, _begin_crossing),
    (26, _slice),
    (25, _move(Standing.MIRRORED, 0, "Read only, no session.", "GET /sailings", "GET /sailings/{day}")),
    (21, _move(Standing.SHARED, 25, "All answers alike over four days.", "GET /sailings", "GET /sailings/{day}")),
    (18, _move(Standing.NEW, 0, "Nobody noticed.", "GET /sailings")),
    (12, _move(Standing.SHARED, 60, "A week at a quarter.", "GET /sailings/{day}")),
    (9, _move(Standing.MIRRORED, 0, "Next slice.", "GET /ports/{port}/board", "GET /tickets/{code}", "GET /fares")),
    (7, _read_again),
    (4, _move(Standing.SHARED, 5, "Boards are alike.", "GET /ports/{port}/board")),
)


def _calls(context: Context, now: datetime) -> None:
    """Four weeks of calls out of the log of the old side's server."""
    write_log(log_folder(context, OLD) / "access.log.gz", now.date() - timedelta(days=1))
    number = get_application(context.db, OLD).id
    keep_calls(context, number, CallsWorker(context.kit)(calls_task(context, number), lambda _what, _how: None))


def _next(month_day: str, since: date) -> date:
    """The next day of that name, today included."""
    month, day = map(int, month_day.split("-"))
    found = date(since.year, month, day)
    return found if found >= since else date(since.year + 1, month, day)


def _assign(context: Context, now: datetime) -> None:
    """The first steps of each application have an owner; the nearest have a date."""
    owners = {a.slug: a.owner for a in list_applications(context.db)}
    count: dict[str, int] = {}
    for step in work(context, StepQuery(), limit=5_000).rows:
        seen = count[step.slug] = count.get(step.slug, 0) + 1
        if seen > 3 or step.state == "closed" or not owners[step.slug]:
            continue
        due = (now + timedelta(days=7 * seen)).date().isoformat() if seen < 3 else None
        change_step_fields(context, step.id, {"owner": owners[step.slug], "due": due}, _WHO)
