"""``yoake parity``: recorded requests, asked of both sides again, and where the answers differ."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, Literal

import typer

from yoake.core.values.errors import BadInput
from yoake.formats.access_logs import pieces_of, read_access_log
from yoake.formats.crossing_rules import read_rules
from yoake.formats.har import RecordedRequest, from_calls, read_har
from yoake.usecases.check_session import check_session
from yoake.usecases.compare_sides import SidesCompared, compare_sides

if TYPE_CHECKING:
    from yoake.core.crossing.rules import CrossingRules
    from yoake.core.crossing.traffic import Call


def parity(
    rules: Annotated[Path, typer.Argument(help="The file of rules; docs/crossing.md describes it.")],
    har: Annotated[
        list[Path] | None, typer.Option(help="Recorded requests as HAR; may be given more than once.")
    ] = None,
    logs: Annotated[list[Path] | None, typer.Option(help="An access log; its GET requests are asked again.")] = None,
    session: Annotated[
        bool, typer.Option("--session", help="Check that a log-in on one side holds on the other.")
    ] = False,
    format_: Annotated[Literal["text", "json"], typer.Option("--format", help="How to write it.")] = "text",
) -> None:
    """Ask both sides the same and compare. Exit 0 when all answers are alike, 1 when some differ, 2 when it could not be done."""
    try:
        read = read_rules(rules.read_text("utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        raise BadInput(f"The rules {rules} cannot be read: {error}.") from error
    if session:
        raise typer.Exit(_session(read, format_))
    if not har and not logs:
        raise BadInput("Nothing is recorded: give --har FILE or --logs FILE.")
    requests: list[RecordedRequest] = []
    others = 0
    for path in har or ():
        recording = read_har(_bytes(path), str(path))
        requests.extend(recording.requests)
        others += recording.others
    for path in logs or ():
        recording = from_calls(_calls(path))
        requests.extend(recording.requests)
        others += recording.others
    compared = compare_sides(read, requests)
    if format_ == "json":
        typer.echo(json.dumps(_report(compared, others), indent=1, ensure_ascii=False))
    else:
        typer.echo(_text(compared, others), nl=False)
    raise typer.Exit(0 if compared.alike == compared.pairs else 1)


def _session(rules: CrossingRules, form: str) -> int:
    checks = check_session(rules)
    if form == "json":
        rows = [{"side": c.side.value, "holds": c.holds, "cookies": c.cookies, "told": c.told} for c in checks]
        typer.echo(json.dumps({"sessions": rows}, indent=1, ensure_ascii=False))
    else:
        typer.echo("\n".join(check.told for check in checks))
    return 0 if all(check.holds for check in checks) else 1


def _bytes(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error


def _calls(path: Path) -> list[Call]:
    try:
        with path.open("rb") as file:
            return [call for piece in read_access_log(pieces_of(file.read)) for call in piece.calls.elements()]
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error


def _report(compared: SidesCompared, others: int) -> dict[str, Any]:
    return {
        "pairs": compared.pairs,
        "alike": compared.alike,
        "not_asked": {"unsafe": compared.unsafe, "no_route": compared.unmatched, "no_request": others},
        "unanswered": compared.unanswered,
        "seconds": round(compared.seconds, 2),
        "routes": [
            {"route": name, "pairs": pairs, "alike": alike}
            for name, (pairs, alike) in sorted(compared.by_route.items())
        ],
        "causes": [
            {
                "kind": cause.difference.kind,
                "where": cause.difference.where,
                "pairs": cause.pairs,
                "routes": dict(cause.routes),
                "old": cause.difference.old,
                "new": cause.difference.new,
                "examples": cause.examples,
            }
            for cause in compared.ordered
        ],
    }


def _text(compared: SidesCompared, others: int) -> str:
    lines = [f"{compared.alike:,} of {compared.pairs:,} answers are alike ({compared.seconds:.1f} s)"]
    if compared.unsafe:
        lines.append(f"{compared.unsafe:,} not asked: they change something, and no rule says that their route is safe")
    if compared.unmatched:
        lines.append(f"{compared.unmatched:,} not asked: no rule names their route")
    if others:
        lines.append(f"{others:,} entries are no requests that can be asked again")
    for cause in compared.ordered:
        each = cause.difference
        change = f"   {each.old} → {each.new}" if each.old or each.new else ""
        lines += ["", f"{cause.pairs:>7,}  {each.cause}{change}"]
        lines += [f"         {count:>5,} × {name}" for name, count in cause.routes.most_common(5)]
        lines += [f"         e.g. {example}" for example in cause.examples[:1]]
    return "\n".join(lines) + "\n"


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command()(parity)
