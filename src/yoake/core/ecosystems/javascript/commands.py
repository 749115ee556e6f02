"""What can be run in a module of Node: the scripts of its package file, and Node's own runner where test files lie there."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Collection, Iterator, Mapping
from typing import TYPE_CHECKING, Any, Final

from yoake.core.contract.procfiles import served_by
from yoake.core.values.runs import Command

if TYPE_CHECKING:
    from yoake.core.values.words import CommandKind

_KINDS: Final[Mapping[str, CommandKind]] = {"test": "test", "build": "build", "lint": "check", "typecheck": "check"}
_SERVERS: Final = ("node", "npm", "yarn")
_NO_TEST: Final = "no test specified"
_TEST_FILE: Final = re.compile(r"(?:^|/)(?:test/[^/]+|[^/]+[.-](?:test|spec)|test)\.[cm]?js$")


def node_commands(paths: Collection[str], read: Callable[[str], str]) -> tuple[Command, ...]:
    """Scripts that test, build and check; without a script for tests Node's own runner where there are some."""
    return tuple(_told(paths, read))


def _told(paths: Collection[str], read: Callable[[str], str]) -> Iterator[Command]:
    scripts = _scripts(read("package.json")) if "package.json" in paths else {}
    if scripts.get("test") and _NO_TEST not in scripts["test"]:
        yield Command(name="npm test", words=("npm", "test"), why="package.json")
    elif first := next((p for p in sorted(paths) if _TEST_FILE.search(p)), ""):
        yield Command(name="node --test", words=("node", "--test"), why=first)
    for name, kind in _KINDS.items():
        if name != "test" and scripts.get(name):
            yield Command(name=f"npm run {name}", words=("npm", "run", name), kind=kind, why="package.json")
    if scripts.get("start"):
        yield Command(name="npm start", words=("npm", "start"), kind="serve", why="package.json")
    elif "Procfile" in paths and (made := served_by(read("Procfile"), _SERVERS)) is not None:
        yield made


def _scripts(text: str) -> dict[str, str]:
    try:
        body: Any = json.loads(text)
    except ValueError:
        return {}
    scripts = body.get("scripts") if isinstance(body, dict) else None
    return {k: v for k, v in scripts.items() if isinstance(v, str)} if isinstance(scripts, dict) else {}
