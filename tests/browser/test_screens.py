"""Every screen, in both themes: nothing that axe-core calls a violation, no complaint in the console."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from tests.browser.conftest import Page
from tests.browser.test_first_day import FILES, take_in
from tests.waiting import until

SCREENS = {
    "/": "stand",
    "/applications/ticket-desk": "things stand",
    "/applications/ticket-desk?by=place": "desk/fares.py",
    "/applications/ticket-desk?by=packages": "six",
    "/applications/ticket-desk?by=modules": "Files that nothing refers to",
    "/applications/ticket-desk?by=other": "not used here",
    "/applications/ticket-desk?by=coverage": "Today’s lines",
    "/applications/ticket-desk/path": "Before any version moves",
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
