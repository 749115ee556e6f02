"""What a module of Node asks for, installed by npm at the releases of a side, and a Node program of its line in front of the path."""

from __future__ import annotations

import json
import os
import re
import shutil
from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any, Final

from yoake.core.ecosystems.javascript.names import NODE
from yoake.core.values.coordinates import NO_LINE, line_key
from yoake.core.values.errors import BadInput, BadSource
from yoake.core.values.runs import TestOutcome, TestResult
from yoake.formats.junit import read_junit
from yoake.runner.clients.contract import Bench, Environment, Making
from yoake.runner.clients.javascript.node_programs import fetch_node, node_releases

_TELLS_JUNIT: Final = (20,)  # lines whose own runner writes JUnit when told by NODE_OPTIONS; older ones write TAP
_SECTIONS: Final = ("dependencies", "devDependencies", "optionalDependencies")
_PASSED_ON: Final = (
    "npm_config_",
    "NPM_CONFIG_",
    "HTTP_",
    "HTTPS_",
    "http_",
    "https_",
    "NO_PROXY",
    "no_proxy",
    "SSL_CERT",
)
_SUITE: Final = "test::"
_TAP: Final = re.compile(r"^\s*(not ok|ok) \d+(?: - )?(.*)$", re.MULTILINE)
_LOCKS: Final = ("package-lock.json", "npm-shrinkwrap.json")


def node_environment(bench: Bench) -> Environment:
    """How a command runs on the Node line of the bench's side. Raises BadSource where its program cannot be had."""
    node = _program(bench)
    place = bench.place / "bin"
    place.mkdir()
    (place / "node").symlink_to(node)
    npm, own_node = shutil.which("npm"), shutil.which("node")
    if npm is None or own_node is None:
        raise BadSource("npm was not found on PATH; install Node to run programs of Node.")
    cli = str(Path(npm).resolve())
    changed = _take_releases(bench)
    locked = any((bench.folder / name).is_file() for name in _LOCKS)
    steps: list[Making] = []
    if (bench.folder / "package.json").is_file():
        if changed:
            for name in (*_LOCKS, "yarn.lock", "pnpm-lock.yaml"):
                (bench.folder / name).unlink(missing_ok=True)
        how = ["ci"] if locked and not changed else ["install"]
        words = [own_node, cli, *how, "--no-audit", "--no-fund", "--no-update-notifier"]
        steps.append(
            Making("what the package file asks for", words, [[*words, "--legacy-peer-deps"]] if changed else ())
        )
    if bench.command.beside:
        steps.append(
            Making(
                "what it needs besides", [own_node, cli, "install", "--no-save", "--no-audit", *bench.command.beside]
            )
        )
    results = bench.place / "results"
    results.mkdir()
    words = list(bench.command.words)
    if words[0] == "npm":
        words = [own_node, cli, *words[1:], *_reporting(bench, results)]
    return Environment(
        steps=steps,
        words=words,
        installing={
            **_plain(bench, place),
            **{k: v for k, v in os.environ.items() if k.startswith(_PASSED_ON)},
            **_npm_home(),
        },
        variables=_variables(bench, place, results),
        tests=partial(read_results, results),
        installed=lambda: _installed(bench.folder),
    )


def _program(bench: Bench) -> Path:
    line = bench.side.lines.get(NODE, NO_LINE)
    releases = node_releases()
    if line not in releases:
        raise BadSource(
            f"The registry has no Node {line or '(no line is known)'} for this machine. It has: "
            f"{', '.join(sorted(releases))}."
        )
    bench.runtimes.mkdir(parents=True, exist_ok=True)
    return fetch_node(releases[line], bench.runtimes)


def _take_releases(bench: Bench) -> bool:
    """Write the releases of the side into the package file of the copy; whether that changed anything."""
    path = bench.folder / "package.json"
    wanted = {p.name: release for p, release in bench.side.releases.items() if p.type == "npm"}
    if not wanted or not path.is_file():
        return False
    try:
        body: Any = json.loads(path.read_text("utf-8"))
    except ValueError as error:
        raise BadInput(f"package.json cannot be read: {error}.") from error
    changed = False
    for section in _SECTIONS:
        held: Any = body.get(section) if isinstance(body, dict) else None
        for name in list(held) if isinstance(held, dict) else ():
            if name in wanted and held[name] != wanted[name]:
                held[name] = wanted[name]
                changed = True
    if changed:
        path.write_text(json.dumps(body, indent=2, ensure_ascii=False) + "\n", "utf-8")
    return changed


def _plain(bench: Bench, programs: Path) -> dict[str, str]:
    made = {name: bench.place / name for name in ("home", "tmp")}
    for folder in made.values():
        folder.mkdir(exist_ok=True)
    return {
        "PATH": f"{programs}:{os.environ.get('PATH', '/usr/local/bin:/usr/bin:/bin')}",
        "HOME": str(made["home"]),
        "TMPDIR": str(made["tmp"]),
        "LANG": "C.UTF-8",
        "CI": "true",
        "npm_config_update_notifier": "false",
    }


