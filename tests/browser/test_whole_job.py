"""The whole job in the browser, from an empty workspace to a workbook that holds what the service served."""

from datetime import date, timedelta

import openpyxl
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tin_bucket.core.analysis.compare import STATES
from tin_bucket.demo import timetable
from tin_bucket.demo.services.operations import KEY, KEY_HEADER

pytestmark = pytest.mark.browser
START, END = date(2026, 11, 20), date(2026, 12, 3)


def served(day):
    return {sailing["sailing_id"]: sailing for sailing in timetable.sailings(day, START, END)}


def begin(hands, running):
    """Paste the address of /sailings, store the key, make the query."""
    hands.go("/")
    hands.says("The desk is empty")
    address = f"{running.base}/sailings?route=all&from={START}&to={END}&per_page=100"
    hands.paste("textarea[aria-label^='Address']", address)
    hands.says("Nothing has been sent yet")
    hands.type("input[name=service-name]", "Operations")
    hands.click("it needs one")
    hands.type("input[name=place-name]", KEY_HEADER)
    hands.type("input[name=secret-key]", KEY)
    hands.click("Create the query")
    hands.says("No table yet")


def test_from_an_empty_workspace_to_a_comparison_and_a_workbook(hands, driver, running, operations):
    begin(hands, running)
    assert operations.calls == 0

    # Ask once, see the answer, take its rows and its pages with a click each.
    hands.click("Ask once")
    hands.says("list of 100")
    assert operations.calls == 1
    hands.click("Take its items as rows")
    hands.click("Turn pages by number")
    hands.click("Table", "[role=tab]")
    hands.says("sailing_id", "[role=columnheader]")
    assert operations.calls == 1

    # Look the ports up, and say which row is which.
    hands.click("nothing yet", ".phrase")
    hands.type("input[name=lookup-path]", "/ports/{port_code}")
    first = hands.wait(lambda: hands.cells("port_code")[0], "no cells")
    hands.click(f"Ask for {first} to see its fields")
    name = hands.find("input[aria-label='Name of $.name']")
    hands.find("input[aria-label='Take $.name']").click()
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("port")
    hands.click("Done")
    hands.wait(lambda: hands.cells("port")[0] == "not asked yet", "the lookup has no column")
    hands.click("no match columns chosen yet", ".phrase")
    hands.says("The columns that say which row is which")
    driver.find_element(By.CSS_SELECTOR, "input[value=sailing_id]").click()
    hands.click("Done")

    # Refresh all pages; the table is whole and the ports are named.
    hands.click("Refresh")
    truth = served(operations.today)
    hands.says(f"{len(truth):,} of {len(truth):,} rows")
    hands.says("1 snapshot")
    wanted = [timetable.port(sailing["port_code"]) for sailing in truth.values()]
    hands.wait(lambda: hands.cells("port")[:12] == [p["name"] if p else "not found" for p in wanted[:12]], "port names")
    codes = {sailing["port_code"] for sailing in truth.values()}
    assert f"{len(codes)} calls for {len(truth):,} rows" in hands.says("calls for", "aside")
    assert f"{len(codes - set(timetable.PORTS))} not found" in hands.says("not found", "aside")

    # The trace of a cell leads to its place in the answer.
    at = hands.wait(lambda: hands.cells("sailing_id")[3], "no rows")
    hands.click_cell("sailing_id", 3)
    assert at in hands.says("/data/3/sailing_id", "[role=dialog].card")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)

    # The simulated day moves on, by the button of the service's own docs page.
    driver.get(running.base + "/")
    day = hands.find("#day").text
    hands.find("button").click()
    hands.wait(lambda: hands.find("#day").text != day, "the day did not move")
    hands.go("/query/1")
    hands.click("Refresh")
    hands.says("2 snapshots")
    now = served(operations.today)
    hands.says(f"{len(now):,} of {len(now):,} rows")

    # Compare then and now: what is new, gone and changed is what the service changed.
    def told(sailing):
        return {key: sailing[key] for key in sailing if key != "sailing_id"}

    expected = {
        "new": now.keys() - truth.keys(),
        "gone": truth.keys() - now.keys(),
        "changed": {key for key in now.keys() & truth.keys() if told(now[key]) != told(truth[key])},
    }
    assert all(expected.values())
    hands.click("Compare")
    sentence = hands.says("stayed as they were", ".sentence")
    for count, words in (
        (len(expected["new"]), "new"),
        (len(expected["gone"]), "gone"),
        (len(expected["changed"]), "changed"),
    ):
        assert f"{count:,}" in sentence, words
    for word, ids in expected.items():
        hands.click(
            next(one.text for one in driver.find_elements(By.CSS_SELECTOR, ".state") if one.text.endswith(word)),
            ".state",
        )
        assert merged_ids(hands, driver, STATES[word], len(ids)) == ids

    # Download the workbook and read the same values back.
    hands.go("/query/1")
    hands.click("Export")
    hands.click("A workbook, .xlsx")
    file = hands.wait(lambda: next(iter(driver.downloads.glob("*.xlsx")), None), "no file came")
    lines = openpyxl.load_workbook(file).active.iter_rows(values_only=True)
    heads = next(lines)
    rows = {row[heads.index("sailing_id")]: dict(zip(heads, row, strict=True)) for row in lines}
    assert rows.keys() == now.keys()
    for key, row in rows.items():
        port = timetable.port(now[key]["port_code"])
        assert row["port_code"] == now[key]["port_code"]
        assert row["port"] == (port["name"] if port else None)
        assert row["vessel.hull_id"] == str(now[key]["vessel"]["hull_id"])
        assert row["status"] == now[key]["status"]
        assert row["departs"] == now[key]["departs"]

    # The key showed nowhere on the way.
    assert KEY not in driver.page_source
    assert KEY not in str(driver.get_log("browser"))


