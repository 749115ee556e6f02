"""Real Node programs: from the npm registry one for each line, asked what they offer."""

from __future__ import annotations

import hashlib
import json
import platform
import re
import subprocess
import tarfile
import tempfile
from collections.abc import Iterable, Iterator
from importlib.resources import as_file, files
from pathlib import Path
from typing import Any, Final

from yoake.core.ecosystems.javascript.names import NODE
from yoake.core.ecosystems.javascript.specifiers import shown
from yoake.core.ecosystems.javascript.versions import NODE_LINES
from yoake.core.values.coordinates import Line, line_key
from yoake.core.values.errors import BadSource
from yoake.core.values.symbols import Surface, SurfaceSymbol
from yoake.runner.clients.javascript.npm_client import npm_pack, npm_view

_SECONDS: Final = 60
_OLDEST: Final = 12
_MACHINES: Final = {"x86_64": "x64", "amd64": "x64", "aarch64": "arm64", "arm64": "arm64"}


def _package() -> str:
    """The package that carries the program for this machine."""
    machine = _MACHINES.get(platform.machine().lower(), "x64")
    return f"node-{platform.system().lower()}-{machine}"


def node_releases() -> dict[Line, str]:
    """Line → newest final release of it that the registry has for this machine."""
    newest: dict[Line, str] = {}
    for release in npm_view(_package(), "versions"):
        if re.match(r"\d+\.\d+\.\d+$", release) and line_key(release) >= (_OLDEST,):
            line = NODE_LINES.line_of(NODE, release)
            if line not in newest or line_key(release) > line_key(newest[line]):
                newest[line] = release
    return newest


def program_for(line: Line) -> str:
    """Which release of a line the registry has for this machine; empty where it has none, or does not answer."""
    try:
        release = node_releases().get(line)
    except BadSource:
        return ""
    return f"the registry has {release}" if release else ""


def fetch_node(release: str, folder: Path) -> Path:
    """The program of one release, unpacked into ``folder``. Raises BadSource."""
    program = folder / f"node-{release}"
    if program.exists():
        return program
    with tempfile.TemporaryDirectory(prefix="yoake-node-") as place:
        archive = npm_pack(f"{_package()}@{release}", Path(place))
        with tarfile.open(archive) as packed:
            inner = packed.extractfile("package/bin/node")
            if inner is None:
                raise BadSource(f"The package of Node {release} holds no program.")
            partial = program.with_suffix(".part")
            partial.write_bytes(inner.read())
    partial.chmod(0o755)
    partial.replace(program)
    return program


def ask_node(program: Path, arguments: Iterable[str] = (), folder: Path | None = None) -> dict[str, Any]:
    """Run the probe in a real program; with arguments it lists those packages of ``folder``. Raises BadSource."""
    with as_file(files("yoake.runner") / "probes" / "node.js") as probe:
        text = probe.read_text("utf-8")
    command = [str(program), "--no-warnings", "-", *arguments]
    try:
        done = subprocess.run(
            command, input=text, capture_output=True, text=True, timeout=_SECONDS, cwd=folder, check=False
        )
    except subprocess.TimeoutExpired as error:
        raise BadSource(f"{program.name} did not answer within {_SECONDS} s.") from error
    if done.returncode != 0 or not done.stdout.startswith("{"):
        raise BadSource(f"{program.name} could not be asked: {done.stderr.strip()[-300:]}")
    answer: dict[str, Any] = json.loads(done.stdout)
    return answer


def capture_node(line: Line, program: Path) -> Surface:
    """The surface of one Node line: built-in modules, their members, and globals."""
    answer = ask_node(program)
    digest = hashlib.sha256(program.read_bytes()).hexdigest()[:16]
    surface = Surface(line, answer["release"], "Node program", digest, as_symbols(answer["symbols"]))
    _note_deprecations(surface, answer["messages"])
    for path in [p for p, s in surface.symbols.items() if s.kind == "m" and "." not in p and p != "globalThis"]:
        surface.symbols[f"{path}.default"] = SurfaceSymbol(kind="v", alias=path)
    return surface


def as_symbols(rows: dict[str, list[Any]]) -> dict[str, SurfaceSymbol]:
    """Rows of the probe (kind, deprecated, alias) as symbols."""
    return {
        path: SurfaceSymbol(
            kind=row[0], alias=row[2] if len(row) > 2 else None, deprecated=bool(len(row) > 1 and row[1])
        )
        for path, row in rows.items()
    }


def _note_deprecations(surface: Surface, messages: dict[str, list[str]]) -> None:
    """The program's own words beside each deprecated symbol, found by the name that they mention.

    A message whose name is put together at run time (``crypto.${key}``) could be about anything, and is left out.
    """
    written = [(code, text) for code, texts in sorted(messages.items()) for text in texts if "${" not in text]
    for path, symbol in surface.symbols.items():
        if symbol.deprecated:
            symbol.note = next(_matching(shown(path), written), "")


def _matching(name: str, messages: Iterable[tuple[str, str]]) -> Iterator[str]:
    short = ".".join(name.split(".")[-2:])
    for code, text in messages:
        plain = text.replace("`", "").replace("()", "")
        if re.search(rf"(^|[\s./]){re.escape(short)}\b", plain):
            yield f"{code}: {text}"
