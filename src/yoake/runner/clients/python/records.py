"""Release records of PyPI projects: which release fits which Python line, what it needs, and when it came, as pip answers."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from datetime import date
from typing import Final

from packaging.requirements import InvalidRequirement, Requirement
from packaging.utils import canonicalize_name

from yoake.core.ecosystems.python import PYTHON_ECOSYSTEM
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.ecosystems.python.observation import import_break
from yoake.core.ecosystems.python.syntax import read_python
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import Catalogue, ReleaseFacts
from yoake.core.values.coordinates import Coordinate, line_key
from yoake.core.values.errors import BadSource
from yoake.runner.clients.contract import Say
from yoake.runner.clients.python.artefacts import WheelFacts, fitting_releases, wheel_facts
from yoake.runner.reading import normalise

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
    newest = {PYTHON_ECOSYSTEM.line_of(coordinate, release): release for release in releases}
    read = []
    for release in list(newest.values())[-_MOST_DETAILS:]:
        say(f"{coordinate.short} {release}: metadata")
        read.append(_wheel(coordinate, release, knowledge))
    return Catalogue(
        format=1,
        coordinate=coordinate.purl,
        as_of=today,
        how="pip index versions for each Python line, and the metadata of wheels",
        releases=releases,
        fits=fits,
        built=built,
        details=tuple(facts for facts in read if facts is not None),
    )


def _wheel(coordinate: Coordinate, release: str, knowledge: Knowledge) -> ReleaseFacts | None:
    try:
        facts, texts = wheel_facts(coordinate.name, release)
    except BadSource:
        return None
    made = as_facts(release, facts)
    return made.model_copy(update={"observed": observed(texts, _fine_line(made, knowledge), knowledge)})


def _fine_line(facts: ReleaseFacts, knowledge: Knowledge) -> str:
    """A line the release surely runs on: the newest it claims, else the oldest Python 3 its metadata admits."""
    lines = [x for x in knowledge.lines(PYTHON) if line_key(x) >= (3,)]
    claimed = [x for x in lines if f"python@{x}" in facts.states]
    return (
        claimed[-1]
        if claimed
        else next((x for x in lines if knowledge.ecosystems.admits(PYTHON, facts.runs, x)), lines[-1])
    )


def observed(texts: Mapping[str, bytes], fine: str, knowledge: Knowledge) -> tuple[str, ...]:
    """On which Python line after ``fine`` the code of a release cannot be imported any more, and why; empty when unseen."""
    own = {p: t for p, t in texts.items() if p.endswith(".py") and len(t) < _LARGEST}
    read = {}
    for path, data in own.items():
        try:
            read[path] = read_python(normalise(data)[0])
        except (ValueError, RecursionError):
            continue
    tops = frozenset(path.split("/")[0].removesuffix(".py") for path in read)
    return import_break(read, tops, fine, knowledge) or ()


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
