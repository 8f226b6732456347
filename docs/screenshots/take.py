"""Takes the pictures in this folder from a running demo: `make demo` in one shell, `make screenshots` in another."""

from __future__ import annotations

import json
import sys
import tempfile
import time
from pathlib import Path
from urllib.parse import quote
from urllib.request import Request, urlopen

from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

HERE = Path(__file__).parent
# As “tin-bucket address” prints it.
ENTRY = sys.argv[1]
ADDRESS, _, TOKEN = ENTRY.partition("/?access=")
HEADERS = {"Content-Type": "application/json", "Authorization": f"Bearer {TOKEN}"}
FLAGS = ["--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking"]
FLAGS += ["--disable-component-update", "--disable-sync", "--hide-scrollbars"]


def browser() -> webdriver.Chrome:
    """Headless Chromium with a view of 1280 by 800."""
    options = webdriver.ChromeOptions()
    for flag in [*FLAGS, f"--user-data-dir={tempfile.mkdtemp()}"]:
        options.add_argument(flag)
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    driver.set_window_size(1280, 800)
    width, height = driver.execute_script("return [innerWidth, innerHeight]")
    driver.set_window_size(2560 - width, 1600 - height)
    driver.get(ENTRY)
    return driver


def send(method: str, path: str, data: bytes) -> None:
    """Ask the server for something that has no picture."""
    request = Request(ADDRESS + path, data=data, method=method, headers=HEADERS)
    urlopen(request, timeout=10).close()


def make(name: str, path: str, pages: dict[str, object]) -> int:
    """Save a query on the service that misbehaves; gives its number."""
    brief = {
        "name": name,
        "ask": {"service": "skerrywick-awkward", "path": path},
        "pages": pages,
        "take": {"records": "$.rows[*]"},
        "keep": {"match": ["id"]},
    }
    request = Request(f"{ADDRESS}/api/queries", json.dumps({"brief": brief}).encode(), HEADERS)
    with urlopen(request, timeout=10) as response:
        return int(json.load(response)["id"])


def main() -> None:
    """Take every picture."""
    driver = browser()

    def go(path: str, dark: bool = False) -> None:
        driver.execute_script(f"localStorage.setItem('tin-bucket-mode', '{'dark' if dark else 'light'}')")
        driver.get(f"{ADDRESS}/#{path}")
        driver.refresh()
        time.sleep(2.5)

    def click(xpath: str) -> None:
        driver.find_element(By.XPATH, xpath).click()
        time.sleep(1)

    def shot(name: str) -> None:
        driver.save_screenshot(str(HERE / f"{name}.png"))

    go("/")
    shot("desk")
    go("/query/1")
    shot("query")
    click("(//*[@role='gridcell'][@aria-colindex='8'])[6]")
    shot("trace")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    click("//button[@role='tab'][.='Chart']")
    time.sleep(2)
    shot("chart")
    click("//button[@role='tab'][.='Answers']")
    time.sleep(1.5)
    shot("answers")
    go("/query/1")
    click("//button[contains(., '30 snapshots')]")
    date = driver.find_element(By.NAME, "date")
    date.send_keys("before 3 days ago", Keys.ENTER)
    time.sleep(1.5)
    shot("date")
    go("/query/11")
    shot("workout")
    go("/query/2/compare")
    # Past the rows of the day that went, to where all states stand together.
    driver.execute_script("document.querySelector('[role=table]').scrollTop = 34 * 33")
    time.sleep(1)
    shot("compare")
    go("/query/1/through-time?figure=mean&column=delay")
    shot("through-time")
    go("/report/1")
    time.sleep(1.5)
    shot("report")
    go("/notices")
    shot("notices")
    go("/services")
    click("//button[.='Check']")
    shot("services")
    go("/runs")
    shot("runs")
    go("/query/1")
    click("//aside//button[contains(., 'updating matching rows')]")
    time.sleep(1.5)
    # The folder of this machine is nobody else's business.
    driver.execute_script(
        """const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
        while (walk.nextNode())
          walk.currentNode.data =
            walk.currentNode.data.replace(/(?:\\/[^\\s/]+)+\\/handed-over/g, '~/desk/handed-over');"""
    )
    shot("feed")
    go("/feeds")
    shot("feeds")
    go("/")
    field = driver.find_element(By.CSS_SELECTOR, "textarea[aria-label^='Address']")
    address = "https://api.tides.example/v2/heights/0042?from=2026-11-18&per_page=50"
    field.send_keys(f"curl '{address}' -H 'X-Tide-Key: made-up-key-of-the-docs'", Keys.ENTER)
    time.sleep(1)
    shot("begin")
    for name, rows in (
        ("Berths to watch", "code;note\n007;first\n901;temporary\n"),
        ("Routes", "route\nharl-oxnith\n"),
    ):
        send("POST", f"/api/sheets?file=berths.csv&name={quote(name)}&replace=true", rows.encode())
    go("/sheets")
    shot("sheets")
    # A page that fails, on a copy of the query on the service that misbehaves.
    pages = {"by": "number", "last_page": "$.pages", "total": "$.total"}
    failing = make("Crates, one page fails", "/ways/one-page-fails", pages)
    go(f"/query/{failing}")
    click("//button[.='Refresh']")
    time.sleep(2)
    click("//button[contains(@class, 'failed')]")
    shot("incomplete")
    send("DELETE", f"/api/queries/{failing}", b"")
    go("/query/1", dark=True)
    shot("query-dark")
    driver.quit()


if __name__ == "__main__":
    main()
