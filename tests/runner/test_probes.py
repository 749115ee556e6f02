"""The probe of libraries, run on a package made for it: lazy names, refusals, and what is missing here only."""

from __future__ import annotations

import json
import subprocess
import sys
from importlib.resources import files
from pathlib import Path

from tests.conftest import write


def ask(folder: Path, wanted: dict[str, list[str]]) -> dict[str, list[str] | None]:
    probe = (files("yoake.runner") / "probes" / "package.py").read_text("utf-8")
    done = subprocess.run(
        [sys.executable, "-c", probe], input=json.dumps(wanted), capture_output=True, text=True, cwd=folder, check=True
    )
    answer: dict[str, list[str] | None] = json.loads(done.stdout)
    return answer


def test_lazy_names_count_unless_the_library_itself_refuses_them(tmp_path: Path) -> None:
    write(
        tmp_path,
        {
            "lib/__init__.py": (
                "print('noise')\n"
                "def __getattr__(name):\n"
                "    if name == 'plain': return 1\n"
                "    if name == 'optional': import surely_not_there_at_all\n"
                "    if name == 'gone': raise ImportError('gone was removed in 2')\n"
                "    if name == 'inner': from lib import nothing_of_that_name\n"
                "    raise AttributeError(name)\n"
            )
        },
    )
    tried = ["plain", "optional", "gone", "inner", "never"]
    names = set(ask(tmp_path, {"lib": tried})["lib"] or ())
    assert {"plain", "optional"} <= names
    assert not {"gone", "inner", "never"} & names


def test_a_module_that_fails_or_leaves_answers_nothing_and_stops_no_other(tmp_path: Path) -> None:
    write(tmp_path, {"bad.py": "raise SystemExit(3)\n", "worse.py": "1 / 0\n", "good.py": "x = 1\n"})
    answer = ask(tmp_path, {"bad": [], "worse": [], "good": []})
    assert answer["bad"] is None
    assert answer["worse"] is None
    assert "x" in (answer["good"] or ())
