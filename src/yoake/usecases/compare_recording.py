"""Ask both sides of a crossing what was recorded, in a process of its own, and keep how alike they answered."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from pathlib import Path

from yoake.context.context import Context
from yoake.context.kit import Kit
from yoake.core.crossing.rules import CrossingRules, RouteRule, Side, Standing
from yoake.core.values.errors import NotFound
from yoake.formats.har import RecordedRequest, read_har
from yoake.store.applications import application_by_id
from yoake.store.crossings import RECORDING_COMPARED, Compared, crossing_of, keep_comparisons, stored_routes
from yoake.store.events import Event, add_event
from yoake.store.jobs import add_application_job
from yoake.usecases.compare_sides import SidesCompared, compare_sides
from yoake.usecases.cross import crossing_rules
from yoake.usecases.progress import Progress


@dataclass(frozen=True, slots=True)
class RecordingTask:
    """Recordings that wait, and the rules, with one for every route of the old side."""

    recordings: tuple[Path, ...]
    rules: CrossingRules


@dataclass(frozen=True, slots=True)
class RecordingCompared:
    """How alike both sides answered; ``others`` are entries that are no requests that can be asked again."""

    recordings: tuple[Path, ...]
    compared: SidesCompared
    others: int


class RecordingWorker:
    """Asks."""

    def __init__(self, _kit: Kit) -> None:
        pass

    def __call__(self, task: RecordingTask, tell: Callable[[str, object], None]) -> RecordingCompared:
        """Both sides, asked everything that may be asked twice. Raises BadInput."""
        requests: list[RecordedRequest] = []
        others = 0
        for path in task.recordings:
            recording = read_har(path.read_bytes())
            requests.extend(recording.requests)
            others += recording.others

        def told(done: int, whole: int) -> None:
            tell("said", Progress("asking both sides", done, whole))

        return RecordingCompared(task.recordings, compare_sides(task.rules, requests, told), others)


def recording_folder(context: Context, slug: str) -> Path:
    """Where recordings wait to be asked."""
    folder = context.home.folder / "crossings" / slug / "recordings"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def ask_recording(context: Context, application_id: int, who: str) -> int:
    """Have the recordings that wait compared; answers the job."""
    with context.db.write() as connection:
        return add_application_job(connection, "recording", application_id, who, context.stamp)


def recording_task(context: Context, application_id: int) -> RecordingTask:
    """All recordings that wait, as a task. Raises NotFound and BadInput."""
    crossing = crossing_of(context.db, application_id)
    if crossing is None:
        raise NotFound("The crossing was ended meanwhile.")
    rules = crossing_rules(context, crossing)
    named = {rule.route.name for rule in rules.routes}
    routes = [row.route for row in stored_routes(context.db, application_id) if row.side is Side.OLD]
    unmoved = [
        RouteRule(route=route, standing=Standing.OLD, comparison=rules.comparison)
        for route in routes
        if route.name not in named
    ]
    slug = application_by_id(context.db, application_id).slug
    waiting = sorted(recording_folder(context, slug).glob("*.har"))
    return RecordingTask(tuple(waiting), replace(rules, routes=(*rules.routes, *unmoved)))


def keep_recording(context: Context, application_id: int, found: RecordingCompared, who: str = "") -> str:
    """Keep every comparison and drop the recordings; returns a word on it."""
    at = context.stamp
    word = summary(found)
    with context.db.write() as connection:
        if crossing_of(context.db, application_id) is None:
            return "the crossing was ended meanwhile"
        rows = [
            Compared(
                route=pair.route,
                at=at,
                alike=not pair.differences,
                path=pair.path[:500],
                old_ms=pair.old_ms,
                new_ms=pair.new_ms,
                differences=tuple(asdict(each) for each in pair.differences),
            )
            for pair in found.compared.kept
        ]
        keep_comparisons(connection, application_id, rows)
        event = Event(
            at=at, who=who, application=application_id, subject="crossing", what=RECORDING_COMPARED, after=word
        )
        add_event(connection, event)
    for recording in found.recordings:
        recording.unlink(missing_ok=True)
    return word


def summary(found: RecordingCompared) -> str:
    """What came of a recording, in a sentence: how many are alike, the first causes, and what was not asked."""
    compared = found.compared
    said = [f"{compared.alike:,} of {compared.pairs:,} answers are alike"]
    said += [
        f"{cause.pairs:,} {'differs' if cause.pairs == 1 else 'differ'} in {cause.difference.cause}"
        for cause in compared.ordered[:3]
    ]
    if compared.unsafe:
        said.append(f"{compared.unsafe:,} not asked, since they change something")
    if compared.unmatched:
        said.append(f"{compared.unmatched:,} not asked, since no rule names their route")
    if found.others:
        entries = "1 entry is no request" if found.others == 1 else f"{found.others:,} entries are no requests"
        said.append(f"{entries} that can be asked again")
    return "; ".join(said)
