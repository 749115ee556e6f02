"""Lock files renewed by the package client that writes them, in a work tree where manifests were changed."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Final

from yoake.core.values.errors import BadSource, Stopped
from yoake.runner.kept_commands import RunLimits, run_kept

_LIMITS: Final = RunLimits(seconds=600)  # to ask a registry about every package of a large lock file


@dataclass(frozen=True, slots=True)
class LockWriter:
    """What renews one kind of lock file. ``manifest``: the file beside it that it is made from; ``words``: the command, which runs no
    script of a package; ``variables``: set beside those of this process. ``by_hand``: only a person should run it, since it would."""

    manifest: str
    words: Sequence[str]
    variables: Mapping[str, str] = field(default_factory=dict)
    by_hand: bool = False


@dataclass(frozen=True, slots=True)
class Renewed:
    """Lock files that were renewed, and those that could not be, with why: both relative to the folder that was looked through."""

    done: tuple[str, ...]
    failed: tuple[tuple[str, str], ...]


def renew_locks(
    root: Path,
    changed: Iterable[str],
    writers: Mapping[str, LockWriter],
    run: Callable[[LockWriter, Path], None] | None = None,
) -> Renewed:
    """Renew the lock files that hold for changed manifests: beside them, or in the nearest folder above.

    ``writers``: name of a lock file → what renews it. A lock file that could not be renewed stays as it was.
    """
    done: list[str] = []
    failed: list[tuple[str, str]] = []
    for path in _locks_of(root, changed, writers):
        lock = root / path
        before = lock.read_bytes()
        writer = writers[lock.name]
        try:
            (run or run_writer)(writer, lock.parent)
        except BadSource as error:
            lock.write_bytes(before)
            failed.append((path, str(error)))
            continue
        if lock.read_bytes() != before:
            done.append(path)
    return Renewed(tuple(done), tuple(failed))


def _locks_of(root: Path, changed: Iterable[str], writers: Mapping[str, LockWriter]) -> list[str]:
    found: dict[str, None] = {}
    for path in changed:
        name = Path(path).name
        kinds = [lock for lock, writer in writers.items() if writer.manifest == name]
        for folder in (root / path).parents:
            here = [lock for lock in kinds if (folder / lock).is_file() and not (folder / lock).is_symlink()]
            for lock in here:
                found[(folder / lock).relative_to(root).as_posix()] = None
            if here or folder == root:
                break
    return list(found)


def run_writer(writer: LockWriter, folder: Path, stopped: Callable[[], bool] = lambda: False) -> None:
    """Run it in the folder, within limits. Raises BadSource with what it says, and with the command for a person."""
    by_hand = f"run “{' '.join(writer.words)}” there"
    program = shutil.which(writer.words[0])
    if program is None or writer.by_hand:
        raise BadSource(by_hand if writer.by_hand else f"{writer.words[0]} was not found on PATH: {by_hand}")
    with tempfile.TemporaryDirectory(prefix="yoake-lock-", ignore_cleanup_errors=True) as place:
        log = Path(place) / "log"
        variables = {**os.environ, **writer.variables}
        try:
            ended = run_kept(
                command=[program, *writer.words[1:]],
                folder=folder,
                environment=variables,
                place=Path(place),
                log=log,
                limits=_LIMITS,
                stopped=stopped,
            )
        except Stopped as error:
            raise BadSource(f"{writer.words[0]} was stopped: {by_hand}") from error
        if ended.code or ended.why:
            said = [row.strip() for row in log.read_text("utf-8", "replace").splitlines() if row.strip()]
            why = ended.why or (said[-1][:200] if said else str(ended.code))
            raise BadSource(f"{writer.words[0]} said “{why}”: {by_hand}")
