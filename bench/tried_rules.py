"""Every sample of a rule, run on a release before its line and on one of it: does what the rule says happen?

    python -m bench.tried_rules [FOLDER] [PART OF A COORDINATE …]

A faulty sample has to run before and to fail (or warn, or say something else) after; a fine one has to run after. What a rule calls a
behaviour may only show in what is printed. Environments are made below FOLDER with the interpreters of pyenv, and kept.
"""

from __future__ import annotations

import hashlib
import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from pathlib import Path

from yoake.shipped import KIT
from yoake.core.knowledge.models import Rule, laid_out
from yoake.core.values.coordinates import line_key, Coordinate

SETS: dict[str, list[tuple[str, str, tuple[str, ...]]]] = {
    # coordinate: (line, interpreter or Node, requirements), oldest first
    "pkg:pypi/pandas": [
        ("1.5", "3.10", ("pandas==1.5.3", "numpy<2", "jinja2", "openpyxl")),
        ("2.2", "3.10", ("pandas==2.2.3", "numpy<2", "jinja2", "openpyxl")),
    ],
    "pkg:pypi/sqlalchemy": [("1.4", "3.10", ("sqlalchemy==1.4.54",)), ("2.0", "3.10", ("sqlalchemy==2.0.36",))],
    "pkg:pypi/pydantic": [("1.10", "3.10", ("pydantic==1.10.21",)), ("2.10", "3.10", ("pydantic==2.10.6",))],
    "pkg:pypi/flask": [
        ("1.1", "3.8", ("flask==1.1.4", "markupsafe<2.1", "jinja2<3.1", "werkzeug<2.1", "itsdangerous<2.1")),
        ("2.2", "3.8", ("flask==2.2.5", "werkzeug<3")),
        ("2.3", "3.8", ("flask==2.3.3", "werkzeug<3")),
        ("3.0", "3.8", ("flask==3.0.3",)),
    ],
    "pkg:pypi/werkzeug": [("2.2", "3.8", ("werkzeug==2.2.3",)), ("3.0", "3.8", ("werkzeug==3.0.6",))],
    "pkg:pypi/numpy": [
        ("1.22", "3.10", ("numpy==1.22.4",)),
        ("1.26", "3.10", ("numpy==1.26.4",)),
        ("2.2", "3.10", ("numpy==2.2.1",)),
        ("2.3", "3.11", ("numpy==2.3.0",)),
    ],
    "pkg:pypi/pytest": [
        ("4.6", "3.7", ("pytest==4.6.11",)),
        ("6.2", "3.8", ("pytest==6.2.5",)),
        ("7.4", "3.8", ("pytest==7.4.4",)),
        ("8.3", "3.8", ("pytest==8.3.4",)),
    ],
    "pkg:pypi/celery": [
        ("4.4", "3.7", ("celery==4.4.7", "importlib-metadata<5", "vine<5")),
        ("5.2", "3.8", ("celery==5.2.7", "importlib-metadata<5")),
    ],
    "pkg:pypi/django": [
        ("2.2", "3.8", ("django==2.2.28", "pytz", "psycopg2-binary")),
        ("3.2", "3.8", ("django==3.2.25", "psycopg2-binary")),
        ("4.2", "3.10", ("django==4.2.17", "pytz", "psycopg2-binary")),
        ("5.2", "3.11", ("django==5.2", "pytz", "psycopg2-binary")),
    ],
    "pkg:generic/python": [(line, line, ()) for line in ("3.6", "3.7", "3.8", "3.9", "3.10", "3.11", "3.12", "3.13")],
    "pkg:generic/node": [(line, "node", (f"node@{line}",)) for line in ("14", "16", "18", "20", "22", "24")],
    "pkg:npm/express": [("4", "node", ("express@4.21.2",)), ("5", "node", ("express@5.0.1",))],
    "pkg:npm/webpack": [
        ("3", "node", ("webpack@3.12.0",)),
        ("4", "node", ("webpack@4.47.0", "webpack-cli@3.3.12", "file-loader@6.2.0")),
        ("5", "node", ("webpack@5.97.1", "webpack-cli@5.1.4", "file-loader@6.2.0")),
    ],
    "pkg:npm/jest": [
        ("25", "node", ("jest@25.5.4",)),
        ("26", "node", ("jest@26.6.3",)),
        ("27", "node", ("jest@27.5.1",)),
        ("28", "node", ("jest@28.1.3",)),
        ("29", "node", ("jest@29.7.0",)),
        ("30", "node", ("jest@30.0.0",)),
    ],
    "pkg:npm/typescript": [
        ("3", "node", ("typescript@3.9.10",)),
        ("4", "node", ("typescript@4.9.5",)),
        ("5", "node", ("typescript@5.7.2",)),
    ],
    "pkg:npm/eslint": [("7", "node", ("eslint@7.32.0",)), ("8", "node", ("eslint@8.57.1",)), ("9", "node", ("eslint@9.17.0",))],
}
_TOOLS: dict[str, tuple[list[str], dict[str, str]]] = {
    # coordinate: what is run in the folder of a sample, and the files beside it
    "pkg:npm/webpack": (
        ["node", "../node_modules/webpack-cli/bin/cli.js", "--mode", "development"],
        {"src/index.js": "console.log(1);", "package.json": "{}", "webpack.config.js": "module.exports = {};"},
    ),
    "pkg:npm/jest": (
        ["node", "../node_modules/jest/bin/jest.js", "--ci", "--rootDir", "."],
        {"sure.test.js": "test('sure', () => {});", "package.json": "{}", "a.js": "module.exports = 1;"},
    ),
    "pkg:npm/typescript": (
        ["node", "../node_modules/typescript/bin/tsc", "-p", ".", "--noEmit"],
        {"sure.ts": "export const a = 1;", "tsconfig.json": '{"compilerOptions": {"skipLibCheck": true, "types": []}}'},
    ),
    "pkg:npm/eslint": (["node", "../node_modules/eslint/bin/eslint.js", "sure.js"], {"sure.js": "var a = 1;"}),
}
_NODE = Coordinate("pkg:generic/node")
_ESLINT = Coordinate("pkg:npm/eslint")
_SECONDS = 60
_LONG_NAME = 200
_DJANGO = """
import django
from django.conf import settings
settings.configure(INSTALLED_APPS=["django.contrib.contenttypes", "django.contrib.auth", "sampleapp"], DEFAULT_AUTO_FIELD="django.db.models.AutoField")
django.setup()
import sampleapp.models
"""
_ASK = """
const handler = require("./sample.cjs");
if (typeof handler === "function") {
  const app = require("express")();
  app.use((req, res, next) => { handler(req, res, next); setTimeout(() => { if (!res.headersSent) res.end(JSON.stringify(req.query)); }, 200); });
  app.use((error, req, res, next) => { res.status(500).end("error"); });
  const server = app.listen(0, async () => {
    const answer = await fetch(`http://localhost:${server.address().port}/?id=1`, { redirect: "manual", headers: { Referer: "/r" } });
    console.log(answer.status, answer.headers.get("location"), answer.headers.get("set-cookie"), (await answer.text()).slice(0, 80));
    process.exit(0);
  });
} else setTimeout(() => process.exit(0), 100);
"""
"""Asks a sample that is a handler of requests once, and prints what it answers."""


