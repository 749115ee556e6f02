"""Release records of packages in local Maven repositories: what their POMs say they need, and the Java their classes are for."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Final

from lxml import etree

from yoake.core.contract.ecosystem import Document
from yoake.core.ecosystems.java.class_file import MODULE
from yoake.core.ecosystems.java.maven import read_pom
from yoake.core.knowledge.models import Catalogue, ReleaseFacts
from yoake.core.values.coordinates import Coordinate, line_key
from yoake.core.values.errors import BadSource
from yoake.core.values.modules import Module
from yoake.runner.clients.java.jars import read_jar, releases_at_hand

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.runner.clients.contract import Say

_FIRST_FORMAT: Final = 44  # the format of class files that Java 1 wrote; each line has one more


def maven_record(coordinate: Coordinate, today: date, _knowledge: Knowledge, say: Say) -> Catalogue:
    """What the local repositories know of a package. Raises BadSource when they hold none."""
    held = releases_at_hand(coordinate)
    if not held:
        raise BadSource(
            f"No local Maven repository holds {coordinate.name}; let your build fetch it, or name jars with --file."
        )
    releases = tuple(sorted(held, key=line_key))
    details = []
    for release in releases:
        say(f"{coordinate.short} {release}: its POM and its classes")
        details.append(_facts(release, held[release]))
    how = "POMs and class files of local Maven repositories"
    return Catalogue(format=1, coordinate=coordinate, as_of=today, how=how, releases=releases, details=tuple(details))


def _facts(release: str, jar: Path) -> ReleaseFacts:
    # a module's description may be newer than its classes: older releases pass over it
    classes = (made for made in read_jar(jar) if not made.access & MODULE)
    lowest = max((made.major - _FIRST_FORMAT for made in classes), default=0)
    return ReleaseFacts(
        release=release, runs=f"[{lowest},)" if lowest > 0 else "", needs=dict(_needs(jar.with_suffix(".pom")))
    )


def _needs(pom: Path) -> Iterator[tuple[str, str]]:
    """(GROUP/ARTIFACT, range) of what a release needs at run time."""
    if not pom.is_file():
        return
    module = Module(path="", name="")
    try:
        read_pom(Document("pom.xml", b"", {"pom.xml": pom.read_text("utf-8", "replace")}), module)
    except (etree.LxmlError, ValueError):
        return
    for requirement in module.requirements:
        if not requirement.group and requirement.specifier:
            yield requirement.coordinate.name, requirement.specifier
