"""What several tests share: knowledge, a home, a clock that stands still, small projects on disk."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path

import pytest
from hypothesis import settings

from yoake.context.context import Context, open_context
from yoake.core.knowledge.base import Knowledge
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.shipped import KIT
from yoake.store.facts_cache import FactsCache

settings.register_profile("yoake", deadline=None)  # speed is measured by the benches, never asserted here
settings.load_profile("yoake")

NOW = datetime(2026, 11, 23, 9, 0, tzinfo=UTC)


@pytest.fixture(scope="session")
def knowledge() -> Knowledge:
    return KIT.knowledge()


@pytest.fixture
def home(tmp_path: Path) -> Home:
    return Home(tmp_path / "home")


@pytest.fixture
def context(home: Home) -> Iterator[Context]:
    opened = open_context(home, KIT, lambda: NOW)
    yield opened
    opened.db.close()


@pytest.fixture
def extractor() -> Iterator[Extractor]:
    made = Extractor(FactsCache(None), KIT.ecosystems, workers=1)
    yield made
    made.close()


def git(folder: Path, *arguments: str, at: str = "") -> str:
    """Run git as one person who is always the same; ``at``: when it is done, now when left out."""
    environment = {k: v for k, v in os.environ.items() if not k.startswith("GIT_")}
    environment |= {"GIT_CONFIG_GLOBAL": os.devnull, "GIT_CONFIG_NOSYSTEM": "1"}
    for role in ("AUTHOR", "COMMITTER"):
        environment |= {f"GIT_{role}_DATE": at} if at else {}
        environment |= {f"GIT_{role}_NAME": "Test", f"GIT_{role}_EMAIL": "test@harrowmere.example"}
    done = subprocess.run(["git", *arguments], cwd=folder, env=environment, capture_output=True, text=True, check=True)
    return done.stdout.strip()


def write(folder: Path, files: dict[str, str]) -> Path:
    for name, content in files.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(content, "utf-8")
    return folder


@pytest.fixture
def repository(tmp_path: Path) -> Callable[[str, dict[str, str]], Path]:
    """Make a git repository with one commit, or commit more to one that is there."""

    def make(name: str, files: dict[str, str]) -> Path:
        folder = tmp_path / name
        folder.mkdir(exist_ok=True)
        if not (folder / ".git").exists():
            git(folder, "init", "--quiet", "--initial-branch=main")
        write(folder, files)
        git(folder, "add", "--all")
        git(folder, "commit", "--quiet", "-m", "change")
        return folder

    return make
