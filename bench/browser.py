"""How long a page takes in a real browser."""

from __future__ import annotations

import shutil
import statistics
import tempfile

from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.support.ui import WebDriverWait

from tests.browser.conftest import FLAGS

# Notes when the first row of a table has been painted, counted from the start of the navigation.
_WATCH = """
const look = () => {
  if (document.querySelector('tbody tr, [role=row]')) {
    requestAnimationFrame(() => requestAnimationFrame(() => { window.rowsAt = performance.now(); }));
  } else requestAnimationFrame(look);
};
look();
"""


def seconds_until_rows(address: str, times: int = 5) -> float:
    """From the start of a visit until a table's rows are in sight: the median of several visits, in seconds.

    Raises:
        RuntimeError: there is no browser.
    """
    chromedriver = shutil.which("chromedriver")
    if chromedriver is None:
        raise RuntimeError("Chromium and its driver are missing: “make browser” installs them.")
    options = webdriver.ChromeOptions()
    with tempfile.TemporaryDirectory() as profile:
        for flag in (*FLAGS, f"--user-data-dir={profile}"):
            options.add_argument(flag)
        driver = webdriver.Chrome(options=options, service=Service(chromedriver))
        try:
            driver.get(address)
            driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": _WATCH})
            took = []
            for _ in range(times):
                driver.get(address.partition("?")[0])
                took.append(
                    WebDriverWait(driver, 60, 0.02).until(lambda d: d.execute_script("return window.rowsAt")) / 1000
                )
            return statistics.median(took)
        finally:
            driver.quit()
