"""The command line, for people and for CI."""

from __future__ import annotations

import json
import os
import sqlite3
import sys
import webbrowser
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from yoake import __version__
from yoake.core.coordinates import Coordinate, Target, parse_coordinate, parse_target
from yoake.core.errors import BadSource, YoakeError
from yoake.core.interchange.sarif import Earlier, against, bites_at, from_sarif, to_sarif
from yoake.core.interchange.tables import findings_csv
from yoake.core.path.sets import ModuleSet
from yoake.core.path.setting import Shape
from yoake.core.path.ways import OBJECTIVES, Ways
from yoake.core.path.wording import no_way_json, refused_json, ways_json, ways_text
from yoake.core.readiness.clearance import clearance
from yoake.core.scan.model import Finding
from yoake.core.scan.report import finding_to_json
from yoake.runner.answers import Answers, Request, read_request, write_whole
from yoake.runner.extraction import Extractor, FactsCache
from yoake.runner.home import Home, default_home
from yoake.runner.knowledge_files import load_knowledge
from yoake.store.applications import Source
from yoake.work.building import build, build_from_files
from yoake.work.cataloguing import build_catalogue
from yoake.work.scanning import Control, Progress, Scanned, scan_snapshot
from yoake.work.sources import kind_of, open_snapshot
from yoake.work.waying import ways_of_result

app = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="See what a newer line breaks, and the way there.",
)
knowledge_app = typer.Typer(no_args_is_help=True, help="What Yoake knows of runtimes and libraries.")
app.add_typer(knowledge_app, name="knowledge")

CLEAN, FOUND, FAILED = 0, 1, 2
_LEVELS = ("error", "warning", "note")


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


@app.command()
def scan(
    path: Annotated[str, typer.Argument(help="A folder, a git repository or URL, or an archive.")],
    to: Annotated[list[str], typer.Option("--to", help="A line to arrive at, e.g. python@3.13 (repeatable).")],
    ref: Annotated[str, typer.Option(help="Scan this commit, branch or tag instead of the files as they are.")] = "",
    from_: Annotated[
        list[str] | None, typer.Option("--from", help="Today's line, when the files do not say it.")
    ] = None,
    format_: Annotated[Format, typer.Option("--format", help="How to write the findings.")] = Format.TEXT,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write to this file.")] = None,
    fail_on: Annotated[FailOn, typer.Option(help="Exit with 1 from this level on.")] = FailOn.ERROR,
    baseline: Annotated[
        Path | None, typer.Option(help="An earlier SARIF log: only what is new since then counts.")
    ] = None,
) -> None:
    """Scan one source and say what stands in the way. Exit 0 clean, 1 findings, 2 could not run."""
    home = default_home()
    own = (str(Path(__file__).parent), str(home.knowledge))
    request = read_request(sys.argv[1:], own)  # before anything is read: what changes meanwhile must not be kept
    knowledge = load_knowledge(home.knowledge)
    targets = [knowledge.check_target(parse_target(text)) for text in to]
    said = [_said(knowledge.check_target(parse_target(text)), parse_target(text)) for text in from_ or []]
    scanned = _scan(Source(_kind(path, ref), path, ref), targets, said, home)
    before = _earlier(baseline) if baseline is not None else None
    shown = _render(scanned, format_, targets, before)
    if output is not None:
        write_whole(output, shown)
    else:
        sys.stdout.write(shown)
    limit = _LEVELS.index(fail_on)
    counted = scanned.result.findings if before is None else _since(scanned.result.findings, before)
    code = FOUND if any(_LEVELS.index(f.level) <= limit for f in counted) else CLEAN
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
    except sqlite3.Error as error:
        sys.stderr.write(f"yoake: the answer could not be kept for next time: {error}\n")


def _kind(path: str, ref: str) -> str:
    """Without a ref a local repository is scanned as its files are now."""
    kind = kind_of(path, ref)
    return "folder" if kind == "git" and not ref and Path(path).expanduser().is_dir() else kind


def _said(checked: Target, given: Target) -> Target:
    return Target(given.coordinate, checked.line)


def _scan(source: Source, targets: list[Target], said: list[Target], home: Home) -> Scanned:
    knowledge = load_knowledge(home.knowledge)
    snapshot = open_snapshot(source, home)
    cache = FactsCache(home.facts)
    extractor = Extractor(cache)
    name = Path(source.location.rstrip("/")).name.removesuffix(".git") or "application"
    try:
        return scan_snapshot(snapshot, knowledge, targets, said, extractor, Control(_terminal_progress()), name)
    finally:
        extractor.close()
        cache.close()
        snapshot.close()


def _terminal_progress() -> Callable[[Progress], None]:
    if not sys.stderr.isatty():
        return lambda _progress: None

    def say(progress: Progress) -> None:
        left = f", {progress.left:.0f} s left" if progress.left is not None else ""
        counted = f" {progress.done}/{progress.total}, {progress.rate:.0f} files/s{left}" if progress.total else ""
        sys.stderr.write(f"\r\x1b[K{progress.phase}{counted}" + ("\r\x1b[K" if progress.phase == "joining" else ""))
        sys.stderr.flush()

    return say


