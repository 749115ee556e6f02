"""``yoake digest``: what changed in the records of this home, for a terminal, a page or a mail."""

from __future__ import annotations

from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from yoake.cli.own_records import own_records, write_out
from yoake.formats.digests import digest_mail, digest_page, digest_text
from yoake.shipped import KIT
from yoake.usecases.set_watch import addresses
from yoake.views.digest import digest, period_of


class DigestFormat(StrEnum):
    """How a digest is written."""

    TEXT = "text"
    HTML = "html"
    MAIL = "mail"


def digest_command(
    days: Annotated[int, typer.Option(help="How many days it looks back.", min=1, max=366)] = 7,
    to: Annotated[str, typer.Option(help="Addresses of the mail, with commas between.")] = "yoake@localhost",
    format_: Annotated[DigestFormat, typer.Option("--format", help="How to write it.")] = DigestFormat.TEXT,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write to this file.")] = None,
) -> None:
    """Say what changed: who is newly late, which support ends are near, what was found again, whom to chase."""
    with own_records(KIT) as context:
        made = digest(context, days)
    period = period_of(made)
    if format_ is DigestFormat.MAIL:
        shown = digest_mail(made, period, "yoake@localhost", addresses(to), datetime.now(UTC)).as_string()
    else:
        shown = digest_page(made, period) if format_ is DigestFormat.HTML else digest_text(made, period)
    write_out(shown, output)


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command("digest")(digest_command)
