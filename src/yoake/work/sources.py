"""From a source to the snapshot to scan."""

from __future__ import annotations

from pathlib import Path

from yoake.core.errors import BadSource
from yoake.runner.archives import open_archive
from yoake.runner.git import is_url, mirror
from yoake.runner.git_store import is_repository
from yoake.runner.home import Home
from yoake.runner.snapshots import CommitSnapshot, FolderSnapshot, Snapshot
from yoake.store.applications import Source

ARCHIVES = (".zip", ".whl", ".tar", ".tar.gz", ".tgz", ".tar.bz2", ".tar.xz", ".json")
"""What an archive’s name ends with; ``.json`` is a bill of materials, an inventory without source."""


def kind_of(location: str, ref: str = "") -> str:
    """folder, git or archive, as the location looks. A ref asks for a commit, so the source must be git."""
    if is_url(location) or ref:
        return "git"
    path = Path(location).expanduser()
    if path.is_file() and path.name.lower().endswith(ARCHIVES):
        return "archive"
    return "git" if path.is_dir() and is_repository(path) else "folder"


def check_source(source: Source) -> None:
    """Refuse at once what cannot be a source, without fetching. Raises BadSource."""
    if not source.location:
        raise BadSource("The source is empty: give a folder, a git URL or path, or an archive.")
    if ".." in source.subfolder.split("/") or source.subfolder.startswith("/"):
        raise BadSource(f"The subfolder “{source.subfolder}” points outside the source.")
    if is_url(source.location):
        return
    path = Path(source.location).expanduser()
    if not path.exists():
        raise BadSource(f"There is nothing at “{source.location}”, and it is no git URL.")
    if source.kind == "folder" and not path.is_dir():
        raise BadSource(f"“{source.location}” is neither a folder nor a zip or tar archive.")


def open_snapshot(source: Source, home: Home) -> Snapshot:
    """The content to scan. Raises BadSource."""
    check_source(source)
    if source.kind == "git":
        repository = mirror(source.location, home.mirrors)
        return CommitSnapshot(repository, repository.resolve(source.ref), source.ref, source.subfolder)
    path = Path(source.location).expanduser()
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
