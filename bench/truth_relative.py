"""Imports that only a file beside answers, as Python 2.7 reads them, against those that a scan lists.

    python -m bench.truth_relative FOLDER [FOLDER …]

2.7 itself parses each file of each package and says which import statements, outside of ``try`` and ``if``, name a module or package
that lies beside. Prints for each folder how many there are, how many the scan lists, and what differs. Nothing of a folder is run.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from yoake.core.values.coordinates import Line, parse_target
from yoake.runner.clients.python.interpreters import find_interpreters
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import FolderSnapshot
from yoake.shipped import KIT
from yoake.store.facts_cache import FactsCache
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot

SYMBOL = "syntax.implicit_relative_import"

ASK = r"""
import ast, os, sys
root = sys.argv[1]
for folder, _, files in os.walk(root):
    for name in files if "__init__.py" in files else ():
        path = os.path.join(folder, name)
        try:
            tree = ast.parse(open(path).read()) if name.endswith(".py") else None
        except Exception:
            tree = None
        nodes = list(ast.walk(tree)) if tree is not None else []
        froms = [n for n in nodes if isinstance(n, ast.ImportFrom)]
        if any(n.module == "__future__" and any(a.name == "absolute_import" for a in n.names) for n in froms):
            continue
        inside = set(id(m) for n in nodes if isinstance(n, (ast.TryExcept, ast.If)) for m in ast.walk(n))
        for n in nodes:
            names = [a.name for a in n.names] if isinstance(n, ast.Import) else []
            names += [n.module] if n in froms and not n.level and n.module else []
            tops = [each.split(".")[0] for each in names]
            beside = [t for t in tops if os.path.exists(os.path.join(folder, t + ".py")) and name != t + ".py"]
            beside += [t for t in tops if os.path.exists(os.path.join(folder, t, "__init__.py"))]
            if beside:
                print("%s\t%d\t%s" % (path[len(root) + 1:], n.lineno, "guarded" if id(n) in inside else ""))
"""


def truth(folder: Path) -> tuple[set[tuple[str, int]], set[tuple[str, int]]]:
    """(file, line) of the statements outside of any guard, and of those inside of one."""
    import subprocess  # noqa: PLC0415  only here

    with tempfile.NamedTemporaryFile("w", suffix=".py") as script:
        script.write(ASK)
        script.flush()
        command = [str(find_interpreters()[Line("2.7")]), script.name, str(folder)]
        said = subprocess.run(command, capture_output=True, text=True, check=True).stdout
    rows = [line.split("\t") for line in said.splitlines()]
    return {(f, int(n)) for f, n, how in rows if not how}, {(f, int(n)) for f, n, how in rows if how}


def main() -> None:
    """Compare folder by folder."""
    knowledge = KIT.knowledge()
    to, today = parse_target("python@3.13"), parse_target("python@2.7")
    every = found_of_them = extra = 0
    for folder in map(Path, sys.argv[1:]):
        extractor = Extractor(FactsCache(None), KIT.ecosystems, workers=1)
        result = scan_snapshot(FolderSnapshot(folder), knowledge, (to,), (today,), extractor, Control()).result
        extractor.close()
        found = {(p.file, p.line) for f in result.findings if f.symbol == SYMBOL for p in f.places}
        plain, guarded = truth(folder.resolve())
        missed, more = sorted(plain - found), sorted(found - plain - guarded)
        every, found_of_them, extra = every + len(plain), found_of_them + len(plain & found), extra + len(more)
        print(f"{folder.name}: {len(plain)} statements, {len(plain & found)} listed; missed {missed[:4]}; more {more[:4]}", flush=True)
    print(f"all: {found_of_them} of {every} listed, {extra} more")


if __name__ == "__main__":
    main()
