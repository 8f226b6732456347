"""No barrier on any page, popover or dialog: light and dark, at 1280 pixels and at 390."""

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.accessibility import barriers, watch
from tin_bucket.core.work_out.registry import LINES

pytestmark = pytest.mark.browser
FARES = 2

PAGES = {
    "desk": ("/", "Sailings by route"),
    "query": (f"/query/{FARES}", "Refreshed"),
    "comparison": (f"/query/{FARES}/compare", "changed"),
    "services": ("/services", "Skerrywick Operations"),
    "sheets": ("/sheets", "sheet"),
    "runs": ("/runs", "complete"),
    "feeds": ("/feeds", "Harbour desk.xlsx"),
    "reports": ("/reports", "Made of"),
    "report": ("/report/1", "are on the timetable"),
    "small charts": ("/report/2", "carries the most"),
    "notices": ("/notices", "Nobody is told"),
}
# What opens in which page, by what is clicked on: its words, or some of them behind an ellipsis.
OPENED = {
    "name": (f"/query/{FARES}", ["Name and note"]),
    "parameter": (f"/query/{FARES}", ["Parameter from"]),
    "question": (f"/query/{FARES}", ["The question"]),
    "for each": (f"/query/{FARES}", ["For each"]),
    "pages": (f"/query/{FARES}", ["How pages are turned"]),
    "records": (f"/query/{FARES}", ["Where the records are"]),
    "rows": (f"/query/{FARES}", ["How many rows"]),
    "columns": (f"/query/{FARES}", ["6 of 15 columns"]),
    "lookup": (f"/query/{FARES}", ["Look up"]),
    "schedule": (f"/query/{FARES}", ["When it is refreshed"]),
    "match": (f"/query/{FARES}", ["Match columns"]),
    "saved": (f"/query/{FARES}", ["Saved answers"]),
    "export": (f"/query/{FARES}", ["Export the table"]),
    "more": (f"/query/{FARES}", ["This query"]),
    "glance": (f"/query/{FARES}", ["class"]),
    "column": (f"/query/{FARES}", ["class", "The column"]),
    "answers": (f"/query/{FARES}", ["Answers"]),
    "calls": (f"/query/{FARES}", ["Calls"]),
    "delete": (f"/query/{FARES}", ["This query", "Delete…"]),
    "feed to a workbook": (f"/query/{FARES}", ["choose where to", "… more choices"]),
    "feed to a database": (f"/query/{FARES}", ["choose where to", "…A table of a database", "… more choices"]),
    "versions": ("/feeds", ["Versions"]),
    "service": ("/services", ["Edit"]),
    "new service": ("/services", ["Add a service"]),
    "carry": ("/services", ["Export / import…"]),
    "new report": ("/reports", ["New report"]),
    "what is added to a report": ("/report/1", ["Add to the report"]),
    "figure": ("/report/1", ["Edit this text", "A figure…", "Make one yourself"]),
    "exhibit": ("/report/1", ["Edit this exhibit"]),
    "date of a report": ("/report/1", ["As of which date"]),
    "what readers choose": ("/report/1", ["What readers can choose"]),
    "hand out": ("/report/1", ["Hand out"]),
    "new notice": ("/notices", ["New notice"]),
    "mail server": ("/notices", ["…Mail server", "…A certificate to trust"]),
}


@pytest.fixture
def mode(driver):
    def set_mode(dark, width):
        size = {"width": width, "height": 800, "deviceScaleFactor": 1, "mobile": False}
        driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
        driver.execute_script("document.documentElement.dataset.mode = arguments[0]", "dark" if dark else "light")

    yield set_mode
    set_mode(False, 1280)


def everywhere(driver, mode):
    """What hinders on the page as it is, in both modes, and narrow."""
    found = {}
    for dark, width, colours in ((False, 1280, None), (True, 1280, True), (False, 390, False)):
        mode(dark, width)
        for rule, places in barriers(driver, colours).items():
            found.setdefault(rule, places)
    mode(False, 1280)
    return found


