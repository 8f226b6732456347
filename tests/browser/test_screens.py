"""Each screen, used as a person uses it, on a desk with some days of snapshots."""

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Hands
from tin_bucket.demo.services.operations import KEY

pytestmark = pytest.mark.browser


def texts(driver, css):
    return [one.text for one in driver.find_elements(By.CSS_SELECTOR, css)]


def test_the_desk_tells_each_query_and_leads_to_it(furnished, driver):
    furnished.go("/")
    furnished.says("Sailings by route", "tbody")
    lines = texts(driver, "tbody tr")
    assert [line.split("\n")[0] for line in lines] == [
        "Sailings by route", "Fares, week ahead", "Fleet today", "Ports",
        "Fares by day ahead", "Inspections this year", "Passengers a month",
        "Bookings, three days", "Vessel register", "Crates",
        "Late sailings by route and month", "Cheapest fare a route", "Vessels with their inspections",
        "Five routes that run late", "Late sailings, each date",
    ]  # fmt: skip
    assert "3 parameters · Skerrywick Operations" in lines[0]
    assert "by hand" in lines[3]
    furnished.click("Refresh all")
    furnished.wait(lambda: texts(driver, "tbody tr")[3].endswith("2"), "no new snapshot of Ports", 30)
    furnished.click("Ports", "tbody a")
    furnished.says("12 of 12 rows")
    assert driver.title == "Ports · Tin Bucket"


def test_what_is_no_address_is_said_where_it_was_pasted(furnished, driver):
    furnished.go("/")
    furnished.type("textarea[aria-label^='Address']", "hello there" + Keys.ENTER)
    furnished.says("This is not an address.", "[role=alert]")
    furnished.type("textarea[aria-label^='Address']", "https://api.example/x?api_key=sk-123456789" + Keys.ENTER)
    said = furnished.says("A key was seen", "[role=dialog]")
    assert "parameter api_key" in said
    assert "sk-123456789" not in driver.page_source
    values = driver.execute_script("return [...document.querySelectorAll('input, textarea')].map(e => e.value).join()")
    assert "sk-123456789" not in values


def test_the_comparison_is_steered_by_keyboard_and_by_clicks(furnished, driver):
    furnished.go("/query/2/compare")
    sentence = furnished.says("Between", ".sentence")
    then = furnished.find("[role=slider][aria-label=then]")
    assert then.get_attribute("aria-valuenow") == "1"
    then.send_keys(Keys.ARROW_LEFT)
    furnished.wait(lambda: furnished.says("Between", ".sentence") != sentence, "the sentence did not change")
    then.send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    # Then always stays before now.
    furnished.wait(lambda: then.get_attribute("aria-valuenow") == "1", "then ran past now")
    furnished.wait(lambda: furnished.says("Between", ".sentence") == sentence, "the sentence did not come back")
    column, _, cells = next(line for line in texts(driver, ".change") if line.startswith("fare")).partition("\n")
    furnished.wait(lambda: _press(driver, ".change", column), "no column to press")
    rows = str(int(cells) + 1)
    furnished.wait(lambda: furnished.find("[role=table]").get_attribute("aria-rowcount") == rows, "not filtered")
    old, new = furnished.find(".cell.changed s").text, furnished.find(".cell.changed b").text
    assert float(old) != float(new)
    difference = furnished.find(".row.changed .cell.difference span").text
    assert float(difference.replace("−", "-")) == pytest.approx(float(new) - float(old))


def _press(driver, css, start):
    found = next((one for one in driver.find_elements(By.CSS_SELECTOR, css) if one.text.startswith(start)), None)
    if found is not None:
        found.click()
    return found


