"""What a stage needs on this machine before it is begun: runtimes, a package client, room, a clean repository, tests that pass today."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Final, Literal

from yoake.context.context import Context
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.errors import BadSource
from yoake.core.values.plans import Plan
from yoake.runner.branches import author_of, repository_at, uncommitted
from yoake.store.applications import Application, get_application
from yoake.store.runs import runs_of
from yoake.views.plan_stages import stage_of

_ROOM: Final = 4 * 1024**3
"""Bytes that two environments with their copies may take."""
_MOST_FILES: Final = 3


@dataclass(frozen=True, slots=True)
class PreflightItem:
    """One thing that has to be there. ``state``: there or missing; ``said``: what was found; ``remedy``: what to do where it is missing."""

    title: str
    state: Literal["there", "missing"]
    said: str
    remedy: str = ""


def preflight(context: Context, slug: str, number: int) -> list[PreflightItem]:
    """What stage ``number`` needs (0: today). Raises NotFound and BadInput."""
    application = get_application(context.db, slug)
    scan, _ = stage_of(context, application, number)
    return [
        *_runtimes(context, scan.plan, number),
        *_clients(context, scan.plan, number),
        _room(context),
        *_repository(application),
        _tests(context, application),
    ]


def _lines(context: Context, plan: Plan, number: int) -> dict[tuple[Coordinate, Line], None]:
    """(coordinate, line) of the runtimes before a stage and at it."""
    states = [plan.today, *(stage.state for stage in plan.stages)]
    wanted = states[max(number - 1, 0) : number + 1]
    return {(p, line): None for state in wanted for p, line in state if context.knowledge.ecosystems.is_runtime(p)}


def _runtimes(context: Context, plan: Plan, number: int) -> Iterator[PreflightItem]:
    for coordinate, line in _lines(context, plan, number):
        title = f"{context.knowledge.spoken(coordinate)} {line}"
        client = context.kit.clients.of(coordinate)
        if client.environment is None:
            yield PreflightItem(
                title, "missing", "runs are not written for it yet", "Run its tests where they run today."
            )
        elif said := client.available(line):
            yield PreflightItem(title, "there", said)
        else:
            yield PreflightItem(
                title,
                "missing",
                "not on this machine, and not to be had just now",
                f"Install {title} where Yoake runs; where its registry did not answer, look again.",
            )


def _clients(context: Context, plan: Plan, number: int) -> Iterator[PreflightItem]:
    clients = {
        context.kit.clients.of(coordinate).ecosystem.title: context.kit.clients.of(coordinate)
        for coordinate, _ in _lines(context, plan, number)
    }
    for client in clients.values():
        if client.installer is None:
            continue
        name, version = client.installer()
        if version:
            yield PreflightItem(name, "there", version)
        else:
            yield PreflightItem(name, "missing", "not on this machine", f"Install {name} where Yoake runs.")


def _room(context: Context) -> PreflightItem:
    place = context.home.folder if context.home.folder.exists() else Path.home()
    free = shutil.disk_usage(place).free
    said = f"{free / 1024**3:.0f} GB free"
    if free >= _ROOM:
        return PreflightItem("room on the disk", "there", said)
    return PreflightItem(
        "room on the disk", "missing", said, f"Make room for {_ROOM // 1024**3} GB where Yoake keeps its records."
    )


def _repository(application: Application) -> Iterator[PreflightItem]:
    """A clean tree and somebody who commits; nothing for what is no repository on this machine."""
    repository = repository_at(application.source.location)
    if repository is None:
        yield PreflightItem(
            "a repository on this machine", "missing", application.source.kind, "Without one, edits come as a patch."
        )
        return
    try:
        changed = uncommitted(repository)
        who = author_of(repository)
    except BadSource as error:
        yield PreflightItem("the repository", "missing", str(error), "See what git says there.")
        return
    if changed:
        named = ", ".join(changed[:_MOST_FILES]) + (
            f" and {len(changed) - _MOST_FILES} more" if len(changed) > _MOST_FILES else ""
        )
        yield PreflightItem(
            "nothing uncommitted",
            "missing",
            named,
            "Commit or put away what changed: branches begin at what is committed.",
        )
    else:
        yield PreflightItem("nothing uncommitted", "there", "clean")
    if who:
        yield PreflightItem("somebody who commits", "there", who)
    else:
        yield PreflightItem(
            "somebody who commits",
            "missing",
            "git knows no name",
            "git config user.name “…” and user.email “…”, in that repository.",
        )


def _tests(context: Context, application: Application) -> PreflightItem:
    """Whether its tests pass as it stands."""
    runs = runs_of(context.db, application.id, application.destination.id)
    newest = next((run for run in runs if run.stage <= 1 and not run.problem), None)
    remedy = "Run its tests on today’s lines first, so that what breaks later can be told from what was broken before."
    if newest is None:
        return PreflightItem("tests that pass today", "missing", "not run yet", remedy)
    failing = newest.counts.get("broke before", 0)
    if failing:
        return PreflightItem(
            "tests that pass today", "missing", f"{failing} fail already", "Mend them, or know which they are."
        )
    return PreflightItem("tests that pass today", "there", "green")
