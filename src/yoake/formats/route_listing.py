"""Routes as text and as JSON, for people and for other programs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Final

from yoake.core.crossing.traffic import Traffic, UnmatchedPath
from yoake.core.values.routes import Route

_WIDEST: Final = 60


def listing(routes: Sequence[Route], traffic: Traffic | None) -> dict[str, Any]:
    """``{"routes": […], "unmatched": […]}``. ``requests`` is null where no log was read."""
    return {
        "routes": [
            {
                "method": route.method,
                "path": route.path,
                "handler": route.handler,
                "file": route.file,
                "line": route.line,
                "framework": route.framework,
                "requests": traffic.requests(position) if traffic is not None else None,
            }
            for position, route in enumerate(routes)
        ],
        "unmatched": [_unmatched(each) for each in traffic.unmatched()] if traffic is not None else [],
    }


def _unmatched(each: UnmatchedPath) -> dict[str, Any]:
    return {"method": each.method, "path": each.path, "requests": each.requests, "answered": each.answered}


def listing_text(routes: Sequence[Route], traffic: Traffic | None) -> str:
    """A line a route, the most called first; then paths that no route fits."""
    rows: list[tuple[int, str]] = []
    for position, route in enumerate(routes):
        count = traffic.requests(position) if traffic is not None else 0
        shown = f"{count:>10,}  " if traffic is not None else ""
        where = f"{route.file}:{route.line}" if route.file else ""
        path = route.path if len(route.path) <= _WIDEST else f"{route.path[: _WIDEST - 1]}…"
        rows.append(
            (-count, f"{shown}{route.method:<9} {path:<{_WIDEST}} {route.handler}  {where}  [{route.framework}]")
        )
    lines = [row for _, row in sorted(rows, key=lambda row: row[0])]
    if traffic is None:
        return "\n".join([f"{len(routes)} routes", *lines]) + "\n"
    nobody = sum(1 for position in range(len(routes)) if not traffic.by_route.get(position))
    span = f" from {traffic.first_day} to {traffic.last_day}" if traffic.first_day else ""
    head = f"{len(routes)} routes; {traffic.lines:,} log lines{span}; {nobody} of them nobody called"
    unmatched = [f"{each.requests:>10,}  {each.method:<9} {each.path}" for each in traffic.unmatched(40)]
    tail = ["", "No route fits:", *unmatched] if unmatched else []
    told = [f"{traffic.other_lines:,} lines are no requests."] if traffic.other_lines else []
    return "\n".join([head, *lines, *tail, *told]) + "\n"
