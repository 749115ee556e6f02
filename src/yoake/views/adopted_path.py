"""The path that was adopted for a set of modules: what is left of it, and what changed under it."""

from __future__ import annotations

from dataclasses import dataclass

from yoake.context.context import Context
from yoake.core.planning.adopted_plan import dearer, follow
from yoake.core.planning.alternatives import Ways
from yoake.core.values.journeys import STAYING
from yoake.core.values.plans import Plan
from yoake.formats.plan_text import OBJECTIVE_TITLES, TITLES, moves_text
from yoake.store.adopted_paths import AdoptedPath, adopted_paths
from yoake.store.applications import Application
from yoake.store.scans import StoredScan
from yoake.views.alternatives import look_at
from yoake.views.path_records import Adopted, Finished


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
class Taken:
    """An adopted path with what is left of it; ``plan`` is None when it cannot be walked any more."""

    choice: str
    plan: Plan | None
    view: Adopted


def adopted_view(context: Context, application: Application, scan: StoredScan, set_name: str) -> Taken | None:
    """What was adopted for a set, against a search of today bent as it was then; None when nothing was."""
    path = adopted_paths(context.db, application.id, application.destination.id).get(set_name)
    if path is None:
        return None
    look = look_at(context, application, scan, set_name, path.shape)
    return taken_of(path, look.ways) if look is not None else None


def taken_of(path: AdoptedPath, ways: Ways) -> Taken:
    """One adopted path against a search on today's evidence."""
    way = ways.way(path.choice)
    if path.choice in STAYING:
        return Taken(path.choice, None, _view(path, [], [], fresh=False))
    followed = follow(ways.problem, path.plan, titled=way.plan if way is not None else None)
    moved = list(followed.moved)
    said = dearer(followed.plan, way.plan) if followed.plan is not None and way is not None else ""
    if said:
        moved.append(said)
    earlier = [Finished(title) for title in path.finished]
    now = [Finished(stage.title or moves_text(stage, ways.problem.knowledge.spoken)) for stage in followed.finished]
    finished = [*earlier, *(f for f in now if f not in earlier)]
    return Taken(path.choice, followed.plan, _view(path, moved, finished, fresh=bool(moved) and way is not None))


def _view(path: AdoptedPath, moved: list[str], finished: list[Finished], *, fresh: bool) -> Adopted:
    title = title_of_choice(path.choice)
    return Adopted(
        choice=path.choice,
        title=title,
        at=path.adopted_at,
        who=path.by_whom,
        why=path.why,
        moved=moved,
        finished=finished,
        fresh=fresh,
        version=path.version,
    )


def title_of_choice(choice: str) -> str:
    """What a choice is called."""
    return OBJECTIVE_TITLES.get(choice) or TITLES[choice]


def adoption_of(path: AdoptedPath | None) -> Adoption | None:
    """A stored adoption as it is sent."""
    if path is None:
        return None
    shape = path.shape
    return Adoption(
        set=path.set_name,
        choice=path.choice,
        title=title_of_choice(path.choice),
        pin=[str(t) for t in shape.pins],
        avoid=[str(t) for t in shape.avoid],
        order=[f"{first.short}>{then.short}" for first, then in shape.order],
        out=sorted(coordinate.short for coordinate in shape.out),
        drop=sorted(coordinate.short for coordinate in shape.dropped),
        who=path.by_whom,
        why=path.why,
        at=path.adopted_at,
        version=path.version,
    )
