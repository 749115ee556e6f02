"""Release records of PyPI projects: which release fits which Python line, what it needs, and when it came, as pip answers."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date
from typing import TYPE_CHECKING, Final

from packaging.requirements import InvalidRequirement, Requirement
from packaging.utils import canonicalize_name

from yoake.core.ecosystems.python.listings import really_listed
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.ecosystems.python.observation import import_break, imported_files
from yoake.core.ecosystems.python.syntax import read_python
from yoake.core.ecosystems.python.versions import PYTHON_LINES
from yoake.core.knowledge.models import Catalogue, ReleaseFacts
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import Coordinate, Line, Target, line_key
from yoake.core.values.errors import BadSource
from yoake.core.values.modules import Module
from yoake.runner.clients.python.artefacts import WheelFacts, fitting_releases, wheel_facts
from yoake.runner.clients.python.index_pages import ListedFile, list_projects, read_metadata_of
from yoake.runner.encodings import normalise

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.runner.clients.contract import Say

LINES: Final = ("2.7", "3.6", "3.7", "3.8", "3.9", "3.10", "3.11", "3.12", "3.13", "3.14")
_CLASSIFIER: Final = re.compile(
    r"(?:Programming Language :: (?P<python>Python)|Framework :: (?P<name>[^:]+)) :: (?P<line>\d+(?:\.\d+)?)$"
)
_MOST_DETAILS: Final = 40  # newest lines whose metadata is read; older ones are silent
_LARGEST: Final = 400_000  # bytes of a file of a package that is looked at; larger ones are generated tables


def pypi_record(coordinate: Coordinate, today: date, knowledge: Knowledge, say: Say) -> Catalogue:
    """A PyPI project: pip’s answer for each Python line, and the metadata of the newest release of each of its lines."""
    fits, built = {}, {}
    for line in LINES:
        fits[line] = tuple(fitting_releases(coordinate.name, line, wheels_only=False))
        built[line] = tuple(fitting_releases(coordinate.name, line, wheels_only=True))
    releases = tuple(sorted({r for line in LINES for r in fits[line]}, key=line_key))
    newest = {PYTHON_LINES.line_of(coordinate, release): release for release in releases}
    read = []
    for release in list(newest.values())[-_MOST_DETAILS:]:
        say(f"{coordinate.short} {release}: metadata")
        read.append(_wheel(coordinate, release, knowledge))
    details = tuple(facts for facts in read if facts is not None)
    return Catalogue(
        format=1,
        coordinate=coordinate,
        as_of=today,
        how="pip index versions for each Python line, and the metadata of wheels",
        releases=releases,
        fits=really_listed(fits, details),
        built=really_listed(built, details),
        details=details,
    )


def pypi_records(coordinates: Sequence[Coordinate], today: date) -> Iterator[tuple[Coordinate, Catalogue | None]]:
    """The same for many projects, asked in one session of pip, as they come; None for those that no index has.

    What the code of a wheel says is left to ``pypi_record``: wheels are not fetched for this. Raises BadSource.
    """
    named = {c.name: c for c in coordinates}
    pages: dict[Coordinate, list[ListedFile]] = {}
    wanted: dict[str, tuple[Coordinate, str]] = {}
    for name, listed in list_projects(named, LINES):
        coordinate = named[name]
        pages[coordinate] = [f for f in listed if not f.yanked] or listed
        for release, address in _wheels_to_read(coordinate, pages[coordinate]).items():
            wanted[address] = coordinate, release
        if not listed:
            yield coordinate, None
    left = defaultdict(set)
    for address, (coordinate, _) in wanted.items():
        left[coordinate].add(address)
    read: dict[Coordinate, dict[str, ReleaseFacts]] = defaultdict(dict)
    yield from ((c, _listed_record(c, f, {}, today)) for c, f in pages.items() if f and c not in left)
    for address, facts in read_metadata_of(wanted):
        coordinate, release = wanted[address]
        read[coordinate][release] = as_facts(release, facts)
        left[coordinate].discard(address)
        if not left[coordinate]:
            yield coordinate, _listed_record(coordinate, pages[coordinate], read[coordinate], today)
    yield from ((c, _listed_record(c, pages[c], read[c], today)) for c, missing in left.items() if missing)


def _wheels_to_read(coordinate: Coordinate, listed: Sequence[ListedFile]) -> dict[str, str]:
    """Release → address of a wheel, for the newest release of each of the newest lines."""
    wheels: dict[str, str] = {}
    for file in sorted(listed, key=lambda f: f.release):
        if file.lines is not None:
            wheels.setdefault(str(file.release), file.address)
    newest = {PYTHON_LINES.line_of(coordinate, release): release for release in wheels}
    return {release: wheels[release] for release in list(newest.values())[-_MOST_DETAILS:]}


def _listed_record(
    coordinate: Coordinate, listed: Sequence[ListedFile], read: Mapping[str, ReleaseFacts], today: date
) -> Catalogue:
    """A record from what an index lists and the metadata that was read."""
    ordered = sorted(listed, key=lambda f: f.release)
    fits = {line: _releases(f for f in ordered if f.admits(line) and _usable(f, line)) for line in LINES}
    built = {line: _releases(f for f in ordered if f.admits(line) and line in (f.lines or ())) for line in LINES}
    releases = _releases(f for f in ordered if any(str(f.release) in held for held in fits.values()))
    first: dict[str, date] = {}
    for file in ordered:
        if file.uploaded is not None:
            first[str(file.release)] = min(file.uploaded, first.get(str(file.release), file.uploaded))
    details = tuple(read[r].model_copy(update={"released": first.get(r)}) for r in releases if r in read)
    how = "pip’s index for each Python line, and the metadata of wheels"
    return Catalogue(
        format=1,
        coordinate=coordinate,
        as_of=today,
        how=how,
        releases=releases,
        fits=really_listed(fits, details),
        built=really_listed(built, details),
        details=details,
    )


def _usable(file: ListedFile, line: str) -> bool:
    return file.lines is None or line in file.lines


def _releases(listed: Iterable[ListedFile]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(str(f.release) for f in listed))


def _wheel(coordinate: Coordinate, release: str, knowledge: Knowledge) -> ReleaseFacts | None:
    try:
        facts, texts = wheel_facts(coordinate.name, release)
    except BadSource:
        return None
    made = as_facts(release, facts)
    return made.model_copy(update={"observed": observed(texts, _fine_line(made, knowledge), knowledge)})


def _fine_line(facts: ReleaseFacts, knowledge: Knowledge) -> Line:
    """A line the release surely runs on: the newest it claims, else the oldest Python 3 its metadata admits."""
    lines = [x for x in knowledge.lines(PYTHON) if line_key(x) >= (3,)]
    claimed = [x for x in lines if f"python@{x}" in facts.states]
    return (
        claimed[-1]
        if claimed
        else next((x for x in lines if knowledge.ecosystems.admits(PYTHON, facts.runs, x)), lines[-1])
    )


def observed(texts: Mapping[str, bytes], fine: Line, knowledge: Knowledge) -> tuple[str, ...]:
    """On which Python line after ``fine`` the code of a release cannot be imported any more, and why; empty when unseen."""
    own = {p: t for p, t in texts.items() if p.endswith(".py") and len(t) < _LARGEST}
    read = {}
    for path, data in own.items():
        try:
            read[path] = read_python(normalise(data)[0])
        except (ValueError, RecursionError):
            continue
    tops = frozenset(path.split("/")[0].removesuffix(".py") for path in read)
    lines = [x for x in knowledge.lines(PYTHON) if line_key(x) >= (3,)]
    if fine not in lines or fine == lines[-1]:
        return ()
    reached = {path: read[path] for path in sorted(imported_files(read, tops))}
    package, goal, today = Module(path="", name="package"), Target(PYTHON, lines[-1]), Target(PYTHON, fine)
    found = run_scan(
        ScanInput(facts=reached, files=[], modules=[package], destination=(goal,), said=(today,)), knowledge
    )
    return import_break(read, found.findings, fine) or ()


def as_facts(release: str, facts: WheelFacts) -> ReleaseFacts:
    """Metadata of a wheel as a record: requirements without extras, and the lines that its classifiers claim."""
    needs = list(_needs(facts.requires))
    return ReleaseFacts(
        release=release,
        released=facts.built,
        runs=facts.requires_python,
        needs={name: wanted for name, wanted, marker in needs if not marker},
        needs_when=tuple(need for need in needs if need[2]),
        states=tuple(dict.fromkeys(_states(facts.classifiers))),
    )


def _needs(requires: Iterable[str]) -> Iterable[tuple[str, str, str]]:
    """(package, range, marker) of each requirement."""
    for raw in requires:
        try:
            parsed = Requirement(raw)
        except InvalidRequirement:
            continue
        marker = str(parsed.marker or "")
        if "extra" not in marker:
            yield canonicalize_name(parsed.name), str(parsed.specifier), marker


def _states(classifiers: Iterable[str]) -> Iterable[str]:
    for raw in classifiers:
        found = _CLASSIFIER.match(raw)
        if found:
            name = "python" if found.group("python") else f"pypi/{found.group('name').strip().lower()}"
            yield f"{name}@{found.group('line')}"
