"""Edits for an application: proposed, checked by scanning the new texts, and only then offered (DESIGN 4.8)."""

from __future__ import annotations

import json
import re
import tomllib
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from pathlib import PurePosixPath
from typing import Final

from yoake.context.kit import Kit
from yoake.core.contract.registry import Registry
from yoake.core.edits.manifests import edit_manifest, floors_of, manifest_files
from yoake.core.edits.proposing import FilePlan, plan_file, shapes_of, why_by_hand
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.edits import GONE, MOVE, Edited, EditedFile, EditStep, Proposal, applied
from yoake.core.values.findings import Finding
from yoake.core.values.results import ScanResult
from yoake.runner.encodings import as_it_was, normalise
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.runner.overlays import Overlay
from yoake.runner.snapshots import Snapshot
from yoake.store.facts_cache import FactsCache
from yoake.usecases.edit_tasks import EditTask
from yoake.usecases.progress import Control, Progress
from yoake.usecases.scan import scan_snapshot
from yoake.usecases.sources import open_snapshot

_MAIN_NAMES: Final = ("__init__", "index")
"""Files that stand for the folder they lie in."""


class EditWorker:
    """Proposes edits in a process of its own."""

    def __init__(self, kit: Kit) -> None:
        self.kit = kit

    def __call__(self, task: EditTask, tell: Callable[[str, object], None]) -> Proposal:
        """Scan, change, scan again. Raises BadSource and Stopped."""
        home = Home(task.home)
        cache = FactsCache(home.facts)
        extractor = Extractor(cache, self.kit.ecosystems, task.workers)
        snapshot = open_snapshot(task.source, home, task.allowed)
        try:
            control = Control(lambda progress: tell("said", progress))
            return propose(task, snapshot, self.kit.knowledge(home.knowledge), extractor, control)
        finally:
            snapshot.close()
            extractor.close()
            cache.close()


def propose(
    task: EditTask, snapshot: Snapshot, knowledge: Knowledge, extractor: Extractor, control: Control
) -> Proposal:
    """Edits for some findings of a source as it is now, each file checked; nothing is written."""
    scanned = scan_snapshot(
        snapshot=snapshot,
        knowledge=knowledge,
        destination=task.targets,
        said=task.said,
        extractor=extractor,
        control=control,
        name=task.name,
    )
    every = scanned.result.findings
    chosen = sorted((f for f in every if _wanted(f, task.keys)), key=lambda f: (f.title, f.key))
    by_hand = {f.key: (f.title, why) for f in chosen if (why := why_by_hand(f, knowledge))}
    made = [f for f in chosen if f.key not in by_hand]
    control.say(Progress("writing edits"))
    written = {
        p.file for f in made for p in f.places if p.role in ("source", "test")
    }  # copies and builds are made anew
    paths = sorted(written - task.left_out)
    drafts = [_draft(path, snapshot, made, every, knowledge) for path in paths]
    drafts += _manifests(task, scanned.result, snapshot, knowledge, frozenset(d.path for d in drafts if d.texts))
    control.say(Progress("checking edits"))
    left = _check(
        drafts=drafts,
        before=scanned.result,
        snapshot=snapshot,
        task=task,
        knowledge=knowledge,
        extractor=extractor,
        control=control,
    )
    by_hand = {key: said for key, said in by_hand.items() if key in left}  # releases and pins deal with some of them
    files = tuple(d.outcome() for d in drafts)
    steps = (*_move(task, drafts, knowledge), *_steps(made, drafts, knowledge))
    return Proposal(scanned.identity, scanned.label, steps, files, by_hand)


def _manifests(
    task: EditTask, result: ScanResult, snapshot: Snapshot, knowledge: Knowledge, edited: frozenset[str]
) -> Iterable[_Draft]:
    """Manifests and pins with what the stage takes. A file whose names are edited too is left to a person."""
    floors = floors_of(task.taken, knowledge)
    for path in manifest_files(result.modules, task.taken, floors):
        if path in task.left_out:
            continue
        before = snapshot.read(path)
        plain, note = normalise(before)
        made = edit_manifest(path, plain, result.modules, task.taken, knowledge.ecosystems, floors)
        refused = {f"{MOVE} {number}": why for number, why in enumerate(made.refused)}
        if made.changes and path in edited:
            refused[MOVE] = "names are edited in it as well: write its versions by hand"
        draft = _Draft(path=path, before=before, plain=plain, plan=FilePlan(path, (), Edited(), refused), fault=note)
        if made.changes and path not in edited:
            draft.texts[MOVE] = applied(plain, made.changes)
        if draft.texts or refused:
            yield draft