def test_the_grid_is_used_by_keyboard_alone(furnished, driver):
    furnished.go("/query/1")
    furnished.wait(lambda: furnished.cells("sailing_id"), "no rows")
    grid = furnished.find("[role=grid]")
    rows = int(grid.get_attribute("aria-rowcount")) - 1
    grid.send_keys(Keys.CONTROL, Keys.END)
    last = f"[role=row][aria-rowindex='{rows + 1}'] [role=gridcell]"
    furnished.wait(lambda: driver.find_elements(By.CSS_SELECTOR, last), "the last row did not come")
    grid.send_keys(Keys.ENTER)
    assert f"row {rows:,}" in furnished.says("asked with", "[role=dialog].card")
    # Tab and Enter lead on to the value that the lookup was asked with, and Escape back to the grid.
    driver.switch_to.active_element.send_keys(Keys.ESCAPE)
    furnished.wait(lambda: not driver.find_elements(By.CSS_SELECTOR, "[role=dialog].card"), "the trace did not close")
    assert driver.switch_to.active_element == grid
    grid.send_keys(Keys.HOME)
    grid.send_keys(Keys.ENTER)
    assert f"row {rows:,}" in furnished.says("/data/", "[role=dialog].card")
    driver.switch_to.active_element.send_keys(Keys.ESCAPE)
    assert len(driver.find_elements(By.CSS_SELECTOR, "[role=row]")) < 80
    # A block of cells is selected and said.
    grid.send_keys(Keys.SHIFT, Keys.ARROW_UP, Keys.ARROW_RIGHT)
    furnished.says("2 × 2 cells", "[role=status]")
    assert len(driver.find_elements(By.CSS_SELECTOR, "[role=gridcell][aria-selected=true]")) == 4


def test_a_table_is_sorted_filtered_and_searched_and_stays_as_it_is(furnished, driver):
    furnished.go("/query/1")
    furnished.wait(lambda: furnished.cells("sailing_id"), "no rows")
    total = int(furnished.find("[role=grid]").get_attribute("aria-rowcount")) - 1
    before = furnished.cells("sailing_id")[:8]
    furnished.click("delay", "[role=columnheader] button")
    furnished.says("mean", "[role=dialog]")
    furnished.click("↓ Highest first")
    furnished.wait(lambda: furnished.find("[role=columnheader][aria-sort=descending]"), "not sorted")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)

    def highest_first():
        delays = [int(text) for text in furnished.cells("delay")[:8]]
        return delays == sorted(delays, reverse=True) and delays[0] > 15

    furnished.wait(highest_first, "the rows are not in order")
    furnished.click("status", "[role=columnheader] button")
    furnished.wait(lambda: _tick(driver, "arrived"), "no value to tick")
    furnished.says("in sight")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    count = lambda: int(furnished.find("[role=grid]").get_attribute("aria-rowcount")) - 1  # noqa: E731
    furnished.wait(lambda: 0 < count() < total, "the rows are not filtered")
    furnished.wait(lambda: set(furnished.cells("status")) == {"arrived"}, "not filtered")
    # The trace of a cell is that of its own row, wherever it stands now.
    first = furnished.wait(lambda: furnished.cells("sailing_id")[0], "no rows")
    furnished.column("sailing_id")
    furnished.find("[role=gridcell][aria-colindex='1']").click()
    assert first in furnished.says("/data/", "[role=dialog].card")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    furnished.type("input[aria-label='Find in the table']", first)
    furnished.says("1 of 1", "[role=status]")
    furnished.click("status is arrived", ".chip")
    furnished.wait(
        lambda: int(furnished.find("[role=grid]").get_attribute("aria-rowcount")) == total + 1, "still filtered"
    )
    furnished.go("/query/1")
    furnished.wait(lambda: furnished.cells("sailing_id")[:8] == before, "the table itself has changed")


def _tick(driver, words):
    for one in driver.find_elements(By.CSS_SELECTOR, "[role=dialog] label"):
        if one.text.startswith(words):
            one.click()
            return True
    return False


def test_a_value_for_now_changes_the_next_call_and_not_the_brief(furnished, driver):
    furnished.go("/query/2")
    furnished.click("Parameter route")
    furnished.choose("select[name=value]", "Hesta Wick – Quern Point")
    furnished.click("Done")
    furnished.click("Calls", "[role=tab]")
    furnished.says("route=hesta-quern")
    furnished.click("Ask once")
    furnished.click("Table", "[role=tab]")
    furnished.says("one call,")
    assert "Discard changes" not in texts(driver, "header button")
    furnished.click("show the snapshot")
    furnished.wait(
        lambda: "one call," not in driver.find_element(By.TAG_NAME, "body").text, "the preview is still shown"
    )


