"""A lead looks at the plan of two teams, says who is in them, moves a stage by hand, tries a what-if and keeps it."""

from __future__ import annotations

from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.test_first_day import take_in
from tests.conftest import write


@pytest.fixture
def portfolio(page: Page, tmp_path: Path) -> Page:
    folder = write(
        tmp_path / "fare-desk",
        {
            ".python-version": "3.8\n",
            "requirements.txt": "",
            "desk/a.py": "import imp\nimport asyncore\nimport distutils\n",
        },
    )
    take_in(page, folder)
    page.running.settled()
    return page


def test_a_plan_is_looked_at_changed_and_tried(portfolio: Page) -> None:
    page = portfolio
    page.press("link", "Waves")
    page.sees("2 stages, 1 team")
    assert page.violations() == []
    page.press("link", "Teams and days off")
    page.press("button", "Say who")
    page.type("Name of person 1", "Ada")
    page.type("Days a week of person 1", "4")
    page.press("button", "Save")
    page.sees("1 person in 1 team.")
    page.sees("Ada 4 d")
    assert page.violations() == []
    page.press("link", "Weeks")
    page.sees("1 person, 4.0 d a week")
    page.press("button", "fare-desk 1", within="section[aria-label='no team']")
    page.sees("Why not earlier?")
    page.sees("once fare-desk, before any move is live")
    page.find("button", "fare-desk 1").send_keys(Keys.ARROW_RIGHT)
    page.sees("Nothing else slips.")
    page.press("button", "Put it there")
    page.sees("fare-desk 1 begins on")
    page.press("button", "What if")
    page.type("Team", "no team")
    page.type("Days a week", "5")
    page.press("button", "Add", within="section[aria-label='What if']")
    page.sees("as planned")
    page.sees("one more person in no team, 5 d a week")
    assert page.violations() == []
    page.type("Name of the what-if", "One more")
    page.press("button", "Keep it")
    page.sees("Kept as “One more”")
    page.press("link", "Forecast")
    page.sees("5,000 runs")
    assert page.violations() == []
    page.press("link", "Who requires whom")
    page.sees("No application requires another one")
    assert page.violations() == []
