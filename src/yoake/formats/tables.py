"""CSV: findings out, lists of applications in. Cells that a spreadsheet would run as a formula are made text."""

from __future__ import annotations

import csv
import io
import itertools
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Final

from yoake.core.values.errors import BadInput
from yoake.core.values.findings import Finding
from yoake.formats.sarif import bites_at

FINDING_COLUMNS: Final = (
    "application",
    "module",
    "level",
    "kind",
    "symbol",
    "bites_at",
    "window",
    "replacement",
    "file",
    "line",
    "guarded",
    "confidence",
    "remedy",
    "key",
)
APPLICATION_COLUMNS: Final = ("name", "source", "ref", "subfolder", "owner", "team", "destination")
_RISKY: Final = ("=", "+", "-", "@", "\t", "\r")
_MAX_ROWS: Final = 5000


def safe_cell(value: object) -> str:
    """Text that no spreadsheet takes for a formula; numbers stay numbers, negative ones too."""
    if isinstance(value, int | float):
        return str(value)
    shown = "" if value is None else str(value)
    return f"'{shown}" if shown.startswith(_RISKY) else shown


def csv_lines(columns: Sequence[str], rows: Iterable[Sequence[object]]) -> Iterator[str]:
    """A CSV table with a header, a record at a time."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for row in itertools.chain([columns], rows):
        writer.writerow([safe_cell(cell) for cell in row])
        yield out.getvalue()
        out.seek(0)
        out.truncate()


def write_csv(columns: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """A CSV table with a header."""
    return "".join(csv_lines(columns, rows))


def findings_csv(groups: Iterable[tuple[str, Iterable[Finding]]]) -> Iterator[str]:
    """One record a place, for (application name, findings) groups."""
    return csv_lines(
        FINDING_COLUMNS,
        (
            (
                name,
                f.module,
                p.level,
                f.kind,
                p.symbol,
                bites_at(f),
                f.window.state,
                f.replacement,
                p.file,
                p.line,
                p.guarded,
                f.confidence,
                f.remedy,
                p.key,
            )
            for name, findings in groups
            for f in findings
            for p in f.places
        ),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ApplicationRow:
    """One row of a pasted or uploaded list; ``number`` is its line."""

    number: int
    name: str
    source: str
    ref: str = ""
    subfolder: str = ""
    owner: str = ""
    team: str = ""
    destination: str = ""


def _cells(reader: csv.DictReader[str]) -> Iterator[dict[str | None, object]]:
    try:
        yield from reader
    except csv.Error as error:
        raise BadInput(
            f"Line {reader.line_num} of the list cannot be read: {error}. A cell has at most 131,072 characters."
        ) from error


def read_applications_csv(text: str) -> list[ApplicationRow]:
    """Rows of a list of applications; the header names the columns, in any order. Raises BadInput."""
    shown = text.lstrip("\ufeff").strip().replace("\r\n", "\n").replace("\r", "\n")  # whoever ends its rows, and how
    if not shown:
        raise BadInput("The list is empty. Its first line names the columns: " + ", ".join(APPLICATION_COLUMNS) + ".")
    first = shown.splitlines()[0]
    delimiter = max((",", ";", "\t"), key=first.count)
    reader = csv.DictReader(io.StringIO(shown), delimiter=delimiter)
    try:
        header = [(name or "").strip().lower() for name in reader.fieldnames or ()]
    except csv.Error as error:
        raise BadInput(f"The first line cannot be read as CSV: {error}.") from error
    unknown = [name for name in header if name and name not in APPLICATION_COLUMNS]
    if "source" not in header or unknown:
        said = f"unknown columns: {', '.join(unknown)}; " if unknown else "no column “source”; "
        raise BadInput(f"The first line must name the columns ({said}known are {', '.join(APPLICATION_COLUMNS)}).")
    reader.fieldnames = header
    rows = []
    for cells in _cells(reader):
        kept = {
            k: (v or "").strip() for k, v in cells.items() if k in APPLICATION_COLUMNS and isinstance(v, str | None)
        }
        if any(kept.values()):
            rows.append(ApplicationRow(number=reader.line_num, **{"name": "", "source": "", **kept}))
        if len(rows) > _MAX_ROWS:
            raise BadInput(f"The list has more than {_MAX_ROWS} rows; split it.")
    return rows