def test_a_service_is_added_checked_and_deleted(furnished, driver, ferries):
    furnished.go("/services")
    furnished.says("used by Sailings by route, Fares, week ahead, Fleet today, Ports")
    furnished.click("Add a service")
    furnished.type("input[name=name]", "Second desk")
    furnished.type("input[name=base]", "nowhere")
    furnished.click("Add the service")
    furnished.says("starts with http:// or https://", "[role=alert]")
    furnished.type("input[name=base]", ferries.bases["operations"])
    furnished.choose("select[name=key-way]", "a key in a header")
    furnished.type("input[name=place-name]", "X-Skerrywick-Key")
    furnished.click("Add the service")
    furnished.type("input[name=secret-key]", KEY)
    furnished.click("Store the key", "[role=dialog] button")
    furnished.wait(lambda: not driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"), "the window did not close")
    assert KEY not in driver.page_source
    card = "article:first-of-type"
    furnished.says("no query uses it yet", card)
    furnished.click("Check", f"{card} button")
    furnished.says("Reached:", card)
    furnished.click("Delete", f"{card} button")
    furnished.click("Delete it")
    furnished.wait(lambda: len(driver.find_elements(By.TAG_NAME, "article")) == 6, "it was not deleted")
    # One that is in use is kept, and says why.
    furnished.click("Delete", "article button")
    furnished.says("Delete those queries first", "[role=dialog]")


def test_light_and_dark_are_remembered(furnished, driver):
    furnished.go("/")
    before = driver.execute_script("return getComputedStyle(document.body).color")
    furnished.click("Switch to dark")
    driver.refresh()
    furnished.says("Sailings by route")
    assert driver.execute_script("return document.documentElement.dataset.mode") == "dark"
    assert driver.execute_script("return getComputedStyle(document.body).color") != before
    furnished.click("Switch to light")


def test_a_query_is_copied_renamed_and_deleted(furnished, driver):
    furnished.go("/query/4")
    furnished.click("This query")
    furnished.click("Make a copy")
    furnished.says("Ports, copy", "header")
    furnished.says("no snapshot yet")
    furnished.click("Name and note")
    furnished.type("[role=dialog] input", "Harbours" + Keys.ENTER)
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    furnished.click("Save")
    furnished.wait(lambda: driver.title == "Harbours · Tin Bucket", "not renamed")
    furnished.click("Refresh")
    furnished.says("12 of 12 rows")
    furnished.click("This query")
    furnished.click("Delete…")
    furnished.click("Delete it all")
    furnished.says("Sailings by route", "tbody")
    assert not any("Harbours" in line for line in texts(driver, "tbody tr"))


def test_the_history_of_runs_shows_what_went_wrong(furnished, driver):
    furnished.go("/query/4")
    furnished.click("/ports", ".phrase")
    furnished.type("input[name=path]", "/harbours")
    furnished.click("Done")
    furnished.click("Refresh")
    furnished.says("There is nothing at /harbours", "[role=alert]")
    furnished.go("/runs")
    furnished.says("The service knows no such address", "tbody")
    furnished.click("only what went wrong", "label")
    furnished.wait(lambda: len(driver.find_elements(By.CSS_SELECTOR, "tbody tr")) == 1, "not filtered")
    furnished.go("/")
    furnished.says("failed. The service knows no such address", ".seen")
    furnished.go("/nowhere")
    furnished.says("There is nothing here")


def test_a_browser_without_access_is_let_in_by_the_printed_address(driver, server):
    base, _, token = server.partition("/?access=")
    # It comes without the token, and with no cookie of an earlier visit.
    stranger = Hands(driver, base)
    driver.delete_all_cookies()
    driver.refresh()
    stranger.says("This browser has no access to the workspace yet.")
    stranger.type("input[name=access]", "not the token")
    stranger.click("Open")
    stranger.says("This is not the workspace's access token")
    stranger.type("input[name=access]", server)
    stranger.click("Open")
    stranger.says("The desk is empty")
    assert token not in driver.current_url
    driver.get(f"{base}/#/services")
    driver.refresh()
    stranger.says("Services and keys", "h1, h2, nav")
