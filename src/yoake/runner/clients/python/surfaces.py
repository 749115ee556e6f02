"""Timelines of the standard library and of PyPI projects: surfaces captured and put together."""

from __future__ import annotations

import hashlib
import zipfile
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from yoake.core.ecosystems.python.names import PYTHON, pypi
from yoake.core.ecosystems.python.stubs import (
    add_platform_modules,
    extend_by_stubs,
    mark_deprecated,
    read_versions,
    stub_surface,
)
from yoake.core.ecosystems.python.surface import read_package
from yoake.core.ecosystems.python.versions import PYTHON_LINES
from yoake.core.knowledge.merge import merge
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.errors import BadCoordinate, BadSource
from yoake.core.values.symbols import Surface, SurfaceSymbol
from yoake.runner.clients.python.artefacts import final_releases, read_wheel, wheel_texts
from yoake.runner.clients.python.imports import ask_names, sdist_texts
from yoake.runner.clients.python.interpreters import capture_stdlib, find_interpreters

if TYPE_CHECKING:
    from yoake.core.knowledge.timeline import Timeline
    from yoake.runner.clients.contract import Say

_WHEEL_PARTS = 5
_MOST_ASKED = 400
_NOT_OF_PYTHON = ("typing_extensions", "_typeshed/")  # lie among the stubs; no interpreter has them
_ASKED_DEPTH = 3
_STUB_LINES = (Line("3.14"), Line("3.15"))
_STUBS_WHEEL = "mypy"
_LEFT_OUT = ("/tests/", "/conf/locale/", "/_vendor/", "/testdata/", ".data/")
_NOT_IMPORTED = frozenset(
    (
        "tests",
        "test",
        "testing.py",
        "docs",
        "doc",
        "examples",
        "example",
        "samples",
        "benchmarks",
        "scripts",
        "tools",
        "setup.py",
    )
)


def wheel_surface(coordinate: Coordinate, path: Path) -> Surface:
    """The surface of a wheel at hand. Raises BadSource."""
    texts, digest = read_wheel(path)
    parts = path.name.split("-")
    if len(parts) < _WHEEL_PARTS or pypi(parts[0]) != coordinate:
        raise BadSource(f"{path.name} is no wheel of {coordinate.name}: its name must be NAME-VERSION-….whl.")
    release = parts[1]
    line = PYTHON_LINES.line_of(coordinate, release)
    return Surface(line, release, "wheel", digest, read_package(own_modules(texts)))


def build_python(_wanted: Iterable[str], say: Say) -> Timeline:
    """The standard library: real interpreters found here, then the stub lines on top of the newest."""
    interpreters = find_interpreters()
    if not interpreters:
        raise BadSource("No Python interpreter was found on PATH or under pyenv; install one to capture its library.")
    surfaces = []
    for line in sorted(interpreters):
        surfaces.append(capture_stdlib(line, interpreters[line]))
        say(f"python {line}: {len(surfaces[-1].symbols)} symbols from {surfaces[-1].release}")
    return merge(PYTHON, [*surfaces, *_stub_lines(surfaces, say)])


def _stub_lines(surfaces: list[Surface], say: Say) -> list[Surface]:
    release = final_releases(_STUBS_WHEEL)[-1]
    files, listing = _stub_files(release)
    digest = hashlib.sha256(b"".join(files[name] for name in sorted(files))).hexdigest()[:16]
    versions = read_versions(listing)
    known = {
        line: stub_surface(files, versions, line)
        for line in map(Line, ("3.9", "3.10", "3.11", "3.12", "3.13", *_STUB_LINES))
    }
    for surface in surfaces:
        if surface.line in known:
            mark_deprecated(surface, known[surface.line])
    add_platform_modules(surfaces, files, versions)
    base, built = surfaces[-1], []
    for line in _STUB_LINES:
        if line <= base.line:
            continue
        how = f"stubs of {_STUBS_WHEEL} {release}"
        base = extend_by_stubs(base, known[base.line], known[line], line, how, digest)
        mark_deprecated(base, known[line])
        built.append(base)
        say(f"python {line}: {len(base.symbols)} symbols from {how}")
    return built


def _stub_files(release: str) -> tuple[dict[str, bytes], str]:
    texts, _ = wheel_texts(_STUBS_WHEEL, release)
    prefix = "mypy/typeshed/stdlib/"
    files = {n.removeprefix(prefix): d for n, d in texts.items() if n.startswith(prefix) and n.endswith(".pyi")}
    files = {name: data for name, data in files.items() if not name.startswith(_NOT_OF_PYTHON)}
    return files, texts[f"{prefix}VERSIONS"].decode()


