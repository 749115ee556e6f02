"""From paths to stages that can be put into weeks: what each waits for in its own path, in libraries of ours, and at vendors."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Final

from yoake.core.planning.dates import stays
from yoake.core.portfolio.capacity import Person, Team
from yoake.core.portfolio.stages import LATE_DAY, Due, WaveStage
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.plans import Plan, Stage, stage_key

BEFORE: Final = "before"
OUTSIDE: Final = "outside"
_NOTHING: Final = 0.01  # days of work that are not worth a stage of their own

Ends = Callable[[Coordinate, Line], date | None]
"""The day support of a line ends, by coordinate and line; None where that is not known."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Awaited:
    """What somebody else moves: who, and the day they promised; None: none was promised."""

    vendor: str
    promised: date | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Mover:
    """An application with its path. ``teams``: shares of its work, adding up to 1. ``named``: coordinates of its destination.

    ``taken``: its path was adopted by someone; ``days``: a week, where nobody said who is in its team. ``fixed``: key of a
    stage → the day it was put on. ``outside``: somebody else moves it.
    """

    slug: str
    name: str
    plan: Plan
    teams: Mapping[str, float]
    named: frozenset[str]
    days: float
    taken: bool = False
    features: float = 0.0
    late: float = LATE_DAY
    fixed: Mapping[str, date] = field(default_factory=dict)
    outside: Awaited | None = None

    @property
    def moves(self) -> bool:
        """Whether there is anything to put into weeks."""
        return bool(self.plan.stages) or self.plan.before.p50 > _NOTHING

    def stage_keys(self) -> list[tuple[int, str]]:
        """Numbers of its stages with their keys within the application."""
        first = [(0, BEFORE)] if self.plan.before.p50 > _NOTHING else []
        return [*first, *((stage.number, stage_name(stage, self.named)) for stage in self.plan.stages)]


@dataclass(frozen=True, slots=True)
class Bridging:
    """A library that a stage of an application waits for: the coordinate and the line that it has to serve by then."""

    library: str
    application: str
    coordinate: Coordinate
    line: Line


@dataclass(frozen=True, slots=True)
class Staged:
    """Stages of all applications, with what they want of libraries and what libraries never get to."""

    stages: tuple[WaveStage, ...]
    bridging: tuple[Bridging, ...]
    unserved: tuple[Bridging, ...]


def stage_name(stage: Stage, named: frozenset[str]) -> str:
    """What names a stage within its application: where it leads, and which modules travel where several sets lead to the same."""
    key = stage_key(stage, named)
    return f"{key}#{stage.group.replace('|', '/')}" if stage.group else key


def key_of(slug: str, stage: str, team: str = "") -> str:
    """What names a stage in the portfolio: its application, where it leads, and its team where several share it."""
    return "|".join((slug, stage, team)) if team else f"{slug}|{stage}"


def staged(
    movers: Sequence[Mover], uses: Iterable[tuple[str, str]], ends: Ends, label: Callable[[Stage], str]
) -> Staged:
    """The stages of these applications. ``uses``: (library, its user) by address; ``label``: how a stage is called."""
    held = {m.slug: m for m in movers}
    wants: dict[str, set[str]] = {}
    bridging, unserved = [], []
    for library, user in uses:
        if library not in held or user not in held or held[user].outside is not None:
            continue
        for stage in held[user].plan.stages:
            for move in stage.moves:
                found = _served_by(held[library], move.coordinate, move.goal)
                if found is None:
                    continue
                row = Bridging(library, user, move.coordinate, move.goal)
                if found:
                    wants.setdefault(key_of(user, stage_name(stage, held[user].named)), set()).update(found)
                    bridging.append(row)
                else:
                    unserved.append(row)
    stages = [s for m in movers for s in _stages_of(m, wants, ends, label)]
    return Staged(tuple(stages), tuple(dict.fromkeys(bridging)), tuple(dict.fromkeys(unserved)))


def _served_by(library: Mover, coordinate: Coordinate, line: Line) -> list[str] | None:
    """Keys of the stage with which a library serves a line; empty where no stage does, None where it does today or does not stand on
    such a coordinate."""
    today = dict(library.plan.today).get(coordinate)
    if today is None or today >= line:
        return None
    if library.outside is not None:
        return [key_of(library.slug, OUTSIDE)]
    for stage in library.plan.stages:
        reached = dict(stage.state).get(coordinate)
        if reached is not None and reached >= line:
            return _parts(library, stage_name(stage, library.named))
    return []


