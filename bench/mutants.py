"""A share of all small mistakes that could be in planning, scan, readiness and the use cases, and how many of them the tests see.

    python -m bench.mutants [--mutants 300] [--seed 1] [--of core/planning core/scan core/readiness usecases]

Needs ``coverage`` beside the rest. Tests run once to learn which of them reach which line; then each mistake is made in a copy of the
tree, alone, and the tests that reach its line run until one fails. A mistake on a line that no test reaches counts as not seen. Prints
the share that is seen, with its 95 % interval, and every mistake that is not.
"""

from __future__ import annotations

import argparse
import ast
import json
import os
import random
import re
import shutil
import sqlite3
import subprocess
import sys
import tempfile
from collections import defaultdict
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from math import sqrt
from pathlib import Path
from queue import Queue

HERE = Path(__file__).parent.parent
OF = ("core/planning", "core/scan", "core/readiness", "usecases")
TESTS = (("tests/core", "tests/usecases", "tests/formats"), ("tests/server",))
LIGHT, BROAD, REST = 30, 160, 100  # seconds of tests that are run against one mistake, as long as they took while lines were counted: four times as long

SWAPPED = {
    ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "==", ast.In: "not in", ast.NotIn: "in",
    ast.Is: "is not", ast.IsNot: "is",
}  # fmt: skip
REVERSED = {ast.Add: "-", ast.Sub: "+", ast.Mult: "/", ast.Div: "*", ast.BitAnd: "|", ast.BitOr: "&"}


@dataclass(frozen=True)
class Mutant:
    """One small mistake: what stands at a place of a file, and what stands there instead."""

    file: str
    line: int
    start: int
    end: int
    instead: str
    imported: bool = False
    """Whether it runs when its file is imported, and not when something of it is called."""

    def __str__(self) -> str:
        return f"{self.file}:{self.line}"


def mutants_of(file: str, text: str) -> Iterator[Mutant]:
    """Every small mistake in one text; annotations, docstrings, lines of a log and what only a type checker reads are left alone."""
    begins = [0]
    for row in text.encode().splitlines(keepends=True):
        begins.append(begins[-1] + len(row))
    data = text.encode()

    def at(line: int, column: int) -> int:
        return begins[line - 1] + column

    def made(node: ast.expr | ast.stmt, instead: str) -> Mutant:
        start, end = at(node.lineno, node.col_offset), at(node.end_lineno or 0, node.end_col_offset or 0)
        return Mutant(file, node.lineno, start, end, instead, not any(a <= node.lineno <= b for a, b in called))

    def source(node: ast.AST) -> str:
        return ast.get_source_segment(text, node) or ""

    def walk(node: ast.AST) -> Iterator[Mutant]:
        if isinstance(node, ast.JoinedStr) or (isinstance(node, ast.If) and "TYPE_CHECKING" in source(node.test)):
            return  # places inside of texts that are put together are not those of the file before Python 3.12
        if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in SWAPPED:
            between = data[at(node.left.end_lineno or 0, node.left.end_col_offset or 0) : at(node.comparators[0].lineno, node.comparators[0].col_offset)].decode()
            if ")" not in between and "(" not in between and "\n" not in between:
                yield made(node, f"{source(node.left)} {SWAPPED[type(node.ops[0])]} {source(node.comparators[0])}")
        elif isinstance(node, ast.BoolOp):
            other = "or" if isinstance(node.op, ast.And) else "and"
            yield made(node, "(" + f" {other} ".join(f"({source(v)})" for v in node.values) + ")")
            yield made(node, "(" + source(node.values[-1]) + ")")
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            yield made(node, f"({source(node.operand)})")
        elif isinstance(node, ast.BinOp) and type(node.op) in REVERSED and not _is_text(node):
            yield made(node, f"({source(node.left)}) {REVERSED[type(node.op)]} ({source(node.right)})")
        elif isinstance(node, ast.Constant) and isinstance(node.value, bool):
            yield made(node, str(not node.value))
        elif isinstance(node, ast.Constant) and isinstance(node.value, int | float):
            yield made(node, repr(node.value + 1))
        elif isinstance(node, ast.IfExp):
            yield made(node, f"({source(node.body)})")
            yield made(node, f"({source(node.orelse)})")
        elif isinstance(node, ast.Return) and node.value is not None and not isinstance(node.value, ast.Constant):
            yield made(node, "return None")
        elif isinstance(node, ast.Continue):
            yield made(node, "break")
        elif isinstance(node, ast.Expr) and isinstance(node.value, ast.Call) and not source(node).startswith("log."):
            yield made(node, "pass")
        elif isinstance(node, ast.comprehension):
            for test in node.ifs:
                yield made(test, "True")
        for field, value in ast.iter_fields(node):
            if field in ("annotation", "returns", "decorator_list"):
                continue
            for child in value if isinstance(value, list) else [value]:
                if isinstance(child, ast.AST):
                    yield from walk(child)

    tree = ast.parse(text)
    called = [(f.body[0].lineno, f.end_lineno or 0) for f in ast.walk(tree) if isinstance(f, ast.FunctionDef | ast.AsyncFunctionDef)]
    yield from walk(tree)


