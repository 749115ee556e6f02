"""Whether the paths that Yoake proposes can be walked: each stage of each path, asked of the package client.

For every stage, the set of releases is resolved under that stage's own interpreter (``pip install --dry-run``) or Node program
(``npm install --dry-run --engine-strict``), and compared with support tables written down here, apart from Yoake's knowledge.

    python -m bench.resolves [APPLICATION …]
"""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import tempfile
from dataclasses import dataclass, field
from pathlib import Path

from bench.truth import fetch as fetch_python
from bench.truth_node import fetch as fetch_npm
from yoake.core.values.coordinates import Coordinate, Line
from yoake.runner.clients.javascript.node_programs import fetch_node, node_releases
from yoake.runner.clients.python.interpreters import find_interpreters

PYTHON = {
    "Weblate==3.9": ["python@3.12", "pypi/django@5.2"],
    "label-studio==1.0.1": ["python@3.13", "pypi/django@5.2"],
    "pretix==3.8.0": ["python@3.12", "pypi/django@4.2"],
    "apache-superset==0.36.0": ["python@3.11", "pypi/sqlalchemy@1.4"],
    "kiwitcms==8.4": ["python@3.12", "pypi/django@4.2"],
    "archivebox==0.6.2": ["python@3.12", "pypi/django@5.2"],
    "mayan-edms==3.5.2": ["python@3.11", "pypi/django@4.2"],
    "flower==0.9.3": ["python@3.13", "pypi/tornado@6.5"],
}
NPM = {
    "node-red@1.0.6": ["node@24", "npm/express@5"],
    "hexo@3.9.0": ["node@24"],
    "parse-server@4.3.0": ["node@22", "npm/express@5"],
    "verdaccio@4.8.1": ["node@24", "npm/express@5"],
    "json-server@0.16.3": ["node@24", "npm/express@5"],
    "keystone@4.2.1": ["node@20", "npm/mongoose@8"],
    "serverless@1.83.3": ["node@22"],
}
FROM = {"python": "python@3.8", "npm": "node@12"}

DJANGO = {
    "2.2": (5, 9), "3.0": (6, 9), "3.1": (6, 9), "3.2": (6, 10), "4.0": (8, 10), "4.1": (8, 11), "4.2": (8, 12), "5.0": (10, 12),
    "5.1": (10, 13), "5.2": (10, 14),
}  # fmt: skip
"""Django line → oldest and newest Python 3 minor of its own documentation's table."""
DRF = {
    "3.12": ("2.2", "3.2"), "3.13": ("2.2", "4.0"), "3.14": ("3.0", "4.2"), "3.15": ("3.0", "5.1"), "3.16": ("4.2", "5.2"), "3.17": ("4.2", "6.0"),
}  # fmt: skip
"""REST framework line → oldest and newest Django line of its release notes."""
CELERY = {"4.4": (5, 8), "5.0": (6, 9), "5.1": (6, 9), "5.2": (7, 10), "5.3": (8, 12), "5.4": (8, 12), "5.5": (8, 13)}
EXPRESS = {"4": 0, "5": 18}
"""Express line → oldest Node of its documentation."""


@dataclass
class Score:
    """Counts of one application."""

    stages: int = 0
    resolved: int = 0
    against: list[str] = field(default_factory=list)
    failures: list[str] = field(default_factory=list)


def paths_of(folder: Path, to: list[str], said: str) -> dict:
    """What the command line answers."""
    command = [sys.executable, "-m", "yoake", "path", str(folder), "--format", "json", "--from", said]
    for target in to:
        command += ["--to", target]
    done = subprocess.run(command, capture_output=True, text=True, check=False, env={**os.environ})
    if done.returncode == 2:
        raise RuntimeError(done.stderr.strip()[-300:])
    return json.loads(done.stdout)


def name_of(coordinate: Coordinate) -> str:
    """The client's name of a package."""
    return coordinate.split("/", 1)[1].replace("%40", "@")


def resolve_python(state: dict, asked: dict[str, str]) -> str:
    """Empty when pip resolves the stage's set under its interpreter, else its last words."""
    line = state["pkg:generic/python"]["line"]
    program = find_interpreters().get(line)
    if program is None:
        return f"no interpreter {line} here"
    wanted = [
        f"{name_of(p)}=={v['release']}"
        for p, v in state.items()
        if p.startswith("pkg:pypi/") and v["release"].count(".")
    ]
    place = Path(tempfile.gettempdir()) / "yoake-truth" / f"venv-{line}"
    if not (place / "bin" / "python").exists():
        subprocess.run([program, "-m", "venv", str(place)], check=True, capture_output=True)
        subprocess.run(
            [place / "bin" / "python", "-m", "pip", "install", "-q", "-U", "pip<24.1"], check=False, capture_output=True
        )
    command = [str(place / "bin" / "python"), "-m", "pip", "install", "--dry-run", "-q", "--ignore-installed", *wanted]
    try:
        done = subprocess.run(command, capture_output=True, text=True, check=False, timeout=600)
    except subprocess.TimeoutExpired:
        return "pip did not finish within ten minutes"
    return (
        ""
        if done.returncode == 0
        else " / ".join(x.strip() for x in done.stderr.splitlines() if "rror" in x or "×" in x)[:400]
    )