def _npm_home() -> dict[str, str]:
    """The person's own settings and store of npm, for installing only."""
    home = Path.home()
    found = {"npm_config_cache": str(home / ".npm")}
    if (home / ".npmrc").is_file():
        found["npm_config_userconfig"] = str(home / ".npmrc")
    return found


def _variables(bench: Bench, programs: Path, results: Path) -> dict[str, str]:
    own = _plain(bench, programs)
    if _runs_own_runner(bench) and line_key(bench.side.lines.get(NODE, "0")) >= _TELLS_JUNIT:
        own["NODE_OPTIONS"] = f"--test-reporter=junit --test-reporter-destination={results / 'junit.xml'}"
    return own


def _script(bench: Bench) -> str:
    """What the command comes down to: the script that npm runs, or its own words."""
    words = bench.command.words
    if words[0] != "npm":
        return " ".join(words)
    name = words[2] if words[1:2] == ("run",) and len(words) > 2 else words[1] if len(words) > 1 else ""
    try:
        body = json.loads((bench.folder / "package.json").read_text("utf-8"))
        return str(body["scripts"][name])
    except (OSError, ValueError, KeyError, TypeError):
        return ""


def _runs_own_runner(bench: Bench) -> bool:
    return bool(re.search(r"\bnode\b[^&|;]*\s--test\b", _script(bench)))


def _reporting(bench: Bench, results: Path) -> Sequence[str]:
    """What makes well-known runners write their results, where one of them is the last thing that the script calls."""
    last = re.split(r"&&|;|\|\|", _script(bench))[-1].strip()
    last = re.sub(r"^(?:[A-Z_]+=\S+\s+|cross-env\s+|npx\s+|c8\s+(?:-\S+\s+)*|nyc\s+(?:-\S+\s+)*)*", "", last)
    name = re.sub(r"^\S*node_modules/\.?bin/|^\S*/bin/", "", last.split(" ")[0])
    out = results / "results.json"
    if name in ("mocha", "_mocha"):
        return ("--", "--reporter", "json", "--reporter-option", f"output={out}")
    if name == "jest":
        return ("--", "--json", f"--outputFile={out}")
    if name == "vitest":
        return ("--", "--reporter=json", f"--outputFile={out}")
    return ()


def read_results(results: Path, output: str) -> Sequence[TestResult]:
    """What the runner wrote: JUnit, JSON of mocha, jest or vitest, or TAP among its output."""
    junit, told = results / "junit.xml", results / "results.json"
    if junit.is_file() and junit.stat().st_size:
        try:
            held = read_junit(junit.read_bytes(), "the results of Node’s runner")
        except BadInput:  # it was cut while it wrote
            return ()
        return [replace(test, name=test.name.removeprefix(_SUITE)) for test in held]  # as TAP of older lines has it
    if told.is_file():
        try:
            body = json.loads(told.read_text("utf-8"))
        except ValueError:
            return ()
        return _of_mocha(body) if "passes" in body else _of_jest(body)
    outcomes: dict[str, TestOutcome] = {"ok": "passed", "not ok": "failed"}
    found = [(m.group(1), m.group(2).strip()) for m in _TAP.finditer(output)]
    return [
        TestResult(name.partition(" # ")[0] or f"test {n}", "skipped" if "# SKIP" in name else outcomes[state])
        for n, (state, name) in enumerate(found, 1)
    ]


def _of_mocha(body: Mapping[str, Any]) -> list[TestResult]:
    outcomes: dict[str, TestOutcome] = {"passes": "passed", "failures": "failed", "pending": "skipped"}
    return [
        TestResult(
            str(test.get("fullTitle") or test.get("title")),
            outcome,
            str((test.get("err") or {}).get("message") or "").split("\n")[0][:300],
            float(test.get("duration") or 0) / 1000,
        )
        for section, outcome in outcomes.items()
        for test in body.get(section) or ()
    ]


def _of_jest(body: Mapping[str, Any]) -> list[TestResult]:
    outcomes: dict[str, TestOutcome] = {"passed": "passed", "failed": "failed"}
    found = []
    for file in body.get("testResults") or ():
        if not file.get("assertionResults") and file.get("status") == "failed":
            name = Path(str(file.get("name"))).name
            found.append(
                TestResult(f"{name} as a whole", "failed", str(file.get("message") or "").split("\n")[0][:300])
            )
        for test in file.get("assertionResults") or ():
            said = "".join(test.get("failureMessages") or ()).split("\n")[0][:300]
            outcome = outcomes.get(str(test.get("status")), "skipped")
            found.append(TestResult(str(test.get("fullName")), outcome, said, float(test.get("duration") or 0) / 1000))
    return found


def _installed(folder: Path) -> Mapping[str, str]:
    """Package → release, as the folders at the top of ``node_modules`` say."""
    found = {}
    for path in [*folder.glob("node_modules/*/package.json"), *folder.glob("node_modules/@*/*/package.json")]:
        try:
            body = json.loads(path.read_text("utf-8"))
            found[str(body["name"])] = str(body["version"])
        except (OSError, ValueError, KeyError, TypeError):
            continue
    return found
