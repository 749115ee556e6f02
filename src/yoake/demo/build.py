"""The demo portfolio of Harrowmere Ferries: sources that ship, made into real git repositories with history."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path
from typing import Literal

DayKind = Literal["absence", "holiday", "freeze"]


@dataclass(frozen=True, slots=True)
class DemoCommit:
    """One commit: its folder of files laid over the ones before, its date and message."""

    folder: Path
    date: str
    message: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DemoApplication:
    """One made-up application."""

    name: str
    team: str
    owner: str
    destination: str
    days_per_week: float | None
    commits: tuple[DemoCommit, ...]


@dataclass(frozen=True, slots=True)
class DemoPeople:
    """Who is in the teams, and which days of the year are not as others: (kind, team, person, from, until, title), days as month-day."""

    teams: dict[str, tuple[float, dict[str, float]]]
    days: tuple[tuple[DayKind, str, str, str, str, str], ...]


def demo_people() -> DemoPeople:
    """The people of the ferries."""
    held = json.loads((Path(str(files("yoake.demo"))) / "people.json").read_text("utf-8"))
    days = tuple(
        (d["kind"], d.get("team", ""), d.get("person", ""), d["from"], d["until"], d["title"]) for d in held["days"]
    )
    return DemoPeople({name: (t["features"], t["people"]) for name, t in held["teams"].items()}, days)


def demo_applications() -> list[DemoApplication]:
    """The applications that ship with Yoake."""
    root = Path(str(files("yoake.demo") / "portfolio"))
    listed = json.loads((root / "history.json").read_text("utf-8"))
    return [
        DemoApplication(
            name=name,
            team=entry["team"],
            owner=entry["owner"],
            destination=entry["destination"],
            days_per_week=entry.get("days_per_week"),
            commits=tuple(DemoCommit(root / name / f"{i:02}", *said) for i, said in enumerate(entry["commits"], 1)),
        )
        for name, entry in listed.items()
    ]


def build_repository(application: DemoApplication, folder: Path, upto: int) -> Path:
    """Make or extend the repository below ``folder`` so that it holds the first ``upto`` commits; returns its path."""
    place = folder / application.name
    place.mkdir(parents=True, exist_ok=True)
    if not (place / ".git").exists():
        _git(place, "2020-01-01", "init", "--quiet", "--initial-branch=main", "--template=")
    done = int(_git(place, "2020-01-01", "rev-list", "--count", "--all") or 0)
    for commit in application.commits[done:upto]:
        shutil.copytree(commit.folder, place, dirs_exist_ok=True, ignore=shutil.ignore_patterns("__pycache__", "*.pyc"))
        _git(place, commit.date, "add", "--all")
        _git(place, commit.date, "commit", "--quiet", "--no-verify", "-m", commit.message)
    return place


def _git(place: Path, date: str, *arguments: str) -> str:
    at = f"{date}T10:00:00+00:00"
    environment = {k: v for k, v in os.environ.items() if not k.startswith("GIT_")}
    environment.update(
        GIT_AUTHOR_NAME="Harrowmere Ferries",
        GIT_AUTHOR_EMAIL="code@harrowmere.example",
        GIT_AUTHOR_DATE=at,
        GIT_COMMITTER_NAME="Harrowmere Ferries",
        GIT_COMMITTER_EMAIL="code@harrowmere.example",
        GIT_COMMITTER_DATE=at,
        GIT_CONFIG_GLOBAL=os.devnull,
        GIT_CONFIG_NOSYSTEM="1",
    )
    done = subprocess.run(["git", *arguments], cwd=place, env=environment, capture_output=True, text=True, check=True)
    return done.stdout.strip()
