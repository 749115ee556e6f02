"""Scan a snapshot: list, read, extract, join; with progress, a stop, and a result for every file."""

from __future__ import annotations

import gc
import hashlib
import re
import time
from collections.abc import Container, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from typing import Final

from yoake.core.contract.registry import Registry
from yoake.core.contract.source_files import UNREAD, suffix_of
from yoake.core.inventory.assemble import assemble, is_inventory_file
from yoake.core.inventory.mentions import MAX_TEXT, find_mentions, may_mention
from yoake.core.inventory.origins import SourceFile, roles_by_content
from yoake.core.knowledge.base import Knowledge
from yoake.core.scan.companions import possible_companions
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.scan.text_rules import asked_files
from yoake.core.values.coordinates import Target
from yoake.core.values.errors import BadSource, Stopped
from yoake.core.values.facts import FileFacts
from yoake.core.values.findings import NO_READER, FileResult
from yoake.core.values.modules import Mention, Module
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import MAX_FILE, MAX_READ, Entry, Snapshot
from yoake.usecases.progress import Control, Progress
from yoake.usecases.scanned import Scanned

_LARGE: Final = 300_000
_COMPILED: Final = "compiled: sources of its language are here"
_SAY_EVERY: Final = 0.15  # seconds between two words of progress


def scan_snapshot(
    snapshot: Snapshot,
    knowledge: Knowledge,
    destination: Sequence[Target],
    said: Sequence[Target],
    extractor: Extractor,
    control: Control,
    name: str = "application",
) -> Scanned:
    """Scan everything in ``snapshot``. Raises BadSource for an empty one and Stopped when a person stops it."""
    with _collector_off():
        return _scan(
            snapshot=snapshot,
            knowledge=knowledge,
            destination=destination,
            said=said,
            extractor=extractor,
            control=control,
            name=name,
        )


