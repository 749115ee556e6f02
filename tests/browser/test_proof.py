"""A lead carries a small application from Python 3.8 to 3.13: edits, a branch, tests on both sides with real interpreters, arrival."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from tests.browser.conftest import Page
from tests.browser.test_first_day import take_in
from tests.conftest import git
from tests.waiting import until
from yoake.runner.clients.python.interpreters import find_interpreters

FILES = {
    ".python-version": "3.8\n",
    "desk/__init__.py": "",
    "desk/fares.py": "from collections import Mapping\n\n\nclass Fare(Mapping):\n    def __getitem__(self, key):\n        return key\n\n"
    "    def __iter__(self):\n        return iter(())\n\n    def __len__(self):\n        return 0\n",
    "tests/__init__.py": "",
    "tests/test_fares.py": "import unittest\n\nfrom desk.fares import Fare\n\n\nclass FareTest(unittest.TestCase):\n    def test_key(self):\n"
    "        self.assertEqual(Fare()['a'], 'a')\n",
}


@pytest.fixture
def folder(repository: Callable[[str, dict[str, str]], Path]) -> Path:
    if not {"3.8", "3.13"} <= set(find_interpreters()):
        pytest.skip("this machine has no Python 3.8 beside 3.13")
    made = repository("fare-desk", FILES)
    git(made, "config", "user.name", "Test")
    git(made, "config", "user.email", "test@harrowmere.example")
    return made


def test_an_application_is_carried_to_its_destination_and_every_step_of_it_is_proven(page: Page, folder: Path) -> None:
    take_in(page, folder)
    page.running.settled()
    page.go("/applications/fare-desk")
    page.press("link", "Proof")
    page.sees("Stage 1 of 1 lacks two things.")
    page.press("button", "Turn runs on")
    page.sees("Only turn this on for code you trust.")
    page.type("Command", "python -m unittest discover")
    page.press("button", "Turn runs on", within="[role=dialog]")
    page.press("button", "Run both sides")
    page.find("region", "Run under way")
    page.running.settled()
    page.sees("1 test breaks")
    page.sees("cannot import name 'Mapping'")
    assert page.violations() == []
    page.press("link", "1 change that can be made now")
    page.press("button", "Propose edits")
    page.press("button", "Commit 1 step")
    page.sees("1 commit on yoake/fare-desk-now")
    git(folder, "merge", "-q", "yoake/fare-desk-now")
    page.press("button", "Scan again")
    page.running.settled()
    page.press("link", "Proof")
    until(lambda: "that can be made now" not in page.text)
    page.press("link", "1 change")
    page.press("button", "Propose again")
    page.sees("The releases of this stage go into 1 file")
    page.press("button", "Commit 1 step")
    page.sees("1 commit on yoake/fare-desk-python-3.13")
    page.press("link", "Proof")
    page.sees("the code moved on since", "yoake/fare-desk-python-3.13")
    page.press("button", "Run both sides")
    page.running.settled()
    page.sees("1 alike")
    page.sees("with the code of yoake/fare-desk-python-3.13")
    git(folder, "merge", "-q", "yoake/fare-desk-python-3.13")
    page.press("button", "Scan again")
    page.running.settled()
    page.sees("It stands on its destination.")


def test_a_run_is_stopped_and_leaves_nothing_running(page: Page, folder: Path) -> None:
    (folder / "tests/test_fares.py").write_text("import time\n\ntime.sleep(600)\n")
    git(folder, "commit", "-q", "-a", "-m", "a suite that never ends")
    take_in(page, folder)
    page.running.settled()
    page.go("/applications/fare-desk/proof")
    page.press("button", "Turn runs on")
    page.type("Command", "python -m unittest discover")
    page.press("button", "Turn runs on", within="[role=dialog]")
    page.press("button", "Run both sides")
    page.sees("today: python -m unittest discover")
    page.press("button", "Stop", within="[aria-label='Run under way']")
    page.running.settled()
    page.sees("The last run came to nothing")
    page.sees("not run yet")
