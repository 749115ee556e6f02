"""A person who has never seen Yoake: adds a repository, sees what breaks, fixes it, scans again, prints a report."""

from __future__ import annotations

import zipfile
from collections.abc import Callable
from pathlib import Path

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.waiting import until

FILES = {
    ".python-version": "3.8\n",
    "desk/__init__.py": "",
    "desk/fares.py": '"""Fares."""\nfrom collections import Mapping\n\n\ndef fare(kinds):\n    return isinstance(kinds, Mapping)\n',
    "desk/load.py": "import asyncore\n",
}


def take_in(page: Page, folder: Path) -> None:
    page.go("/take-in")
    page.type("Source", str(folder))
    page.type("Destination", "python@3.13")
    page.press("button", "Check")
    page.press("button", "Add 1 application")


def test_from_a_repository_to_a_closed_step_and_a_report(
    page: Page, repository: Callable[[str, dict[str, str]], Path]
) -> None:
    folder = repository("ticket-desk", FILES)
    page.go("/")
    page.sees("No applications yet")
    page.press("link", "Add applications")
    page.type("Source", str(folder))
    page.type("Destination", "python@3.13")
    page.press("button", "Check")
    page.press("button", "Add 1 application")

    page.sees("3 things stand between here and Python 3.13.", "collections.Mapping", "bites at Python 3.10")
    page.press("button", "collections.Mapping")
    page.sees("collections.abc.Mapping", "both ways are offered", "desk/fares.py")
    until(lambda: page.driver.find_elements(By.CSS_SELECTOR, ".cm-place-line"))
    marked = page.driver.find_element(By.CSS_SELECTOR, ".cm-place-line").text
    assert "from collections import Mapping" in marked

    page.press("link", "Path")
    page.sees("Before any version moves", "Stage 1", "arriving")
    page.press("link", "collections.Mapping → collections.abc.Mapping")
    page.sees("closes on a scan")
    page.type("Owner", "Ines")
    page.press("button", "Save")
    page.sees("The step is saved.")

    repository(
        "ticket-desk",
        {"desk/fares.py": FILES["desk/fares.py"].replace("from collections import", "from collections.abc import")},
    )
    page.press("button", "Scan again")
    page.running.settled()
    page.go("/applications/ticket-desk/work?state=closed")
    page.sees("closed: the last scan no longer finds it", "collections.Mapping → collections.abc.Mapping")

    page.press("link", "Report")
    until(lambda: page.driver.find_elements(By.TAG_NAME, "iframe"))
    frame = page.driver.find_element(By.TAG_NAME, "iframe")
    page.driver.switch_to.frame(frame)
    page.sees("stand between here and Python 3.13", "asyncore")
    page.driver.switch_to.default_content()


def test_a_source_that_is_none_is_refused_with_what_to_do(page: Page) -> None:
    page.go("/take-in")
    page.type("Source", "/no/such/place")
    page.type("Destination", "python@9")
    page.press("button", "Check")
    page.sees("There is nothing at", "has no line 9", "1 row with faults")
    assert not page.find("button", "without faults").is_enabled()