def _is_text(node: ast.BinOp) -> bool:
    return any(isinstance(side, ast.JoinedStr) or (isinstance(side, ast.Constant) and isinstance(side.value, str)) for side in (node.left, node.right))


CONTEXTS = """
import json
import os
import time

import coverage
import pytest

TOOK = {}


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_protocol(item):
    name = item.nodeid.partition("[")[0]
    coverage.Coverage.current().switch_context(name)
    begun = time.perf_counter()
    yield
    TOOK[name] = TOOK.get(name, 0) + time.perf_counter() - begun


def pytest_sessionfinish():
    with open(os.environ["TOOK"], "w") as file:
        json.dump(TOOK, file)
"""


@dataclass
class Reach:
    """Which tests reach a line (file, number), in whatever thread; child processes are not seen. And of each test how many lines it
    reaches and how many seconds it takes, with all its cases."""

    tests: dict[tuple[str, int], list[str]]
    lines: dict[str, int]
    seconds: dict[str, float]

    def reaching(self, mutant: Mutant) -> set[str]:
        """The tests that run its line. What runs when its file is imported, such as a constant, is reached by all that use the file."""
        if mutant.imported:
            return {test for (file, _), tests in self.tests.items() if file == mutant.file for test in tests}
        return set(self.tests.get((mutant.file, mutant.line), ()))

    def portions(self, mutant: Mutant) -> Iterator[list[str]]:
        """The tests that reach a mistake: those that look at little first, then those that look at most, then the rest."""
        left = sorted(self.reaching(mutant), key=lambda t: (self.lines[t], t))
        for seconds, broad in ((LIGHT, False), (BROAD, True), (REST, False)):
            taken = []
            for test in reversed(left) if broad else left:
                seconds -= self.seconds[test]
                if seconds < 0 and taken:
                    break
                taken.append(test)
            left = [test for test in left if test not in taken]
            if taken:
                yield taken


def reached(tree: Path, packages: list[str]) -> Reach:
    """Run the tests once, in two halves beside one another."""
    sources = "\n".join(f"    src/yoake/{p}" for p in packages)
    (tree / "reached_by.py").write_text(CONTEXTS)
    running = []
    for number, tests in enumerate(TESTS):
        config = tree / f"coverage{number}.ini"
        config.write_text(f"[run]\nconcurrency = thread\nsource =\n{sources}\ndata_file = {tree / f'reached{number}'}\n")
        command = [sys.executable, "-m", "coverage", "run", f"--rcfile={config}", "-m", "pytest", "-q", "-p", "no:cacheprovider", "-p", "reached_by", *tests]
        running.append(subprocess.Popen(command, cwd=tree, env={**_environment(tree), "TOOK": str(tree / f"took{number}")}))
    found = Reach(defaultdict(list), defaultdict(int), {})
    for number, process in enumerate(running):
        process.wait()
        found.seconds |= json.loads((tree / f"took{number}").read_text())
        _read(tree, tree / f"reached{number}", found)
    return found


