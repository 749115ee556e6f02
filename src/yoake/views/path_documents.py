"""Paths written down, for people and programs outside."""

from __future__ import annotations

import json

from yoake.context.context import Context
from yoake.core.planning.alternatives import OBJECTIVES
from yoake.core.values.errors import NotFound
from yoake.core.values.journeys import Shape
from yoake.formats.plan_text import conflict_json, refused_json, ways_csv, ways_json, ways_markdown, ways_mermaid
from yoake.store.applications import get_application
from yoake.store.scans import latest_scan
from yoake.views.alternatives import look_at


def write_path(context: Context, slug: str, form: str, choice: str, set_name: str | None, shape: Shape) -> str:
    """One set's ways as JSON or CSV, or one way as Markdown or Mermaid. Raises NotFound."""
    application = get_application(context.db, slug)
    scan = latest_scan(context.db, application.id, application.destination.id)
    look = look_at(context, application, scan, set_name, shape) if scan is not None else None
    if look is None:
        raise NotFound("There is no path to write down before a scan knows what this stands on.")
    if form == "csv":
        return ways_csv(look.ways)
    if form == "json":
        body = {
            "paths": ways_json(look.made.name, look.ways, OBJECTIVES),
            "refused": refused_json(look.ways),
            "noWay": conflict_json(look.ways),
        }
        return json.dumps(body, indent=1, ensure_ascii=False) + "\n"
    way = look.ways.way(choice)
    if way is None:
        raise NotFound(f"There is no option “{choice}” here.")
    if form == "mermaid":
        return ways_mermaid(way.plan, context.ecosystems.spoken)
    titles = {f.key: f.title for f in look.ways.problem.journey.findings}
    return ways_markdown(application.name, way, titles, context.today, context.ecosystems.spoken)