def merged_ids(hands, driver, state, count):
    """The ids of all rows of the merged table, gathered while scrolling through it."""
    rows = str(count + 1)
    hands.wait(lambda: hands.find("[role=table]").get_attribute("aria-rowcount") == rows, f"state {state}: not {count}")
    view = driver.find_element(By.CSS_SELECTOR, "[role=table]")
    driver.execute_script("arguments[0].scrollTop = 0", view)
    ids = set()

    def gather():
        cells = "[role=table] [role=row] [role=cell]:nth-child(2)"
        ids.update(driver.execute_script(f"return [...document.querySelectorAll('{cells}')].map(e => e.innerText)"))
        done = len(ids) >= count
        driver.execute_script("arguments[0].scrollTop += 300", view)
        return done

    hands.wait(gather, f"{count} rows were not to be seen")
    return ids


def test_a_refused_key_is_replaced_where_it_was_refused(hands, running, operations):
    begin(hands, running)
    operations.key = "the-new-key-2027"
    hands.click("Ask once")
    hands.says("This key is not known, or has been withdrawn.")
    hands.type("input[name=secret-key]", "the-new-key-2027")
    hands.click("Store the key")
    hands.click("Ask once")
    hands.says("list of 100")
    hands.go("/services")
    hands.click("Check")
    hands.says("it does not show whether the key is valid", "article")
    hands.click("Edit")
    hands.click("Headers, time-outs, check, errors, docs and note", "summary")
    hands.type("input[name=check]", "/ports")
    hands.click("Save")
    hands.click("Check")
    hands.says("key accepted: without it the answer is 401", "article")


def test_a_run_can_be_watched_and_stopped(hands, running, operations):
    begin(hands, running)
    hands.click("Ask once")
    hands.click("Take its items as rows")
    hands.click("Turn pages by number")
    operations.pause = 1.5
    hands.click("Refresh")
    hands.says("rows so far", "footer")
    hands.click("Stop")
    hands.says("was stopped", "footer")
    hands.says("no snapshot yet")
    hands.go("/runs")
    hands.says("The run was stopped.")


def test_dates_that_move_with_the_calendar(hands, running):
    begin(hands, running)
    hands.click("Parameter from")
    hands.click("moves with the calendar", "label")
    hands.type("input[aria-label='How many']", "3")
    hands.click("Done")
    hands.says("three days ago")
    hands.click("Calls", "[role=tab]")
    hands.says(f"from={date.today() - timedelta(days=3)}")
