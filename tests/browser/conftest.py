"""The real interface in headless Chromium, on a server of its own with an empty workspace."""

from __future__ import annotations

import asyncio
import copy
import os
import re
import shutil
import socket
import threading
import time
from contextlib import contextmanager
from datetime import UTC, datetime

import pytest
import uvicorn
from selenium import webdriver
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    NoSuchElementException,
    StaleElementReferenceException,
    TimeoutException,
    WebDriverException,
)
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tin_bucket.commands.access import address_of
from tin_bucket.demo.company import Company
from tin_bucket.demo.setting import furnish
from tin_bucket.store.workspace import Workspace
from tin_bucket.web.app import create_app

# What passes while a page is drawn anew.
_PASSING = (
    StaleElementReferenceException,
    ElementClickInterceptedException,
    ElementNotInteractableException,
    NoSuchElementException,
    ValueError,
    IndexError,
)


@contextmanager
def _passing():
    """Nothing comes of what passes; the driver has two ways to say that an element went with its page."""
    try:
        yield
    except _PASSING:
        pass
    except WebDriverException as error:
        if "does not belong to the document" not in str(error):
            raise


FLAGS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--window-size=1280,800",
]


@pytest.fixture(scope="session")
def driver(tmp_path_factory):
    chromium, chromedriver = shutil.which("chromium"), shutil.which("chromedriver")
    if not chromium or not chromedriver:
        if os.environ.get("CI"):
            pytest.fail("Chromium and its driver are missing")
        pytest.skip("no Chromium on this machine")
    options = webdriver.ChromeOptions()
    options.binary_location = chromium
    downloads = tmp_path_factory.mktemp("downloads")
    for flag in [*FLAGS, f"--user-data-dir={tmp_path_factory.mktemp('browser')}"]:
        options.add_argument(flag)
    options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    made = webdriver.Chrome(options=options, service=Service(chromedriver))
    made.downloads = downloads
    yield made
    made.quit()


@contextmanager
def serving(home):
    """A Tin Bucket that serves a workspace on a port of its own; gives its address, as it is printed."""
    workspace = Workspace(home, create=True)
    workspace.hold_for_serving()
    with socket.create_server(("127.0.0.1", 0)) as listener:
        # No grace at the end: a browser leaves its stream of events open.
        config = uvicorn.Config(
            create_app(workspace), log_level="critical", access_log=False, timeout_graceful_shutdown=0
        )
        server = uvicorn.Server(config)
        # The listener is open already: a browser that is early waits instead of being refused.
        thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]})
        thread.start()
        try:
            yield address_of(workspace, f"http://127.0.0.1:{listener.getsockname()[1]}")
        finally:
            server.should_exit = True
            thread.join(timeout=20)
            workspace.close()


@pytest.fixture
def server(tmp_path, empty_home):
    """The address of a running Tin Bucket with an empty workspace."""
    with serving(empty_home(tmp_path / "home")) as address:
        yield address


@pytest.fixture(scope="session")
def company_of_the_session():
    with Company(datetime.now(UTC).date()) as company:
        yield company


@pytest.fixture
def ferries(company_of_the_session):
    """The simulated services of the ferry company, as new."""
    company = company_of_the_session
    kept = [(service, copy.deepcopy(vars(service))) for service in company.services.values()]
    yield company
    for service, state in kept:
        vars(service).update(state, calendar=company.calendar)
    company.calendar.today = kept[0][1]["calendar"].today


@pytest.fixture(scope="session")
def furnished_home(tmp_path_factory, company_of_the_session):
    """A workspace with three days of the demo's snapshots."""
    home = tmp_path_factory.mktemp("furnished") / "home"
    company = company_of_the_session
    asyncio.run(furnish(home, company, company.calendar.today, 3))
    return home


@pytest.fixture
def furnished(tmp_path, driver, ferries, furnished_home):
    """Hands on a Tin Bucket with three days of the demo's snapshots."""
    home = shutil.copytree(furnished_home, tmp_path / "home")
    with serving(home) as address:
        yield Hands(driver, address)


# Everything in sight that fits a selector, with its text; one question to the browser instead of two for each element.
_SHOWN = """
return [...document.querySelectorAll(arguments[0])]
  .filter((one) => one.getClientRects().length && one.checkVisibility({ visibilityProperty: true }))
  .map((one) => [one, one.innerText.trim(),
    one.getAttribute('aria-label') || one.getAttribute('aria-description'), !one.disabled, one.ariaColIndex]);
"""


# Scroll, and wait until what is in sight now is drawn.
_SCROLL = """
const [grid, left, done] = arguments;
grid.scrollLeft = left;
requestAnimationFrame(() => requestAnimationFrame(() => done()));
"""