def _render(scanned: Scanned, format_: Format, targets: list[Target], before: list[Earlier] | None = None) -> str:
    result = scanned.result
    if format_ is Format.SARIF:
        log = to_sarif(result.findings, __version__)
        return json.dumps(log if before is None else against(log, before), indent=1, ensure_ascii=False) + "\n"
    if before is not None:
        result.findings = _since(result.findings, before)
    if format_ is Format.CSV:
        return findings_csv([("", result.findings)])
    if format_ is Format.JSON:
        return json.dumps(_as_json(scanned, targets), indent=1, ensure_ascii=False) + "\n"
    return _as_text(scanned, targets)


def _as_json(scanned: Scanned, targets: list[Target]) -> dict[str, object]:
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
        "findings": [{**finding_to_json(f), "bitesAt": bites_at(f)} for f in result.findings],
        "packages": [{"coordinate": p.coordinate, "state": p.state, "note": p.note} for p in result.packages],
        "files": [{"path": f.path, "state": f.state, "reason": f.reason} for f in result.files],
        "unknown": result.checks.unknowns,
        "notes": result.notes,
    }


def _as_text(scanned: Scanned, targets: list[Target]) -> str:
    result = scanned.result
    lines = [f"To {', '.join(map(str, targets))}; {scanned.label}"]
    for module, today in result.today.items():
        stood = [
            f"{Coordinate(s.coordinate).short} {s.line} ({s.how}{': ' + s.file if s.file else ''})"
            for s in today.values()
            if s.coordinate in {t.coordinate.purl for t in targets}
        ]
        lines.append(f"Today{' in ' + module if module else ''}: {', '.join(stood) or 'not known'}")
    for finding in result.findings:
        lines.extend(_finding_text(finding))
    whole = clearance(result.checks.by_sort.values())
    clear = f"{whole.clear:.0%} clear" if whole.clear is not None else "clearance not known"
    counted = {level: sum(1 for f in result.findings if f.level == level) for level in _LEVELS}
    lines.append("")
    lines.append(
        f"{clear}, {whole.known:.0%} of all checks known; " + ", ".join(f"{n} {level}" for level, n in counted.items())
    )
    lines.extend(f"not known: {why} ({count})" for why, count in list(result.checks.unknowns.items())[:10])
    unread = [f for f in result.files if f.state == "failed"]
    lines.extend(f"failed: {f.path}: {f.reason}" for f in unread[:20])
    lines.extend(result.notes)
    return "\n".join(lines) + "\n"


def _finding_text(finding: Finding) -> list[str]:
    at = bites_at(finding)
    arrow = f" → {finding.replacement}" if finding.replacement and finding.replacement != "none" else ""
    window = {"now": "safe now", "hop": "at the hop", "switch": "needs a switch"}.get(finding.window.state, "")
    head = f"{finding.level:7} {finding.title}{arrow}  {finding.kind}{' at ' + at if at else ''}{'; ' + window if window else ''}"
    places = [f"        {p.file}:{p.line}{'  (' + p.guarded + ')' if p.guarded else ''}" for p in finding.places[:12]]
    more = [f"        and {len(finding.places) - 12} more"] if len(finding.places) > 12 else []
    return ["", head, *places, *more]


class PathFormat(StrEnum):
    """How paths are written."""

    TEXT = "text"
    JSON = "json"


class Objective(StrEnum):
    """What the best path is best for."""

    WORK = "work"
    STAGES = "stages"
    DANGER = "danger"


@app.command("path")
def path_command(
    path: Annotated[str, typer.Argument(help="A folder, a git repository or URL, or an archive.")],
    to: Annotated[list[str], typer.Option("--to", help="A line to arrive at, e.g. python@3.13 (repeatable).")],
    from_: Annotated[
        list[str] | None, typer.Option("--from", help="Today's line, when the files do not say it.")
    ] = None,
    objective: Annotated[
        Objective | None, typer.Option(help="Only the path that is best for this; all three when left out.")
    ] = None,
    pin: Annotated[list[str] | None, typer.Option("--pin", help="A line to stop on (repeatable).")] = None,
    avoid: Annotated[list[str] | None, typer.Option("--avoid", help="A line never to stand on (repeatable).")] = None,
    ref: Annotated[str, typer.Option(help="Look at this commit, branch or tag instead of the files as they are.")] = "",
    format_: Annotated[PathFormat, typer.Option("--format", help="How to write the paths.")] = PathFormat.TEXT,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write to this file.")] = None,
) -> None:
    """Search the ways to a destination. Exit 0 when there is one, 1 when there is none, 2 could not run."""
    home = default_home()
    knowledge = load_knowledge(home.knowledge)
    targets = [knowledge.check_target(parse_target(text)) for text in to]
    said = [_said(knowledge.check_target(parse_target(text)), parse_target(text)) for text in from_ or []]
    shape = Shape(tuple(map(parse_target, pin or ())), tuple(map(parse_target, avoid or ())))
    scanned = _scan(Source(_kind(path, ref), path, ref), targets, said, home)
    found = ways_of_result(scanned.result, targets, knowledge, datetime.now(UTC).date(), shape)
    objectives = [objective.value] if objective is not None else list(OBJECTIVES)
    shown = _paths_json(found, objectives) if format_ is PathFormat.JSON else _paths_text(scanned, found, objectives)
    if output is not None:
        write_whole(output, shown)
    else:
        sys.stdout.write(shown)
    raise typer.Exit(FOUND if any(ways.no_way is not None for _, ways in found) else CLEAN)


