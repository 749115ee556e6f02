"""A real browser before a real server. Tests skip, and say so, where there is no Chromium."""

from __future__ import annotations

import shutil
import socket
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

import pytest
import uvicorn
from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import Select

from tests.executors import LentExecutor
from tests.waiting import until
from yoake.context.context import Context, open_context
from yoake.runner.home import Home
from yoake.server.app import create_app, interface_folder
from yoake.server.people import SignIn
from yoake.shipped import KIT
from yoake.usecases.jobs import JOBS
from yoake.usecases.queue import Queue

DRIVER, BROWSER = shutil.which("chromedriver"), shutil.which("chromium")
FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--window-size=1280,900",
    "--lang=en-GB",
)
AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if "tests/browser" in str(item.path):
            item.add_marker(pytest.mark.browser)
            if not DRIVER or not BROWSER:
                item.add_marker(pytest.mark.skip(reason="needs Chromium and ChromeDriver from Debian's packages"))
            elif not (interface_folder() / "index.html").exists():
                item.add_marker(pytest.mark.skip(reason="needs the built interface: make setup"))


@dataclass
class Running:
    """A server with an context of its own."""

    address: str
    context: Context
    queue: Queue
    signing: SignIn

    def settled(self) -> None:
        """Wait until nothing is being scanned."""
        query = "SELECT COUNT(*) AS n FROM jobs WHERE state IN ('waiting', 'running')"
        until(lambda: self.context.db.one(query)["n"] == 0, 180)


@pytest.fixture
def running(tmp_path: Path) -> Iterator[Running]:
    context = open_context(Home(tmp_path / "home"), KIT)
    queue = Queue(context=context, kinds=JOBS, workers=1, executor=LentExecutor())
    signing = SignIn()
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    config = uvicorn.Config(
        create_app(context, queue, None, signing), port=port, log_level="error", timeout_graceful_shutdown=1
    )
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run)
    thread.start()
    until(lambda: server.started)
    yield Running(f"http://127.0.0.1:{port}", context, queue, signing)
    queue.close()
    server.should_exit = True
    thread.join()


@pytest.fixture(scope="session")
def chromium() -> Iterator[webdriver.Chrome]:
    options = webdriver.ChromeOptions()
    options.binary_location = BROWSER or ""
    for flag in FLAGS:
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(service=Service(DRIVER), options=options)
    yield driver
    driver.quit()


class Page:
    """What a person does: look for things by role and label, press, type, read."""

    def __init__(self, driver: webdriver.Chrome, running: Running) -> None:
        self.driver = driver
        self.running = running

    def go(self, address: str) -> None:
        self.driver.get(self.running.address + address)

    def find(self, role: str, name: str, within: str = "") -> WebElement:
        """The first visible element of this role whose accessible name holds ``name``."""
        seen: list[WebElement] = []

        def look() -> bool:
            seen.clear()
            seen.extend(self._all(role, name, within))
            return bool(seen)

        until(look, 25)
        return seen[0]

    def _all(self, role: str, name: str, within: str) -> list[WebElement]:
        selectors = {
            "button": "button, summary, [role=button]",
            "link": "a[href]",
            "textbox": "input:not([type=checkbox]):not([type=file]), textarea",
            "file": "input[type=file]",
            "checkbox": "input[type=checkbox]",
            "radio": "input[type=radio]",
            "combobox": "select",
            "heading": "h1, h2, h3",
            "dialog": "[role=dialog]",
            "region": "[role=region], section",
            "option": "[cmdk-item]",
            "alert": "[role=alert]",
        }
        root = f"{within} " if within else ""
        selector = ", ".join(root + part.strip() for part in selectors[role].split(","))
        found = self.driver.execute_script(_FIND, selector, name)
        return list(found or [])

    def press(self, role: str, name: str, within: str = "") -> None:
        def done() -> bool:
            try:
                self.find(role, name, within).click()
            except Exception:  # noqa: BLE001  the page may redraw between looking and pressing; a person would press again
                return False
            return True

        until(done, 25)

    def type(self, name: str, text: str, within: str = "") -> None:
        field = self.find("textbox", name, within)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)

    def choose(self, name: str, option: str, within: str = "") -> None:
        """Choose an entry of a drop-down by what it says."""

        def done() -> bool:
            try:
                Select(self.find("combobox", name, within)).select_by_visible_text(option)
            except Exception:  # noqa: BLE001  the page may redraw between looking and choosing; a person would choose again
                return False
            return True

        until(done, 25)

    def keys(self, *keys: str) -> None:
        self.driver.switch_to.active_element.send_keys(*keys)

    @property
    def text(self) -> str:
        return str(self.driver.find_element(By.TAG_NAME, "body").text)

    def _holds(self, text: str) -> bool:
        return text in self.text

    def sees(self, *texts: str) -> None:
        for text in texts:
            try:
                until(partial(self._holds, text), 30)
            except AssertionError:
                raise AssertionError(f"“{text}” is not on the page, which says:\n{self.text[:1500]}") from None

    def console(self) -> list[str]:
        """What the browser complained about."""
        return [entry["message"] for entry in self.driver.get_log("browser") if entry["level"] in ("SEVERE", "WARNING")]

    def violations(self) -> list[str]:
        """What axe-core finds wrong on this screen."""
        self.driver.execute_script(AXE.read_text("utf-8"))
        result: Any = self.driver.execute_async_script("axe.run(document, {iframes: false}).then(arguments[0])")
        return [f"{v['id']}: {n['target']} {n['failureSummary']}" for v in result["violations"] for n in v["nodes"]]


_FIND = """
const name = arguments[1].toLowerCase();
const label = (e) => {
  const by = e.getAttribute("aria-labelledby");
  const own = e.getAttribute("aria-label") || (by && document.getElementById(by)?.textContent);
  if (own) return own;
  if (e.labels && e.labels.length) return [...e.labels].map((l) => l.textContent).join(" ");
  return e.textContent || e.getAttribute("placeholder") || "";
};
return [...document.querySelectorAll(arguments[0])].filter((e) => {
  const box = e.getBoundingClientRect();
  return (e.type === "file" || (box.width > 0 && box.height > 0)) && label(e).toLowerCase().includes(name);
});
"""


@pytest.fixture
def page(chromium: webdriver.Chrome, running: Running) -> Iterator[Page]:
    made = Page(chromium, running)
    made.go("/api/v1/health")
    chromium.execute_script(
        "localStorage.clear(); localStorage.setItem('yoake.theme', 'day'); localStorage.setItem('yoake.who', 'Ines')"
    )
    chromium.get_log("browser")
    yield made
    complaints = [c for c in made.console() if "favicon" not in c and "status of 4" not in c]
    chromium.get("about:blank")
    assert complaints == []
