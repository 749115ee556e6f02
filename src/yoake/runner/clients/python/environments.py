"""A new virtual environment on a Python line, with what a module's manifests ask for at the releases of a side."""

from __future__ import annotations

import json
import os
import re
import sys
from collections.abc import Iterable, Mapping, Sequence
from importlib.resources import files
from pathlib import Path
from typing import Final

from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.values.coordinates import NO_LINE, Coordinate, line_key
from yoake.core.values.errors import BadInput, BadSource
from yoake.core.values.runs import TestResult
from yoake.formats.junit import read_junit
from yoake.runner.clients.contract import Bench, Environment, Making
from yoake.runner.clients.python.interpreters import find_interpreters
from yoake.runner.clients.python.mending import missing_beside
from yoake.runner.clients.python.wanted import is_for_else, run_requirements, test_requirements

_OWN_PIP: Final = (3, 9)  # older lines cannot run our pip, and bring their own
_NO_SETUPTOOLS: Final = (
    3,
    12,
)  # an environment of an older line holds setuptools from the start, as it did in its time
_OLD_BUILDS: Final = "setuptools<81"
"""Source releases of the years before 2025 are built with it: what came later no longer brings pkg_resources."""
_PYTEST: Final = "pytest<9"
"""For suites that name none: the last that an old and a new line have in common."""
_PLUGINS: Final = {
    re.compile(r"--cov\b"): "pytest-cov",
    re.compile(r"DJANGO_SETTINGS_MODULE|--ds\b"): "pytest-django",
    re.compile(r"asyncio_mode"): "pytest-asyncio",
    re.compile(r"(?<![\w-])(?:-n[ =]?(?:\d|auto)|--numprocesses|--dist\b)"): "pytest-xdist",
    re.compile(r"(?<![\w-])--timeout\b|^timeout\s*=", re.MULTILINE): "pytest-timeout",
    re.compile(r"--flake8\b"): "pytest-flake8",
    re.compile(r"--mypy\b"): "pytest-mypy",
    re.compile(r"--random-order\b"): "pytest-random-order",
}
"""What settings and words of pytest speak of → the plugin that knows it."""

_TOOLS: Final = ("pip", "setuptools", "wheel")
"""What builds and installs: that of the environment is taken, whatever a path settles."""
_PASSED_ON: Final = ("PIP_", "HTTP_", "HTTPS_", "http_", "https_", "NO_PROXY", "no_proxy", "SSL_CERT", "REQUESTS_CA")
"""Variables that say how packages are fetched here; the command itself does not get them."""


def python_environment(bench: Bench) -> Environment:
    """How a command runs on the Python line of the bench's side. Raises BadSource where this machine has no such interpreter."""
    line = bench.side.lines.get(PYTHON, NO_LINE)
    programs = find_interpreters()
    if line.startswith("2."):
        raise BadSource(
            f"Environments cannot be made on Python {line}. Where it runs on Python 3 today, say so: correct today’s line on its Evidence screen, "
            "or name another with --state."
        )
    if line not in programs:
        have = ", ".join(sorted((p for p in programs if p[0] != "2"), key=line_key)) or "none"
        raise BadSource(
            f"There is no Python {line or '(no line is known)'} on this machine to run on. There are: {have}."
        )
    env = bench.place / "environment"
    python = str(env / "bin" / "python")
    own = line_key(line) < _OWN_PIP
    pip = [python, "-m", "pip"] if own else [sys.executable, "-m", "pip", "--python", python]
    install = [*pip, "install", "--no-input", "--disable-pip-version-check", "--no-warn-script-location"]
    held = bench.place / "constraints.txt"
    held.write_text("".join(f"{row}\n" for row in _constraints(bench)), "utf-8")
    building = bench.place / "building.txt"
    building.write_text(_OLD_BUILDS + "\n", "utf-8")
    bare = line_key(line) >= _NO_SETUPTOOLS
    steps = [
        Making(
            f"an environment on Python {line}",
            [str(programs[line]), "-m", "venv", *(["--without-pip"] if bare else []), str(env)],
        )
    ]
    asked = [*install, "-c", str(held)]
    needed, tools = run_requirements(bench), [*test_requirements(bench), *_pytest(bench)]
    if needed or tools:
        single = [[*asked, one] for one in tools]
        steps.append(
            Making(
                "what the manifests ask for", [*asked, *needed, *tools], [[*asked, *needed] if needed else [], *single]
            )
        )
    results = bench.place / "results"
    results.mkdir()
    _put_witness(env, line)
    return Environment(
        steps=steps,
        words=bench.command.words,
        installing=_installing(bench, building),
        variables=_variables(bench, env, results),
        tests=lambda _output: _tests(results),
        installed=lambda: _installed(env),
        mending=lambda output, sound: [
            (beside, [*install, "-q", "-c", str(held), beside]) for beside in missing_beside(output, sound=sound)
        ],
    )


def _pytest(bench: Bench) -> list[str]:
    """pytest and what its settings speak of, where the command is pytest."""
    if "pytest" not in bench.command.words:
        return []
    named = {coordinate.name for coordinate in bench.side.releases}
    plugins = [name for sign, name in _PLUGINS.items() if sign.search(_pytest_settings(bench))]
    return ["pytest" if "pytest" in named else _PYTEST, *plugins]