def _read(tree: Path, data: Path, found: Reach) -> None:
    with sqlite3.connect(data) as db:
        named = {i: path for i, path in db.execute("SELECT id, path FROM file")}
        contexts = dict(db.execute("SELECT id, context FROM context"))
        for file, context, bits in db.execute("SELECT file_id, context_id, numbits FROM line_bits"):
            test = contexts[context]
            for number in (8 * i + b for i, byte in enumerate(bits) for b in range(8) if byte >> b & 1):
                path = str(Path(named[file]).relative_to(tree))
                found.tests[path, number].extend([test] if test else [])
                found.lines[test] += 1


def _environment(tree: Path) -> dict[str, str]:
    return {**os.environ, "PYTHONPATH": f"{tree / 'src'}:{tree}:{os.environ.get('PYTHONPATH', '')}", "PYTHONDONTWRITEBYTECODE": "1"}


def seen(tree: Path, mutant: Mutant, reach: Reach) -> bool:
    """Whether a test fails with this mistake in the tree, or takes far longer than it did."""
    path = tree / mutant.file
    kept = path.read_bytes()
    path.write_bytes(kept[: mutant.start] + mutant.instead.encode() + kept[mutant.end :])
    try:
        for portion in reach.portions(mutant):
            command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *portion]
            allowed = 60 + 2 * sum(reach.seconds[test] for test in portion)
            try:
                if subprocess.run(command, cwd=tree, env=_environment(tree), capture_output=True, timeout=allowed, check=False).returncode:
                    return True
            except subprocess.TimeoutExpired:
                return True
    finally:
        path.write_bytes(kept)
    return False


def main() -> None:
    """Make mistakes, and count those that are seen."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--mutants", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--of", nargs="*", default=list(OF))
    parser.add_argument("--beside", type=int, default=os.cpu_count() or 1)
    given = parser.parse_args()
    with tempfile.TemporaryDirectory(prefix="yoake-mutants-") as held:
        trees = [Path(held) / str(n) for n in range(given.beside)]
        for tree in trees:
            shutil.copytree(HERE, tree, ignore=shutil.ignore_patterns(".venv", "node_modules", ".git", ".make", "data", "__pycache__"), symlinks=True)
            (tree / ".venv").symlink_to(HERE / ".venv")
        reach = reached(trees[0], given.of)
        print(f"{len(reach.lines)} tests reach {len(reach.tests)} lines", flush=True)
        every = [m for p in given.of for f in sorted((trees[0] / "src/yoake" / p).rglob("*.py")) for m in mutants_of(str(f.relative_to(trees[0])), f.read_text())]
        chosen = random.Random(given.seed).sample(every, min(given.mutants, len(every)))  # noqa: S311  a sample, no secret
        free: Queue[Path] = Queue()
        for tree in trees:
            free.put(tree)

        def look(mutant: Mutant) -> tuple[Mutant, bool]:
            tree = free.get()
            try:
                return mutant, seen(tree, mutant, reach)
            finally:
                free.put(tree)

        missed: dict[str, list[Mutant]] = defaultdict(list)
        of: dict[str, int] = defaultdict(int)
        with ThreadPoolExecutor(given.beside) as pool:
            for mutant, was_seen in pool.map(look, chosen):
                package = next(p for p in given.of if mutant.file.startswith(f"src/yoake/{p}/"))
                of[package] += 1
                if not sum(of.values()) % 50:
                    print(f"{sum(of.values())} made", flush=True)
                if not was_seen:
                    missed[package].append(mutant)
                    kept = (trees[0] / mutant.file).read_bytes()[mutant.start : mutant.end].decode()
                    shown = re.sub(r"\s+", " ", f"{kept[:90]} → {mutant.instead[:90]}")
                    nobody = "" if reach.reaching(mutant) else " (no test reaches it)"
                    print(f"not seen: {mutant}: {shown}{nobody}", flush=True)
        for package, count in of.items():
            print(f"{package}: {count - len(missed[package])} of {count} seen")
        found = sum(of.values()) - sum(map(len, missed.values()))
        share, wide = found / sum(of.values()), 1.96 * sqrt(found * (sum(of.values()) - found) / sum(of.values()) ** 3)
        print(json.dumps({"mutants": sum(of.values()), "of": len(every), "seen": round(share, 3), "give or take": round(wide, 3)}))


if __name__ == "__main__":
    main()