def _move(task: EditTask, drafts: Sequence[_Draft], knowledge: Knowledge) -> Iterable[EditStep]:
    """The first step of a stage: what manifests and pins name from then on."""
    files = {d.path: d.on_disk(d.texts[MOVE]) for d in drafts if d.changed and MOVE in d.texts}
    if files:
        named = [f"{knowledge.spoken(p)} {release}" for p, release in sorted(task.taken.items())]
        floors = [f"{knowledge.spoken(p)} {line} or newer" for p, line in floors_of(task.taken, knowledge).items()]
        body = "\n".join(f"- {text}" for text in [*named, *floors])
        yield EditStep(
            key=MOVE,
            old=MOVE,
            new=MOVE,
            message=f"Take the releases of this stage\n\n{body}\n",
            safe=False,
            places=len(files),
            files=files,
        )


def _wanted(finding: Finding, keys: frozenset[str] | None) -> bool:
    return finding.window.state == "now" if keys is None else finding.key in keys


@dataclass(kw_only=True)
class _Draft:
    """One file on its way through the checks. ``texts``: finding → its text, in UTF-8, after that finding and those before it."""

    path: str
    before: bytes
    plain: bytes
    plan: FilePlan | None
    texts: dict[str, bytes] = field(default_factory=dict)
    fault: str = ""

    @property
    def changed(self) -> bool:
        return bool(self.texts) and not self.fault

    @property
    def after(self) -> bytes:
        return self.on_disk(next(reversed(self.texts.values())))

    def on_disk(self, plain: bytes) -> bytes:
        """The text in the encoding of the file."""
        return as_it_was(plain, self.before)

    def outcome(self) -> EditedFile:
        refused = self.plan.refused if self.plan is not None else {}
        if self.changed:
            return EditedFile(
                path=self.path,
                outcome="changed",
                why="",
                keys=tuple(self.texts),
                hand=refused,
                before=self.before,
                after=self.after,
            )
        if self.fault:
            return EditedFile(path=self.path, outcome="cannot", why=self.fault, keys=(), hand=refused)
        return EditedFile(path=self.path, outcome="hand", why=next(iter(refused.values()), ""), keys=(), hand=refused)


def _draft(
    path: str, snapshot: Snapshot, made: Sequence[Finding], every: Sequence[Finding], knowledge: Knowledge
) -> _Draft:
    before = snapshot.read(path)
    plain, note = normalise(before)
    if note or as_it_was(plain, before) != before:
        return _Draft(
            path=path, before=before, plain=plain, plan=None, fault=note or "its encoding does not come back as it was"
        )
    plan = plan_file(path, plain, made, every, knowledge)
    draft = _Draft(path=path, before=before, plain=plain, plan=plan)
    done: list[Finding] = []
    for finding in made:
        if plan is not None and finding.key in plan.keys:
            done.append(finding)
            part = plan if len(done) == len(plan.keys) else plan_file(path, plain, done, done, knowledge)
            if part is not None:
                draft.texts[finding.key] = applied(plain, part.edited.changes)
    if draft.texts and next(reversed(draft.texts.values())) == plain:
        draft.texts.clear()
    return draft


def _check(
    drafts: Sequence[_Draft],
    before: ScanResult,
    snapshot: Snapshot,
    task: EditTask,
    knowledge: Knowledge,
    extractor: Extractor,
    control: Control,
) -> frozenset[str]:
    """Parse the new texts, look who needs what they no longer offer, and scan them; what fails is not offered and says why.

    Returns the findings that are still there afterwards.
    """
    sources = [f.path for f in before.files if f.state == "scanned"]
    for draft in drafts:
        if draft.changed and MOVE in draft.texts:
            draft.fault = _unreadable(draft)
        elif draft.changed:
            draft.fault = _broken(draft, knowledge) or _needed(draft, sources, snapshot, knowledge.ecosystems)
    texts = {d.path: d.after for d in drafts if d.changed}
    if not texts:
        return frozenset(f.key for f in before.findings)
    overlay = Overlay(snapshot, texts)
    after = scan_snapshot(
        snapshot=overlay,
        knowledge=knowledge,
        destination=task.targets,
        said=task.said,
        extractor=extractor,
        control=control,
        name=task.name,
    )
    old, new = _counted(before.findings), _counted(after.result.findings)
    titles = {f.key: f.title for f in after.result.findings}
    for draft in drafts:
        if draft.changed:
            left = next((key for key in draft.texts if new[draft.path, key]), None)
            came = next((key for (path, key), n in new.items() if path == draft.path and n > old[path, key]), None)
            if left is not None:
                draft.fault = f"a scan of the new text still finds {titles[left]}"
            elif came is not None:
                draft.fault = f"a scan of the new text finds {titles[came]}"
    return frozenset(titles)


