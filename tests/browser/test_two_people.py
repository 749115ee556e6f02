"""Two people at once, and undoing: what one set while the other was looking is shown to the other before anything is lost."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.browser.conftest import Page
from tests.browser.test_first_day import FILES, take_in
from tests.waiting import until
from yoake.core.planning.problem import Shape
from yoake.store.adopted_paths import adopted_paths
from yoake.store.applications import get_application
from yoake.store.waivers import waivers_of
from yoake.work.adopting import adopt, leave
from yoake.work.office import Office
from yoake.work.stepping import StepQuery, work
from yoake.work.tracking import change_applications
from yoake.work.waivers import waive

Repository = Callable[[str, dict[str, str]], Path]


def owner(office: Office) -> str:
    return get_application(office.db, "ticket-desk").owner


def adopted(office: Office) -> str:
    application = get_application(office.db, "ticket-desk")
    row = adopted_paths(office.db, application.id, application.destination.id).get("")
    return row["choice"] if row is not None else ""


def why(office: Office, key: str) -> str:
    row = waivers_of(office.db, get_application(office.db, "ticket-desk").id).get(key)
    return row["why"] if row is not None else ""


def scanned(page: Page, repository: Repository) -> Office:
    take_in(page, repository("ticket-desk", FILES))
    page.running.settled()
    until(lambda: work(page.running.office, StepQuery()).rows, 60)
    page.running.settled()
    return page.running.office


def test_a_selection_is_merged_or_shown_and_can_be_undone(page: Page, repository: Repository) -> None:
    office = scanned(page, repository)
    page.go("/")
    page.press("checkbox", "Select ticket-desk")
    page.type("New value", "Mara")
    change_applications(office, ["ticket-desk"], {"team": "Quay"}, "Jon")
    page.press("button", "Set")
    page.sees("owner set on 1 application")
    assert (owner(office), get_application(office.db, "ticket-desk").team) == ("Mara", "Quay")
    page.press("button", "Undo: owner set")
    until(lambda: owner(office) == "")
    page.type("New value", "Ines")
    change_applications(office, ["ticket-desk"], {"owner": "Jon"}, "Jon")
    page.press("button", "Set")
    page.sees("Somebody else was faster", "Nothing was written", "Jon", "Ines")
    assert page.violations() == []
    assert owner(office) == "Jon"
    page.press("button", "Set mine")
    until(lambda: owner(office) == "Ines")


def test_a_waiver_is_changed_undone_and_shown_where_two_set_it(page: Page, repository: Repository) -> None:
    office = scanned(page, repository)
    key = next(step.finding_key for step in work(office, StepQuery()).rows if not step.finding_key.startswith("stage:"))
    page.go(f"/applications/ticket-desk?finding={key}")
    page.press("button", "Waive")
    page.type("Why", "mine")
    waive(office, "ticket-desk", key, "Jon", "theirs", None)
    page.press("button", "Waive it")
    page.sees("Somebody else changed this meanwhile", "theirs: theirs")
    assert page.violations() == []
    page.press("button", "Save")
    page.sees("The waiver is changed")
    assert why(office, key) == "mine"
    page.press("button", "Undo: The waiver is changed")
    until(lambda: why(office, key) == "theirs")
    page.press("button", "Take the waiver back")
    until(lambda: why(office, key) == "")
    page.sees("The waiver is taken back")
    page.press("button", "Undo: The waiver is taken back")
    until(lambda: why(office, key) == "theirs")


def test_of_two_paths_taken_at_once_both_are_shown_and_taking_can_be_undone(page: Page, repository: Repository) -> None:
    office = scanned(page, repository)
    page.go("/applications/ticket-desk/path")
    page.find("button", "Take this path")
    adopt(office, "ticket-desk", "", "retire", Shape(), "Jon", "nobody uses it")
    page.press("button", "Take this path")
    page.sees("Somebody else was faster", "taken by Jon")
    assert page.violations() == []
    page.press("button", "Keep theirs")
    page.sees("Nothing moved under it")
    assert adopted(office) == "retire"
    page.press("button", "Take it back")
    page.sees("The path is taken back")
    assert adopted(office) == ""
    page.press("button", "Undo: The path is taken back")
    until(lambda: adopted(office) == "retire")
    leave(office, "ticket-desk", "", "Jon")
