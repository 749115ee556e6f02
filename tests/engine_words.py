"""Whether the engine names no ecosystem: neither in a name nor in a text that the program uses. Comments and docstrings may."""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

CORE = Path(__file__).parent.parent / "src" / "yoake" / "core"
ENGINE = ("values", "contract", "knowledge", "inventory", "scan", "readiness", "planning")
WORDS = re.compile(
    r"pypi|npm|python|django|javascript|typescript|java(?!script)|maven|\bnode\b|node_modules|nodejs", re.IGNORECASE
)
OF_GRAPHS = frozenset(("node", "nodes", "add_nodes_from"))
"""Names that speak of nodes of a graph."""


def docstrings(tree: ast.Module) -> set[int]:
    """Identities of the string nodes that only document."""
    found = set()
    for owner in ast.walk(tree):
        for body in [getattr(owner, "body", None)] if not isinstance(owner, ast.Lambda | ast.IfExp) else []:
            for statement in body or []:
                if isinstance(statement, ast.Expr) and isinstance(statement.value, ast.Constant):
                    found.add(id(statement.value))
    return found


def named(path: Path) -> Iterator[str]:
    """“file:line: word” of each place that names an ecosystem."""
    tree = ast.parse(path.read_text("utf-8"))
    told = docstrings(tree)
    for node in ast.walk(tree):
        words: list[str] = []
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in told:
            words = [node.value]
        elif isinstance(node, ast.Name):
            words = [node.id]
        elif isinstance(node, ast.Attribute):
            words = [node.attr]
        elif isinstance(node, ast.arg):
            words = [node.arg]
        elif isinstance(node, ast.FunctionDef | ast.ClassDef):
            words = [node.name]
        elif isinstance(node, ast.ImportFrom | ast.Import):
            words = [getattr(node, "module", None) or "", *(alias.name for alias in node.names)]
        for word in words:
            if word not in OF_GRAPHS and WORDS.search(word.replace("_", " ") if "_" in word else word):
                yield f"{path.relative_to(CORE.parent.parent)}:{getattr(node, 'lineno', 0)}: {word[:60]}"


def places() -> list[str]:
    """Every place of the engine that names an ecosystem."""
    return [place for folder in ENGINE for path in sorted((CORE / folder).rglob("*.py")) for place in named(path)]


def main() -> int:
    found = places()
    if found:
        sys.stderr.write(
            "The engine names an ecosystem; bring it through the contract instead:\n" + "\n".join(found) + "\n"
        )
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