def _counted(findings: Iterable[Finding]) -> Counter[tuple[str, str]]:
    """(file, finding) → places that nothing guards."""
    return Counter((p.file, f.key) for f in findings for p in f.places if not p.guarded)


def _unreadable(draft: _Draft) -> str:
    """That a manifest is no JSON or TOML any more where it was some; empty when it is, or never was."""
    reader = {".json": json.loads, ".toml": tomllib.loads}.get(PurePosixPath(draft.path).suffix)
    if reader is None:
        return ""
    for data, said in ((draft.plain, ""), (draft.texts[MOVE], "the new text could not be read")):
        try:
            reader(data.decode("utf-8", "replace"))
        except ValueError:
            return said
    return ""


def _broken(draft: _Draft, knowledge: Knowledge) -> str:
    """That the new text does not parse where the old one did, or uses a name that nothing binds; empty when it does neither."""
    ecosystems = knowledge.ecosystems
    if ecosystems.source_reader(draft.path) is None:
        return ""
    now = ecosystems.read_source(draft.path, next(reversed(draft.texts.values())))
    was = ecosystems.read_source(draft.path, draft.plain)
    if len(now.broken) > len(was.broken):
        return "the new text would not parse"
    owner = ecosystems.of_language(now.language)
    timeline = knowledge.timelines.get(owner.runtime) if owner is not None else None
    known = {ask.path for ask in was.asks if ask.form == "builtin"}
    for path in (ask.path for ask in now.asks if ask.form == "builtin" and ask.path not in known):
        answer = timeline.ask(path) if timeline is not None else None
        if answer is not None and not answer.offers and not answer.unknown:
            return f"nothing in the new text says what {path.rpartition('.')[2]} is"
    return ""


def _needed(draft: _Draft, sources: Sequence[str], snapshot: Snapshot, ecosystems: Registry) -> str:
    """That another file takes a name from this one that it no longer has; empty when none does."""
    if ecosystems.source_reader(draft.path) is None:
        return ""
    was = ecosystems.read_source(draft.path, draft.plain).exports
    lost = set(was) - set(ecosystems.read_source(draft.path, next(reversed(draft.texts.values()))).exports)
    if not lost:
        return ""
    pure = PurePosixPath(draft.path)
    parts = pure.with_suffix("").parts
    dotted = ".".join(parts[:-1] if parts[-1] in _MAIN_NAMES else parts)
    names = "|".join(map(re.escape, sorted(lost)))
    taken = re.compile(rf"from\s+([\w.]+)\s+import\s+(?:\([^)]*?\b({names})\b|[^\n(]*?\b({names})\b)".encode())
    for path in sources:
        if path != draft.path and PurePosixPath(path).suffix == pure.suffix:
            for found in taken.finditer(snapshot.read(path)):
                module = found.group(1).decode().lstrip(".")
                if dotted == module or dotted.endswith(f".{module}"):
                    return f"{path} takes {(found.group(2) or found.group(3)).decode()} from here"
    return ""


def _steps(made: Sequence[Finding], drafts: Sequence[_Draft], knowledge: Knowledge) -> Iterable[EditStep]:
    for finding in made:
        files = {d.path: d.on_disk(d.texts[finding.key]) for d in drafts if d.changed and finding.key in d.texts}
        if files:
            # the name of a rule about texts, or of a form of the language, says nothing to a reader
            ruled = finding.symbol in knowledge.rules_by_id or finding.symbol.startswith("syntax.")
            shaped = bool(shapes_of(finding, knowledge))  # more than a name changes
            old, new = (finding.title, "") if ruled or shaped else (finding.symbol, finding.replacement or GONE)
            places = sum(1 for p in finding.places if p.file in files)
            message = _message(finding, old, new, knowledge)
            yield EditStep(
                key=finding.key,
                old=old,
                new=new,
                message=message,
                safe=finding.window.state == "now",
                places=places,
                files=files,
            )


def _message(finding: Finding, old: str, new: str, knowledge: Knowledge) -> str:
    """What a commit says: what is written instead, and why."""
    what = f"Take out {old}" if new == GONE else f"Write {new} instead of {old}" if new else f"Write otherwise: {old}"
    line = f"{knowledge.spoken(finding.coordinate)} {finding.bites_at}"
    why = [f"The old way ends at {line}." if finding.bites_at else "The old way is deprecated."]
    both = finding.window.both
    if both and new not in ("", GONE):
        why.append(f"Both ways work from {both[0]} to {both[-1]}.")
    return f"{what}\n\n{' '.join([*why, finding.remedy]).strip()}\n"
