"""Make the plan of the newest scan anew after people decided something."""

from __future__ import annotations

from yoake.context.context import Context
from yoake.core.values.modules import oldest_lines
from yoake.store.adopted_paths import adopted_paths
from yoake.store.applications import (
    Application,
)
from yoake.store.scans import findings_of, latest_scan, packages_of_scan, put_plan, sets_of_scan
from yoake.store.steps import renew_live
from yoake.store.waivers import live_waivers
from yoake.usecases.stage_steps import renew_stage_steps
from yoake.views.journeys import plan_in


def replan(context: Context, application: Application) -> None:
    """The plan on the newest scan, without what is waived now, along what was adopted; its steps follow."""
    scan = latest_scan(context.db, application.id, application.destination.id)
    if scan is None:
        return
    live = live_waivers(context.db, application.id, context.today)
    findings = [f for f in findings_of(context.db, scan.id) if f.key not in live]
    days = application.days_per_week or context.knowledge.effort.days_per_week
    adopted = adopted_paths(context.db, application.id, application.destination.id)
    sets, packages = sets_of_scan(context.db, scan.id), packages_of_scan(context.db, scan.id)
    plan = plan_in(
        sets=sets,
        packages=packages,
        findings=findings,
        knowledge=context.knowledge,
        today=context.today,
        days_per_week=days,
        adopted=adopted,
    )
    with context.db.write() as connection:
        put_plan(connection, scan.id, plan)
        renew_stage_steps(connection, context, application, plan, oldest_lines(scan.today), adopted=bool(adopted))
        renew_live(connection, application.id)