def resolve_npm(state: dict, asked: dict[str, str]) -> str:
    """Empty when npm resolves the stage's set with its Node, engines strictly."""
    line = state["pkg:generic/node"]["line"]
    folder = Path(tempfile.gettempdir()) / "yoake-truth" / "node"
    program = fetch_node(node_releases()[line], folder)
    wanted = {name_of(p): v["release"] for p, v in state.items() if p.startswith("pkg:npm/")}
    with tempfile.TemporaryDirectory() as place:
        (Path(place) / "package.json").write_text(
            json.dumps({"name": "stage", "version": "1.0.0", "dependencies": wanted})
        )
        npm = subprocess.run(["npm", "root", "-g"], capture_output=True, text=True, check=True).stdout.strip()
        cli = Path(npm) / "npm" / "bin" / "npm-cli.js"
        # the newest npm does not run on the oldest Node: it is told which Node to answer for instead
        command = [
            "node",
            str(cli),
            "install",
            "--dry-run",
            "--engine-strict",
            "--no-audit",
            "--no-fund",
            f"--node-version={program.parent}",
        ]
        version = subprocess.run([str(program), "--version"], capture_output=True, text=True, check=True).stdout.strip()
        command[-1] = f"--node-version={version}"
        done = subprocess.run(command, cwd=place, capture_output=True, text=True, check=False, timeout=600)
    return "" if done.returncode == 0 else " / ".join(done.stderr.strip().splitlines()[:6])[:400]


def minor(line: Line) -> int:
    """The minor of a Python line."""
    return int(line.split(".")[1])


def key(line: Line) -> tuple[int, ...]:
    """Order of lines."""
    return tuple(int(x) for x in re.findall(r"\d+", line))


def against_tables(state: dict) -> list[str]:
    """What the tables say against a stage."""
    lines = {p.split("/", 1)[1]: v["line"] for p, v in state.items()}
    said = []
    python, django = lines.get("python"), lines.get("django")
    if python and django in DJANGO and not DJANGO[django][0] <= minor(python) <= DJANGO[django][1]:
        said.append(f"Django {django} on Python {python}")
    drf = lines.get("djangorestframework")
    if django and drf in DRF and not key(Line(DRF[drf][0])) <= key(django) <= key(Line(DRF[drf][1])):
        said.append(f"REST framework {drf} with Django {django}")
    celery = lines.get("celery")
    if python and celery in CELERY and not CELERY[celery][0] <= minor(python) <= CELERY[celery][1]:
        said.append(f"Celery {celery} on Python {python}")
    if lines.get("express") in EXPRESS and int(lines["node"]) < EXPRESS[lines["express"]]:
        said.append(f"Express {lines['express']} on Node {lines['node']}")
    return said


def measure(folder: Path, to: list[str], kind: str) -> Score:
    """Every stage of every path of one application."""
    answer = paths_of(folder, to, FROM[kind])
    score = Score()
    seen: dict[str, str] = {}
    resolve = resolve_python if kind == "python" else resolve_npm
    runtime = "pkg:generic/python" if kind == "python" else "pkg:generic/node"
    if answer["noWay"]:
        score.failures.append("no way: " + "; ".join(c["text"] for c in answer["noWay"]["constraints"]))
        score.failures += [f"  release: {r['text']}" for r in answer["noWay"]["releases"]]
    for path in answer["paths"]:
        for stage in path["stages"]:
            state = stage["state"]
            if runtime not in state or not stage["moves"]:
                continue
            shown = json.dumps(state, sort_keys=True)
            if shown in seen:
                continue
            moved = {m["coordinate"]: m["to"] for m in stage["moves"]}
            seen[shown] = resolve(state, moved)
            score.stages += 1
            score.resolved += not seen[shown]
            where = f"{path['strategy']}/{path['objective']} stage {stage['number']}"
            if seen[shown]:
                score.failures.append(f"{where} ({state[runtime]['line']}): {seen[shown]}")
            score.against += [f"{where}: {text}" for text in against_tables(state)]
    return score


def main() -> None:
    """Measure and print one line an application, and the totals."""
    place = Path(tempfile.gettempdir()) / "yoake-truth"
    wanted = sys.argv[1:]
    total = good = 0
    for kind, table in (("python", PYTHON), ("npm", NPM)):
        for name, to in table.items():
            if wanted and name not in wanted:
                continue
            folder = fetch_python(name, place) if kind == "python" else fetch_npm(name, place / "node")
            if folder is None:
                print(f"{name}: could not be fetched", flush=True)
                continue
            try:
                score = measure(folder, to, kind)
            except (RuntimeError, subprocess.SubprocessError) as error:
                print(f"{name}: {error}", flush=True)
                continue
            total, good = total + score.stages, good + score.resolved
            print(
                f"{name:26} {' '.join(to):36} stages {score.stages:3}  resolve {score.resolved:3}  against tables {len(score.against)}",
                flush=True,
            )
            for text in (*score.failures, *score.against):
                print(f"      {text}", flush=True)
    print(f"\n{good} of {total} stages resolve")


if __name__ == "__main__":
    main()