def test_no_page_has_a_barrier(furnished, driver, mode):
    found = {}
    for name, (path, says) in PAGES.items():
        furnished.go(path)
        furnished.says(says)
        found[name] = everywhere(driver, mode)
    assert {name: told for name, told in found.items() if told} == {}


@pytest.mark.parametrize("pages", [["query"], ["services", "feeds"], ["reports", "report", "notices"]])
def test_nothing_that_opens_has_a_barrier(furnished, driver, mode, pages):
    found = {}
    for page in pages:
        found |= looked_at(furnished, driver, mode, page)
    assert {name: told for name, told in found.items() if told} == {}


def looked_at(furnished, driver, mode, page):
    """What hinders in each thing that opens on a page."""
    found = {}
    furnished.go(PAGES[page][0])
    furnished.says(PAGES[page][1])
    if page == "query":
        furnished.wait(lambda: driver.find_elements(By.CSS_SELECTOR, "[role=gridcell]"), "no table")
    watch(driver)
    for name, (path, clicks) in OPENED.items():
        if path != PAGES[page][0]:
            continue
        for click in clicks:
            act = furnished.click_text if click.startswith("…") else furnished.click
            act(click.removeprefix("…"), "button, a, [role=tab], [role=dialog] label, summary")
        found[name] = everywhere(driver, mode)
        furnished.find("body").send_keys(Keys.ESCAPE)
        if name in ("feed to a database", "mail server"):  # What was chosen in it does not go with a key.
            furnished.click("Cancel")
        furnished.wait(
            lambda: not driver.find_elements(By.CSS_SELECTOR, "[role=dialog][data-state=open]"), "still open"
        )
        if name in ("answers", "calls"):
            furnished.click("Table", "[role=tab]")
    return found


def test_what_a_newcomer_meets_has_no_barrier(hands, driver, mode, tmp_path):
    found = {}
    watch(driver)

    def look(name):
        found[name] = everywhere(driver, mode)

    hands.go("/")
    hands.click("Start the practice services")
    hands.says("Sailings of four weeks")
    look("empty desk")
    hands.click("Sailings of four weeks")
    hands.says("Nothing has been sent yet")
    look("what was understood")
    hands.click("Create the query")
    hands.says("No table yet")
    look("first query")
    hands.click("Ask once")
    hands.says("looks like rows")
    look("first answer")
    file = tmp_path / "ports.csv"
    file.write_text("code,berths\n007,2\n")
    hands.go("/sheets")
    hands.says("No sheet yet")
    driver.find_element("name", "sheet-file").send_keys(str(file))
    hands.says("1 row, 2 columns", "[role=dialog]")
    look("a sheet to store")
    hands.click("Store the sheet, without a query")
    hands.click("ports")
    hands.says("007", "[role=dialog] [role=listitem]")
    look("rows of a sheet")
    hands.click("Close")
    hands.find("table")
    driver.find_element("css selector", "input[aria-label='File with new rows for ports']").send_keys(str(file))
    hands.says("take the place of", "[role=dialog]")
    look("new rows")
    assert {name: told for name, told in found.items() if told} == {}


def test_no_form_of_a_line_has_a_barrier(furnished, driver, mode):
    found = {}
    furnished.go("/query/1")
    furnished.says("delay", "[role=columnheader]")
    watch(driver)
    furnished.find("[name=add-line]").click()
    furnished.says("split at", "[role=option]")
    found["lines to add"] = everywhere(driver, mode)
    for line in [one for one in LINES if one.key in ("column", "count", "bring")]:
        furnished.type("[name=add-line]", line.label)
        furnished.click_text(line.label, "[role=option]")
        furnished.find("form.form")
        for add in driver.find_elements(By.CSS_SELECTOR, "form.form button.add"):
            add.click()
        mode(True, 1280)
        found[line.label] = barriers(driver, colours=True)
        mode(False, 1280)
        found[line.label] |= barriers(driver)
        furnished.click("Cancel", "form.form button")
    assert {name: told for name, told in found.items() if told} == {}
