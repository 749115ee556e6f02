"""The demo is real: git history, and every application's own tests pass on its old runtime."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest

from tests.conftest import git
from yoake.core.values.coordinates import Line
from yoake.demo.build import DemoApplication, build_repository, demo_applications
from yoake.runner.clients.python.interpreters import find_interpreters

INTERPRETERS = find_interpreters()
LINES = {
    "tide-feed": "3.6",
    "crew-roster": "3.9",
    "fuel-ledger": "3.11",
    "harbour-common": "3.8",
    "lost-and-found": "3.12",
    "lamp-watch": "3.13",
    "freight-scales": "2.7",
    "berth-planner": "3.8",
    "ticket-desk": "3.7",
}
# The two Django applications keep what these tests touch free of Django, so that they run without a network.
MODULES = {"berth-planner": "harbour.berths.tests", "ticket-desk": "desk.sales.tests"}


@pytest.mark.parametrize("application", [a for a in demo_applications() if a.name in LINES], ids=lambda a: a.name)
def test_its_own_tests_pass_on_its_old_runtime(application: DemoApplication, tmp_path: Path) -> None:
    program = INTERPRETERS.get(Line(LINES[application.name]))
    if program is None:
        pytest.skip(f"needs Python {LINES[application.name]} on this machine")
    place = build_repository(application, tmp_path, len(application.commits))
    what = [MODULES[application.name]] if application.name in MODULES else ["discover", "-s", "tests", "-t", "."]
    if application.name not in MODULES and not (place / "tests" / "__init__.py").exists():
        (place / "tests" / "__init__.py").write_text("")
    done = subprocess.run(
        [program, "-W", "ignore", "-m", "unittest", *what],
        cwd=place,
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert "Ran 0 tests" not in done.stderr


@pytest.mark.parametrize("application", demo_applications(), ids=lambda a: a.name)
def test_every_application_has_a_history_and_a_clean_work_tree(application: DemoApplication, tmp_path: Path) -> None:
    place = build_repository(application, tmp_path, len(application.commits))
    assert int(git(place, "rev-list", "--count", "HEAD")) == len(application.commits) >= 2
    assert git(place, "status", "--porcelain") == ""
