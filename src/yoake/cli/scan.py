"""``yoake scan``: what stands in the way of one source, for people and for CI."""

from __future__ import annotations

import json
import sys
from collections.abc import Mapping
from dataclasses import replace
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from yoake import __version__
from yoake.cli.source import CLEAN, FOUND, kind_here, read_targets, read_waived, said_line, scan_source
from yoake.core.readiness.clearance import clearance
from yoake.core.values.coordinates import Target, parse_target
from yoake.core.values.errors import BadSource
from yoake.formats.records import FINDING
from yoake.formats.sarif import Earlier, against, bites_at, from_sarif, to_sarif
from yoake.formats.tables import findings_csv
from yoake.runner.answers import Request, read_request, write_whole
from yoake.runner.home import Home, default_home
from yoake.shipped import KIT
from yoake.store.applications import Source
from yoake.store.command_answers import UNKEPT, Answers

if TYPE_CHECKING:
    from yoake.core.values.findings import Finding, Place
    from yoake.core.values.results import ScanResult
    from yoake.formats.waivers import Waiver
    from yoake.usecases.scanned import Scanned

_LEVELS = ("error", "warning", "note")
_FIRST = 3
"""Findings, and places of each, that are shown unless all are asked for."""


class Format(StrEnum):
    """How findings are written."""

    TEXT = "text"
    JSON = "json"
    SARIF = "sarif"
    CSV = "csv"


class FailOn(StrEnum):
    """The level from which on the exit code is 1."""

    ERROR = "error"
    WARNING = "warning"
    NOTE = "note"


def scan(
    path: Annotated[str, typer.Argument(help="A folder, a git repository or URL, or an archive.")],
    to: Annotated[list[str], typer.Option("--to", help="A line to arrive at, e.g. python@3.13 (repeatable).")],
    ref: Annotated[str, typer.Option(help="Scan this commit, branch or tag instead of the files as they are.")] = "",
    from_: Annotated[
        list[str] | None, typer.Option("--from", help="Today's line, when the files do not say it.")
    ] = None,
    ask: Annotated[
        bool, typer.Option("--look-up", help="Ask the package clients first for packages of which no record is known.")
    ] = False,
    every: Annotated[bool, typer.Option("--all", help="Show every finding with every place, in text.")] = False,
    format_: Annotated[Format, typer.Option("--format", help="How to write the findings.")] = Format.TEXT,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write to this file.")] = None,
    fail_on: Annotated[FailOn, typer.Option(help="Exit with 1 from this level on.")] = FailOn.ERROR,
    baseline: Annotated[
        Path | None, typer.Option(help="An earlier SARIF log: only what is new since then counts.")
    ] = None,
    waivers: Annotated[
        Path | None, typer.Option(help="A file of waivers, as the server writes it: what it accepts does not count.")
    ] = None,
) -> None:
    """Scan one source and say what stands in the way. Exit 0 clean, 1 findings, 2 could not run."""
    home = default_home()
    own = (str(Path(__file__).parents[1]), str(home.knowledge))
    request = read_request(sys.argv[1:], own)  # before anything is read: what changes meanwhile must not be kept
    targets = read_targets(to, KIT, home, ask=ask)
    knowledge = KIT.knowledge(home.knowledge)
    said = [said_line(knowledge.check_target(parse_target(text)), parse_target(text)) for text in from_ or []]
    scanned = scan_source(Source(kind_here(path, ref), path, ref), targets, said, KIT, home, ask=ask)
    before = _earlier(baseline) if baseline is not None else None
    waived = read_waived(waivers) if waivers is not None else {}
    shown = _render(scanned, format_, targets, before, waived, every=every)
    if output is not None:
        write_whole(output, shown)
    else:
        sys.stdout.write(shown)
    limit = _LEVELS.index(fail_on)
    counted = scanned.result.findings if before is None else _since(scanned.result.findings, before)
    code = FOUND if any(_LEVELS.index(f.level) <= limit for f in counted if f.key not in waived) else CLEAN
    if request is not None and request.settled:
        _keep_answer(home, request, code, shown)
    raise typer.Exit(code)


def _earlier(path: Path) -> list[Earlier]:
    try:
        return from_sarif(path.read_text("utf-8"))
    except OSError as error:
        raise BadSource(f"The baseline {path} cannot be read: {error.strerror}.") from error


def _since(findings: list[Finding], before: list[Earlier]) -> list[Finding]:
    """Findings with only those places that an earlier log does not have."""
    known = {earlier.place for earlier in before}
    kept = [replace(f, places=tuple(p for p in f.places if p.key not in known)) for f in findings]
    return [f for f in kept if f.places]


def _keep_answer(home: Home, request: Request, code: int, shown: str) -> None:
    """The same question about the same files is answered from here next time."""
    try:
        answers = Answers(home.answers)
        answers.keep(request.key, code, shown)
        answers.close()
    except UNKEPT as error:
        sys.stderr.write(f"yoake: the answer could not be kept for next time: {error}\n")


