"""Take applications in: one or many, each checked before anything is stored; all faults told at once."""

from __future__ import annotations

import hashlib
import shutil
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import BinaryIO, Final

from yoake.context.context import Context
from yoake.core.contract.registry import Registry
from yoake.core.inventory.assemble import is_inventory_file
from yoake.core.values.errors import BadInput, BadSource
from yoake.core.values.words import SourceKind
from yoake.formats.tables import ApplicationRow
from yoake.runner.archives import check_archive
from yoake.runner.git import is_url
from yoake.runner.git_store import is_repository
from yoake.store.applications import (
    Source,
    add_application,
    archive_locations,
    ensure_destination,
    list_applications,
)
from yoake.store.events import Event, add_event
from yoake.usecases.destinations import read_destination
from yoake.usecases.sources import ARCHIVES, check_allowed, check_source, kind_of, local_path

_MAX_NAME: Final = 120
_KEPT_UNUSED: Final = 24 * 3600  # seconds an upload may wait for its application to be taken in
_MAX_UPLOAD: Final = 512 * 1024 * 1024


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """One application about to be taken in, and what is wrong with it."""

    number: int
    name: str
    source: str
    kind: SourceKind
    ref: str
    subfolder: str
    owner: str
    team: str
    destination: str
    faults: list[str]


def _holds_an_application(folder: Path, ecosystems: Registry) -> bool:
    try:
        return is_repository(folder) or any(
            is_inventory_file(c.name, ecosystems) for c in folder.iterdir() if c.is_file()
        )
    except OSError:
        return False  # what cannot be read is not offered


def candidates_from_folder(
    location: str, ecosystems: Registry, allowed: Sequence[Path] | None = None
) -> list[ApplicationRow]:
    """One row for each repository or project directly below a folder. Raises BadSource."""
    folder = local_path(location)
    if not folder.is_dir():
        raise BadSource(f"There is no folder “{location}” on the machine Yoake runs on.")
    check_allowed(folder, allowed)
    try:
        inner = sorted(p for p in folder.iterdir() if p.is_dir() and not p.name.startswith(".") and not p.is_symlink())
    except OSError as error:
        raise BadSource(
            f"{folder} cannot be read: {error.strerror}. Yoake runs as another user than its owner."
        ) from error
    found = [p for p in inner if _holds_an_application(p, ecosystems)]
    if not found:
        raise BadSource(
            f"No folder directly below {folder} is a repository or has a manifest. Is it the folder that holds them?"
        )
    return [ApplicationRow(number=i, name=p.name.removesuffix(".git"), source=str(p)) for i, p in enumerate(found, 1)]


def preview(context: Context, rows: Iterable[ApplicationRow], destination: str) -> list[Candidate]:
    """Every row with its faults; ``destination`` is for rows that name none. Nothing is stored."""
    taken = {(a.source.location, a.source.ref, a.source.subfolder) for a in list_applications(context.db)}
    known: dict[str, str] = {}
    listed: list[Candidate] = []
    for row in rows:
        made = _candidate(context, row, destination, known)
        key = (made.source, made.ref, made.subfolder)
        if made.source and key in taken:
            made.faults.append("this source is looked after already")
        taken.add(key)
        listed.append(made)
    return listed


def _candidate(context: Context, row: ApplicationRow, destination: str, known: dict[str, str]) -> Candidate:
    faults: list[str] = []
    kind: SourceKind = "folder"
    location = row.source
    try:
        if row.source and not is_url(row.source):
            location = str(local_path(row.source).resolve())
        kind = kind_of(row.source, row.ref) if row.source else "folder"
        check_source(Source(kind, location, row.ref, row.subfolder), context.allowed)
        if kind == "git" and not is_url(location) and not is_repository(Path(location)):
            raise BadSource(f"“{row.source}” is a plain folder, not a git repository, so it has no ref “{row.ref}”.")
        if kind == "archive":
            check_archive(Path(location))
    except BadInput as error:
        faults.append(str(error))
    wanted = row.destination or destination
    if wanted not in known:
        try:
            known[wanted] = ""
            read_destination(context, wanted)
        except BadInput as error:
            known[wanted] = str(error)
    if known[wanted]:
        faults.append(known[wanted])
    name = row.name or _name_from(row.source, row.subfolder)
    if len(name) > _MAX_NAME:
        faults.append(f"the name has {len(name)} characters; {_MAX_NAME} are allowed")
    return Candidate(
        number=row.number,
        name=name,
        source=location,
        kind=kind,
        ref=row.ref,
        subfolder=row.subfolder,
        owner=row.owner,
        team=row.team,
        destination=wanted,
        faults=faults,
    )


