"""Work by stage and by person: what can be done now, and what the rest waits for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Final, Literal

from yoake.context.context import Context
from yoake.core.portfolio.stages import Problem
from yoake.store.applications import Application, get_application, list_applications
from yoake.store.step_groups import GroupCount, count_groups, open_by_stage
from yoake.store.steps import MOST_COUNTED, narrowed
from yoake.views.wave_plans import Planned, plan_at_hand
from yoake.views.work import StepQuery, wanted_steps

By = Literal["stage", "person"]
_MOST: Final = 500  # groups that are told: nobody reads on
_FAR: Final = date.max


@dataclass(frozen=True, slots=True, kw_only=True)
class StepGroup:
    """Steps that belong together: of one stage of an application, or of one person (``slug`` empty).

    ``waits``: what has to be there before; empty where it can be done now. ``begins``, ``live``: of the stage as the portfolio
    was put into weeks, at 50 %; None where nobody said who is in its team. What comes before any move is to be done when the first
    stage begins: ``live`` then.
    """

    key: str
    slug: str
    application: str
    team: str
    owner: str
    stage: int
    title: str
    steps: int
    minutes: float
    late: int
    again: int
    waits: list[str]
    begins: date | None
    live: date | None


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkGroups:
    """Groups of steps, what can be done now first. ``more``: there are groups or steps beyond those that are told."""

    by: By
    groups: list[StepGroup]
    now: int
    more: bool


def work_groups(context: Context, query: StepQuery, by: By) -> WorkGroups:
    """The steps that fit, by stage or by person. Raises NotFound for an unknown application."""
    plan = plan_at_hand(context) if by == "stage" else None
    key = ("groups", query, by, context.today, context.db.changes, plan.identity if plan is not None else "")
    made: WorkGroups = context.windows.get(key, lambda: _grouped(context, query, by, plan))
    return made


def _grouped(context: Context, query: StepQuery, by: By, plan: Planned | None) -> WorkGroups:
    counts = _counts(context, query, by)
    groups = _by_person(counts) if by == "person" else _by_stage(context, counts, plan)
    cut = len(groups) > _MOST or (_is_filtered(query) and sum(c.steps for c in counts) >= MOST_COUNTED)
    return WorkGroups(by=by, groups=groups[:_MOST], now=sum(1 for g in groups[:_MOST] if not g.waits), more=cut)


def _is_filtered(query: StepQuery) -> bool:
    return query.whose != "everyone" or query.state != "open" or bool(query.text.strip())


def _counts(context: Context, query: StepQuery, by: By) -> list[GroupCount]:
    if by == "stage" and not _is_filtered(query):
        number = get_application(context.db, query.slug).id if query.slug else None
        return open_by_stage(context.db, context.today, number)
    return count_groups(context.db, narrowed(context.db, wanted_steps(context, query)), by_owner=by == "person")


def _by_person(counts: Sequence[GroupCount]) -> list[StepGroup]:
    """People by what is late, then by how much they have; what is nobody's comes last."""
    held = sorted(counts, key=lambda c: (not c.owner, -c.late, -c.again, -c.steps, c.owner.lower()))
    return [
        StepGroup(
            key=f"of {count.owner}",
            slug="",
            application="",
            team="",
            owner=count.owner,
            stage=0,
            title=count.owner or "nobody",
            steps=count.steps,
            minutes=count.minutes,
            late=count.late,
            again=count.again,
            waits=[],
            begins=None,
            live=None,
        )
        for count in held
    ]


def _by_stage(context: Context, counts: Sequence[GroupCount], plan: Planned | None) -> list[StepGroup]:
    """Stages that wait for nothing first: those with something late or found again, then by when they are to be live. Of those
    that are not told only one more is made, so that it is known that there are more."""
    applications = {a.id: a for a in list_applications(context.db)}
    stages = _Stages(plan.portfolio.problem if plan is not None else None)
    dates, _ = context.stage_dates
    ranked = []
    for count in counts:
        application = applications.get(count.application_id)
        if application is None:
            continue
        own = dates.get(application.slug, {})
        planned = own.get(count.stage)
        next_begin = min((d.starts50 for d in own.values()), default=None) if count.stage == 0 else None
        live = planned.arrives50 if planned is not None else next_begin
        waits = stages.is_waiting(application, count.stage)
        key = (waits, -count.late, -count.again, live or _FAR, application.name.lower(), count.stage)
        ranked.append((key, count, application, planned.starts50 if planned is not None else None, live))
    ranked.sort(key=lambda row: row[0])
    return [
        StepGroup(
            key=f"{application.slug}|{count.stage}",
            slug=application.slug,
            application=application.name,
            team=application.team,
            owner=application.owner,
            stage=count.stage,
            title=stages.title(application, count.stage),
            steps=count.steps,
            minutes=count.minutes,
            late=count.late,
            again=count.again,
            waits=stages.waits(application, count.stage),
            begins=begins,
            live=live,
        )
        for _, count, application, begins, live in ranked[: _MOST + 1]
    ]


class _Stages:
    """Stages of the plan of the portfolio by application and number; nothing is known before there is one."""

    def __init__(self, problem: Problem | None) -> None:
        self.problem = problem
        self.held: dict[tuple[str, int], list[int]] = {}
        self.vendors: dict[
            str, str
        ] = {}  # who moves an application that others look after: nothing of it is ours to do
        for i, stage in enumerate(problem.stages if problem is not None else ()):
            self.held.setdefault((stage.application, stage.number), []).append(i)
            if stage.waits is not None:
                self.vendors[stage.application] = stage.waits[1]

    def title(self, application: Application, number: int) -> str:
        """Where a stage leads."""
        if number == 0:
            return "before any version moves"
        titles = (
            dict.fromkeys(self.problem.stages[i].title for i in self._of(application, number)) if self.problem else {}
        )
        return f"stage {number}: {', '.join(titles)}" if titles else f"stage {number}"

    def is_waiting(self, application: Application, number: int) -> bool:
        """Whether a stage waits for anything."""
        if application.slug in self.vendors:
            return True
        if self.problem is None or not self._of(application, number):
            return number > 1  # nothing is planned yet: what is sure is that stages come one after the other
        stages, before = self.problem.stages, self.problem.before
        return any(
            stages[j].application != application.slug or stages[j].number != number
            for i in self._of(application, number)
            for j in before[i]
        )

    def waits(self, application: Application, number: int) -> list[str]:
        """What a stage waits for, in words."""
        found: dict[str, None] = {}
        if vendor := self.vendors.get(application.slug):
            found[f"the release of {vendor}"] = None
        rows = self._of(application, number)
        if self.problem is None or not rows:
            return [*found, *([f"stage {number - 1}"] if number > 1 else [])]
        for i in rows:
            stage = self.problem.stages[i]
            for j in self.problem.before[i]:
                other = self.problem.stages[j]
                if other.application != stage.application:
                    found[f"{other.name}: {other.title}"] = None
                elif other.number != number:
                    found[
                        "what comes before any move" if other.number == 0 else f"stage {other.number}: {other.title}"
                    ] = None
        return list(found)

    def _of(self, application: Application, number: int) -> list[int]:
        return self.held.get((application.slug, number), [])
