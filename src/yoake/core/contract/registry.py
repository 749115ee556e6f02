"""All ecosystems and frameworks of one Yoake. What none of them answers for is not known, never taken for another."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from yoake.core.contract import versions
from yoake.core.contract.ecosystem import NEVER, Ecosystem, Framework, ManifestReader, SourceReader
from yoake.core.contract.source_files import MARKS, TESTS, VENDORED, suffix_of
from yoake.core.values.coordinates import Coordinate, Line, Target, line_key

if TYPE_CHECKING:
    from yoake.core.values.facts import FileFacts
    from yoake.core.values.words import FileRole

_HEAD = 1_500  # bytes of a file in which a generator says that it made it
_LINE_LENGTH = 2  # of a coordinate that nobody answers for


class Registry:
    """Ecosystems by the coordinates they answer for. ``ecosystems``: in the order in which their files are read."""

    def __init__(self, ecosystems: Iterable[Ecosystem], frameworks: Iterable[Framework] = ()) -> None:
        self.ecosystems = tuple(ecosystems)
        self.frameworks = tuple(frameworks)
        self._by_language = {e.language: e for e in self.ecosystems}
        self._by_type = {e.package_type: e for e in self.ecosystems}
        self._by_runtime = {e.runtime: e for e in self.ecosystems}
        self._by_suffix = {
            suffix: (name, reader) for reader in self._readers() for suffix, name in reader.languages.items()
        }
        self._placed = tuple(reader for reader in self._readers() if reader.placed)
        self._owners: dict[Coordinate, Ecosystem | None] = {}

    def _readers(self) -> Iterable[SourceReader]:
        for ecosystem in self.ecosystems:
            yield from ecosystem.sources
        for framework in self.frameworks:
            yield from framework.sources

    # coordinates

    def of(self, coordinate: Coordinate) -> Ecosystem | None:
        """The ecosystem that answers for a coordinate."""
        if coordinate not in self._owners:
            self._owners[coordinate] = self._by_runtime.get(coordinate) or self._by_type.get(coordinate.type)
        return self._owners[coordinate]

    def of_language(self, language: str) -> Ecosystem | None:
        """The ecosystem whose facts are in this language."""
        return self._by_language.get(language)

    def language_of(self, coordinate: Coordinate) -> str:
        """The language whose files use a coordinate; empty when nobody answers for it."""
        found = self.of(coordinate)
        return found.language if found is not None else ""

    def runtime_of(self, coordinate: Coordinate) -> Coordinate | None:
        """The runtime on which a coordinate runs: of a runtime, itself."""
        found = self.of(coordinate)
        return found.runtime if found is not None else None

    def is_runtime(self, coordinate: Coordinate) -> bool:
        """Whether a coordinate is the runtime of some ecosystem."""
        return coordinate in self._by_runtime

    @property
    def runtimes(self) -> tuple[Coordinate, ...]:
        """The runtimes, in order."""
        return tuple(e.runtime for e in self.ecosystems)

    def canonical(self, coordinate: Coordinate) -> Coordinate:
        """A coordinate with its name as its ecosystem writes it."""
        found = self._by_type.get(coordinate.type)
        return found.package(coordinate.name) if found is not None else coordinate

    def canonical_target(self, target: Target) -> Target:
        """A target with the name of its coordinate as its ecosystem writes it."""
        found = self._by_runtime.get(target.coordinate)
        line = found.written_line(target.line) if found is not None else target.line
        return Target(self.canonical(target.coordinate), line)

    def is_package(self, coordinate: Coordinate) -> bool:
        """Whether a coordinate is a package of some ecosystem here."""
        return coordinate.type in self._by_type

    def package(self, type_: str, name: str) -> Coordinate | None:
        """The coordinate of a package of an ecosystem by its package URL type and the name people write."""
        found = self._by_type.get(type_)
        return found.package(name) if found is not None else None

    @cached_property
    def titles(self) -> Mapping[Coordinate, str]:
        """Coordinate → how people write the name of a runtime or framework."""
        return {each.coordinate: each.title for each in self.frameworks} | {e.runtime: e.title for e in self.ecosystems}

    def spoken(self, coordinate: Coordinate) -> str:
        """How people write the name of a coordinate in a sentence."""
        return self.titles.get(coordinate) or coordinate.spoken

    def spoken_target(self, target: Target) -> str:
        """``Python 3.13``, ``Django 5.2``: how people say a line."""
        return f"{self.spoken(target.coordinate)} {target.line}"

    @cached_property
    def subjects(self) -> Mapping[str, Coordinate]:
        """What tests of a version inside code are about → coordinate."""
        named = {each.subject: each.coordinate for each in self.frameworks if each.subject}
        return named | {e.runtime.name: e.runtime for e in self.ecosystems}

    @cached_property
    def app_lists(self) -> frozenset[str]:
        """Settings that name packages by dotted paths."""
        return frozenset(each.app_list for each in self.frameworks if each.app_list)

    # releases and lines

    def line_of(self, coordinate: Coordinate, release: str, length: int | None = None) -> Line:
        """The line a release belongs to; ``length``: numbers in the name of a line, where the coordinate's record says so."""
        found = self.of(coordinate)
        if found is not None:
            return found.line_of(coordinate, release, length)
        wanted = length or _LINE_LENGTH
        return Line(".".join(str(part) for part in (*line_key(release), *[0] * wanted)[:wanted]))

    def exact(self, coordinate: Coordinate, specifier: str) -> str | None:
        """The one release that a range names; None when it admits several, or when nobody can read it."""
        found = self.of(coordinate)
        return found.scheme.exact(specifier) if found is not None else None

    def admits(self, coordinate: Coordinate, specifier: str, line: Line) -> bool:
        """Whether a range admits some release of a line; True for what is no range, since nothing is known of it."""
        found = self.of(coordinate)
        return found is None or versions.admits(found.scheme, specifier, line)

    def admitted(self, coordinate: Coordinate, specifier: str, releases: Iterable[str]) -> list[str]:
        """Those of ``releases`` that a range admits, in their order; all when it is no range."""
        found = self.of(coordinate)
        return versions.admitted(found.scheme, specifier, releases) if found is not None else list(releases)

    def lowest_line(self, coordinate: Coordinate, specifier: str, known: Sequence[Line]) -> Line | None:
        """The oldest known line with a release the range allows; None when it says nothing."""
        found = self.of(coordinate)
        return versions.lowest_line(found.scheme, specifier, known) if found is not None else None

    # files

    def source_reader(self, path: str) -> tuple[str, SourceReader] | None:
        """(name of the language, reader) of a source file; None for every other file."""
        found = self._by_suffix.get(suffix_of(path))
        if found is not None:
            return found
        return next(((r.placed, r) for r in self._placed if r.path.search(path)), None)

    def language_of_file(self, path: str) -> str | None:
        """The name of the language of a source file; None for every other file."""
        found = self.source_reader(path)
        return found[0] if found is not None else None

    def read_source(self, path: str, text: bytes) -> FileFacts:
        """The facts of one source file. Raises ValueError for a file that nobody reads."""
        found = self.source_reader(path)
        if found is None:
            raise ValueError("nothing here reads files of this kind")
        return found[1].read(path, text)

    def is_bounded(self, path: str, text: bytes) -> bool:
        """Whether a source file can be read in bounded time."""
        found = self.source_reader(path)
        return found is None or found[1].is_bounded(path, text)

    def is_compiled(self, path: str) -> bool:
        """Whether a source file is no text."""
        found = self.source_reader(path)
        return found is not None and found[1].compiled

    def refused(self, path: str, data: bytes) -> str:
        """Why a source file is not worth reading; empty when it is."""
        found = self.source_reader(path)
        return found[1].refused(path, data) if found is not None else ""

    def is_put_together(self, path: str, data: bytes) -> bool:
        """Whether a tool made a source of others, by what it says."""
        found = self.source_reader(path)
        return found is not None and found[1].is_put_together(path, data)

    @property
    def suffixes(self) -> Mapping[str, str]:
        """Suffix → language of the files that are read."""
        return {suffix: name for suffix, (name, _) in self._by_suffix.items()}

    def manifest_reader(self, path: str) -> tuple[int, ManifestReader] | None:
        """(place in the reading order, reader) of a manifest, lock or configuration."""
        name = path.rsplit("/", 1)[-1]
        exact = self._exact_names.get(name)
        if exact is not None:
            return exact
        return next((pair for pair in self._patterned if pair[1].takes(path)), None)

    def is_lock(self, path: str) -> bool:
        """Whether a file is a lock file."""
        found = self.manifest_reader(path)
        return found is not None and found[1].kind == "lock"

    @cached_property
    def _exact_names(self) -> dict[str, tuple[int, ManifestReader]]:
        found: dict[str, tuple[int, ManifestReader]] = {}
        number = 0
        for reader in (r for e in self.ecosystems for r in e.manifests):
            for name in reader.names:
                number += 1
                if not any(sign in name for sign in "*?["):
                    found.setdefault(name, (number, reader))
        return found

    @cached_property
    def _patterned(self) -> tuple[tuple[int, ManifestReader], ...]:
        last = len(self._exact_names) + 1
        readers = [r for e in self.ecosystems for r in e.manifests]
        return tuple(
            (last, r) for r in readers if r.path.pattern != NEVER.pattern or any("*" in name for name in r.names)
        )

    def role_of(self, path: str, head: bytes = b"") -> FileRole:
        """What a file is to the application: ``source``, ``test``, ``vendored`` (somebody else's) or ``generated``."""
        if self._vendored.search(path):
            return "vendored"
        kept = any(each.kept_files.search(path) for each in self.frameworks)
        if not kept and (self._built.search(path) or MARKS.search(head, 0, _HEAD)):
            return "generated"
        return "test" if self._tests.search(path) else "source"

    @cached_property
    def _vendored(self) -> re.Pattern[str]:
        return re.compile(f"(^|/)({'|'.join((*VENDORED, *map(re.escape, sorted(self.foreign_folders))))})/")

    @cached_property
    def _built(self) -> re.Pattern[str]:
        return re.compile("|".join(e.built for e in self.ecosystems if e.built) or NEVER.pattern)

    @cached_property
    def _tests(self) -> re.Pattern[str]:
        return re.compile("|".join((TESTS, *(e.tests for e in self.ecosystems if e.tests))))

    @cached_property
    def silent_files(self) -> frozenset[str]:
        """Names of files whose versions nobody updates by hand."""
        return frozenset(name for e in self.ecosystems for name in e.silent_files)

    def how_read(self, how: str) -> str:
        """How a surface was read, in words."""
        return next((e.how_read[how] for e in self.ecosystems if how in e.how_read), how)

    @cached_property
    def web_frameworks(self) -> frozenset[str]:
        """Packages that serve requests: with one of them, routes can move one by one."""
        return frozenset(e.package(name) for e in self.ecosystems for name in e.web_frameworks)

    @cached_property
    def generator_files(self) -> frozenset[str]:
        """Names of files that a generator of starting points leaves behind."""
        return frozenset(name for e in self.ecosystems for name in e.generator_files)

    @cached_property
    def entry_marks(self) -> frozenset[str]:
        """Paths whose use makes a file one that is started by itself."""
        return frozenset(path for e in self.ecosystems for path in e.entry_marks)

    @cached_property
    def scripts(self) -> frozenset[str]:
        """Names of files that are run and not imported."""
        return frozenset(name for e in self.ecosystems for name in e.scripts)

    @cached_property
    def foreign_folders(self) -> frozenset[str]:
        """Names of folders that hold other people's code."""
        return frozenset(name for e in self.ecosystems for name in e.foreign_folders)
