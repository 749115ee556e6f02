"""A team: the first account, signing in and out, tokens, what happened, and two people on one step."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.browser.conftest import Page
from tests.browser.test_first_day import FILES, take_in
from tests.waiting import until
from yoake.usecases.sign_in import first_link
from yoake.usecases.track import change_step_fields
from yoake.views.work import StepQuery, work

PASSWORD = "nine tides and a half"


def test_people_sign_in_and_what_they_do_is_told(page: Page) -> None:
    page.driver.delete_all_cookies()
    page.running.signing.required = True
    page.go("/")
    page.sees("There is no account yet")
    page.go(f"/first?token={first_link(page.running.context)}")
    page.type("Name", "Ines Calder")
    page.type("Password", PASSWORD)
    page.press("button", "Make it and sign in")
    page.sees("No applications yet")
    page.press("button", "Ines Calder")
    page.press("link", "Accounts and tokens")
    page.type("Name", "Jon Tresco")
    page.type("First password", PASSWORD)
    page.press("button", "Make account")
    page.sees("Jon Tresco can sign in now")
    page.type("What it is for", "nightly build")
    page.press("button", "Make token")
    page.sees("it is not shown again: yoake_", "Revoke")
    assert page.violations() == []
    page.go("/events")
    page.sees("3 events", "account Jon Tresco", "token nightly build")
    assert page.violations() == []
    page.press("button", "Ines Calder")
    page.press("button", "Sign out")
    page.type("Name", "Jon Tresco")
    page.type("Password", "wrong")
    page.press("button", "Sign in")
    page.sees("Name or password is wrong")
    assert page.violations() == []
    page.type("Password", PASSWORD)
    page.press("button", "Sign in")
    page.sees("needs the role lead; yours is member")  # the page on which the other one signed out
    page.press("link", "Horizon")
    page.sees("No applications yet")
    page.driver.delete_all_cookies()


def test_what_two_people_change_on_one_step_is_put_together_or_shown(
    page: Page, repository: Callable[[str, dict[str, str]], Path]
) -> None:
    take_in(page, repository("ticket-desk", FILES))
    page.running.settled()
    context = page.running.context
    until(lambda: work(context, StepQuery()).rows, 60)
    page.running.settled()
    step = work(context, StepQuery()).rows[0]
    page.go(f"/work?step={step.id}")
    page.sees("closes on")
    page.type("Note", "mine")
    change_step_fields(context, step.id, {"owner": "Jon"}, "Jon")
    page.press("button", "Save")
    page.sees("together with what somebody else changed")
    until(lambda: work(context, StepQuery()).rows[0].note == "mine")
    assert next(s for s in work(context, StepQuery()).rows if s.id == step.id).owner == "Jon"
    page.type("Note", "mine again")
    change_step_fields(context, step.id, {"note": "theirs"}, "Jon")
    page.press("button", "Save")
    page.sees("Somebody else changed this meanwhile", "theirs: theirs")
    assert page.violations() == []
    page.press("button", "Take theirs")
    until(lambda: page.find("textbox", "Note").get_attribute("value") == "theirs")


def test_work_says_what_can_be_done_now_and_several_steps_get_an_owner_at_once(
    page: Page, repository: Callable[[str, dict[str, str]], Path]
) -> None:
    take_in(page, repository("ticket-desk", FILES))
    page.running.settled()
    context = page.running.context
    page.go("/work")
    page.sees("before any version moves", "can be done now", "Carry it out")
    page.press("button", "Choose all", "[aria-label='The step']")
    page.sees("chosen")
    page.type("Owner", "Asa Lind", "[aria-label='Chosen steps']")
    page.press("button", "Save", "[aria-label='Chosen steps']")
    until(lambda: any(s.owner == "Asa Lind" for s in work(context, StepQuery()).rows))
    page.press("button", "person")
    page.press("button", "Asa Lind")  # open already where it is the first: that closes it
    page.press("button", "urgency")
    page.press("checkbox", "Choose ")
    page.sees("1 step chosen")
    page.press("button", "Choose none")
    until(lambda: "chosen" not in page.text)
    page.press("button", "stage")
    page.press("link", "Carry it out")
    page.sees("Nothing was asked for yet")