def _parts(mover: Mover, stage: str) -> list[str]:
    if len(mover.teams) < 2:
        return [key_of(mover.slug, stage)]
    return [key_of(mover.slug, stage, team) for team in mover.teams]


def _stages_of(
    mover: Mover, wants: Mapping[str, set[str]], ends: Ends, label: Callable[[Stage], str]
) -> Iterable[WaveStage]:
    leaves = _leaves(mover.plan, ends)
    if mover.outside is not None:
        yield _outside(mover, [due for dues in leaves.values() for due in dues])
        return
    before: list[str] = []
    if mover.plan.before.p50 > _NOTHING:
        plan = mover.plan.before
        yield from _shared(
            mover=mover,
            key=BEFORE,
            number=0,
            title="before any move",
            days50=plan.p50,
            days80=plan.p80,
            after=(),
            dues=(),
            state=(),
            group="",
        )
        before = _parts(mover, BEFORE)
    for stage in mover.plan.stages:
        key = stage_name(stage, mover.named)
        after = (*before, *sorted(wants.get(key_of(mover.slug, key), ())))
        dues = tuple(leaves.get(stage.number, ()))
        effort = stage.effort
        yield from _shared(
            mover=mover,
            key=key,
            number=stage.number,
            title=label(stage),
            days50=effort.p50,
            days80=effort.p80,
            after=after,
            dues=dues,
            state=stage.state,
            group=stage.group,
        )
        before = _parts(mover, key)


def _shared(
    mover: Mover,
    key: str,
    number: int,
    title: str,
    days50: float,
    days80: float,
    after: tuple[str, ...],
    dues: tuple[Due, ...],
    state: tuple[tuple[Coordinate, Line], ...],
    group: str,
) -> Iterable[WaveStage]:
    for team, share in mover.teams.items():
        yield WaveStage(
            key=key_of(mover.slug, key, team if len(mover.teams) > 1 else ""),
            application=mover.slug,
            name=mover.name,
            set_name=group,
            number=number,
            title=title,
            team=team,
            days50=days50 * share,
            days80=max(days80, days50) * share,
            after=after,
            dues=dues,
            fixed=mover.fixed.get(key),
            late=mover.late / len(mover.teams),
            features=mover.features,
            state=state,
            taken=mover.taken,
        )


def _outside(mover: Mover, dues: Sequence[Due]) -> WaveStage:
    """The wait for somebody else's release: it takes nobody's days."""
    held = mover.outside or Awaited(vendor="", promised=None)
    return WaveStage(
        key=key_of(mover.slug, OUTSIDE),
        application=mover.slug,
        name=mover.name,
        number=1,
        title=f"release of {held.vendor}",
        team=held.vendor,
        days50=0.0,
        days80=0.0,
        dues=tuple(dict.fromkeys(dues)),
        late=mover.late,
        waits=(held.promised or date.max, held.vendor),
        taken=mover.taken,
    )


def _leaves(plan: Plan, ends: Ends) -> dict[int, list[Due]]:
    """Number of a stage → lines that it leaves whose support ends on a known day."""
    found: dict[int, list[Due]] = {}
    for coordinate, start in plan.today:
        for line, stage in stays(plan, coordinate, start):
            end = ends(coordinate, line)
            if stage is not None and end is not None:
                found.setdefault(stage.number, []).append(Due(coordinate=coordinate, line=line, end=end))
    return found


def with_assumed(teams: Sequence[Team], movers: Sequence[Mover]) -> list[Team]:
    """All teams: for those of whom nobody said who they are, somebody for each application with the days it has a week."""
    said = {team.name.lower() for team in teams if team.people}
    shared = {team.name.lower(): team for team in teams}
    found = [team for team in teams if team.people]
    for mover in movers:
        for name, share in mover.teams.items() if mover.outside is None and mover.moves else ():
            if name.lower() in said:
                continue
            like = shared.get(name.lower(), shared.get("", Team(name="")))
            person = Person(name=mover.name, days=mover.days * share)
            found.append(
                Team(
                    name=name,
                    application=mover.slug,
                    people=(person,),
                    away=like.away,
                    features=like.features,
                    assumed=True,
                )
            )
    return found
