"""The window of a finding: where the old way, the new way and both are offered."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Final

from yoake.core.values.coordinates import Coordinate, Line, line_key
from yoake.core.values.findings import Window

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.values.journeys import Span
    from yoake.core.values.words import WindowState

NO_NEED: Final = "none"


def window_of(
    knowledge: Knowledge,
    spans: Mapping[Coordinate, Span],
    coordinate: Coordinate,
    cause: str,
    replacement: str | None,
    bites_at: Line | None,
    since: str | None = None,
) -> Window:
    """Window of one lost thing over the lines of its own coordinate. ``since``: the line from which the new way works."""
    span = spans[coordinate]
    names = _axis(knowledge, coordinate, span)
    old = _old_lines(knowledge, coordinate, cause, bites_at, names)
    new = _new_lines(knowledge, spans, coordinate, replacement, names)
    new = tuple(line for line in new if since is None or line >= since)
    both = tuple(line for line in old if line in new)
    return Window(
        state=_state(replacement=replacement, old=old, both=both, new=new, span=span, axis=names, bites_at=bites_at),
        coordinate=coordinate,
        axis=names,
        old=old,
        new=new,
        both=both,
        here=span.today,
        goal=span.goal,
    )


def _axis(knowledge: Knowledge, coordinate: Coordinate, span: Span) -> tuple[Line, ...]:
    timeline = knowledge.timelines.get(coordinate)
    lines = set(timeline.names if timeline else ())
    lines.update((span.today, span.goal))
    return tuple(sorted(lines, key=line_key))


def _old_lines(
    knowledge: Knowledge, coordinate: Coordinate, cause: str, bites_at: Line | None, axis: tuple[Line, ...]
) -> tuple[Line, ...]:
    timeline = knowledge.timelines.get(coordinate)
    ruled = bites_at is not None and (timeline is None or cause.startswith("syntax.") or not timeline.ask(cause).offers)
    if timeline is None or ruled:
        return tuple(line for line in axis if bites_at is None or line < bites_at)
    offered = timeline.lines_in(timeline.ask(cause).offers)
    if bites_at is not None and bites_at in offered:  # the name stays, and does something else from there on
        offered = [line for line in offered if line < bites_at]
    return tuple(line for line in axis if line in offered)


def _new_lines(
    knowledge: Knowledge,
    spans: Mapping[Coordinate, Span],
    coordinate: Coordinate,
    replacement: str | None,
    axis: tuple[Line, ...],
) -> tuple[Line, ...]:
    """Lines (of the finding's coordinate) on which the new way works."""
    if replacement is None:
        return ()
    if replacement == NO_NEED:
        return axis
    path = knowledge.path_of(coordinate, replacement)
    head = path.split(".", 1)[0]
    owner = knowledge.import_names(knowledge.language_of(coordinate)).get(head)
    if owner is None:
        return (
            _lines_of_package(knowledge, coordinate, head, axis) if knowledge.ecosystems.is_runtime(coordinate) else ()
        )
    timeline = knowledge.timelines[owner]
    answer = timeline.ask(path)
    if owner == coordinate:
        offered = timeline.lines_in(answer.offers | answer.unknown)
        return tuple(line for line in axis if line in offered)
    position = timeline.floor(spans[owner].today) if owner in spans else len(timeline.lines) - 1
    return axis if position is not None and (answer.offers | answer.unknown) >> position & 1 else ()


def _lines_of_package(knowledge: Knowledge, runtime: Coordinate, name: str, axis: tuple[Line, ...]) -> tuple[Line, ...]:
    """Lines of a runtime on which some release of another package runs, by its release record."""
    owner = knowledge.ecosystems.of(runtime)
    record = knowledge.catalogues.get(owner.package(name)) if owner is not None else None
    return tuple(line for line in axis if record is not None and record.fits.get(line))


def _state(
    replacement: str | None,
    old: tuple[Line, ...],
    both: tuple[Line, ...],
    new: tuple[Line, ...],
    span: Span,
    axis: tuple[Line, ...],
    bites_at: Line | None,
) -> WindowState:
    if replacement is None:
        return "unknown"
    here = max((line for line in axis if line <= span.today), key=line_key, default=span.today)
    gone = bool(old) and here > old[-1]
    if here in both or (gone and here in new):  # what is gone today already can only be mended
        return "now"
    if not new:
        return "unknown"
    low, high = line_key(span.today), line_key(bites_at or span.goal)
    return "hop" if any(low <= line_key(line) <= high for line in both) else "switch"
