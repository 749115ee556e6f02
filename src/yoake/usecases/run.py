"""Run a command of an application in a fresh copy, on the runtime and releases of a side, or of two sides (DESIGN 4.9)."""

from __future__ import annotations

import json
import re
import secrets
import shutil
import sys
import tempfile
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from importlib import resources
from pathlib import Path
from typing import Final

from yoake.context.kit import Kit
from yoake.core.contract.registry import Registry
from yoake.core.edits.manifests import edit_manifest, manifest_files
from yoake.core.inventory.assemble import MAX_MANIFEST, assemble, is_inventory_file
from yoake.core.proof.asked import read_asked, told_apart
from yoake.core.proof.comparing import compare
from yoake.core.values.coordinates import Coordinate, Releases
from yoake.core.values.edits import applied
from yoake.core.values.errors import BadInput, BadSource
from yoake.core.values.modules import Module
from yoake.core.values.runs import Command, Run, RunEnd, RunOutcome, Side, TestResult
from yoake.runner.clients.contract import Bench, Environment, Making
from yoake.runner.copies import check_module, copy_commit, copy_folder, copy_snapshot
from yoake.runner.home import Home
from yoake.runner.kept_commands import Ended, run_kept
from yoake.runner.snapshots import FolderSnapshot
from yoake.usecases.progress import Control, Progress
from yoake.usecases.run_tasks import RunTask, commands_in
from yoake.usecases.sources import check_source, local_path, open_snapshot

_MENDINGS: Final = 3  # things that may be missing beside it, one seen after the other
_MOST_OUTPUT: Final = 8 * 1024**2
_MOST_ASKED: Final = 100
_PATH: Final = re.compile(r"/[!-~]{0,500}")
_LISTENS_WITHIN: Final = 120.0  # seconds: old applications take their time


class RunWorker:
    """Runs in a process of its own."""

    def __init__(self, kit: Kit) -> None:
        self.kit = kit

    def __call__(self, task: RunTask, tell: Callable[[str, object], None]) -> RunOutcome:
        """Run both sides. Raises BadSource and BadInput."""
        return run_sides(task, self.kit, Control(lambda progress: tell("said", progress)))


def run_sides(task: RunTask, kit: Kit, control: Control) -> RunOutcome:
    """Each side in a copy and an environment of its own, again where tests fail; then test by test. Raises BadSource, BadInput, Stopped."""
    check_source(task.source, task.allowed)
    old = _repeated(task, kit, task.old, "old", control)
    if task.new is None:  # its own tests: what passes is alike, what fails broke before
        return RunOutcome(old, (), compare(old, old))
    new = _repeated(task, kit, task.new, "new", control)
    if old[0].command.asks:
        new = told_apart(old, new)
    return RunOutcome(old, new, compare(old, new))


def _repeated(task: RunTask, kit: Kit, side: Side, which: str, control: Control) -> tuple[Run, ...]:
    if task.work is not None:
        task.work.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="yoake-run-", dir=task.work, ignore_cleanup_errors=True) as held:
        place = Path(held)
        made = _Site(task, kit, side, which, place, control)
        runs = [made.run(1)]
        while len(runs) <= task.repeats and runs[-1].ended == "failed":
            runs.append(made.run(len(runs) + 1))
        return tuple(runs)


