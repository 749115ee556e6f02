"""The first hour with eighty applications."""

from __future__ import annotations

from pathlib import Path

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.conftest import write
from tests.waiting import until

MANY = 80


def made(tmp_path: Path) -> str:
    rows = ["name,source,team,destination"]
    for i in range(MANY):
        folder = write(
            tmp_path / "many" / f"app-{i:02}",
            {".python-version": f"3.{6 + i % 8}\n", "a.py": "import imp\n" if i % 3 else "import os\n"},
        )
        rows.append(f"app-{i:02},{folder},Team {i % 4},python@3.13")
    rows.insert(5, "broken,/no/such/place,,python@3.13")
    return "\n".join(rows)


def test_eighty_are_taken_in_scanned_and_given_to_someone(page: Page, tmp_path: Path) -> None:
    text = made(tmp_path)
    page.go("/take-in")
    page.press("button", "a list")
    page.driver.execute_script(
        "const t = document.querySelector('textarea');"
        "Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value').set.call(t, arguments[0]);"
        "t.dispatchEvent(new Event('input', {bubbles: true}))",
        text,
    )
    page.press("button", "Check")
    page.sees("80 applications to add", "1 row with faults", "There is nothing at “/no/such/place”")
    page.press("button", "Add the 80 without faults")
    page.sees("80 applications added")
    page.running.settled()
    page.go("/")
    page.sees("of 80 applications stand in the dark today")

    page.type("Filter applications", 'team:"team 1"')
    page.press("checkbox", "Select all shown")
    page.sees("20 selected")
    page.type("New value", "Asa", "form")
    page.press("button", "Set", "form")
    page.sees("owner set on 20 applications")
    rows = page.running.context.db.all("SELECT team, COUNT(*) AS n FROM applications WHERE owner = 'Asa' GROUP BY team")
    assert [(r["team"], r["n"]) for r in rows] == [("Team 1", 20)]

    page.press("button", "Scan", "form")
    page.sees("20 applications in the queue")
    page.running.settled()

    page.press("button", "Take off", "form")
    page.sees("20 applications taken off")
    page.press("button", "Undo: 20 applications taken off")
    count = "SELECT COUNT(*) AS n FROM applications WHERE removed_at IS NULL"
    until(lambda: page.running.context.db.one(count)["n"] == MANY)


def test_a_folder_of_many_and_a_range_picked_with_shift(page: Page, tmp_path: Path) -> None:
    for i in range(6):
        write(tmp_path / "many" / f"app-{i}", {"setup.py": "setup(python_requires='>=3.8')", "a.py": "import imp\n"})
    page.go("/take-in")
    page.press("button", "a folder of many")
    page.type("Folder that holds", str(tmp_path / "many"))
    page.type("Destination", "python@3.13")
    page.press("button", "Check")
    page.press("button", "Add 6 applications")
    page.running.settled()
    page.go("/?sort=name")
    page.find("checkbox", "Select app-1").click()
    last = page.find("checkbox", "Select app-4")
    page.driver.execute_script(
        "arguments[0].dispatchEvent(new MouseEvent('click', {bubbles: true, shiftKey: true}))", last
    )
    page.sees("4 selected")
    page.driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    until(lambda: "selected" not in page.text)
