"""A small made-up world of packages: enough knowledge for the search, every fact in sight of the test."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date

from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import Catalogue, Lifecycle, LineFacts, ReleaseFacts
from yoake.core.planning.problem import Journey
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.findings import Finding, PackageState, Place, Window
from yoake.core.values.journeys import Shape, Span
from yoake.core.values.words import WindowState

TODAY = date(2026, 11, 23)
LAMP, ROPE, SAIL = Coordinate("pkg:pypi/lamp"), Coordinate("pkg:pypi/rope"), Coordinate("pkg:npm/sail")
NODE = Coordinate("pkg:generic/node")
PYTHONS = ("3.8", "3.9", "3.10", "3.11", "3.12", "3.13")


def record(
    coordinate: Coordinate, details: Sequence[ReleaseFacts], built: Mapping[str, Sequence[str]] | None = None
) -> Catalogue:
    """A release record; which Python lines a release fits follows from its details."""
    fits = {
        line: tuple(d.release for d in details if not d.runs or line in d.runs.split(" ") or d.runs == "any")
        for line in PYTHONS
    }
    return Catalogue(
        format=1,
        coordinate=coordinate,
        as_of=TODAY,
        how="made up",
        releases=tuple(d.release for d in details),
        fits=fits if coordinate.startswith("pkg:pypi/") else {},
        built={line: tuple(held) for line, held in (built or {}).items()},
        details=tuple(details),
    )


def facts(release: str, **said: object) -> ReleaseFacts:
    """Metadata of one release."""
    return ReleaseFacts(release=release, **said)


def lifecycle(coordinate: Coordinate, lines: Sequence[LineFacts], policy: str = "any") -> Lifecycle:
    """Lines of a coordinate."""
    return Lifecycle(
        format=1, coordinate=coordinate, source="made-up lifecycle", as_of=TODAY, policy=policy, lines=tuple(lines)
    )


def world(base: Knowledge, records: Sequence[Catalogue] = (), lifecycles: Sequence[Lifecycle] = ()) -> Knowledge:
    """Knowledge of runtimes as it is, of packages as made up."""
    kept = {p: held for p, held in base.lifecycles.items() if p.startswith("pkg:generic/")}
    return replace(
        base,
        timelines={p: t for p, t in base.timelines.items() if p.startswith("pkg:generic/")},
        heads={p: h for p, h in base.heads.items() if p.startswith("pkg:generic/")},
        lifecycles={**kept, **{held.coordinate: held for held in lifecycles}},
        catalogues={r.coordinate: r for r in records},
        rule_files={},
    )


def package(coordinate: Coordinate, release: str, breaks: Sequence[tuple[str, str]] = ()) -> PackageState:
    """A direct package as a scan saw it."""
    line = ECOSYSTEMS.line_of(coordinate, release)
    return PackageState(
        coordinate=coordinate,
        module="",
        line=line,
        how="lock",
        state="holds",
        note="",
        file="requirements.txt",
        line_number=1,
        exact=release,
        breaks=tuple((Line(at), lost) for at, lost in breaks),
    )


def finding(
    at: str,
    minutes: float = 60,
    *,
    coordinate: Coordinate = PYTHON,
    both: Sequence[str] = (),
    state: WindowState = "hop",
    key: str = "",
) -> Finding:
    """One change that bites at a line and costs so many minutes."""
    window = Window(
        state=state,
        coordinate=coordinate,
        axis=(),
        old=(),
        new=(),
        both=tuple(map(Line, both)),
        here=Line(""),
        goal=Line(""),
    )
    place = Place(
        key="k",
        file="a.py",
        line=1,
        column=0,
        end_column=3,
        symbol="imp",
        form="import",
        scope="",
        guarded="",
        level="error",
    )
    name = key or f"{coordinate}@{at}/{minutes}"
    return Finding(
        key=name, module="", coordinate=coordinate, kind="removed", symbol=name, title=name, bites_at=Line(at), after=None, level="error", confidence="certain", replacement=None, remedy="", mechanical=False,
        effort=(minutes, minutes, minutes), window=window, evidence=(), places=(place,),
    )  # fmt: skip


def journey(
    spans: Mapping[Coordinate, tuple[str, str]],
    packages: Sequence[PackageState] = (),
    findings: Sequence[Finding] = (),
    shape: Shape | None = None,
) -> Journey:
    """What travels."""
    made = {coordinate: Span(*map(Line, pair)) for coordinate, pair in spans.items()}
    return Journey(
        name="", spans=made, packages=packages, findings=findings, today=TODAY, days_per_week=2, shape=shape or Shape()
    )