class _Site:
    """A side with its copy and its environment; runs again without making them anew."""

    def __init__(self, task: RunTask, kit: Kit, side: Side, which: str, place: Path, control: Control) -> None:
        self.clients, self.ecosystems = kit.clients, kit.ecosystems
        self.task, self.side, self.place, self.control = task, side, place, control
        self.log = Home(task.home).runs / f"{task.log or secrets.token_hex(8)}-{which}.log"
        self.log.parent.mkdir(parents=True, exist_ok=True)
        self._ready: tuple[Environment, Path, Command] | None = None
        self._refused: Ended | None = None
        self.identity = ""
        self.beside: list[str] = []

    def run(self, number: int) -> Run:
        """Run the command once; the environment is made before the first time, and mended where something old is missing beside it."""
        if self._ready is None:
            self._ready = self._prepare()
        environment, folder, command = self._ready
        if self._refused is not None:
            return self._told(command, "refused", self._refused, environment, ())
        ended, output, tests = self._once(environment, folder, command, number)
        for _ in range(_MENDINGS):
            if not ended.code or ended.why:
                break
            counts = Counter(test.outcome for test in tests)
            sound = counts["passed"] > counts["failed"]
            missing = [m for m in environment.mending(output, sound) if m[0] not in self.beside]
            if not missing:
                break
            for beside, words in missing:
                self.beside.append(beside)
                self._note(f"$ {beside} beside it")
                run_kept(words, folder, environment.installing, self.place, self.log, self.task.limits)
            ended, output, tests = self._once(environment, folder, command, number)
        state: RunEnd = "cut" if ended.why else "passed" if ended.code == 0 else "failed"
        if state == "failed" and not tests:
            ended = replace(ended, why=self._plain(last_error(self.log)))
        return self._told(command, state, ended, environment, tests)

    def _once(
        self, environment: Environment, folder: Path, command: Command, number: int
    ) -> tuple[Ended, str, tuple[TestResult, ...]]:
        again = f" ({number})" if number > 1 else ""
        self.control.say(Progress(f"{self.side.label}: {command.name}{again}"))
        self._note(f"$ {' '.join(command.words)}{again}")
        at = self.log.stat().st_size
        words = _asking(environment.words, command.asks) if command.asks else environment.words
        ended = run_kept(words, folder, environment.variables, self.place, self.log, self.task.limits)
        with self.log.open("rb") as handle:
            handle.seek(at)
            output = handle.read(_MOST_OUTPUT).decode("utf-8", "replace")
        self._note(f"[{ended.why or f'it ended with {ended.code}'}, after {ended.seconds:.1f} s]")
        told = read_asked(output) if command.asks else environment.tests(output)
        tests = tuple(replace(test, note=self._plain(test.note)) for test in told)
        self._clear_results()
        return ended, output, tests

    def _prepare(self) -> tuple[Environment, Path, Command]:
        self.control.say(Progress(f"{self.side.label}: a fresh copy"))
        copy = self.place / "copy"
        copy.mkdir()
        self.identity = _copy(self.task, self.side, copy)
        folder = check_module(copy, self.task.module)
        module = _module(copy, self.task.module, self.ecosystems)
        command = self.task.command or likeliest(suggested(folder, self.ecosystems), self.task.asks)
        command = replace(command, asks=self.task.asks or command.asks)
        command = replace(command, beside=(*command.beside, *self.task.beside))
        _take_releases(copy, module, self.side.releases, self.ecosystems)
        runtime = command.runtime or _runtime_of(folder, self.side, self.ecosystems)
        client = self.clients.of(Coordinate(runtime)) if runtime else None
        if client is None or client.environment is None:
            raise BadInput(f"No runtime is named on which this can run: give a line, as in {_EXAMPLE}.")
        bench = Bench(
            folder=folder,
            place=self.place,
            module=module,
            side=self.side,
            command=command,
            runtimes=Home(self.task.home).runtimes,
        )
        environment = client.environment(bench)
        for step in environment.steps:
            self.control.say(Progress(f"{self.side.label}: {step.title}"))
            self._note(f"$ {step.title}")
            ended = self._make(step, folder, environment)
            if ended.code != 0 or ended.why:
                self._refused = Ended(ended.code, f"{step.title}: {ended.why or last_error(self.log)}", ended.seconds)
                break
        return environment, folder, command

    def _make(self, step: Making, folder: Path, environment: Environment) -> Ended:
        """One step of an environment; where it does not go well as a whole, its parts."""

        def run(words: Sequence[str]) -> Ended:
            return run_kept(words, folder, environment.installing, self.place, self.log, self.task.limits)

        ended = run(step.words)
        if ended.code == 0 or ended.why or not step.instead:
            return ended
        self._note("$ one by one, since it did not go together")
        first = run(step.instead[0]) if step.instead[0] else Ended(0, "", 0.0)
        if first.code == 0 and not first.why:
            for words in step.instead[1:]:
                if run(words).code:
                    self._note(f"$ without {words[-1]}")
        return first

    def _told(
        self, command: Command, state: RunEnd, ended: Ended, environment: Environment, tests: Sequence[TestResult]
    ) -> Run:
        return Run(
            side=self.side,
            command=command,
            ended=state,
            code=ended.code,
            seconds=round(ended.seconds, 2),
            said=ended.why or (f"with {', '.join(self.beside)} beside it" if self.beside else ""),
            tests=tuple(tests),
            log=f"runs/{self.log.name}",
            installed=environment.installed(),
            identity=self.identity,
        )

    def _note(self, text: str) -> None:
        with self.log.open("a", encoding="utf-8") as handle:
            handle.write(f"{text}\n")

    def _plain(self, note: str) -> str:
        """What went wrong, without where the copy and the environment lie."""
        return _FILE.sub("", note).replace(f"{self.place}/copy/", "").replace(f"{self.place}/", "")

    def _clear_results(self) -> None:
        results = self.place / "results"
        if results.is_dir():
            for path in results.iterdir():
                if path.is_file():
                    path.unlink()
                else:
                    shutil.rmtree(path, ignore_errors=True)


