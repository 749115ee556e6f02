"""What an ecosystem and a framework bring. The engine knows these records and no ecosystem by name.

A new ecosystem is a folder of ``core.ecosystems`` whose ``__init__`` makes one ``Ecosystem``, and a line in
``core.registered``.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fnmatch import fnmatchcase
from typing import TYPE_CHECKING, Final, Literal

from yoake.core.contract.path_style import PathStyle
from yoake.core.contract.versions import LineNames
from yoake.core.values.coordinates import Coordinate, Line, line_key, package

if TYPE_CHECKING:
    from yoake.core.contract.evaluation import Evaluator, Models
    from yoake.core.contract.locality import Locality
    from yoake.core.contract.route_readers import RouteReader
    from yoake.core.contract.versions import VersionScheme
    from yoake.core.values.edits import Edited, Rename, Spot
    from yoake.core.values.facts import FileFacts
    from yoake.core.values.modules import Module, Pin, Requirement
    from yoake.core.values.runs import Command

NEVER: Final = re.compile(r"(?!)")
"""A pattern that matches nothing."""

_VERSION: Final = re.compile(r"v?(\d+(?:\.\d+){0,2})")


@dataclass(frozen=True, slots=True)
class Document:
    """One file that the inventory reads. ``texts``: all such files of the source as text, for those that name one another."""

    path: str
    data: bytes
    texts: Mapping[str, str]

    @property
    def text(self) -> str:
        """The file as text."""
        return self.texts[self.path]


@dataclass(frozen=True, kw_only=True)
class ManifestReader:
    """Files that say what a module is made of.

    ``names``: globs over the last part of a path; ``path``: a pattern over all of it. ``kind``: a ``manifest`` makes its folder
    a module; a ``lock`` may be long; a ``configuration`` only says how names are found; an ``artefact`` is a
    package by itself and no text. ``made``: a tool writes it anew, so that nobody changes it. ``read`` answers False where the
    file says nothing that makes a module.
    """

    read: Callable[[Document, Module], bool | None]
    names: tuple[str, ...] = ()
    path: re.Pattern[str] = NEVER
    kind: Literal["manifest", "lock", "configuration", "artefact"] = "manifest"
    made: bool = False

    def takes(self, path: str) -> bool:
        """Whether this reader wants a file."""
        name = path.rsplit("/", 1)[-1]
        return any(fnmatchcase(name, glob) for glob in self.names) or bool(self.path.search(path))


def _plain_version(text: str) -> str | None:
    found = _VERSION.match(text)
    return found.group(1) if found else None


@dataclass(frozen=True, kw_only=True)
class RuntimeWords:
    """How people name versions of a runtime in files that many runtimes share.

    ``image``: (name, tag) of a container image → the version it has. ``pin_files``: file name → pattern with the version as
    group 1. ``tools``: its names in a list of tools, whose entries ``tool_version`` reads. ``ci_key``, ``ci_number``,
    ``ci_image``: a key of a CI file, the versions after it, and images. ``mention``: a version in prose, as group ``v`` or,
    written together, ``c``; ``spread`` takes the latter apart. ``files``: further files → their reader.
    """

    image: Callable[[str, str], str | None]
    mention: re.Pattern[str]
    pin_files: Mapping[str, re.Pattern[str]] = field(default_factory=dict)
    tools: frozenset[str] = frozenset()
    tool_version: Callable[[str], str | None] = _plain_version
    ci_key: re.Pattern[str] = NEVER
    ci_number: re.Pattern[str] = NEVER
    ci_image: re.Pattern[str] = NEVER
    spread: Callable[[str], str] = str
    files: Mapping[str, Callable[[str, str], Iterator[Pin]]] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class SourceReader:
    """Files of a language. ``languages``: suffix → name of the language; ``path``: a pattern over the path, for files that a
    framework knows by their place, which are then of language ``placed``.

    ``is_bounded`` says whether a text can be read in bounded time, ``refused`` why a file is not worth reading,
    ``is_put_together`` whether a tool made it of other sources.
    ``compiled`` files are no text, and are read only where no source of their language is at hand.
    """

    read: Callable[[str, bytes], FileFacts]
    is_bounded: Callable[[str, bytes], bool] = lambda _path, _text: True
    refused: Callable[[str, bytes], str] = lambda _path, _data: ""
    is_put_together: Callable[[str, bytes], bool] = lambda _path, _data: False
    compiled: bool = False
    languages: Mapping[str, str] = field(default_factory=dict)
    path: re.Pattern[str] = NEVER
    placed: str = ""


@dataclass(frozen=True, kw_only=True)
class Ecosystem:
    """A language with its runtime and its packages.

    ``language`` is the language of its facts, ``package_type`` a type of package URLs. ``lines``: how long the name of a line is.
    ``nested``: packages bring their own copies of
    what they need, so that only peers bind. ``described``: the name of a package that only describes another → that other’s name.
    ``locks_below``: a lock file holds for the modules below its folder.
    ``legacy_before``: the runtime line before which imports may be relative without saying so. ``always_inferred``: whether the
    runtime's line is inferred even where the destination does not name it. ``stated_by_range``: the range of runtimes that a release
    gives is what it was tried on, and not only what keeps it out. ``condition_holds``: whether the marker of a
    requirement holds on a runtime line. ``foreign_folders`` hold other people's code; ``silent_files`` name versions that nobody
    has to update by hand; ``web_frameworks`` serve requests; ``generator_files`` are left behind by generators of starting points.
    ``written_line``: a line of the runtime as people write it → as we name it. ``how_read``: how a surface was read → in words.
    A file that uses one of ``entry_marks``, or is called like one of ``scripts``, is started by itself.
    ``tests`` and ``built`` are patterns over paths of tests and of
    what was put together by a tool. ``rename`` writes names otherwise in a text of its language; the last argument are imports of what is
    lost, taken out when nothing needs them any more. ``ranges_in``: the text of a manifest and a requirement of it → where it gives a range,
    (from, to) in characters; ``respecified``: a range and a release it keeps out → a range in the same manner that takes it.
    ``commands``: paths below a module’s folder and how to read one as text → what can be run in it, the likeliest first.
    ``evaluator``: paths, how to read one and models of a framework → what follows the code without running it.
    """

    language: str
    title: str
    runtime: Coordinate
    package_type: str
    registry: str
    scheme: VersionScheme
    words: RuntimeWords
    locality: Callable[[Mapping[str, FileFacts], Sequence[Module], bool], Locality]
    manifests: tuple[ManifestReader, ...] = ()
    sources: tuple[SourceReader, ...] = ()
    style: PathStyle = field(default_factory=PathStyle)
    lines: LineNames = field(default_factory=LineNames)
    canonical_name: Callable[[str], str] = str
    nested: bool = False
    described: Callable[[str], str] = lambda _name: ""
    locks_below: bool = False
    legacy_before: tuple[int, ...] | None = None
    always_inferred: bool = False
    stated_by_range: bool = False
    condition_holds: Callable[[str, str | None], bool] = lambda _marker, _line: True
    foreign_folders: frozenset[str] = frozenset()
    silent_files: frozenset[str] = frozenset()
    how_read: Mapping[str, str] = field(default_factory=dict)
    web_frameworks: frozenset[str] = frozenset()
    generator_files: frozenset[str] = frozenset()
    entry_marks: frozenset[str] = frozenset()
    scripts: frozenset[str] = frozenset()
    written_line: Callable[[str], Line] = Line
    tests: str = ""
    built: str = ""
    rename: Callable[[bytes, Sequence[Rename], Sequence[Spot]], Edited] | None = None
    ranges_in: Callable[[str, Requirement], Sequence[tuple[int, int]]] | None = None
    respecified: Callable[[str, str], str] | None = None
    commands: Callable[[Collection[str], Callable[[str], str]], tuple[Command, ...]] = lambda _paths, _read: ()
    evaluator: Callable[[Sequence[str], Callable[[str], bytes | None], Models], Evaluator] | None = None

    def package(self, name: str) -> Coordinate:
        """The coordinate of a package by the name people write."""
        return package(self.package_type, self.canonical_name(name))

    def is_legacy(self, line: Line) -> bool:
        """Whether imports may be relative without saying so on a line of the runtime."""
        return self.legacy_before is not None and line_key(line) < self.legacy_before

    def line_of(self, coordinate: Coordinate, release: str, length: int | None = None) -> Line:
        """The line a release of the runtime or of a package belongs to."""
        return self.lines.line_of(coordinate, release, length)


@dataclass(frozen=True, kw_only=True)
class Framework:
    """What a framework adds to its language.

    ``settings_signs``: names of which a settings file sets at least two; ``settings_files``: a pattern over paths of files that are
    settings, or parts of them, by their name; ``settings_object``: the path through which code reads settings; ``app_list``: a
    setting that names packages by dotted paths.
    ``kept_files``: what it writes once, and people keep and change. ``subject``: its name in tests of its version.
    ``routes``: how what it answers to is found.
    """

    coordinate: Coordinate
    title: str
    subject: str = ""
    settings_signs: frozenset[str] = frozenset()
    settings_files: re.Pattern[str] = NEVER
    settings_object: str = ""
    app_list: str = ""
    sources: tuple[SourceReader, ...] = ()
    kept_files: re.Pattern[str] = NEVER
    routes: RouteReader | None = None
    serves: bool = True
