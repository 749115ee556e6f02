"""What can be changed for a lead: proposed, looked at file by file, ticked in and out, committed on a branch."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.browser.conftest import Page
from tests.browser.test_first_day import take_in
from tests.conftest import git

FILES = {
    ".python-version": "3.8\n",
    "desk/fares.py": "import base64\nfrom collections import Mapping\n\nclass Fare(Mapping):\n    def sign(self, data):\n        return base64.encodestring(data)\n",
    "desk/tests.py": "import unittest\n\nclass T(unittest.TestCase):\n    def test(self):\n        self.assertEquals(1, 1)\n",
}


def test_edits_are_proposed_looked_at_and_committed(
    page: Page, repository: Callable[[str, dict[str, str]], Path]
) -> None:
    folder = repository("ticket-desk", FILES)
    git(folder, "config", "user.name", "Test")
    git(folder, "config", "user.email", "test@harrowmere.example")
    take_in(page, folder)
    page.running.settled()
    page.go("/applications/ticket-desk")
    page.press("link", "Edits")
    page.sees("Nothing was asked for yet")
    page.press("button", "Propose edits")
    page.sees("2 files can be changed at 4 places")
    page.sees("from collections.abc import Mapping")
    assert page.violations() == []
    page.press("button", "desk/tests.py")
    page.sees("self.assertEqual(1, 1)")
    page.press("checkbox", "Change desk/tests.py")
    page.press("button", "Commit 3 steps")
    page.sees("2 commits on yoake/ticket-desk-now")
    assert git(folder, "diff", "--name-only", "main", "yoake/ticket-desk-now").splitlines() == ["desk/fares.py"]
    assert git(folder, "status", "--porcelain") == ""
    page.press("button", "Commit 3 steps")
    page.sees("There is a branch yoake/ticket-desk-now already")
