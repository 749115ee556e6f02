"""What Yoake knows: coordinates as a window, and the lines of one with their dates."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from yoake.context.context import Context
from yoake.core.values.coordinates import Coordinate, parse_coordinate
from yoake.core.values.errors import NotFound


@dataclass(frozen=True, slots=True)
class CoordinateHead:
    """A coordinate in the list, with the first and the last line that is known."""

    coordinate: str
    short: str
    first: str
    last: str


@dataclass(frozen=True, slots=True)
class KnowledgeWindow:
    """A window of the coordinates whose name fits; ``known`` and ``captured`` count all coordinates and captured lines."""

    known: int
    captured: int
    total: int
    offset: int
    rows: list[CoordinateHead]


@dataclass(frozen=True, slots=True, kw_only=True)
class LineInfo:
    """One line of a coordinate. ``captured``: its surface was read, from ``release``, as ``how`` says."""

    line: str
    released: date | None
    support_ends: date | None
    kind: str
    runs_on: list[str]
    captured: bool
    release: str
    how: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CoordinateInfo:
    """What is known of one coordinate; ``recalled``: its dates were not verified against a source."""

    coordinate: str
    short: str
    name: str
    symbols: int
    rules: int
    source: str
    as_of: date | None
    recalled: bool
    lines: list[LineInfo]


def knowledge_window(context: Context, text: str, offset: int, limit: int) -> KnowledgeWindow:
    """A window of what is known, runtimes first."""
    digest = context.knowledge.digest
    heads, captured = context.known.get(digest, lambda: _heads(context))
    fitting = [head for head in heads if text.lower() in head.short.lower()]
    return KnowledgeWindow(len(heads), captured, len(fitting), offset, fitting[offset : offset + limit])


def _heads(context: Context) -> tuple[list[CoordinateHead], int]:
    knowledge = context.knowledge
    coordinates = sorted(
        {*knowledge.lifecycles, *knowledge.timelines}, key=lambda p: (not p.startswith("pkg:generic/"), p)
    )
    heads = []
    for coordinate in coordinates:
        lines = knowledge.lines(coordinate)
        first, last = (lines[0], lines[-1]) if lines else ("", "")
        heads.append(CoordinateHead(coordinate, coordinate.short, first, last))
    return heads, sum(len(head.lines) for head in knowledge.heads.values())


def coordinate_info(context: Context, text: str) -> CoordinateInfo:
    """What is known of one coordinate. Raises BadCoordinate and NotFound."""
    knowledge, coordinate = context.knowledge, context.knowledge.ecosystems.canonical(parse_coordinate(text))
    if coordinate not in knowledge.lifecycles and coordinate not in knowledge.timelines:
        raise NotFound(f"Nothing is known of “{text}” yet. Make it known, on the Knowledge screen.")
    lifecycle, head, rules = (
        knowledge.lifecycles.get(coordinate),
        knowledge.heads.get(coordinate),
        knowledge.rule_files.get(coordinate),
    )
    return CoordinateInfo(
        coordinate=coordinate,
        short=coordinate.short,
        name=context.ecosystems.spoken(coordinate),
        symbols=head.symbols if head else 0,
        rules=len(rules.rules) if rules else 0,
        source=lifecycle.source if lifecycle else "",
        as_of=lifecycle.as_of if lifecycle else None,
        recalled=lifecycle.recalled if lifecycle else False,
        lines=_lines(context, coordinate),
    )


def _lines(context: Context, coordinate: Coordinate) -> list[LineInfo]:
    knowledge = context.knowledge
    head, record = knowledge.heads.get(coordinate), knowledge.catalogues.get(coordinate)
    captured = {line.line: line for line in head.lines} if head else {}
    dates = {knowledge.line_of(coordinate, d.release): d.released for d in record.details} if record else {}
    lines = []
    for line in knowledge.lines(coordinate):
        facts, read = knowledge.line_facts(coordinate, line), captured.get(line)
        lines.append(
            LineInfo(
                line=line,
                released=facts.released if facts else dates.get(line),
                support_ends=facts.support_ends if facts else None,
                kind=facts.kind if facts else "",
                runs_on=list(facts.runs_on) if facts else [],
                captured=read is not None,
                release=read.release if read else "",
                how=read.how if read else "",
            )
        )
    return lines
