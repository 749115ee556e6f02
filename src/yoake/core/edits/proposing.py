"""From findings to changes of text: which names can be written otherwise, file by file, and what is left to people and why."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from yoake.core.edits.texts import text_changes
from yoake.core.values.edits import GONE, Change, Edited, Rename, Spot, applied
from yoake.core.values.findings import IMPORT_FALLBACK, OTHER_VERSIONS, Finding, Place

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import Rewrite, Rule
    from yoake.core.values.coordinates import Coordinate

_DOTTED: Final = re.compile(r"(?<![\w.}\"'])[A-Za-z_]\w*(?:\.[A-Za-z_]\w*)+")
_PATH: Final = re.compile(r"[^\W\d]\w*(\.[^\W\d]\w*)*")


@dataclass(frozen=True, slots=True)
class FilePlan:
    """What can be done to one file. ``keys``: findings whose places in it are all dealt with; ``edited``: the changes;
    ``refused``: finding → why it is left to a person."""

    path: str
    keys: tuple[str, ...]
    edited: Edited
    refused: Mapping[str, str]


def why_by_hand(finding: Finding, knowledge: Knowledge) -> str:
    """Why no edit comes from a finding; empty when one can."""
    ruled_text = knowledge.rules_by_id.get(finding.symbol)
    if ruled_text is not None and ruled_text[0].edits:
        return ""
    owner = knowledge.ecosystems.of(finding.coordinate)
    if (
        finding.kind == "setting"
        and finding.replacement == GONE
        and finding.mechanical
        and owner is not None
        and owner.rename
    ):
        return ""
    if owner is None or owner.rename is None:
        return "edits are not written for this language yet"
    if shapes_of(finding, knowledge):
        return ""
    if finding.kind not in ("removed", "moved", "deprecated") or finding.symbol in knowledge.rules_by_id:
        return "what has to change is not only a name"
    if finding.replacement is None:
        return "what to write instead is not known"
    if _rule(finding, knowledge) is not None and not finding.mechanical:
        return finding.remedy or "the new way takes other arguments, or gives something else"
    if finding.replacement == GONE:
        return "" if finding.mechanical else "it has to be taken out by somebody who knows what it was for"
    if not _PATH.fullmatch(finding.replacement) or not _PATH.fullmatch(finding.symbol):
        return "what to write instead is no plain name"
    return ""


def plan_file(
    path: str, text: bytes, findings: Sequence[Finding], every: Sequence[Finding], knowledge: Knowledge
) -> FilePlan | None:
    """The changes that some findings take in one file; None where none of them has a place in it.

    ``every``: all findings of the scan, whose imports may be taken out when nothing needs them any more.
    """
    renames: list[Rename] = []
    refused: dict[str, str] = {}
    texts: dict[str, tuple[Change, ...]] = {}
    for finding in findings:
        every_place = [p for p in finding.places if p.file == path]
        if not every_place:
            continue
        # a branch that no line of the destination runs stays as it is, with what only it binds
        places = [p for p in every_place if p.guarded != OTHER_VERSIONS] or every_place
        if why := why_by_hand(finding, knowledge) or ("" if _taken_in(finding, path, every) else _guarded(places)):
            refused[finding.key] = why
        elif rewrites := _rewrites(finding, knowledge):
            if made := _at_places(finding, places, text, text_changes(path, text, rewrites), knowledge):
                texts[finding.key] = made
            else:
                refused[finding.key] = "it is written in a form that the rule does not know"
        else:
            renames.append(_rename(finding, places, knowledge))
    if not renames and not refused and not texts:
        return None
    edited = _renamed(path, text, renames, every, knowledge)
    refused |= edited.refused
    changes = list(edited.changes)
    keys = [r.key for r in renames if r.key not in refused]
    for key, made in texts.items():
        try:
            applied(text, [*changes, *made])
        except ValueError:
            refused[key] = "another edit changes the same place: ask again after it"
            continue
        changes += made
        keys.append(key)
    return FilePlan(path, tuple(keys), Edited(tuple(sorted(changes)), refused), refused)


def _renamed(
    path: str, text: bytes, renames: Sequence[Rename], every: Sequence[Finding], knowledge: Knowledge
) -> Edited:
    """The changes that names take, by the ecosystem whose language the file is in."""
    language = knowledge.ecosystems.source_reader(path)
    facts = knowledge.ecosystems.read_source(path, text).language if language is not None and renames else ""
    owner = knowledge.ecosystems.of_language(facts)
    if not renames or owner is None or owner.rename is None:
        return Edited((), {r.key: "edits are not written for this kind of file yet" for r in renames})
    lost = [
        _spot(p, p.symbol) for f in every for p in f.places if p.file == path and p.form == "import" and not p.guarded
    ]
    return owner.rename(text, renames, lost)


def _rewrites(finding: Finding, knowledge: Knowledge) -> tuple[Rewrite, ...]:
    ruled = knowledge.rules_by_id.get(finding.symbol)
    return ruled[0].edits if ruled is not None else ()


def _at_places(
    finding: Finding, places: Sequence[Place], text: bytes, changes: tuple[Change, ...], knowledge: Knowledge
) -> tuple[Change, ...]:
    """Of changes, those on the rows where a rule about uses speaks, and the row after; all of them where it is about texts."""
    if not knowledge.rules_by_id[finding.symbol][0].is_about_use:
        return changes
    rows = {row for place in places for row in (place.line, place.line + 1)}
    return tuple(change for change in changes if text.count(b"\n", 0, change.start) + 1 in rows)


def _taken_in(finding: Finding, path: str, every: Sequence[Finding]) -> bool:
    """Whether a file imports, with nothing around it, the module that a name is reached through: then what catches a failing import around
    a use is about something else."""
    modules = {finding.symbol[:at] for at, sign in enumerate(finding.symbol) if sign == "."}
    places = (p for f in every for p in f.places if p.file == path and p.form == "import" and p.symbol in modules)
    around = {p.guarded for p in finding.places if p.file == path and p.form != "import"} - {""}
    return around <= {IMPORT_FALLBACK} and any(not p.guarded for p in places)


def _guarded(places: Sequence[Place]) -> str:
    """That the code tells versions apart already: where it imports the name or, where it does not, where it uses it."""
    deciding = [p for p in places if p.form == "import"] or places
    return "it is guarded here: the code tells versions apart already" if any(p.guarded for p in deciding) else ""


def _rename(finding: Finding, places: Sequence[Place], knowledge: Knowledge) -> Rename:
    ruled = _rule(finding, knowledge)
    old, new = ruled if ruled is not None else (finding.symbol, None)
    new = new or finding.replacement or GONE
    home = home_of(new, finding.coordinate, knowledge) if new != GONE else ""
    spots = (_spot(p, old if p.symbol == finding.symbol else p.symbol) for p in places)
    shapes = shapes_of(finding, knowledge)
    written = {name for _, now in shapes for name in _DOTTED.findall(now)}
    homes = {name: home_of(name, finding.coordinate, knowledge) for name in written}
    file = knowledge.rule_files.get(finding.coordinate) if shapes else None
    return Rename(
        key=finding.key,
        old=old,
        new=new,
        home=home,
        spots=tuple(spots),
        shapes=shapes,
        homes=homes,
        helpers=file.helpers if file is not None else {},
    )


def shapes_of(finding: Finding, knowledge: Knowledge) -> tuple[tuple[str, str], ...]:
    """(was, now) of the rule about the name of a finding."""
    ruled = _ruled(finding, knowledge)
    if ruled is None or not (ruled[0] in (ruled[1].symbol, *ruled[1].symbols) or ruled[1].id == finding.symbol):
        return ()
    return tuple((shape.was, shape.now) for shape in ruled[1].shapes)


def _rule(finding: Finding, knowledge: Knowledge) -> tuple[str, str | None] | None:
    """(path, replacement as a path) of the rule about the name of a finding, which is shown as people write it; None where there is none."""
    found = _ruled(finding, knowledge)
    if found is None:
        return None
    path, rule = found
    return path, rule.replacement if path in (rule.symbol, *rule.symbols) else None


def _ruled(finding: Finding, knowledge: Knowledge) -> tuple[str, Rule] | None:
    """(path, rule about the name of a finding)."""
    owner = knowledge.ecosystems.of(finding.coordinate)
    prefix = owner.style.global_prefix if owner is not None else ""
    written = knowledge.path_of(finding.coordinate, finding.symbol)
    for path in (written, prefix + written) if prefix else (written,):
        found = knowledge.rule_for(finding.coordinate, path)
        if found is not None:
            return path, found[0]
    # a parameter that went, as a surface shows it: a rule about such calls may say what to write
    path, lost, _ = finding.symbol.partition("(")
    rules = (rule for rule, _ in knowledge.rules_by_id.values() if rule.is_about_use and rule.shapes)
    shown = next((rule for rule in rules if lost and path in rule.symbols), None)
    return (path, shown) if shown is not None else None


def _spot(place: Place, path: str) -> Spot:
    return Spot(place.line, place.column, place.end_column, place.form, path)


def home_of(path: str, coordinate: Coordinate, knowledge: Knowledge) -> str:
    """The longest part of a path that is known to be a module; all but its last name where nothing is known of it."""
    names = knowledge.import_names(knowledge.language_of(coordinate))
    owner = names.get(path.split(".", maxsplit=1)[0])
    timeline = knowledge.timelines.get(owner) if owner is not None else None
    if timeline is None:
        return path.rpartition(".")[0]
    parts = path.split(".")
    for length in range(len(parts), 0, -1):
        symbol = timeline.symbols.get(".".join(parts[:length]))
        if symbol is not None and symbol.kind == "m":
            return ".".join(parts[:length])
    return ""