def environment(folder: Path, interpreter: str, wanted: tuple[str, ...]) -> Path:
    """The program that runs a sample, in an environment made once."""
    if interpreter == "node":
        name = "_".join(wanted).replace("/", "-")
        home = folder / "node" / (name if len(name) < _LONG_NAME else hashlib.sha256(name.encode()).hexdigest()[:16])
        if not (home / "node_modules").is_dir():
            home.mkdir(parents=True, exist_ok=True)
            (home / "package.json").write_text('{"name": "sample", "version": "1.0.0"}')
            subprocess.run(["npm", "install", "--no-audit", "--no-fund", "--legacy-peer-deps", *wanted], cwd=home, check=True, capture_output=True)
        return home
    source = next(Path.home().glob(f".pyenv/versions/{interpreter}.*/bin/python"))
    if not wanted:
        return source
    home = folder / f"{interpreter}-{'_'.join(wanted)}".replace("/", "-").replace("<", "lt")
    python = home / "bin" / "python"
    if not python.exists():
        subprocess.run([source, "-m", "venv", home], check=True, capture_output=True)
        subprocess.run([python, "-m", "pip", "install", "-q", *wanted], check=True, capture_output=True)
    return python


def run(program: Path, files: dict[str, str], coordinate: Coordinate) -> tuple[int, str]:
    """(exit code, what was printed) of one sample; ``files``: path → text, of which tools read the paths and other samples have one."""
    command: list[object]
    text = next(iter(files.values()))
    if coordinate == _NODE:
        command, at = _as_program(program, files)
    elif coordinate in _TOOLS:
        command, at = _beside(program, files, coordinate)
    elif program.is_dir():
        (program / "sample.cjs").write_text(text)
        (program / "ask.cjs").write_text(_ASK)
        command = ["node", "ask.cjs"]
        at = program
    else:
        at = Path(tempfile.gettempdir()) / "yoake-samples"
        shutil.rmtree(at, ignore_errors=True)
        at.mkdir(parents=True)
        if coordinate == "pkg:pypi/django" and "settings.configure" not in text:
            (at / "sampleapp").mkdir(exist_ok=True)
            (at / "sampleapp" / "__init__.py").write_text("")
            (at / "sampleapp" / "models.py").write_text(text)
            text = _DJANGO
        by_name = coordinate == "pkg:pypi/pytest" and set(files) != {"sample"}
        if coordinate == "pkg:pypi/pytest":
            (at / "test_sure.py").write_text("def test_sure():\n    pass\n")
        for path, body in files.items() if by_name else (("test_sample.py", text),):
            (at / path).parent.mkdir(parents=True, exist_ok=True)
            (at / path).write_text(body)
        runs = ["-m", "pytest", "-q", "-p", "no:cacheprovider", "-W", "default", "--rootdir", "."]
        command = [program, *(runs if coordinate == "pkg:pypi/pytest" else ["-W", "default", "test_sample.py"])]
    try:
        done = subprocess.run(
            command, cwd=at, capture_output=True, text=True, timeout=_SECONDS, env=_surroundings(coordinate)
        )
    except subprocess.TimeoutExpired:
        return 124, "took too long"
    return done.returncode, done.stdout + done.stderr