class Hands:
    """What a person does: finds things by what they say, clicks, types, waits."""

    def __init__(self, driver, address):
        self.driver = driver
        for file in driver.downloads.iterdir():  # Of a test before this one.
            file.unlink()
        self.address, _, self.token = address.partition("/?access=")
        driver.get(address)

    def go(self, path):
        if self.driver.execute_script("return location.origin") != self.address:
            self.driver.get(f"{self.address}/#{path}")
            return
        # One load: a new hash by itself would show the page once before it.
        self.driver.execute_script("history.replaceState(null, '', arguments[0])", f"/#{path}")
        self.driver.refresh()

    def wait(self, condition, what, seconds=20):
        """Wait until a condition holds; what comes soon is looked for often, and the rest leaves the machine alone."""
        deadline, pause = time.monotonic() + seconds, 0.03
        try:
            while True:
                with _passing():
                    if found := condition():
                        return found
                if time.monotonic() > deadline:
                    raise TimeoutException(what)
                time.sleep(pause)
                pause = min(0.25, pause * 1.4)
        except TimeoutException as error:
            page = self.driver.execute_script("return document.body.innerText")
            told = [one["message"] for one in self.driver.get_log("browser")][-5:]
            raise AssertionError(f"{what}; {self.driver.current_url} says: {page[:1500]!r}; log: {told}") from error

    def find(self, css):
        return self.wait(lambda: next((one for one, *_ in self.shown(css)), None), f"nothing like {css}")

    def shown(self, css):
        """What is in sight: elements, each with its text, its label and whether it is enabled."""
        return self.driver.execute_script(_SHOWN, css)

    def says(self, text, css="body"):
        """Wait until something says the text; gives the element's whole text."""
        return self.wait(
            lambda: next((words for _, words, *_ in self.shown(css) if text in words), None), f"nothing says “{text}”"
        )

    def click(self, text, css="button, a"):
        self._press(css, lambda words, label: text in (words, label), f"no “{text}” to click")

    def click_text(self, words, css="button, a"):
        """Click the first thing that has some words in it."""
        self._press(css, lambda text, _: words in text, f"nothing with “{words}” to click")

    def click_row(self, words):
        """Click the choice of a menu that has some words in it."""
        self._press("button.row", lambda text, _: words in text, f"no choice “{words}”")

    def _press(self, css, fits, what):
        def press():
            for one, words, label, enabled, _ in self.shown(css):
                if enabled and fits(words, label):
                    try:
                        one.click()
                    except ElementClickInterceptedException:
                        # Something that stays in sight lies over it: a person scrolls.
                        self.driver.execute_script("arguments[0].scrollIntoView({ block: 'center' })", one)
                        raise
                    return True
            return False

        self.wait(press, what)

    def type(self, css, text):
        field = self.find(css)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)

    def paste(self, css, text):
        """Put a text into a field at once, as from the clipboard, and press Enter."""
        field = self.find(css)
        self.driver.execute_script(
            "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input', {bubbles: true}))",
            field,
            text,
        )
        field.send_keys(Keys.ENTER)

    def choose(self, css, words):
        """Choose an option of a list by what it says."""
        self.wait(lambda: Select(self.find(css)).select_by_visible_text(words) or True, f"no “{words}” in {css}")

    def number(self, words):
        """The first number before some words on the page, such as that of “rows”: the demo's differ from day to day."""
        pattern = re.compile(rf"([\d,]+) {words}")
        read = "return document.body.innerText"
        found = self.wait(lambda: pattern.search(self.driver.execute_script(read)), f"no number of {words}")
        return int(found[1].replace(",", ""))

    def cells(self, column):
        """The texts of a column's cells in sight; a column that is out of sight is scrolled to."""
        at = self.column(column)
        return [words for _, words, *_ in self.shown(f"[role=gridcell][aria-colindex='{at}']")]

    def click_cell(self, column, row):
        """Click the cell of a column in a row, counted from 0 among those in sight."""

        def press():
            at = self.column(column)
            self.driver.find_elements(By.CSS_SELECTOR, f"[role=gridcell][aria-colindex='{at}']")[row].click()
            return True

        self.wait(press, f"no cell {column} in row {row + 1}")

    def column(self, name):
        """The number of a column, which is scrolled to: columns out of sight are not drawn."""
        grid = self.find("[role=grid]")
        width = int(grid.get_property("scrollWidth"))
        here = int(grid.get_property("scrollLeft"))
        for left in (here, *range(0, width, 500)):
            if left != here:
                self.driver.execute_async_script(_SCROLL, grid, left)
            for _, words, _, _, at in self.shown("[role=grid] [role=columnheader]"):
                if words.split("\n")[0] == name:
                    return int(at)
        raise ValueError(f"no column {name}")


@pytest.fixture
def hands(driver, server):
    return Hands(driver, server)
