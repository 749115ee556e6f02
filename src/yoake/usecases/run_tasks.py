"""A run as a task, and what can be run."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Final

from yoake.core.contract.registry import Registry
from yoake.core.values.runs import Command, Side
from yoake.runner.kept_commands import RunLimits
from yoake.store.applications import Source

REPEATS: Final = 1
"""Times that a side is run again when tests fail on it: a test that then passes tells nothing about the versions."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RunTask:
    """A command in a module of a source, on an old side and, where there is one, on a new side. ``command`` None: the likeliest of those that
    the module’s files speak of; ``beside``: packages that it needs besides; ``log``: how the names of its logs begin;
    ``work``: where copies and environments are made, None for the system’s place for passing files; ``asks``: paths that the command, a server,
    is asked for."""

    home: Path
    source: Source
    module: str
    command: Command | None
    old: Side
    new: Side | None = None
    repeats: int = REPEATS
    limits: RunLimits = field(default_factory=RunLimits)
    allowed: tuple[Path, ...] | None = None
    log: str = ""
    work: Path | None = None
    beside: tuple[str, ...] = ()
    asks: tuple[str, ...] = ()


def commands_in(paths: Collection[str], read: Callable[[str], str], ecosystems: Registry) -> tuple[Command, ...]:
    """What can be run in a module with these files, of every ecosystem, the likeliest first."""
    return tuple(
        replace(command, runtime=e.runtime) for e in ecosystems.ecosystems for command in e.commands(paths, read)
    )
