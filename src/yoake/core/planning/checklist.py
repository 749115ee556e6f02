"""The sheet of a stage: what it needs before it starts, what comes after, its gate, and what knowledge lists but this code does not need.

Every item is there because of evidence, and names it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import Rule
    from yoake.core.values.findings import Finding
    from yoake.core.values.plans import Move, Stage

_MOST: Final = 12  # items of one list; more are counted


@dataclass(frozen=True, slots=True)
class Item:
    """One thing to see to, and the evidence it is there for."""

    text: str
    evidence: str = ""


@dataclass(frozen=True, slots=True)
class Checklist:
    """Lists of one stage."""

    needs: tuple[Item, ...]
    after: tuple[Item, ...]
    gate: tuple[Item, ...]
    not_needed: tuple[Item, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """What is known around the code. ``pins``: (file, line, coordinate, version); ``manifests``: files the inventory was read from;
    ``scanned``: files that were read."""

    tests: int
    kind: str
    owner: str
    team: str
    pins: tuple[tuple[str, int, str, str], ...]
    manifests: tuple[str, ...]
    scanned: int


def checklist_of(stage: Stage, findings: Mapping[str, Finding], ground: Ground, knowledge: Knowledge) -> Checklist:
    """The lists of one stage. ``findings``: all open ones by key."""
    moves = stage.moves
    runtimes = [m for m in moves if knowledge.ecosystems.is_runtime(m.coordinate)]
    own = [findings[key] for key in stage.finding_keys if key in findings]
    return Checklist(
        tuple(_needs(stage, runtimes, ground, knowledge)),
        tuple(_after(moves, runtimes, own, ground, findings.values(), knowledge)),
        tuple(_gate(stage, runtimes, ground, knowledge)),
        tuple(_not_needed(moves, findings.values(), ground, knowledge)),
    )


def _tests(ground: Ground) -> str:
    return "one file of tests" if ground.tests == 1 else f"{ground.tests} files of tests"


def _shown(move: Move, knowledge: Knowledge) -> str:
    return f"{knowledge.spoken(move.coordinate)} {move.goal}"


def _needs(stage: Stage, runtimes: Sequence[Move], ground: Ground, knowledge: Knowledge) -> list[Item]:
    items = []
    for move in runtimes:
        pins = [f"{file}:{line}" for file, line, coordinate, _ in ground.pins if coordinate == move.coordinate]
        where = f"named in {', '.join(dict.fromkeys(pins[:4]))}" if pins else "no file here says where it is installed"
        items.append(Item(f"{_shown(move, knowledge)} where it is built, tested and run", where))
    if ground.tests:
        items.append(Item("tests pass on the lines it stands on", _tests(ground)))
    else:
        items.append(Item("a check by hand of what must go on working, written down", "no file of tests was found"))
    if ground.kind == "git":
        items.append(Item("no uncommitted change, and a commit to go back to", "the source is a git repository"))
    if not ground.owner and not ground.team:
        items.append(Item("someone who does it", "neither owner nor team is named"))
    if stage.number > 1:
        items.append(Item(f"stage {stage.number - 1} has passed its gate", "stages are deployed one after another"))
    return items


def _after(
    moves: Sequence[Move],
    runtimes: Sequence[Move],
    own: Sequence[Finding],
    ground: Ground,
    every: Iterable[Finding],
    knowledge: Knowledge,
) -> list[Item]:
    items = []
    locks = [m for m in ground.manifests if knowledge.ecosystems.is_lock(m)]
    if moves and locks:
        items.append(Item(f"make {', '.join(locks[:3])} anew", "lock files name the releases of today"))
    images = sorted({f for f, _, p, _ in ground.pins if p in {m.coordinate for m in runtimes} and "ocker" in f})
    if images:
        items.append(Item("build the images from nothing, without the cache", ", ".join(images[:3])))
    elif runtimes:
        items.append(
            Item(
                "rebuild clean: a new environment, nothing left of the old one",
                f"{_shown(runtimes[0], knowledge)} is new",
            )
        )
    items.extend(Item(f"watch: {f.title}", _first_place(f)) for f in own if f.kind == "behaviour")
    moved = {m.coordinate for m in moves}
    warned = [f for f in every if f.kind == "deprecated" and f.coordinate in moved]
    if warned:
        names = ", ".join(f.title for f in warned[:3])
        begin = "1 name in use begins" if len(warned) == 1 else f"{len(warned)} names in use begin"
        items.append(Item(f"{begin} to warn: {names}", "deprecated from these lines on"))
    return items


def _first_place(finding: Finding) -> str:
    return f"{finding.places[0].file}:{finding.places[0].line}" if finding.places else ""


def _gate(stage: Stage, runtimes: Sequence[Move], ground: Ground, knowledge: Knowledge) -> list[Item]:
    count = len(stage.finding_keys)
    items = []
    if count:
        changes = "its change any more" if count == 1 else f"any of its {count} changes"
        items.append(Item(f"a scan does not find {changes}", "steps close on scans"))
    if stage.moves:
        items.append(Item("a scan reads these lines as today's", "from the manifests, pins and lock files"))
    if ground.tests:
        on = f" on {_shown(runtimes[0], knowledge)}" if runtimes else " on these lines"
        items.append(Item(f"the tests pass{on}", _tests(ground)))
    return items


def _not_needed(moves: Sequence[Move], findings: Iterable[Finding], ground: Ground, knowledge: Knowledge) -> list[Item]:
    """Rules that knowledge lists for these moves and that nothing in this code meets."""
    met = "\n".join(
        {text for f in findings for text in (f.symbol, f.title)}
    )  # one text: it is looked through for every rule
    items = []
    for move in moves:
        file = knowledge.rule_files.get(move.coordinate)
        for rule in file.rules if file is not None else ():
            subject = rule.symbol or rule.setting or rule.absent or ""
            if not _between(rule, move) or subject in met:
                continue
            why = f"not met in the {ground.scanned} files that were read"
            items.append(Item(rule.title or subject, why))
    return items[:_MOST]


def _between(rule: Rule, move: Move) -> bool:
    return rule.at is not None and move.start < rule.at <= move.goal