def own_modules(texts: Mapping[str, bytes]) -> dict[str, bytes]:
    """The modules of a wheel that its users import: no tests, samples or copies of other packages."""
    return {
        name: data
        for name, data in texts.items()
        if not any(part in f"/{name}" for part in _LEFT_OUT) and name.split("/", 1)[0] not in _NOT_IMPORTED
    }


def build_pypi(coordinate: Coordinate, lines: Iterable[str], say: Say, ask: bool) -> Timeline:
    """A library from the newest final release of each wanted line (all lines when none is named).

    With ``ask`` its modules are also imported, each release in a folder that is thrown away, and source distributions stand in
    where there is no wheel.
    """
    wanted = list(lines)
    newest: dict[Line, str] = {}
    for release in final_releases(coordinate.name):
        newest[PYTHON_LINES.line_of(coordinate, release)] = release
    missing = [line for line in wanted if line not in newest]
    if missing:
        raise BadCoordinate(f"{coordinate.short} has no line {', '.join(missing)}; it has {', '.join(newest)}.")
    surfaces = []
    for line in map(Line, wanted or newest):
        try:
            surfaces.append(capture_pypi(coordinate.name, line, newest[line], ask=ask))
        except (BadSource, zipfile.BadZipFile) as error:
            say(f"{coordinate.short} {line}: left out, {error}")
            continue
        say(f"{coordinate.short} {line}: {len(surfaces[-1].symbols)} symbols from {newest[line]}")
    if not surfaces:
        raise BadSource(f"No release of {coordinate.short} could be read.")
    if ask:
        ask_surfaces(coordinate.name, surfaces, say)
    return merge(coordinate, surfaces)


def capture_pypi(
    name: str, line: Line, release: str, *, ask: bool, texts: tuple[Mapping[str, bytes], str] | None = None
) -> Surface:
    """The surface of one release, from its text. ``texts``: its text and digest where they are at hand already.

    ``ask`` allows a source distribution where there is no wheel: pip may run its build to look at it.
    """
    how = "wheel"
    try:
        read, digest = texts or wheel_texts(name, release)
    except BadSource:
        if not ask:
            raise
        read = sdist_texts(name, release)
        digest, how = (
            hashlib.sha256(b"".join(read[path] for path in sorted(read))).hexdigest()[:16],
            "source distribution",
        )
    return Surface(line, release, how, digest, read_package(own_modules(read)))


def ask_surfaces(name: str, surfaces: list[Surface], say: Say) -> None:
    """Import the modules of every release that has a wheel, and let what they answer decide."""
    every: dict[str, set[str]] = {}
    for surface in surfaces:
        for path in surface.symbols:
            module, _, last = path.rpartition(".")
            if module and not last.startswith("_"):
                every.setdefault(module, set()).add(last)
    for surface in surfaces:
        if surface.how != "wheel":
            continue
        listed = [p for p, s in surface.symbols.items() if s.kind == "m" and _asked(p)][:_MOST_ASKED]
        answered = ask_names(name, surface.release, {module: every.get(module, set()) for module in listed})
        if answered:
            join_names(surface.symbols, answered)
            surface.how = "wheel, and its modules imported"
        say(f"{name} {surface.line}: {len(surface.symbols)} symbols from {surface.release} ({surface.how})")


def _asked(path: str) -> bool:
    """Public modules down to the third part; deeper ones are internals, and importing them all takes minutes."""
    parts = path.split(".")
    return len(parts) <= _ASKED_DEPTH and not any(part.startswith("_") for part in parts)


def join_names(symbols: dict[str, SurfaceSymbol], answered: Mapping[str, list[str] | None]) -> None:
    """What running modules list decides: names no text shows are added, names that are not there go."""
    for module, names in answered.items():
        if names is None or module not in symbols:
            continue
        there = set(names)
        prefix = f"{module}."
        own = {path[len(prefix) :] for path in symbols if path.startswith(prefix) and "." not in path[len(prefix) :]}
        for name in own - there:
            path = f"{prefix}{name}"
            if symbols[path].kind != "m" and not name.startswith("__"):
                for inner in [p for p in symbols if p == path or p.startswith(f"{path}.")]:
                    del symbols[inner]
        for name in there - own:
            if not name.startswith("__"):
                symbols[f"{prefix}{name}"] = SurfaceSymbol(kind="v", unread=True)
        symbols[module].unread = False