def test_the_keyboard_reaches_everything(page: Page, repository: Callable[[str, dict[str, str]], Path]) -> None:
    take_in(page, repository("ticket-desk", FILES))
    page.sees("3 things stand")
    page.keys("?")
    page.sees("previous place of a finding")
    page.keys(Keys.ESCAPE)
    until(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
    first = page.driver.find_element(By.CSS_SELECTOR, "button[aria-current=true]").text
    page.keys("j")
    until(lambda: page.driver.find_element(By.CSS_SELECTOR, "button[aria-current=true]").text != first)
    page.keys(Keys.CONTROL, "k")
    page.find("dialog", "Palette")
    page.keys("Knowledge", Keys.ENTER)
    page.sees("captured from the artefacts themselves")
    page.keys("g", "h")
    page.sees("The one application stands in the dark today")
    page.keys("j", Keys.ENTER)
    page.sees("3 things stand")
    page.keys("t")
    until(lambda: page.driver.execute_script("return document.documentElement.dataset.theme") == "night")


def test_a_finding_is_waived_and_the_waiver_undone(
    page: Page, repository: Callable[[str, dict[str, str]], Path]
) -> None:
    take_in(page, repository("ticket-desk", FILES))
    page.press("button", "asyncore")
    page.press("button", "Waive")
    page.type("Why", "replaced next year", "[role=dialog]")
    page.press("button", "Waive it")
    page.sees("asyncore is waived", "replaced next year")
    page.press("button", "Undo")
    page.sees("3 things stand")


def test_an_application_that_cannot_be_read_is_shown_as_not_known(
    page: Page, repository: Callable[[str, dict[str, str]], Path]
) -> None:
    take_in(page, repository("portal", {"go.mod": "module portal\n", "server.go": "package main\n"}))
    page.sees("Not known how far", "Nothing was found, and that says little")
    page.go("/")
    page.sees("Go not read yet", "not known")
    assert "100 %" not in page.text


def test_an_archive_is_uploaded_and_scanned(page: Page, tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "old-app.zip", "w") as archive:
        archive.writestr("old-app/a.py", "import imp\n")
        archive.writestr("old-app/.python-version", "3.8\n")
    page.go("/take-in")
    page.find("file", "archive").send_keys(str(tmp_path / "old-app.zip"))
    page.type("Destination", "python@3.13")
    page.press("button", "Check")
    page.press("button", "Add 1 application")
    page.sees("old-app", "imp")


def test_an_address_keeps_the_filter(page: Page, repository: Callable[[str, dict[str, str]], Path]) -> None:
    take_in(page, repository("ticket-desk", FILES))
    page.sees("3 things stand")
    page.go("/?q=nothing-like-it")
    page.sees("No application matches")
    page.go("/applications/ticket-desk?q=asyncore")
    page.sees("asyncore")
    until(lambda: "collections.Mapping" not in page.text)


def test_todays_line_is_corrected_with_one_press(page: Page, repository: Callable[[str, dict[str, str]], Path]) -> None:
    take_in(page, repository("ticket-desk", FILES))
    page.sees("3 things stand")
    page.go("/applications/ticket-desk?by=coverage")
    page.press("button", "correct")
    page.find("combobox", "It stands on").send_keys("3.12")
    page.press("button", "Set", "[role=dialog]")
    page.sees("as you say")
    page.running.settled()
    page.go("/applications/ticket-desk?by=coverage")
    page.sees("said by a person")
    page.go("/")
    page.press("button", "Scan all")
    page.sees("1 application in the queue")
    page.running.settled()


def test_evidence_turns_and_keeps_what_is_chosen(page: Page, repository: Callable[[str, dict[str, str]], Path]) -> None:
    take_in(page, repository("ticket-desk", {**FILES, "package.json": '{"dependencies": {"lodash": "^4.17.0"}}'}))
    page.sees("3 things stand")
    page.press("button", "place", "[aria-label=by]")
    page.press("button", "asyncore")  # in another file: what is told beside it is of this one
    until(lambda: "asyncore" in page.find("region", "Why").text)
    page.press("button", "collections.Mapping")
    until(lambda: "collections.abc.Mapping" in page.find("region", "Why").text)
    page.press("button", "desk/fares.py: ")
    page.sees("desk/fares.py", "up")
    page.press("button", "other changes", "[aria-label=by]")
    page.type("Filter changes", "asyncore")
    page.sees("asyncore", "used here")
    page.press("button", "packages", "[aria-label=by]")
    page.sees("No package is called “asyncore”")
    page.type("Filter packages", "lod")
    page.sees("1 package that this path does not touch", "lodash")
    page.press("button", "modules", "[aria-label=by]")
    page.sees("a line goes from the user down to what it uses")


def test_a_filter_is_kept_under_a_name_and_chosen_again(
    page: Page, repository: Callable[[str, dict[str, str]], Path]
) -> None:
    take_in(page, repository("ticket-desk", FILES))
    page.sees("3 things stand")
    page.press("button", "safe now", "[aria-label=show]")
    page.press("button", "save this filter")
    page.type("Name of the filter", "for Monday")
    page.press("button", "Save")
    page.sees("forget")
    page.press("button", "all", "[aria-label=show]")
    page.find("combobox", "Saved filters").send_keys("for Monday")
    until(lambda: "show=now" in page.driver.current_url)


def test_a_path_is_bent_compared_and_taken(page: Page, repository: Callable[[str, dict[str, str]], Path]) -> None:
    take_in(page, repository("ticket-desk", {**FILES, "requirements.txt": "six==1.16.0\n"}))
    page.sees("things stand")
    page.press("link", "Path")
    page.sees("for reaching Python 3.13", "Before any version moves", "Not possible here")
    page.press("button", "Adjust")
    page.choose("Line to stop on of Python", "3.11")
    page.sees("stop on python 3.11", "Stage 2")
    page.press("button", "Python 3.11, moves here")
    page.sees("Support ends")
    page.keys(Keys.ESCAPE)
    page.choose("compare with", "Parallel copy")
    page.sees("Stage by stage", "copy stands")
    page.press("button", "Adopt this path")
    page.sees("Adopted. Its stages", "No changes since adoption.")
    page.press("link", "Work")
    page.press("button", "stage 1: Python 3.11")
    page.sees("Move to Python 3.11", "what comes before any move")
    page.go("/applications/ticket-desk/path")
    page.press("button", "Undo adoption")
    page.sees("Adopt this path")


def test_no_way_says_what_would_open_one_and_tries_it(
    page: Page, repository: Callable[[str, dict[str, str]], Path]
) -> None:
    take_in(page, repository("ticket-desk", {**FILES, "requirements.txt": "numpy==1.19.5\n"}))
    page.sees("things stand")
    page.go("/applications/ticket-desk/path?pin=pypi/numpy@1.19")
    page.sees("These cannot hold together", "no longer pin")
    page.press("button", "Try: no longer pin")
    page.sees("for reaching Python 3.13")
