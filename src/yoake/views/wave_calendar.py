"""The plan as dates for other calendars: stages with their days, and the support ends they run up to."""

from __future__ import annotations

from yoake.context.context import Context
from yoake.formats.calendars import CalendarEntry, write_calendar
from yoake.formats.waves import percent
from yoake.views.wave_plans import Planned, planned
from yoake.views.waves import waves_view


def waves_calendar(context: Context) -> str:
    """Stages and support ends of today's plan as iCalendar."""
    return calendar_of(planned(context), context)


def calendar_of(plan: Planned, context: Context) -> str:
    """Stages and support ends of a plan as iCalendar."""
    view = waves_view(plan)
    entries = []
    for team in view.teams:
        for bar in team.stages:
            if bar.starts is None or bar.ends is None:
                continue
            p80 = f"live by {bar.p80:%-d %b %Y} with 80 %" if bar.p80 else ""
            title = f"{bar.name} {bar.number}: {bar.title}" if bar.number else f"{bar.name}: {bar.title}"
            entries.append(CalendarEntry(bar.key, bar.starts, bar.ends, f"{title} ({team.name})", p80))
        for wall in team.walls:
            if not wall.past:
                uid = f"{team.name}|{wall.coordinate}|{wall.line}"
                text = f"{', '.join(wall.applications)}. Missed with {percent(wall.chance)}."
                entries.append(
                    CalendarEntry(uid, wall.end, wall.end, f"{wall.name} {wall.line} ends ({team.name})", text)
                )
    return write_calendar("Yoake waves", entries, context.clock())
