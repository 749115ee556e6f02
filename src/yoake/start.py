"""Where the ``yoake`` command starts: an answer that is known already is given at once, before the rest is imported."""

from __future__ import annotations

import gc
import importlib
import os
import sys
from pathlib import Path

from yoake.runner.answers import read_request, write_whole
from yoake.runner.home import default_home
from yoake.store.command_answers import UNKEPT, Answers


def known_answer(arguments: list[str]) -> int | None:
    """Give the kept answer to these arguments and return its exit code; None when there is none."""
    home = default_home()
    if not home.answers.exists():
        return None
    request = read_request(arguments, (str(Path(__file__).parent), str(home.knowledge)))
    if request is None:
        return None
    try:
        answers = Answers(home.answers)
        found = answers.find(request.key)
        answers.close()
    except UNKEPT:
        return None  # a locked or broken file costs the short cut, not the scan
    if found is None:
        return None
    if request.output:
        write_whole(Path(request.output), found[1])
    else:
        sys.stdout.write(found[1])
    return found[0]


def main() -> None:
    """Run the command line."""
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")  # looking for some reads every installed package
    gc.disable()  # until the command begins: what is made while starting stays
    code = known_answer(sys.argv[1:])
    if code is not None:
        sys.stdout.flush()
        sys.exit(code)
    cli = importlib.import_module("yoake.cli")
    gc.enable()
    cli.main()