def _render(
    scanned: Scanned,
    format_: Format,
    targets: list[Target],
    before: list[Earlier] | None,
    waived: Mapping[str, Waiver],
    *,
    every: bool,
) -> str:
    result = scanned.result
    if format_ is Format.SARIF:
        log = to_sarif(result.findings, __version__, {key: waiver.justification for key, waiver in waived.items()})
        return json.dumps(log if before is None else against(log, before), indent=1, ensure_ascii=False) + "\n"
    if before is not None:
        result.findings = _since(result.findings, before)
    if format_ is Format.CSV:
        return "".join(findings_csv([("", result.findings)]))
    if format_ is Format.JSON:
        return json.dumps(_as_json(scanned, targets, waived), indent=1, ensure_ascii=False) + "\n"
    return _as_text(scanned, targets, waived, every=every)


def _as_json(scanned: Scanned, targets: list[Target], waived: Mapping[str, Waiver]) -> dict[str, object]:
    result = scanned.result
    whole = clearance(result.checks.by_sort.values())
    return {
        "snapshot": scanned.identity,
        "to": [str(target) for target in targets],
        "today": {
            module: {s.coordinate: {"line": s.line, "how": s.how, "file": s.file} for s in lines.values()}
            for module, lines in result.today.items()
        },
        "clearance": whole.clear,
        "known": whole.known,
        "sure": whole.sure,
        "findings": [
            {
                **FINDING.plain(f),
                "bitesAt": bites_at(f),
                "waived": waived[f.key].justification if f.key in waived else "",
            }
            for f in result.findings
        ],
        "packages": [
            {
                "coordinate": p.coordinate,
                "release": p.release,
                "state": p.state,
                "grade": p.grade,
                "note": p.note,
            }
            for p in result.packages
        ],
        "files": [{"path": f.path, "state": f.state, "reason": f.reason} for f in result.files],
        "unknown": result.checks.unknowns,
        "notes": result.notes,
    }


def _as_text(scanned: Scanned, targets: list[Target], waived: Mapping[str, Waiver], *, every: bool) -> str:
    """State, answer and the first things to do; with ``every`` all that was found."""
    result = scanned.result
    lines = [f"To {', '.join(map(str, targets))}; {scanned.label}"]
    for module, today in result.today.items():
        stood = [
            f"{s.coordinate.short} {s.line} ({s.how}{': ' + s.file if s.file else ''})"
            for s in today.values()
            if s.coordinate in {t.coordinate for t in targets}
        ]
        lines.append(f"Today{' in ' + module if module else ''}: {', '.join(stood) or 'not known'}")
    lines += _answer_text(result, waived)
    shown = result.findings if every else _first(result.findings, waived)
    for finding in shown:
        lines.extend(_finding_text(finding, waived.get(finding.key), every=every))
    if left := len(result.findings) - len(shown):
        lines += ["", f"--all shows {left} more, and every place."]
    if every:
        lines.append("")
        lines.extend(f"not known: {why} ({count})" for why, count in result.checks.unknowns.items())
    lines.extend(f"failed: {f.path}: {f.reason}" for f in [f for f in result.files if f.state == "failed"][:20])
    lines.extend(result.notes)
    return "\n".join(lines) + "\n"


def _answer_text(result: ScanResult, waived: Mapping[str, Waiver]) -> list[str]:
    """How much is known to hold, and how many findings of each level there are."""
    whole = clearance(result.checks.by_sort.values())
    counting = [f for f in result.findings if f.key not in waived]
    tally = ", ".join(f"{sum(1 for f in counting if f.level == level)} {level}" for level in _LEVELS)
    unsure = _whole_percent(1 - whole.known)
    rows = [f"{_whole_percent(whole.sure)} of all checks are known to hold, {unsure} are not known; {tally}"]
    return [
        *rows,
        *([f"waived: {len(result.findings) - len(counting)}"] if len(counting) < len(result.findings) else []),
    ]


def _first(findings: list[Finding], waived: Mapping[str, Waiver]) -> list[Finding]:
    """What to look at first: what fails for sure, with the most places."""
    open_ = [f for f in findings if f.key not in waived and f.level != "note"] or findings
    return sorted(open_, key=lambda f: (_LEVELS.index(f.level), -sum(p.is_work for p in f.places), f.title))[:_FIRST]


def _whole_percent(share: float) -> str:
    """Never rounded up to all of it, nor down to nothing."""
    return f"{min(max(round(share * 100), share > 0), 100 - (share < 1)):d} %"


def _finding_text(finding: Finding, waiver: Waiver | None, *, every: bool) -> list[str]:
    at = bites_at(finding)
    arrow = f" → {finding.replacement}" if finding.replacement and finding.replacement != "none" else ""
    window = {"now": "safe now", "hop": "at the hop", "switch": "needs a switch"}.get(finding.window.state, "")
    head = f"{finding.level:7} {finding.title}{arrow}  {finding.kind}{' at ' + at if at else ''}{'; ' + window if window else ''}"
    most = len(finding.places) if every else _FIRST
    places = [f"        {p.file}:{p.line}{_aside(p)}" for p in finding.places[:most]]
    more = [f"        and {len(finding.places) - most} more"] if len(finding.places) > most else []
    accepted = [f"        waived by {waiver.justification}"] if waiver is not None else []
    return ["", head, *accepted, *places, *more]


def _aside(place: Place) -> str:
    """Why a place may not matter to the person who reads this: what guards it, or that nobody here wrote it."""
    whose = [place.role] if place.role in ("vendored", "generated") else []
    said = ", ".join([*filter(None, [place.guarded]), *whose])
    return f"  ({said})" if said else ""


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command()(scan)
