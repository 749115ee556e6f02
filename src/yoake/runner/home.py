"""Where records are kept: ``YOAKE_HOME``, else a folder below the person's data folder."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path


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
    def knowledge(self) -> Path:
        """The person's own knowledge files, which win over those that ship."""
        return self.folder / "knowledge"


def default_home() -> Home:
    """The home that ``YOAKE_HOME`` names, else ``$XDG_DATA_HOME/yoake``."""
    said = os.environ.get("YOAKE_HOME")
    base = os.environ.get("XDG_DATA_HOME") or str(Path.home() / ".local" / "share")
    return Home(Path(said).expanduser() if said else Path(base) / "yoake")
