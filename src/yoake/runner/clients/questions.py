"""Questions to a helper that speaks with a package client: lines of JSON in, lines of JSON out, each as soon as it is there."""

from __future__ import annotations

import json
import subprocess
import tempfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any, Final

from yoake.core.values.errors import BadSource

_SECONDS: Final = 900  # for all questions of one helper together; some hundred packages take half a minute


def answers(command: Sequence[str], questions: Iterable[str]) -> Iterator[Mapping[str, Any]]:
    """What the helper answers, line by line. Raises BadSource when it cannot work here."""
    with (
        tempfile.TemporaryFile("w+", encoding="utf-8") as asked,
        tempfile.TemporaryFile("w+", encoding="utf-8") as said,
    ):
        asked.write("".join(f"{question}\n" for question in questions))
        asked.seek(0)
        bounded = ["timeout", str(_SECONDS), *command]
        with subprocess.Popen(bounded, stdin=asked, stdout=subprocess.PIPE, stderr=said, text=True) as process:
            try:
                yield from _objects(process)
            finally:
                process.kill()
        if process.returncode not in (0, -9):
            said.seek(0)
            raise BadSource(f"The package client could not be asked: {said.read()[-200:].strip() or 'it ended early'}")


def _objects(process: subprocess.Popen[str]) -> Iterator[Mapping[str, Any]]:
    for row in process.stdout or ():
        try:
            answer = json.loads(row)
        except ValueError:
            continue
        if isinstance(answer, Mapping):
            yield answer
    process.wait()
