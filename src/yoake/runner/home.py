"""Where records are kept: ``YOAKE_HOME``, else a folder below the person's data folder."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from yoake.core.values.errors import InUse


@dataclass(frozen=True, slots=True)
class Home:
    """Paths below one folder."""

    folder: Path

    @property
    def records(self) -> Path:
        """The SQLite file of the records."""
        return self.folder / "records.sqlite"

    @property
    def facts(self) -> Path:
        """The SQLite file of facts by content hash."""
        return self.folder / "facts.sqlite"

    @property
    def answers(self) -> Path:
        """The SQLite file of the command line's answers."""
        return self.folder / "answers.sqlite"

    @property
    def mirrors(self) -> Path:
        """Our bare copies of git repositories."""
        return self.folder / "mirrors"

    @property
    def uploads(self) -> Path:
        """Archives that were uploaded, by digest."""
        return self.folder / "uploads"

    @property
    def runs(self) -> Path:
        """Logs of runs."""
        return self.folder / "runs"

    @property
    def work(self) -> Path:
        """Copies and environments of runs that are under way."""
        return self.folder / "work"

    @property
    def runtimes(self) -> Path:
        """Programs of runtimes that a package client fetched."""
        return self.folder / "runtimes"

    @property
    def lock(self) -> Path:
        """The file that says which server has this home."""
        return self.folder / "server.lock"

    @property
    def knowledge(self) -> Path:
        """The person's own knowledge files, which win over those that ship."""
        return self.folder / "knowledge"


def default_home() -> Home:
    """The home that ``YOAKE_HOME`` names, else ``$XDG_DATA_HOME/yoake``."""
    said = os.environ.get("YOAKE_HOME")
    base = os.environ.get("XDG_DATA_HOME") or str(Path.home() / ".local" / "share")
    return Home(Path(said).expanduser() if said else Path(base) / "yoake")


@contextmanager
def locked(home: Home, what: str) -> Iterator[None]:
    """Hold a home for one server; the system lets go when the process ends, however it does. Raises InUse."""
    home.folder.mkdir(parents=True, exist_ok=True)
    with home.lock.open("a+", encoding="utf-8") as handle:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            handle.seek(0)
            holder = handle.read(200).strip() or "another process"
            raise InUse(
                f"{home.folder} is in use by {holder}. Stop it first, or set YOAKE_HOME to another folder: two servers on one "
                "home would do everything twice."
            ) from error
        handle.truncate(0)
        handle.write(f"{what} (process {os.getpid()})\n")
        handle.flush()
        yield
