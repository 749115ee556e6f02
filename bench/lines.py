"""Whether the line at which a name goes is right: every line of a timeline against the real program of that line.

The names are those that real projects use (``bench/walk.py`` and ``bench/walk.mjs``); each program says whether it has them, by
import and getattr, or by property look-up. Names that the timeline calls *not known* on a line are counted apart.

    python -m bench.lines [python|node]
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from collections import Counter
from pathlib import Path

from bench import truth, truth_node
from bench.node_projects import CORPUS
from bench.projects import APART, TUNED
from yoake.shipped import KIT
from yoake.core.values.coordinates import Line, Coordinate
from yoake.core.ecosystems.javascript.specifiers import GLOBAL
from yoake.core.knowledge.timeline import Timeline
from yoake.runner.clients.javascript.node_programs import fetch_node, node_releases
from yoake.runner.clients.python.interpreters import find_interpreters


def python_names(folder: Path, timeline: Timeline) -> set[str]:
    """Paths of the standard library that the projects use."""
    walker = find_interpreters()[Line(truth.LINES["stdlib"][0])]
    names: set[str] = set()
    for requirement in (*TUNED["stdlib"], *APART["stdlib"]):
        place = truth.fetch(requirement, folder)
        if place is None:
            continue
        done = subprocess.run(
            [walker, str(truth.HERE / "walk.py"), str(place)], capture_output=True, text=True, check=True
        )
        own = {path.name.split(".")[0] for path in place.iterdir()}
        used = {symbol for _, _, symbol, _ in json.loads(done.stdout)}
        names |= {name for name in used if name.split(".")[0] in timeline.top_levels and name.split(".")[0] not in own}
    return names


def node_names(folder: Path, timeline: Timeline) -> set[str]:
    """Paths of built-in modules and globals that the projects use."""
    parser = truth_node.acorn(folder)
    names: set[str] = set()
    for spec in (*CORPUS["tuned"], *CORPUS["apart"]):
        place = truth_node.fetch(spec, folder)
        if place is not None:
            command = ["node", "--stack-size=4000", str(truth_node.HERE / "walk.mjs"), str(parser), str(place)]
            done = subprocess.run(command, capture_output=True, text=True, check=True)
            names |= {symbol for _, _, symbol, _ in json.loads(done.stdout)}
    return {
        n for n in names if (top := n.split(".")[0]) in timeline.top_levels or f"{GLOBAL}.{top}" in timeline.symbols
    }


def compare(
    timeline: Timeline, line: Line, answers: dict[str, bool | None], roots: bool
) -> tuple[Counter[str], list[str]]:
    """How often timeline and program agree on one line, and where they do not."""
    at = timeline.index(line)
    found: Counter[str] = Counter()
    wrong: list[str] = []
    for name, real in sorted(answers.items()):
        path = f"{GLOBAL}.{name}" if roots and name.split(".")[0] not in timeline.top_levels else name
        answer = timeline.ask(path)
        if at is None or real is None:
            continue
        if answer.offers >> at & 1:
            said = True
        elif answer.unknown >> at & 1 or not answer.offers:
            found["not known"] += 1
            continue
        else:
            said = False
        found["right" if said == real else "wrong"] += 1
        if said != real:
            wrong.append(f"{name}: the timeline says {'there' if said else 'gone'}")
    return found, wrong


def main() -> None:
    """Print one line for each program."""
    folder = Path(tempfile.gettempdir()) / "yoake-truth"
    (folder / "node").mkdir(parents=True, exist_ok=True)
    knowledge = KIT.knowledge()
    if "node" not in sys.argv[1:]:
        timeline = knowledge.timelines[Coordinate("pkg:generic/python")]
        names = python_names(folder, timeline)
        for line, program in find_interpreters().items():
            show("python", line, *compare(timeline, line, truth.ask(program, names, "stdlib"), roots=False))
    if "python" not in sys.argv[1:]:
        timeline = knowledge.timelines[Coordinate("pkg:generic/node")]
        names = node_names(folder / "node", timeline)
        for line, release in node_releases().items():
            program = fetch_node(release, folder / "node")
            show("node", line, *compare(timeline, line, truth_node.ask(program, names), roots=True))


def show(runtime: str, line: Line, found: Counter[str], wrong: list[str]) -> None:
    """One row and the first disagreements."""
    print(f"{runtime} {line}: " + ", ".join(f"{found[key]} {key}" for key in ("right", "wrong", "not known")))
    for text in wrong[:15]:
        print(f"    {text}")


if __name__ == "__main__":
    main()
