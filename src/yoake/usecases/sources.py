"""From a source to the snapshot to scan."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from urllib.parse import unquote

from yoake.core.values.errors import BadSource
from yoake.core.values.words import SourceKind
from yoake.runner.archives import open_archive
from yoake.runner.git import is_url, mirror
from yoake.runner.git_store import is_repository
from yoake.runner.home import Home
from yoake.runner.snapshots import CommitSnapshot, FolderSnapshot, Snapshot
from yoake.store.applications import Source

ARCHIVES = (".zip", ".whl", ".jar", ".war", ".ear", ".tar", ".tar.gz", ".tgz", ".tar.bz2", ".tar.xz", ".json")
"""What an archive’s name ends with; ``.json`` is a bill of materials, an inventory without source."""


def local_path(text: str) -> Path:
    """A path on this machine as a person writes it. Raises BadSource for what can be none."""
    try:
        path = Path(text).expanduser()
        path.exists()
    except (OSError, RuntimeError, ValueError) as error:
        said = error.strerror if isinstance(error, OSError) else str(error)
        raise BadSource(f"“{text[:200]}” is no path on this machine: {said}.") from error
    return path


def kind_of(location: str, ref: str = "") -> SourceKind:
    """folder, git or archive, as the location looks. A ref asks for a commit, so the source must be git. Raises BadSource."""
    if is_url(location) or ref:
        return "git"
    path = local_path(location)
    if path.is_file() and path.name.lower().endswith(ARCHIVES):
        return "archive"
    return "git" if path.is_dir() and is_repository(path) else "folder"


def check_allowed(path: Path, allowed: Sequence[Path] | None) -> None:
    """Refuse what lies outside the folders that may be taken in; None allows all. Raises BadSource."""
    if allowed is None or any(path.resolve().is_relative_to(folder) for folder in allowed):
        return
    shown = ", ".join(map(str, allowed)) or "none"
    raise BadSource(
        f"{path} lies outside the folders that this server may read ({shown}). Whoever runs it can add one with YOAKE_SOURCES."
    )


def check_source(source: Source, allowed: Sequence[Path] | None = None) -> None:
    """Refuse at once what cannot be a source, without fetching. Raises BadSource."""
    if not source.location:
        raise BadSource("The source is empty: give a folder, a git URL or path, or an archive.")
    if ".." in source.subfolder.split("/") or source.subfolder.startswith("/"):
        raise BadSource(f"The subfolder “{source.subfolder}” points outside the source.")
    if is_url(source.location) and not source.location.startswith("file://"):
        return
    path = local_path(unquote(source.location.removeprefix("file://")))
    check_allowed(path, allowed)
    if not path.exists():
        raise BadSource(f"There is nothing at “{source.location}”, and it is no git URL.")
    if source.kind == "folder" and not path.is_dir():
        raise BadSource(f"“{source.location}” is neither a folder nor a zip or tar archive.")


def open_snapshot(source: Source, home: Home, allowed: Sequence[Path] | None = None) -> Snapshot:
    """The content to scan. Raises BadSource."""
    check_source(source, allowed)
    if source.kind == "git":
        repository = mirror(source.location, home.mirrors)
        return CommitSnapshot(repository, repository.resolve(source.ref), source.ref, source.subfolder)
    path = local_path(source.location)
    if source.kind == "archive":
        return open_archive(path, source.subfolder)
    whole = path.resolve()
    folder = whole / source.subfolder if source.subfolder else whole
    if not folder.is_dir():
        raise BadSource(f"There is no subfolder “{source.subfolder}” in {path}.")
    if not folder.resolve().is_relative_to(whole):
        raise BadSource(
            f"The subfolder “{source.subfolder}” is a link that leads out of {path}. Give the folder that it points to."
        )
    return FolderSnapshot(folder.resolve())
