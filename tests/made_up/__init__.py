"""Lantern, a language that does not exist: everything an ecosystem brings, in one small folder that touches nothing outside it.

Its files end with ``.lan`` and say ``use wick.trim`` or ``wick.trim()``. Its manifests are ``NAME.lanproj`` with ``runtime 2`` and
``needs oil 1.4`` in lines. Ranges are one release, or ``1.4+`` for it and all later ones.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Final

from yoake.core.contract.ecosystem import Document, Ecosystem, ManifestReader, RuntimeWords, SourceReader
from yoake.core.contract.locality import Resolved
from yoake.core.contract.versions import LineNames, VersionScheme
from yoake.core.values.coordinates import Coordinate, line_key, package
from yoake.core.values.facts import Ask, ClassFact, FileFacts, Gathering
from yoake.core.values.modules import Module, Pin, Requirement

LANTERN: Final = Coordinate("pkg:generic/lantern")
_USE: Final = re.compile(r"(?P<import>^use\s+)?(?P<path>[a-z]+(?:\.[a-z]+)+)(?P<call>\(\))?", re.MULTILINE)


class _Releases:
    def exact(self, specifier: str) -> str | None:
        return None if specifier.endswith("+") else specifier

    def test(self, specifier: str) -> Callable[[str], bool] | None:
        wanted = specifier.removesuffix("+")
        if not wanted.replace(".", "").isdigit():
            return None
        if specifier.endswith("+"):
            return lambda release: line_key(release) >= line_key(wanted)
        return lambda release: line_key(release)[: len(line_key(wanted))] == line_key(wanted)

    def patches(self, _line: str) -> tuple[str, ...]:
        return ("", ".0", ".9")


RELEASES: Final[VersionScheme] = _Releases()


class _Locality:
    """Nothing of a project is imported by others in this language."""

    def __init__(self, facts: Mapping[str, FileFacts]) -> None:
        self.facts = facts

    def resolve(self, path: str, _file: str) -> Resolved | None:
        return Resolved(path)

    def find_class(self, _path: str, _file: str) -> tuple[str, str, ClassFact] | None:
        return None

    def target_of(self, _path: str, _file: str) -> str | None:
        return None

    def is_local(self, _name: str) -> bool:
        return False


def _locality(facts: Mapping[str, FileFacts], _modules: Sequence[Module], _legacy: bool) -> _Locality:
    return _Locality(facts)


def _read(_path: str, text: bytes) -> FileFacts:
    found = Gathering()
    for number, raw in enumerate(text.decode().splitlines(), 1):
        for use in _USE.finditer(raw):
            form = "import" if use["import"] else "call" if use["call"] else "attribute"
            found.add(Ask(use["path"], form), number, use.start("path"), use.end("path"), "")
    return FileFacts(
        asks=found.asks,
        places=found.places,
        scopes=found.scopes,
        exports={},
        stars=(),
        classes={},
        assigned={},
        broken=(),
        lines=text.count(b"\n"),
        language="lantern",
    )


def _statements(text: str) -> Iterator[tuple[int, list[str]]]:
    return ((number, raw.split()) for number, raw in enumerate(text.splitlines(), 1) if raw.split())


def _project(document: Document, module: Module) -> None:
    for number, words in _statements(document.text):
        if words[0] == "runtime":
            module.pins.append(
                Pin(
                    coordinate=LANTERN,
                    version=words[1],
                    file=document.path,
                    line=number,
                    how="pin",
                    text=" ".join(words),
                )
            )
        elif words[0] == "needs":
            coordinate = package("lamp", words[1])
            module.requirements.append(
                Requirement(coordinate=coordinate, name=words[1], specifier=words[2], file=document.path, line=number)
            )


ECOSYSTEM: Final = Ecosystem(
    language="lantern",
    title="Lantern",
    runtime=LANTERN,
    package_type="lamp",
    registry="Lamp Room",
    scheme=RELEASES,
    words=RuntimeWords(
        image=lambda name, tag: tag.split("-")[0] if name == "lantern" else None,
        mention=re.compile(r"\blantern\s+(?P<v>\d+)|(?P<c>(?!))", re.IGNORECASE),
    ),
    locality=_locality,
    manifests=(ManifestReader(names=("*.lanproj",), read=_project),),
    sources=(SourceReader(languages={".lan": "Lantern"}, read=_read),),
    lines=LineNames(runtime=1),
)