@contextmanager
def _collector_off() -> Iterator[None]:
    """A scan makes millions of small records and no loops: looking for loops among them costs a quarter of its time."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()


def _scan(
    snapshot: Snapshot,
    knowledge: Knowledge,
    destination: Sequence[Target],
    said: Sequence[Target],
    extractor: Extractor,
    control: Control,
    name: str,
) -> Scanned:
    started = time.monotonic()
    ecosystems = knowledge.ecosystems
    asked = asked_files(knowledge, possible_companions([t.coordinate for t in destination], knowledge))
    reading = _Reading(snapshot, extractor, control, ecosystems, asked)
    reading.run()
    if not reading.files and not reading.inventory:
        raise BadSource("There is nothing to scan here: no source file and no manifest. Is the folder right?")
    control.say(Progress("joining", len(reading.files), len(reading.files)))
    modules = assemble(reading.inventory, name, ecosystems, reading.facts)
    reading.tell_apart(modules, _libraries(knowledge))
    files = sorted(reading.files.values(), key=lambda f: f.path)
    mentions = reading.mentions(destination)
    given = ScanInput(
        facts=reading.facts,
        files=files,
        modules=modules,
        destination=tuple(destination),
        said=tuple(said),
        mentions=mentions,
        texts=reading.asked(),
    )
    result = run_scan(given, knowledge)
    identity = snapshot.identity
    if identity.startswith("folder:"):
        identity = "content:" + reading.content(files)
    quoted = {place.file for finding in result.findings for place in finding.places}
    prose = {path: data for path, data in reading.prose.items() if path in quoted}
    texts = {**prose, **reading.texts, **reading.inventory}
    return Scanned(result, identity, snapshot.label, texts, time.monotonic() - started)


def _libraries(knowledge: Knowledge) -> frozenset[str]:
    """First parts of paths that known packages have."""
    ecosystems = knowledge.ecosystems
    return frozenset(
        name
        for each in ecosystems.ecosystems
        for name, coordinate in knowledge.import_names(each.language).items()
        if not ecosystems.is_runtime(coordinate)
    )


class _Reading:
    """Lists and reads one snapshot, and collects what comes of each file."""

    def __init__(
        self,
        snapshot: Snapshot,
        extractor: Extractor,
        control: Control,
        ecosystems: Registry,
        asked_for: re.Pattern[str] | None,
    ) -> None:
        self.snapshot = snapshot
        self.extractor = extractor
        self.control = control
        self.ecosystems = ecosystems
        self.asked_for = asked_for
        self.files: dict[str, FileResult] = {}
        self.facts: dict[str, FileFacts] = {}
        self.inventory: dict[str, bytes] = {}
        self.texts: dict[str, bytes] = {}
        self.prose: dict[str, bytes] = {}
        self.paths: list[str] = []
        self.total = 0
        self.last_said = 0.0
        self.started = time.monotonic()

    def run(self) -> None:
        self.control.say(Progress("listing"))
        entries = list(self.snapshot.entries())
        self.paths = [entry.path for entry in entries]
        sources = self._without_compiled([entry for entry in entries if self._classify(entry)])
        sources.sort(
            key=lambda entry: -entry.size if entry.size > _LARGE else 0
        )  # one worker would end with them alone
        self.total = len(sources)
        for path, digest, facts, note in self.extractor.run(self._read(sources), self.control.stopped):
            if facts is None:
                self.files[path] = FileResult(
                    path=path,
                    state="failed",
                    reason=note,
                    language=self._language(path),
                    lines=0,
                    digest=digest,
                    role=self.ecosystems.role_of(path),
                )
            else:
                self.facts[path] = facts
                broken = f"{len(facts.broken)} lines could not be parsed" if facts.broken else ""
                reason = "; ".join(filter(None, (note, broken)))
                role = self.ecosystems.role_of(path, self.texts[path][:1500])
                self.files[path] = FileResult(
                    path=path,
                    state="scanned",
                    reason=reason,
                    language=self._language(path),
                    lines=facts.lines,
                    digest=digest,
                    role=role,
                )
            self._say()
        if self.control.stopped():
            raise Stopped("The scan was stopped. What the last finished scan found is still here.")
        self.facts = {path: self.facts[path] for path in sorted(self.facts)}

    def _without_compiled(self, sources: list[Entry]) -> list[Entry]:
        """Compiled files are read only where no source of their language is at hand."""
        texts = {self._language(e.path) for e in sources if not self.ecosystems.is_compiled(e.path)}
        kept = []
        for entry in sources:
            language = self._language(entry.path)
            if self.ecosystems.is_compiled(entry.path) and language in texts:
                self.files[entry.path] = FileResult(
                    path=entry.path, state="skipped", reason=_COMPILED, language=language
                )
            else:
                kept.append(entry)
        return kept

    def tell_apart(self, modules: Sequence[Module], libraries: Container[str]) -> None:
        """Give every file that was read its role, now that all of them and the modules are known."""
        read = {
            path: SourceFile(
                role=file.role,
                data=self.texts[path],
                digest=file.digest,
                imports=[ask.path for ask in self.facts[path].asks if ask.form == "import"]
                if path in self.facts
                else (),
            )
            for path, file in self.files.items()
            if path in self.texts
        }
        folders = {module.path for module in modules}
        names = [module.name for module in modules]
        roles = roles_by_content(read, self.paths, folders, names, libraries, self.ecosystems)
        for path, role in roles.items():
            if role != self.files[path].role:
                self.files[path] = replace(self.files[path], role=role)

    def content(self, files: Sequence[FileResult]) -> str:
        """A digest of everything that was read: sources, manifests and other texts. What is not in it would go unnoticed."""
        read = {**self.prose, **self.inventory}
        rows = [f"{f.path} {f.digest}" for f in files]
        rows += [f"{path} {hashlib.sha256(read[path]).hexdigest()}" for path in sorted(read)]
        return hashlib.sha256("\n".join(rows).encode()).hexdigest()

    def mentions(self, destination: Sequence[Target]) -> list[Mention]:
        """Versions of the destination's coordinates that texts name."""
        coordinates = [target.coordinate for target in destination]
        texts = {**self.prose, **self.inventory}
        return [
            mention
            for path in sorted(texts)
            if may_mention(path, self.ecosystems)
            for mention in find_mentions(path, texts[path].decode("utf-8", "replace"), coordinates, self.ecosystems)
        ]

    def _classify(self, entry: Entry) -> bool:
        """Whether an entry is source to be read; everything else gets its result at once."""
        if entry.path.endswith("/"):
            self.files[entry.path] = FileResult(
                path=entry.path, state="skipped", reason=entry.refused, language="folder"
            )
            return False
        suffix = suffix_of(entry.path)
        if not entry.refused:
            self._keep_text(entry)
        if suffix in UNREAD:
            self.files[entry.path] = FileResult(
                path=entry.path, state="unread", reason=NO_READER, language=UNREAD[suffix]
            )
        elif (language := self.ecosystems.language_of_file(entry.path)) is not None:
            if entry.refused:
                self.files[entry.path] = FileResult(
                    path=entry.path, state="skipped", reason=entry.refused, language=language
                )
            elif entry.size > MAX_FILE:
                reason = f"{entry.size / 1e6:.0f} MB, larger than {MAX_FILE // 1024 // 1024} MB"
                self.files[entry.path] = FileResult(path=entry.path, state="unread", reason=reason, language=language)
            else:
                return True
        return False

    def _keep_text(self, entry: Entry) -> None:
        """Manifests for the inventory, and other texts that may name a version."""
        if is_inventory_file(entry.path, self.ecosystems):
            if entry.size <= MAX_READ:
                self._read_into(self.inventory, entry)
            else:
                reason = f"{entry.size / 1e6:.0f} MB, larger than {MAX_READ // 1024 // 1024} MB"
                self.files[entry.path] = FileResult(path=entry.path, state="unread", reason=reason, language="manifest")
        elif entry.size <= MAX_TEXT and (may_mention(entry.path, self.ecosystems) or self._is_asked_for(entry.path)):
            self._read_into(self.prose, entry)

    def _is_asked_for(self, path: str) -> bool:
        return self.asked_for is not None and self.asked_for.search(path.lower()) is not None

    def asked(self) -> dict[str, str]:
        """Texts of the files that rules look through; those of other people are left out."""
        held = {**self.prose, **self.inventory, **self.texts}
        foreign = {path for path, file in self.files.items() if file.role in ("vendored", "generated")}
        return {
            path: data.decode("utf-8", "replace")
            for path, data in held.items()
            if path not in foreign and self._is_asked_for(path)
        }

    def _read_into(self, where: dict[str, bytes], entry: Entry) -> None:
        try:
            where[entry.path] = self.snapshot.read(entry.path)
        except OSError as error:
            self.files[entry.path] = FileResult(path=entry.path, state="failed", reason=str(error), language="manifest")

    def _read(self, sources: list[Entry]) -> Iterator[tuple[str, bytes]]:
        for entry in sources:
            try:
                data = self.snapshot.read(entry.path)
            except OSError as error:
                self.files[entry.path] = FileResult(
                    path=entry.path, state="failed", reason=str(error), language=self._language(entry.path)
                )
                continue
            why = self.ecosystems.refused(entry.path, data)
            if why:
                role = self.ecosystems.role_of(entry.path, data)
                self.files[entry.path] = FileResult(
                    path=entry.path,
                    state="skipped",
                    reason=why,
                    language=self._language(entry.path),
                    lines=0,
                    digest="",
                    role=role,
                )
                continue
            self.texts[entry.path] = data
            yield entry.path, data

    def _say(self) -> None:
        now = time.monotonic()
        if now - self.last_said < _SAY_EVERY:
            return
        self.last_said = now
        done = len([None for f in self.files.values() if f.state in ("scanned", "failed")])
        rate = done / max(now - self.started, 0.001)
        self.control.say(Progress("reading", done, self.total, rate, (self.total - done) / rate if rate else None))

    def _language(self, path: str) -> str:
        return self.ecosystems.language_of_file(path) or ""
