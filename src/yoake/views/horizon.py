"""The Horizon as a window: filtered, ordered and grouped here, so that a screen asks for the rows that it shows."""

from __future__ import annotations

import gzip
import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from typing import Any, Final

from pydantic import TypeAdapter

from yoake.context.context import Context
from yoake.views.application_rows import WORST_FIRST, ApplicationRow, Portfolio, portfolio

_WORDS: Final = re.compile(r'\w+:"[^"]*"|"[^"]*"|\S+')
_FIELDS: Final = ("team", "owner", "destination", "name")
_LATEST: Final = date.max
_LEVEL: Final = 2  # a third larger than the best, in a quarter of the time


class Order(StrEnum):
    """In which order the rows stand; what has no figure comes last."""

    MARGIN = "margin"
    NAME = "name"
    ARRIVAL = "arrival"
    CLEAR = "clear"


class Grouping(StrEnum):
    """By what the rows are grouped."""

    NONE = "none"
    TEAM = "team"
    DESTINATION = "destination"
    OWNER = "owner"


@dataclass(frozen=True, slots=True)
class HorizonQuery:
    """Which rows: with these words (quoted ones together, ``team:`` and the like in one field), ordered, grouped."""

    text: str = ""
    order: Order = Order.MARGIN
    grouping: Grouping = Grouping.NONE


@dataclass(frozen=True, slots=True)
class Entry:
    """An application in the order of the rows: enough to select it or to go there."""

    slug: str
    name: str


@dataclass(frozen=True, slots=True)
class Group:
    """A group of rows that stand together."""

    title: str
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class HorizonWindow:
    """A window of the rows that fit. ``held``: applications in all; ``last_arrival``: of all, for the axis.

    ``entries``, all that fit in their order, come with the first window only.
    """

    heading: str
    subheading: str
    today: date
    last_arrival: date | None
    held: int
    total: int
    groups: list[Group]
    entries: list[Entry]
    offset: int
    rows: list[ApplicationRow]


_HEAD: Final = TypeAdapter(HorizonWindow)
_ROW: Final = TypeAdapter(ApplicationRow)


def packed_horizon(context: Context, query: HorizonQuery, offset: int, limit: int) -> bytes:
    """A window as JSON, packed with gzip: made once until something is written, the day or the knowledge changes."""
    key = (_stamp(context), query, offset, limit)
    packed: bytes = context.windows.get(key, lambda: gzip.compress(_json(context, query, offset, limit), _LEVEL))
    return packed


def _json(context: Context, query: HorizonQuery, offset: int, limit: int) -> bytes:
    """A window as JSON; rows are turned into it anew only where something changed."""
    window = horizon(context, query, offset, limit)
    head = _HEAD.dump_json(HorizonWindow(**{**_fields(window), "rows": []}))
    rows = b",".join(_row_json(context, row) for row in window.rows)
    return head.removesuffix(b"[]}") + b"[" + rows + b"]}"


def _fields(window: HorizonWindow) -> dict[str, Any]:
    return {name: getattr(window, name) for name in HorizonWindow.__slots__}


def _row_json(context: Context, row: ApplicationRow) -> bytes:
    held = context.row_json.get(row.slug)
    if held is None or held[0] is not row:
        held = context.row_json[row.slug] = (row, _ROW.dump_json(row))
    return held[1]


def horizon(context: Context, query: HorizonQuery, offset: int, limit: int) -> HorizonWindow:
    """A window of the applications that fit."""
    view = _portfolio(context)
    rows = [row for row in view.rows if _matches(row, query.text)]
    rows = _in_order(rows, query.order)
    groups = _groups(rows, query.grouping)
    if query.grouping is not Grouping.NONE:
        rows = [row for _, held in groups for row in held]
    arrivals = [row.arrival80 for row in view.rows if row.arrival80 is not None]
    subheading = view.subheading if query.order is Order.MARGIN else view.subheading.removeprefix(WORST_FIRST)
    return HorizonWindow(
        heading=view.heading,
        subheading=subheading,
        today=view.today,
        last_arrival=max(arrivals, default=None),
        held=len(view.rows),
        total=len(rows),
        groups=[Group(title, len(held)) for title, held in groups],
        entries=[] if offset else [Entry(row.slug, row.name) for row in rows],
        offset=offset,
        rows=rows[offset : offset + limit],
    )


def _stamp(context: Context) -> tuple[object, ...]:
    """What all rows depend on."""
    return (context.db.changes, context.today, context.knowledge.digest)


def _portfolio(context: Context) -> Portfolio:
    """All rows; made again only when something was written, the day or the knowledge changed."""
    stamp = _stamp(context)
    if context.horizon is None or context.horizon[0] != stamp:
        with context.packing:  # one makes it, the others wait for what it made
            if context.horizon is None or context.horizon[0] != stamp:
                context.horizon = (stamp, portfolio(context))
    held: Portfolio = context.horizon[1]
    return held


def _matches(row: ApplicationRow, text: str) -> bool:
    """Every word must occur in what the row says; ``team:`` and the like look at one field."""
    if not text.strip():
        return True
    stood = " ".join(f"{line.name} {line.line}" for line in row.today)
    parts = (row.name, row.slug, row.team, row.owner, row.destination, stood, " ".join(row.languages), _state(row))
    whole = " ".join(parts).lower()
    for found in _WORDS.findall(text.lower()):
        word = found.replace('"', "")
        name, colon, value = word.partition(":")
        narrowed = getattr(row, name).lower() if colon and value and name in _FIELDS else None
        if not (value in narrowed if narrowed is not None else word in whole):
            return False
    return True


def _state(row: ApplicationRow) -> str:
    if row.state != "ready":
        return row.state
    if row.arrived:
        return "arrived"
    if row.unsupported_since is not None:
        return "dark unsupported"
    return "unknown" if row.clear is None else "supported"


def _in_order(rows: list[ApplicationRow], order: Order) -> list[ApplicationRow]:
    keys: dict[Order, Callable[[ApplicationRow], Any]] = {
        Order.NAME: lambda row: row.name.lower(),
        Order.ARRIVAL: lambda row: row.arrival80 or _LATEST,
        Order.CLEAR: lambda row: 2.0 if row.clear is None else row.sure,
    }
    if order is Order.MARGIN:
        return rows  # as the portfolio has them
    key = keys[order]
    return sorted(rows, key=lambda row: (key(row), row.name.lower()))


def _groups(rows: list[ApplicationRow], grouping: Grouping) -> list[tuple[str, list[ApplicationRow]]]:
    """Groups in the order of their first row."""
    found: dict[str, list[ApplicationRow]] = {}
    if grouping is Grouping.NONE:
        return []
    for row in rows:
        found.setdefault(str(getattr(row, grouping.value)) or f"no {grouping.value}", []).append(row)
    return list(found.items())