def _surroundings(coordinate: Coordinate) -> dict[str, str]:
    """What a sample finds in its environment: tools of old lines hash with what a newer OpenSSL does not offer."""
    given = {key: value for key, value in os.environ.items() if key != "NODE_OPTIONS"}
    return given if coordinate == _NODE else {**given, "NODE_OPTIONS": "--openssl-legacy-provider"}


def _as_program(home: Path, files: dict[str, str]) -> tuple[list[object], Path]:
    """A folder with a sample, and the command that runs its first file with the Node of that environment."""
    at = home / "sample"
    shutil.rmtree(at, ignore_errors=True)
    paths = {("sample.cjs" if path == "sample" else path): body for path, body in files.items()}
    for path, body in paths.items():
        (at / path).parent.mkdir(parents=True, exist_ok=True)
        (at / path).write_text(body)
    return [home / "node_modules" / "node" / "bin" / "node", next(iter(paths))], at


def _beside(home: Path, files: dict[str, str], coordinate: Coordinate) -> tuple[list[object], Path]:
    """A folder with a sample and what a tool needs beside it, and the command that runs the tool there."""
    command, beside = _TOOLS[coordinate]
    at = home / "sample"
    shutil.rmtree(at, ignore_errors=True)
    for path, body in {**beside, **files}.items():
        (at / path).parent.mkdir(parents=True, exist_ok=True)
        bound = path in files and coordinate == "pkg:npm/webpack" and "webpack." in body and "require('webpack')" not in body
        (at / path).write_text(f"const webpack = require('webpack');\n{body}" if bound else body)
    if coordinate == _ESLINT:
        if not any("eslintrc" in path or "eslint.config" in path or "eslintConfig" in body for path, body in files.items()):
            flat = "eslint@9" in home.name
            (at / ("eslint.config.js" if flat else ".eslintrc.json")).write_text("module.exports = [];" if flat else '{"root": true}')
        if "lint.js" in files:
            return ["node", "lint.js"], at
    return list(command), at


