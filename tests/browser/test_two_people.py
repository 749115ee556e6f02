"""Two people at once, and undoing: what one set while the other was looking is shown to the other before anything is lost."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.browser.conftest import Page
from tests.browser.test_first_day import FILES, take_in
from tests.waiting import until
from yoake.context.context import Context
from yoake.core.values.journeys import Shape
from yoake.store.adopted_paths import adopted_paths
from yoake.store.applications import get_application
from yoake.store.waivers import waivers_of
from yoake.usecases.adopt import adopt, leave
from yoake.usecases.track import change_applications
from yoake.usecases.waive import waive
from yoake.views.work import StepQuery, work

Repository = Callable[[str, dict[str, str]], Path]


def owner(context: Context) -> str:
    return get_application(context.db, "ticket-desk").owner


def adopted(context: Context) -> str:
    application = get_application(context.db, "ticket-desk")
    row = adopted_paths(context.db, application.id, application.destination.id).get("")
    return row.choice if row is not None else ""


def why(context: Context, key: str) -> str:
    row = waivers_of(context.db, get_application(context.db, "ticket-desk").id).get(key)
    return row["why"] if row is not None else ""


def scanned(page: Page, repository: Repository) -> Context:
    take_in(page, repository("ticket-desk", FILES))
    page.running.settled()
    until(lambda: work(page.running.context, StepQuery()).rows, 60)
    page.running.settled()
    return page.running.context


def test_a_selection_is_merged_or_shown_and_can_be_undone(page: Page, repository: Repository) -> None:
    context = scanned(page, repository)
    page.go("/")
    page.press("checkbox", "Select ticket-desk")
    page.type("New value", "Mara")
    change_applications(context, ["ticket-desk"], {"team": "Quay"}, "Jon")
    page.press("button", "Set")
    page.sees("owner set on 1 application")
    assert (owner(context), get_application(context.db, "ticket-desk").team) == ("Mara", "Quay")
    page.press("button", "Undo: owner set")
    until(lambda: owner(context) == "")
    page.type("New value", "Ines")
    change_applications(context, ["ticket-desk"], {"owner": "Jon"}, "Jon")
    page.press("button", "Set")
    page.sees("Somebody else was faster", "Nothing was written", "Jon", "Ines")
    assert page.violations() == []
    assert owner(context) == "Jon"
    page.press("button", "Set mine")
    until(lambda: owner(context) == "Ines")


def test_a_waiver_is_changed_undone_and_shown_where_two_set_it(page: Page, repository: Repository) -> None:
    context = scanned(page, repository)
    key = next(
        step.finding_key for step in work(context, StepQuery()).rows if not step.finding_key.startswith("stage:")
    )
    page.go(f"/applications/ticket-desk?finding={key}")
    page.press("button", "Waive")
    page.type("Why", "mine")
    waive(context, "ticket-desk", key, "Jon", "theirs", None)
    page.press("button", "Waive it")
    page.sees("Somebody else changed this meanwhile", "theirs: theirs")
    assert page.violations() == []
    page.press("button", "Save")
    page.sees("The waiver is changed")
    assert why(context, key) == "mine"
    page.press("button", "Undo: The waiver is changed")
    page.sees("theirs")  # before that the page knows the older version, and is told so
    page.press("button", "Take the waiver back")
    until(lambda: why(context, key) == "")
    page.sees("The waiver was removed")
    page.press("button", "Undo: The waiver was removed")
    until(lambda: why(context, key) == "theirs")


def test_of_two_paths_taken_at_once_both_are_shown_and_taking_can_be_undone(page: Page, repository: Repository) -> None:
    context = scanned(page, repository)
    page.go("/applications/ticket-desk/path")
    page.find("button", "Adopt this path")
    adopt(
        context=context,
        slug="ticket-desk",
        set_name="",
        choice="retire",
        shape=Shape(),
        who="Jon",
        why="nobody uses it",
    )
    page.press("button", "Adopt this path")
    page.sees("Somebody else was faster", "adopted by Jon")
    assert page.violations() == []
    page.press("button", "Keep theirs")
    page.sees("No changes since adoption")
    assert adopted(context) == "retire"
    page.press("button", "Undo adoption")
    page.sees("No longer adopted")
    assert adopted(context) == ""
    page.press("button", "Undo: No longer adopted")
    until(lambda: adopted(context) == "retire")
    leave(context, "ticket-desk", "", "Jon")
