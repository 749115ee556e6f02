"""Node asked for real: the program on this machine, and a package in a folder of its own."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

import pytest

from tests.conftest import write
from yoake.core.ecosystems.javascript.names import NODE
from yoake.core.knowledge.merge import merge
from yoake.core.values.coordinates import Line
from yoake.core.values.errors import BadSource
from yoake.core.values.symbols import Surface, SurfaceSymbol
from yoake.runner.clients.javascript.node_programs import _note_deprecations, as_symbols, ask_node, capture_node
from yoake.runner.clients.python.imports import _packages
from yoake.runner.clients.python.surfaces import join_names

PROGRAM = shutil.which("node")
pytestmark = pytest.mark.skipif(PROGRAM is None, reason="there is no Node on this machine")


@pytest.fixture(scope="module")
def program() -> Path:
    return Path(PROGRAM or "")


def test_a_real_program_lists_modules_members_globals_and_what_it_deprecates(program: Path) -> None:
    surface = capture_node(Line("20"), program)
    timeline = merge(NODE, [surface])
    for path in (
        "fs.readFile",
        "fs.promises.readFile",
        "fs.default.readFile",
        "globalThis.Buffer.from",
        "http.Agent().destroy",
        "globalThis.process.cwd",
    ):
        assert timeline.ask(path).offers, path
    assert not timeline.ask("fs.no_such_thing").offers
    assert surface.symbols["globalThis.Buffer"].alias == "buffer.Buffer"
    warned = [path for path, symbol in surface.symbols.items() if symbol.deprecated]
    assert warned
    assert any(surface.symbols[path].note.startswith("DEP0") for path in warned)


def test_the_modules_of_a_package_are_listed_as_they_run(program: Path, tmp_path: Path) -> None:
    manifest = json.dumps({"name": "lib", "main": "index.js"})
    text = "const made = {}; for (const n of ['a', 'b']) made[n] = () => n; class K { run() {} } made.K = K; module.exports = made;"
    write(
        tmp_path / "node_modules" / "lib",
        {"package.json": manifest, "index.js": text, "bad.js": "throw new Error('x')"},
    )
    found = as_symbols(ask_node(program, ["lib", "lib/bad.js"], tmp_path)["symbols"])
    assert {"lib", "lib.a", "lib.b", "lib.K", "lib.default"} <= set(found)
    assert found["lib.default"].alias == "lib"
    assert not any("bad" in path for path in found)


def test_what_is_no_program_is_refused(tmp_path: Path) -> None:
    fake = write(tmp_path, {"node": "#!/bin/sh\necho no\n"}) / "node"
    fake.chmod(0o755)
    with pytest.raises(BadSource, match="could not be asked"):
        ask_node(fake)


def test_names_that_running_python_modules_list_decide() -> None:
    symbols = {
        "lib": SurfaceSymbol(kind="m", unread=True),
        "lib.gone": SurfaceSymbol(kind="c"),
        "lib.gone.method": SurfaceSymbol(kind="f"),
        "lib.kept": SurfaceSymbol(kind="f"),
    }
    join_names(symbols, {"lib": ["kept", "made", "__doc__"], "lib.other": None})
    assert set(symbols) == {"lib", "lib.kept", "lib.made"}
    assert not symbols["lib"].unread


def test_only_what_would_be_installed_is_taken_from_a_source_distribution() -> None:
    flat = {"setup.py": b"", "lib/__init__.py": b"", "lib/a.py": b"", "docs/conf.py": b""}
    assert set(_packages(flat)) == {"lib/__init__.py", "lib/a.py"}
    assert set(_packages({f"src/{path}": data for path, data in flat.items()})) == {"lib/__init__.py", "lib/a.py"}
    assert set(_packages({"setup.py": b"", "six.py": b""})) == {"six.py"}


def test_words_of_a_deprecation_stand_beside_the_name_that_they_mention() -> None:
    names = ("crypto.createCipher", "crypto.createDecipher", "crypto.Hash", "http.ServerResponse().writeHeader")
    surface = Surface(
        Line("22"), "22.0.0", "Node program", "d", {n: SurfaceSymbol(kind="f", deprecated=True) for n in names}
    )
    surface.symbols["fs.open"] = SurfaceSymbol(kind="f")
    _note_deprecations(
        surface,
        {
            "DEP0063": ["ServerResponse.prototype.writeHeader is deprecated."],
            "DEP0106": ["crypto.createCipher is deprecated.", "crypto.createDecipher is deprecated."],
            "DEP0115": ["crypto.${key} is deprecated."],
            "DEP0200": ["fs.open is deprecated."],
        },
    )
    notes = {name: symbol.note for name, symbol in surface.symbols.items()}
    assert notes["crypto.createCipher"] == "DEP0106: crypto.createCipher is deprecated."
    assert notes["crypto.createDecipher"].endswith("createDecipher is deprecated.")
    assert notes["http.ServerResponse().writeHeader"].startswith("DEP0063")
    assert notes["crypto.Hash"] == ""
    assert notes["fs.open"] == ""  # it is not deprecated, whatever a message says