def _name_from(source: str, subfolder: str) -> str:
    last = (subfolder or source).rstrip("/").rsplit("/", 1)[-1].rsplit(":", 1)[-1]
    for ending in (".git", *sorted(ARCHIVES, key=len, reverse=True)):
        last = last.removesuffix(ending)
    return last or "application"


def take_in(context: Context, rows: Sequence[ApplicationRow | Candidate], who: str) -> list[int]:
    """Store all candidates, or none. Raises BadInput listing every fault."""
    checked = preview(context, [_row(row) for row in rows], "")
    faults = tuple(f"row {c.number} ({c.name}): {fault}" for c in checked for fault in c.faults)
    if faults:
        raise BadInput(f"{len(faults)} faults; nothing was taken in. {faults[0]}", faults)
    if not checked:
        raise BadInput("There is nothing to take in: the list has no rows.")
    added: list[int] = []
    resolved = {c.destination: read_destination(context, c.destination) for c in checked}
    with context.db.write() as connection:
        for c in checked:
            destination = ensure_destination(connection, *resolved[c.destination])
            source = Source(c.kind, c.source, c.ref, c.subfolder)
            number = add_application(
                connection, c.name, source, destination, owner=c.owner, team=c.team, at=context.stamp
            )
            event = Event(at=context.stamp, who=who, application=number, subject="application", what="taken in")
            add_event(connection, event)
            added.append(number)
    return added


def _row(c: ApplicationRow | Candidate) -> ApplicationRow:
    return ApplicationRow(
        number=c.number,
        name=c.name,
        source=c.source,
        ref=c.ref,
        subfolder=c.subfolder,
        owner=c.owner,
        team=c.team,
        destination=c.destination,
    )


def keep_upload(context: Context, name: str, content: BinaryIO) -> str:
    """Keep an uploaded archive by its digest; returns its path. Raises BadSource and keeps nothing when it is none."""
    safe = PurePosixPath(name.replace("\\", "/")).name
    if not safe.lower().endswith(ARCHIVES):
        raise BadSource(
            f"“{safe}” is no archive Yoake reads: give a zip, a wheel, a tar, or a bill of materials in JSON."
        )
    context.home.uploads.mkdir(parents=True, exist_ok=True)
    partial = context.home.uploads / f".{hashlib.sha256(safe.encode()).hexdigest()[:12]}-{safe}"
    digest, size = hashlib.sha256(), 0
    try:
        with partial.open("wb") as out:
            while chunk := content.read(1 << 20):
                size += len(chunk)
                if size > _MAX_UPLOAD:
                    raise BadSource(f"“{safe}” is larger than {_MAX_UPLOAD >> 20} MB; give a repository instead.")
                digest.update(chunk)
                out.write(chunk)
        check_archive(partial)
        folder = context.home.uploads / digest.hexdigest()[:16]
        folder.mkdir(exist_ok=True)
        shutil.move(partial, folder / safe)
        return str(folder / safe)
    finally:
        partial.unlink(missing_ok=True)


def drop_uploads(context: Context) -> int:
    """Remove uploaded archives that no application comes from and that are older than a day; returns how many."""
    named = archive_locations(context.db)
    oldest = context.clock().timestamp() - _KEPT_UNUSED
    gone = 0
    for path in sorted(context.home.uploads.glob("**/*")):
        if path.is_file() and str(path) not in named and path.stat().st_mtime < oldest:
            path.unlink(missing_ok=True)
            gone += 1
    for folder in sorted(context.home.uploads.glob("*/")):
        if not any(folder.iterdir()):
            folder.rmdir()
    return gone