_FILE: Final = re.compile(r" ?\(/[^)]*\)")
"""Where a module was found, as errors of imports say it."""
_NPM: Final = re.compile(r"npm (?:error|ERR!) ")
_EXAMPLE: Final = "--state python@3.13"


def last_error(log: Path) -> str:
    """The last line of a log that tells of an error, else its last line."""
    rows = [row.strip() for row in log.read_text("utf-8", "replace")[-20_000:].splitlines()]
    rows = [row for row in rows if row and not row.startswith(("$ ", "[it ended"))]
    npm = [row for row in rows if _NPM.match(row) and " code " not in row]
    errors = [row for row in rows if row.lower().startswith("error") or "Error: " in row]
    return (npm[:1] or errors or rows or ["nothing was said"])[-1][:300]


def _copy(task: RunTask, side: Side, target: Path) -> str:
    source = task.source
    inside = source.subfolder.strip("/")
    if source.kind == "git" or side.ref:
        return copy_commit(source.location, side.ref or source.ref, inside, Home(task.home).mirrors, target)
    if source.kind == "archive":
        snapshot = open_snapshot(source, Home(task.home), task.allowed)
        try:
            return copy_snapshot(snapshot, target)
        finally:
            snapshot.close()
    return copy_folder(local_path(source.location).resolve() / inside, target)


def _module(copy: Path, path: str, ecosystems: Registry) -> Module:
    """What the manifests of a copy say of one module."""
    snapshot = FolderSnapshot(copy)
    held = {
        entry.path: snapshot.read(entry.path)
        for entry in snapshot.entries()
        if not entry.refused and is_inventory_file(entry.path, ecosystems) and entry.size <= 10 * MAX_MANIFEST
    }
    modules = assemble(held, "application", ecosystems)
    return next((m for m in modules if m.path == path), Module(path=path, name="application"))


def _take_releases(copy: Path, module: Module, releases: Releases, ecosystems: Registry) -> None:
    """Write the releases of a side into the manifests of the copy, where their ranges keep them out."""
    for path in manifest_files([module], releases):
        target = copy / path
        before = target.read_bytes()
        made = edit_manifest(path, before, [module], releases, ecosystems)
        if made.changes:
            target.write_bytes(applied(before, made.changes))


def suggested(folder: Path, ecosystems: Registry) -> tuple[Command, ...]:
    """What can be run in a folder, the likeliest first. Raises BadInput where nothing tells."""
    paths = [e.path for e in FolderSnapshot(folder).entries() if not e.refused]

    found = commands_in(paths, lambda path: (folder / path).read_text("utf-8", "replace"), ecosystems)
    if not found:
        raise BadInput("No file here says how its tests are run. Name the command.")
    return found


def paths_to_ask(paths: Sequence[str]) -> tuple[str, ...]:
    """Paths that a server may be asked for. Raises BadInput."""
    wrong = [path for path in paths if not _PATH.fullmatch(path)]
    if wrong or len(paths) > _MOST_ASKED:
        raise BadInput(
            f"“{wrong[0][:80]}” is no path to ask for: write it as /health, without a host, with other signs encoded."
            if wrong
            else f"At most {_MOST_ASKED} paths can be asked for."
        )
    return tuple(dict.fromkeys(paths))


def likeliest(commands: Sequence[Command], asks: Sequence[str]) -> Command:
    """The first that runs tests; with paths to ask for the first that serves. Raises BadInput where none does."""
    found = next((c for c in commands if (c.kind == "serve") == bool(asks)), None)
    if found is None:
        raise BadInput(
            "No file here says how it is served. Name the command."
            if asks
            else "No file here says how its tests are run. Name the command."
        )
    return found


def _asking(words: Sequence[str], asks: Sequence[str]) -> list[str]:
    """The words that start a server, ask it, and end it."""
    order = json.dumps({"words": list(words), "asked": list(asks), "seconds": _LISTENS_WITHIN})
    return [sys.executable, "-I", str(resources.files("yoake.runner.probes") / "ask_server.py"), order]


def _runtime_of(folder: Path, side: Side, ecosystems: Registry) -> str:
    """What a command that somebody wrote runs on: where the folder’s own commands run, else the first that the side names."""
    try:
        found = [c.runtime for c in suggested(folder, ecosystems) if c.runtime in side.lines]
    except BadInput:
        found = []
    return (found or list(side.lines) or [""])[0]


def named(commands: Sequence[Command], name: str) -> Command:
    """One of the commands by its name. Raises BadSource with those that there are."""
    found = next((c for c in commands if c.name == name), None)
    if found is None:
        raise BadSource(
            f"There is no command “{name}” here. There are: {', '.join(c.name for c in commands) or 'none'}."
        )
    return found