def _pytest_settings(bench: Bench) -> str:
    """Where a module tells pytest how to run: its words, and the files that pytest reads."""
    found = [" ".join(bench.command.words)]
    for name, section in (
        ("pytest.ini", ""),
        ("tox.ini", "[pytest]"),
        ("setup.cfg", "[tool:pytest]"),
        ("pyproject.toml", "[tool.pytest"),
    ):
        path = bench.folder / name
        text = path.read_text("utf-8", "replace") if path.is_file() else ""
        at = text.find(section) if text else -1
        if at >= 0:
            found.append(text[at : text.find("\n[", at + 1) if section and "\n[" in text[at + 1 :] else None])
    return "\n".join(found)


def _constraints(bench: Bench) -> Iterable[str]:
    """The releases of the side, and those of lock files for what it does not name."""
    aside = {r.coordinate for r in bench.module.requirements}
    aside -= {r.coordinate for r in bench.module.requirements if not is_for_else(f"{r.file} {r.group}")}
    named = {p.name: r for p, r in bench.side.releases.items() if _is_pypi(p) and p not in aside}
    for tool in _TOOLS:
        named.pop(tool, None)
    if bench.side.locked:
        for locked in bench.module.locked:
            if _is_pypi(locked.coordinate):
                named.setdefault(locked.coordinate.name, locked.release)
    return [f"{name}=={release}{'.*' if _is_line(release) else ''}" for name, release in sorted(named.items())]


def _is_line(release: str) -> bool:
    return bool(re.fullmatch(r"\d+(\.\d+)?", release))


def _is_pypi(coordinate: Coordinate) -> bool:
    return coordinate.type == "pypi"


def _installing(bench: Bench, building: Path) -> dict[str, str]:
    home = Path.home()
    own = next((f for f in (home / ".config/pip/pip.conf", home / ".pip/pip.conf") if f.exists()), None)
    kept = {k: v for k, v in os.environ.items() if k.startswith(_PASSED_ON)}
    if own is not None:
        kept.setdefault("PIP_CONFIG_FILE", str(own))
    return {
        **_plain(bench),
        "PIP_CACHE_DIR": str(home / ".cache" / "pip"),
        **kept,
        "PIP_CONSTRAINT": str(building),  # holds for the environments in which packages are built
    }


def _plain(bench: Bench) -> dict[str, str]:
    """What every command finds: an empty home, a place for passing files, and no secret of whoever started it."""
    made = {name: bench.place / name for name in ("home", "tmp")}
    for folder in made.values():
        folder.mkdir(exist_ok=True)
    return {
        "PATH": os.environ.get("PATH", "/usr/local/bin:/usr/bin:/bin"),
        "HOME": str(made["home"]),
        "TMPDIR": str(made["tmp"]),
        "LANG": "C.UTF-8",
        "CI": "true",
        "SETUPTOOLS_SCM_PRETEND_VERSION": "1.0",  # a copy has no history to take a version from
        "PBR_VERSION": "1.0",
    }


def _variables(bench: Bench, env: Path, results: Path) -> dict[str, str]:
    plain = _plain(bench)
    return {
        **plain,
        "PATH": f"{env / 'bin'}:{plain['PATH']}",
        "VIRTUAL_ENV": str(env),
        "PYTHONDONTWRITEBYTECODE": "1",
        "YOAKE_RESULTS": "" if "pytest" in bench.command.words else str(results / "unittest.jsonl"),
        "PYTEST_ADDOPTS": f"--junitxml={results / 'junit.xml'} -o junit_family=xunit1 --continue-on-collection-errors",
    }


def _put_witness(env: Path, line: str) -> None:
    """A module that every Python of the environment loads, and that writes down how each unittest test went."""
    site = env / "lib" / f"python{line}" / "site-packages"
    site.mkdir(parents=True)
    probe = files("yoake.runner") / "probes" / "yoake_results.py"
    (site / "yoake_results.py").write_text(probe.read_text("utf-8"), "utf-8")
    (site / "yoake_results.pth").write_text("import yoake_results\n", "utf-8")


def _tests(results: Path) -> Sequence[TestResult]:
    """What pytest or unittest wrote."""
    junit, rows = results / "junit.xml", results / "unittest.jsonl"
    if junit.is_file():
        try:
            return read_junit(junit.read_bytes(), "the results of pytest")
        except BadInput:  # it was cut while it wrote
            return ()
    if not rows.is_file():
        return ()
    found = []
    for row in rows.read_text("utf-8", "replace").splitlines():
        try:
            made = json.loads(row)
            found.append(TestResult(str(made["name"]), made["outcome"], str(made["note"]), float(made["seconds"])))
        except (ValueError, KeyError, TypeError):  # cut while it was written
            continue
    return found


def _installed(env: Path) -> Mapping[str, str]:
    """Package → release, as the folders of an environment say."""
    found = {}
    for folder in env.glob("lib/python*/site-packages/*.*-info"):
        name, _, release = folder.name.rpartition(".")[0].partition("-")
        if release:
            found[re.sub(r"[-_.]+", "-", name).lower()] = release.partition("-py")[0]
    return found
