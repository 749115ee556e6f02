"""``yoake ratchet``: what stands in the way may only become less; for continuous integration."""

from __future__ import annotations

import json
import sys
from collections.abc import Mapping, Sequence
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from yoake import __version__
from yoake.cli.source import CLEAN, FOUND, kind_here, read_targets, read_waived, said_line, scan_source
from yoake.core.proof.ratchet import Compared, Counted, Grown, Recorded, count, hold_against
from yoake.core.values.coordinates import parse_target
from yoake.core.values.errors import BadInput, BadSource
from yoake.core.values.runs import TestResult
from yoake.formats.junit import write_junit
from yoake.formats.ratchets import read_ratchet, write_ratchet
from yoake.formats.sarif import to_sarif
from yoake.runner.answers import write_whole
from yoake.runner.home import default_home
from yoake.shipped import KIT
from yoake.store.applications import Source

if TYPE_CHECKING:
    from yoake.core.values.findings import Finding

_FILE = "yoake-ratchet.json"
_MOST_PLACES = 5


class RatchetFormat(StrEnum):
    """How the answer is written."""

    TEXT = "text"
    JUNIT = "junit"
    SARIF = "sarif"


def ratchet(
    path: Annotated[str, typer.Argument(help="A folder or a git repository.")],
    to: Annotated[list[str], typer.Option("--to", help="A line to arrive at, e.g. python@3.13 (repeatable).")],
    from_: Annotated[
        list[str] | None, typer.Option("--from", help="Today's line, when the files do not say it.")
    ] = None,
    file: Annotated[
        Path | None,
        typer.Option("--file", help=f"Where the count is written down; {_FILE} in the folder when left out."),
    ] = None,
    waivers: Annotated[Path | None, typer.Option(help="A file of waivers: what it accepts does not count.")] = None,
    try_: Annotated[bool, typer.Option("--try", help="Only say what is; write nothing, and exit with 0.")] = False,
    record: Annotated[
        bool, typer.Option("--record", help="Write down what there is now, also where it is more than before.")
    ] = False,
    format_: Annotated[RatchetFormat, typer.Option("--format", help="How to write the answer.")] = RatchetFormat.TEXT,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write the answer to this file.")] = None,
) -> None:
    """Hold what stands in the way against what was written down. Exit 0 not more, 1 more, 2 could not run."""
    home = default_home()
    targets = read_targets(to, KIT, home)
    knowledge = KIT.knowledge(home.knowledge)
    said = [said_line(knowledge.check_target(parse_target(text)), parse_target(text)) for text in from_ or []]
    held_in = file or Path(path).expanduser() / _FILE
    result = scan_source(Source(kind_here(path, ""), path, ""), targets, said, KIT, home).result
    waived = read_waived(waivers) if waivers is not None else {}
    now = Recorded(tuple(sorted(map(str, targets))), count(result.findings, waived))
    recorded = _recorded(held_in)
    if recorded is not None and recorded.to != now.to and not record:
        raise BadInput(
            f"{held_in} counts for {', '.join(recorded.to)}, not for {', '.join(now.to)}. --record writes it down anew."
        )
    compared = hold_against(recorded if recorded is not None and not record else now, now.findings)
    _answer(
        compared,
        result.findings,
        format_,
        output,
        _said(compared, now.findings, recorded, held_in, record=record, try_=try_),
    )
    if not try_:
        _write(held_in, now, compared, anew=recorded is None or record)
    raise typer.Exit(FOUND if compared.grown and not try_ else CLEAN)


def _recorded(path: Path) -> Recorded | None:
    """What was written down; None where nothing was yet. Raises BadSource and BadInput."""
    try:
        return read_ratchet(path.read_text("utf-8"))
    except FileNotFoundError:
        return None
    except (OSError, UnicodeDecodeError) as error:
        raise BadSource(f"{path} cannot be read: {error}.") from error


def _write(path: Path, now: Recorded, compared: Compared, *, anew: bool) -> None:
    """The new count, or the tightened one where nothing grew."""
    made = now if anew else compared.tightened
    if anew or (compared.better and not compared.grown):
        try:
            write_whole(path, write_ratchet(made))
        except OSError as error:
            raise BadSource(f"{path} cannot be written: {error.strerror}. --file names another place.") from error


def _said(
    compared: Compared, now: Mapping[str, Counted], recorded: Recorded | None, path: Path, *, record: bool, try_: bool
) -> list[str]:
    """What happened, in sentences."""
    places = sum(held.places for held in now.values())
    total = f"{len(now)} findings at {places} places"
    if recorded is None or record:
        return [f"{path} {'would hold' if try_ else 'holds'} {total}; from now on they may only become less."]
    if compared.grown:
        return [f"{len(compared.grown)} more than {path} allows; nothing was written."]
    if compared.better:
        return [f"{len(compared.better)} became less: {path} {'would hold' if try_ else 'holds'} {total} now."]
    return [f"Not more than before: {total}."]


def _answer(
    compared: Compared, findings: Sequence[Finding], format_: RatchetFormat, output: Path | None, said: Sequence[str]
) -> None:
    by_key = {f.key: f for f in findings}
    if format_ is RatchetFormat.SARIF:
        new = [by_key[g.key] for g in compared.grown if g.key in by_key]
        shown = json.dumps(to_sarif(new, __version__), indent=1, ensure_ascii=False) + "\n"
    elif format_ is RatchetFormat.JUNIT:
        tests = [
            TestResult(f"ratchet::{g.title}", "failed", f"{g.told}. {_places(by_key.get(g.key))}")
            for g in compared.grown
        ]
        shown = write_junit("ratchet", tests or [TestResult("ratchet::not more than before", "passed")])
    else:
        rows = [row for g in compared.grown for row in _grown_text(g, by_key.get(g.key))]
        shown = "\n".join([*said, *rows]) + "\n"
    if output is not None:
        write_whole(output, shown)
    else:
        sys.stdout.write(shown)


def _grown_text(grown: Grown, finding: Finding | None) -> list[str]:
    rows = ["", f"{grown.told}."]
    if finding is not None:
        instead = finding.replacement if finding.replacement and finding.replacement != "none" else ""
        rows += [f"    use {instead} instead"] if instead else []
        rows += [f"    {finding.remedy}"] if finding.remedy and not instead else []
        rows += [f"    {_places(finding)}"]
    return rows


def _places(finding: Finding | None) -> str:
    """Where it stands, the first of its places."""
    if finding is None:
        return ""
    open_ = [p for p in finding.places if p.level != "note"]
    shown = ", ".join(f"{p.file}:{p.line}" for p in open_[:_MOST_PLACES])
    return shown + (f" and {len(open_) - _MOST_PLACES} more" if len(open_) > _MOST_PLACES else "")


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command("ratchet")(ratchet)