def sample_of(rule: Rule, text: str) -> dict[str, str]:
    """Path → text of a sample of a rule."""
    path = rule.files[0].replace("webpack*", "webpack.config").replace("*", "a") if rule.files else "sample"
    return laid_out(text) or {path: text}


def _is_python(rule: Rule) -> bool:
    """Whether all that the samples of a rule about a text hold is Python, which runs as it is."""
    return all(path.endswith(".py") for text in (*rule.faulty, *rule.fine) for path in sample_of(rule, text))


def _shown(printed: str) -> str:
    """What was printed without times, paths and hashes."""
    return re.sub(r"\b[0-9a-f]{8,}\b|\d+(?:\.\d+)? ?(?:ms|s|KiB|bytes)\b|/\S+|Version: \S+|webpack \d\S*", "", printed)


def program_is_node(program: Path) -> bool:
    """Whether samples run on Node, where an answer to a request says what happened."""
    return program.is_dir()


def main() -> int:
    folder = Path(sys.argv[1] if len(sys.argv) > 1 else "/tmp/yoake-tried-rules")
    parts = sys.argv[2:]
    knowledge = KIT.knowledge()
    total: Counter[str] = Counter()
    for coordinate, sets in SETS.items():
        counts = {"as said": 0, "not as said": 0, "not run": 0}
        if parts and not any(part in coordinate for part in parts):
            continue
        file = knowledge.rule_files.get(coordinate)
        for rule in file.rules if file is not None else ():
            at = rule.at or rule.deprecated
            if at is None or not rule.faulty or (rule.text is not None and coordinate not in {*_TOOLS, _NODE} and not _is_python(rule)):
                continue
            before = [s for s in sets if line_key(s[0]) < line_key(at)]
            after = [s for s in sets if line_key(s[0]) >= line_key(at)]
            if not before or not after:
                counts["not run"] += 1
                print(f"{rule.id}: no pair of lines around {at}")
                continue
            old, new = (environment(folder, s[1], s[2]) for s in (before[-1], after[0]))
            for text in rule.faulty:
                files = sample_of(rule, text)
                first, then = run(old, files, Coordinate(coordinate)), run(new, files, Coordinate(coordinate))
                warns = "Warning" in then[1] or "deprecat" in then[1].lower()
                told = warns if rule.at is None else then[0] != 0 or (rule.kind in (None, "behaviour") or program_is_node(old)) and _shown(first[1]) != _shown(then[1])
                said = first[0] == 0 and told
                counts["as said" if said else "not as said"] += 1
                if not said:
                    print(f"{rule.id} faulty: before {first[0]}, after {then[0]}\n   {first[1][-200:]!r}\n   {then[1][-200:]!r}")
            for text in rule.fine:
                if rule.safe:  # the new way is said to work before, too
                    first = run(old, sample_of(rule, text), Coordinate(coordinate))
                    counts["as said" if first[0] == 0 else "not as said"] += 1
                    if first[0] != 0:
                        print(f"{rule.id} fine, and safe: before {first[0]}\n   {first[1][-200:]!r}")
                then = run(new, sample_of(rule, text), Coordinate(coordinate))
                said = then[0] == 0 and (rule.at is not None or "Deprecat" not in then[1])
                counts["as said" if said else "not as said"] += 1
                if not said:
                    print(f"{rule.id} fine: after {then[0]}\n   {then[1][-300:]!r}")
        total.update(counts)
        print(coordinate, json.dumps(counts), flush=True)
    print(json.dumps(total))
    return 0


if __name__ == "__main__":
    sys.exit(main())