def _paths_json(found: list[tuple[ModuleSet, Ways]], objectives: list[str]) -> str:
    blocked = next((no for _, ways in found if (no := no_way_json(ways)) is not None), None)
    body = {
        "paths": [row for made, ways in found for row in ways_json(made.name, ways, objectives)],
        "refused": [{"set": made.name, **row} for made, ways in found for row in refused_json(ways)],
        "noWay": blocked,
    }
    return json.dumps(body, indent=1, ensure_ascii=False) + "\n"


def _paths_text(scanned: Scanned, found: list[tuple[ModuleSet, Ways]], objectives: list[str]) -> str:
    if not found:
        return "Nothing here stands on a line of the destination that is known. --from says what it stands on.\n"
    return "\n".join([*(ways_text(made.name, ways, objectives) for made, ways in found), *scanned.result.notes])


@app.command()
def serve(
    host: Annotated[str, typer.Option(help="Address to listen on; loopback unless told otherwise.")] = "127.0.0.1",
    port: Annotated[int, typer.Option(envvar="YOAKE_PORT", help="Port to listen on.")] = 8710,
    open_: Annotated[bool, typer.Option("--open", help="Open a browser.")] = False,
) -> None:
    """Serve the interface for the records under YOAKE_HOME."""
    from yoake.server.serve import run_server

    if open_:
        webbrowser.open(f"http://{host}:{port}/")
    run_server(default_home(), host, port)


@app.command()
def demo(
    port: Annotated[int, typer.Option(envvar="YOAKE_PORT", help="Port to listen on.")] = 8710,
    build_only: Annotated[bool, typer.Option(help="Make and scan the demo portfolio, then end.")] = False,
) -> None:
    """Make the demo portfolio (Harrowmere Ferries), scan it, and serve it."""
    from yoake.server.serve import run_server
    from yoake.work.showing import make_demo

    home = default_home() if os.environ.get("YOAKE_HOME") else Home(Path.cwd() / ".yoake")
    make_demo(home, typer.echo, datetime.now(UTC))
    if not build_only:
        run_server(home, "127.0.0.1", port)


@knowledge_app.command("build")
def knowledge_build(
    coordinate: Annotated[str, typer.Argument(help="python, node, pypi/NAME or npm/NAME.")],
    lines: Annotated[str, typer.Option(help="Lines to capture, separated by commas; all when left out.")] = "",
    into: Annotated[
        Path | None, typer.Option(help="Folder to write to; your own knowledge folder when left out.")
    ] = None,
    file: Annotated[
        list[Path] | None,
        typer.Option("--file", help="A wheel or npm archive at hand, instead of the registry (repeatable)."),
    ] = None,
    ask: Annotated[
        bool, typer.Option("--ask", help="Also import the real library in a throw-away folder, for what no text shows.")
    ] = False,
) -> None:
    """Fetch the artefacts of a coordinate, compute their surfaces, and write its timeline and release record."""
    folder = into or default_home().knowledge / "timelines"
    made = parse_coordinate(coordinate)
    if file:
        build_from_files(made, file, folder, typer.echo)
        return
    build(made, [line for line in lines.split(",") if line], folder, typer.echo, ask=ask)
    if made.ecosystem in ("pypi", "npm"):
        knowledge = load_knowledge(default_home().knowledge)
        build_catalogue(made, folder.parent / "catalogue", datetime.now(UTC).date(), typer.echo, knowledge)


@knowledge_app.command("list")
def knowledge_list() -> None:
    """What is known: coordinates, captured lines and symbols."""
    knowledge = load_knowledge(default_home().knowledge)
    for purl in sorted({*knowledge.timelines, *knowledge.lifecycles}):
        lines = knowledge.lines(Coordinate(purl))
        head = knowledge.heads.get(purl)
        typer.echo(f"{Coordinate(purl).short}: {lines[0]} to {lines[-1]}, {head.symbols if head else 0} symbols")


@app.command()
def version() -> None:
    """Print the version."""
    typer.echo(__version__)


def main() -> None:
    """Run the command line; errors meant for a person end with 2 and one sentence a fault."""
    try:
        app()
    except YoakeError as error:
        for fault in getattr(error, "faults", (str(error),)):
            sys.stderr.write(f"yoake: {fault}\n")
        sys.exit(FAILED)
    except KeyboardInterrupt:
        sys.stderr.write("yoake: stopped\n")
        sys.exit(FAILED)


if __name__ == "__main__":
    main()
