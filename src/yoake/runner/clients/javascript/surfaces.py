"""Timelines of npm packages: the newest release of each line, read from its files and, when asked, from the real thing."""

from __future__ import annotations

import hashlib
import json
import re
import shutil
import tarfile
import tempfile
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Final

from yoake.core.ecosystems.javascript.names import NODE
from yoake.core.ecosystems.javascript.specifiers import as_specifier
from yoake.core.ecosystems.javascript.surface import read_npm_package
from yoake.core.ecosystems.javascript.versions import NODE_LINES
from yoake.core.knowledge.merge import merge
from yoake.core.values.coordinates import Coordinate, Line, line_key
from yoake.core.values.errors import BadCoordinate, BadSource
from yoake.core.values.symbols import Surface, SurfaceSymbol
from yoake.runner.clients.javascript.node_programs import as_symbols, ask_node, capture_node, fetch_node, node_releases
from yoake.runner.clients.javascript.npm_client import npm_pack, npm_view, run_npm

if TYPE_CHECKING:
    from yoake.core.knowledge.timeline import Timeline
    from yoake.runner.clients.contract import Say

_WANTED: Final = (".js", ".cjs", ".mjs", ".ts", ".mts", ".cts", "package.json")
_MAX_FILE: Final = 4 * 1024 * 1024
_MAX_TOTAL: Final = 400 * 1024 * 1024
_FINAL: Final = re.compile(r"\d+\.\d+\.\d+$")


def build_npm(coordinate: Coordinate, lines: Iterable[str], say: Say, ask: bool) -> Timeline:
    """A package from the newest final release of each wanted line; with ``ask`` its modules are also imported.

    Importing happens in a folder that is thrown away, in a child process, and never for what is scanned.
    """
    wanted = list(lines)
    newest = newest_of_lines(coordinate)
    missing = [line for line in wanted if line not in newest]
    if missing:
        raise BadCoordinate(f"{coordinate.short} has no line {', '.join(missing)}; it has {', '.join(newest)}.")
    surfaces = []
    for line in map(Line, wanted or newest):
        try:
            surfaces.append(capture_release(coordinate, line, newest[line], ask=ask))
        except (BadSource, tarfile.TarError, OSError) as error:
            say(f"{coordinate.short} {line}: left out, {error}")
            continue
        say(f"{coordinate.short} {line}: {len(surfaces[-1].symbols)} symbols from {newest[line]} ({surfaces[-1].how})")
    if not surfaces:
        raise BadSource(f"No release of {coordinate.short} could be read.")
    return merge(coordinate, surfaces)


def newest_of_lines(coordinate: Coordinate) -> dict[Line, str]:
    """Line → newest final release, oldest line first."""
    versions = npm_view(coordinate.name, "versions")
    releases = [versions] if isinstance(versions, str) else versions
    newest: dict[Line, str] = {}
    for release in sorted((r for r in releases if _FINAL.match(r)), key=line_key):
        newest[NODE_LINES.line_of(coordinate, release)] = release
    return newest


def capture_release(coordinate: Coordinate, line: Line, release: str, *, ask: bool) -> Surface:
    """The surface of one release."""
    with tempfile.TemporaryDirectory(prefix="yoake-npm-") as place:
        folder = Path(place)
        archive = npm_pack(f"{coordinate.name}@{release}", folder)
        digest = hashlib.sha256(archive.read_bytes()).hexdigest()[:16]
        files = read_archive(archive)
        archive.unlink()
        own_types = any(path.endswith((".d.ts", ".d.mts")) for path in files)
        types = {} if own_types else _types_beside(coordinate, line, folder)
        symbols = read_npm_package(coordinate.name, files, types)
        how = "package files"
        if ask:
            answered = _ask(coordinate, release, symbols, folder)
            if answered is not None:
                join_answers(symbols, answered)
                how = "package files and its modules, imported"
        return Surface(line, release, how, digest, symbols)


def read_archive(path: Path) -> dict[str, bytes]:
    """Scripts, declarations and manifest of a package archive: path inside it → bytes. Raises BadSource."""
    found: dict[str, bytes] = {}
    total = 0
    try:
        with tarfile.open(path) as packed:
            for member in packed:
                inner = member.name.split("/", 1)[-1]
                if not member.isfile() or not inner.endswith(_WANTED) or member.size > _MAX_FILE:
                    continue
                total += member.size
                if total > _MAX_TOTAL:
                    raise BadSource(f"{path.name} unpacks to more than {_MAX_TOTAL // 1024 // 1024} MB.")
                handle = packed.extractfile(member)
                found[inner] = handle.read() if handle is not None else b""
    except tarfile.TarError as error:
        raise BadSource(f"{path.name} is no package archive: {error}") from error
    return found


