"""Every screen, in both themes: nothing that axe-core calls a violation, no complaint in the console."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from tests.browser.conftest import Page
from tests.browser.test_first_day import FILES, take_in
from tests.runner.test_trying import wheel
from tests.waiting import until
from yoake.runner.clients.python.interpreters import find_interpreters

SCREENS = {
    "/": "stand",
    "/applications/ticket-desk": "things stand",
    "/applications/ticket-desk?by=place": "desk/fares.py",
    "/applications/ticket-desk?by=packages": "six",
    "/applications/ticket-desk?by=modules": "Files that nothing refers to",
    "/applications/ticket-desk?by=other": "not used here",
    "/applications/ticket-desk?by=coverage": "Today’s lines",
    "/applications/ticket-desk/path": "Before any version moves",
    "/applications/ticket-desk/edits": "Nothing was asked for yet",
    "/applications/ticket-desk/work": "closes on",
    "/work": "steps to do",
    "/take-in": "What you add is read, never run",
    "/report": "the whole portfolio",
    "/knowledge": "Weights and efforts",
    "/nowhere": "There is no such page",
}


@pytest.mark.parametrize("theme", ["day", "night"])
def test_no_screen_has_a_violation(theme: str, page: Page, repository: Callable[[str, dict[str, str]], Path]) -> None:
    take_in(page, repository("ticket-desk", {**FILES, "requirements.txt": "six==1.16.0\nunheard-of-package==1\n"}))
    page.sees("things stand")
    page.driver.execute_script(f"localStorage.setItem('yoake.theme', '{theme}')")
    wrong: dict[str, list[str]] = {}
    for address, text in SCREENS.items():
        page.go(address)
        page.sees(text)
        until(lambda: "Reading" not in page.text)
        found = page.violations()
        if found:
            wrong[address] = found
    assert wrong == {}, wrong


def test_an_empty_yoake_offers_what_comes_first(page: Page) -> None:
    for address, text in {
        "/": "Add applications",
        "/work": "There is no work yet",
        "/report": "nothing to report yet",
    }.items():
        page.go(address)
        page.sees(text)
        assert page.violations() == []


def test_an_application_that_does_not_exist_says_so(page: Page) -> None:
    page.go("/applications/nobody")
    page.sees("There is no application “nobody”")
    page.driver.get_log("browser")


@pytest.mark.skipif("3.13" not in find_interpreters(), reason="there is no Python 3.13 on this machine")
def test_a_release_is_tried_with_one_press(
    page: Page, repository: Callable[[str, dict[str, str]], Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The package client is the real one; it is only pointed at a folder instead of the registry."""
    wheel(tmp_path / "shelf", "never_heard_of", "1.0", {"never_heard_of.py": "import imp\n"})
    monkeypatch.setenv("PIP_NO_INDEX", "1")
    monkeypatch.setenv("PIP_FIND_LINKS", str(tmp_path / "shelf"))
    files = {".python-version": "3.8\n", "requirements.txt": "never-heard-of==1.0\n", "a.py": "import os\n"}
    take_in(page, repository("lamp-log", files))
    page.running.settled()
    page.running.queue.executor.rest()  # processes that are running have the old environment
    page.go("/applications/lamp-log?by=packages")
    page.press("button", "try 1.0")
    page.sees("being installed and imported on Python 3.13")
    page.running.settled()
    page.go("/applications/lamp-log?by=packages")
    page.sees("tried there: it does not run")
    assert page.violations() == []
