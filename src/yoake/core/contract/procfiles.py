"""``Procfile``: the processes of an application, a name and a command a line."""

from __future__ import annotations

import re
import shlex
from collections.abc import Collection

from yoake.core.values.runs import Command

_WEB = re.compile(r"^web:\s*(.+)$", re.MULTILINE)
_PORT = re.compile(r"\$\{PORT(?::-?[^{}]*)?\}|\$PORT\b")
_SHELL = re.compile(r"[|&;<>`$]")


def served_by(text: str, programs: Collection[str]) -> Command | None:
    """The command of the process that answers requests, where it begins with one of these programs; “{port}” stands for its port.
    None for what only a shell could run."""
    found = _WEB.search(text)
    if found is None:
        return None
    said = _PORT.sub("{port}", found.group(1))
    try:
        words = [] if _SHELL.search(said) else shlex.split(said)
    except ValueError:
        return None
    return (
        Command(name=words[0], words=tuple(words), kind="serve", why="Procfile")
        if words and words[0] in programs
        else None
    )
