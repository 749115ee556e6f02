"""What pip is asked for so that a module of Python runs, and what only its tests need."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Final

from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.ecosystems.python.requirements import REQUIREMENTS
from yoake.core.ecosystems.python.tox import tox_test_settings

if TYPE_CHECKING:
    from yoake.core.values.modules import Requirement
    from yoake.runner.clients.contract import Bench

_PROJECT_FILES: Final = ("pyproject.toml", "setup.py", "setup.cfg")
_BUILDS: Final = re.compile(r"^\[build-system\]|^\[project\]|^\[tool\.poetry\]|^\[tool\.flit", re.MULTILINE)
_TEST_GROUP: Final = re.compile(r"test|dev|ci\b|^all$", re.IGNORECASE)
_ELSE: Final = re.compile(r"doc|lint|release|publish|bench|constraints", re.IGNORECASE)
_COMMENT: Final = re.compile(r"(^|\s)#.*$")
_DEPTH: Final = 4  # requirements files that include one another


def run_requirements(bench: Bench) -> list[str]:
    """Words for pip: requirements files without those for tests, and the module itself where it can be built."""
    found = [
        word for name in _files(bench) if not _TEST_GROUP.search(name) for word in ("-r", str(bench.folder / name))
    ]
    if _is_built(bench.folder):
        found += ["-e", str(bench.folder)]
    return found


def test_requirements(bench: Bench) -> list[str]:
    """Single requirements that only tests and their tools need, from every file that lists some."""
    found: dict[str, None] = dict.fromkeys(bench.command.beside)
    for name in _files(bench):
        if _TEST_GROUP.search(name):
            found |= dict.fromkeys(_lines(bench.folder / name, _DEPTH))
    inside = f"{bench.module.path}/" if bench.module.path else ""
    for requirement in bench.module.requirements:
        name = requirement.file.removeprefix(inside)
        if name == "Pipfile" or (name in _PROJECT_FILES and _TEST_GROUP.search(requirement.group)):
            found[_as_text(requirement)] = None
    return list(found | dict.fromkeys(_of_tox(bench)))


def is_for_else(path: str) -> bool:
    """Whether a file or group is about documentation and the like, which tests do not need."""
    return bool(_ELSE.search(path))


def _files(bench: Bench) -> list[str]:
    """Requirements files of the module, as its folder names them."""
    inside = f"{bench.module.path}/" if bench.module.path else ""
    below = {r.file.removeprefix(inside) for r in bench.module.requirements if r.file.startswith(inside)}
    return sorted(name for name in below if REQUIREMENTS.search(name) and not is_for_else(name))


def _is_built(folder: Path) -> bool:
    built = [name for name in _PROJECT_FILES if (folder / name).is_file()]
    if built != ["pyproject.toml"]:
        return "setup.py" in built or "pyproject.toml" in built
    return bool(_BUILDS.search((folder / "pyproject.toml").read_text("utf-8", "replace")))


def _lines(path: Path, depth: int) -> Iterator[str]:
    """Requirements of a file and of those that it includes, without options."""
    if depth == 0 or not path.is_file():
        return
    for raw in path.read_text("utf-8", "replace").replace("\\\n", " ").splitlines():
        row = re.sub(r"\s--hash=\S+", "", _COMMENT.sub("", raw)).strip()
        if included := re.match(r"(?:-r|--requirement)[\s=]*(\S+)$", row):
            yield from _lines(path.parent / included.group(1), depth - 1)
        elif row and not row.startswith("-"):
            yield row


def _as_text(requirement: Requirement) -> str:
    marker = f"; {requirement.marker}" if requirement.marker else ""
    loose = requirement.specifier if re.match(r"[=<>!~]=|[<>]|$", requirement.specifier) else ""
    return f"{requirement.name}{loose}{marker}"


def _of_tox(bench: Bench) -> Iterable[str]:
    """What the environment for tests needs on this line."""
    path = bench.folder / "tox.ini"
    if not path.is_file():
        return
    needs, _ = tox_test_settings(path.read_text("utf-8", "replace"), bench.side.lines.get(PYTHON, ""))
    for row in needs:
        if included := re.match(r"-r\s*(\S+)$", row.replace("{toxinidir}/", "")):
            yield from _lines(bench.folder / included.group(1), _DEPTH)
        elif "{" not in row and not row.startswith("-"):
            yield row