def _types_beside(coordinate: Coordinate, line: str, folder: Path) -> Mapping[str, bytes]:
    """The package of declarations that belongs to this line, when there is one."""
    name = coordinate.name.removeprefix("@").replace("/", "__")
    try:
        archive = npm_pack(f"@types/{name}@{line}", folder)
    except BadSource:
        return {}
    files = read_archive(archive)
    archive.unlink()
    return files


def _ask(
    coordinate: Coordinate, release: str, symbols: Mapping[str, SurfaceSymbol], folder: Path
) -> dict[str, SurfaceSymbol] | None:
    """What the real modules offer when imported; None when they cannot be."""
    program = shutil.which("node")
    if program is None:
        return None
    place = folder / "ask"
    place.mkdir()
    (place / "package.json").write_text('{"private": true}', "utf-8")
    done = run_npm("install", f"{coordinate.name}@{release}", "--no-save", "--omit=optional", cwd=place)
    if done.returncode != 0:
        return None
    modules = [as_specifier(p) for p, s in symbols.items() if s.kind == "m" and "." not in p]
    entries = [m for m in modules if m.count("/") == coordinate.name.count("/")] or [coordinate.name]
    mapped = [m for m in modules if m not in entries and not symbols[m.replace(".", "\u2024")].unread]
    try:
        answer = ask_node(Path(program), [*entries, *mapped[:40]], place)
    except BadSource:
        return None
    return as_symbols(answer["symbols"]) or None


def join_answers(symbols: dict[str, SurfaceSymbol], answered: Mapping[str, SurfaceSymbol]) -> None:
    """What the running modules say decides about values; types and wording come from the files."""
    roots = {path for path, symbol in answered.items() if symbol.kind == "m"}
    values = {".".join(p.split(".")[:2]) for p in answered}
    for path in list(symbols):
        parts = path.split(".")
        head = ".".join(parts[:2]).removesuffix("()")
        if parts[0] in roots and len(parts) > 1 and parts[1] != "default" and head not in values:
            first = symbols.get(head)
            if first is None or first.kind != "t":
                del symbols[path]
    declared = {path for path in symbols if path.endswith("()")}
    for path, symbol in answered.items():
        known = symbols.get(path)
        if known is None:
            instance = path.split("().", 1)[0] + "()" if "()." in path else ""
            if instance and instance in declared:
                continue  # the declarations list the members; the prototype adds internals
            symbols[path] = symbol
            symbol.unread = path.endswith("()")
        elif known.kind == "m" or (known.unread and known.alias is None):
            known.unread = False
            known.kind = symbol.kind


def build_node(lines: Iterable[str], say: Say) -> Timeline:
    """Node itself: one real program a line, from the registry, asked what it offers."""
    wanted = list(lines)
    newest = node_releases()
    missing = [line for line in wanted if line not in newest]
    if missing:
        raise BadCoordinate(f"There is no Node {', '.join(missing)} for this machine; there is {', '.join(newest)}.")
    surfaces = []
    with tempfile.TemporaryDirectory(prefix="yoake-nodes-") as folder:
        for line in map(Line, wanted or newest):
            program = fetch_node(newest[line], Path(folder))
            surfaces.append(capture_node(line, program))
            program.unlink()
            say(f"node {line}: {len(surfaces[-1].symbols)} symbols from {surfaces[-1].release}")
    return merge(NODE, surfaces)


def archive_surface(coordinate: Coordinate, path: Path) -> Surface:
    """The surface of a package archive at hand. Raises BadSource."""
    files = read_archive(path)
    release = str(_manifest(files, path).get("version") or "")
    digest = hashlib.sha256(path.read_bytes()).hexdigest()[:16]
    line = NODE_LINES.line_of(coordinate, release)
    return Surface(line, release, "package files", digest, read_npm_package(coordinate.name, files))


def _manifest(files: Mapping[str, bytes], path: Path) -> dict[str, object]:
    try:
        body = json.loads(files.get("package.json", b""))
    except ValueError as error:
        raise BadSource(f"{path.name} holds no readable package.json: {error}") from error
    return body if isinstance(body, dict) else {}
