"""From a raw nested answer to a table, by clicks alone and without a call; and where its cells came from."""

import json
import urllib.request
from datetime import date, timedelta
from itertools import pairwise

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tin_bucket.demo.services.operations import KEY, KEY_HEADER

pytestmark = pytest.mark.browser


def begin(hands, base, path):
    """A query on the operations service that nothing was taken of yet."""
    hands.go("/")
    hands.type("textarea[aria-label^='Address']", base + path + Keys.ENTER)
    hands.type("input[name=service-name]", "Operations")
    hands.click("it needs one")
    hands.type("input[name=place-name]", KEY_HEADER)
    hands.type("input[name=secret-key]", KEY)
    hands.click("Create the query")
    hands.says("No table yet")
    hands.click("Ask once")


def line(hands, name, level=None):
    """The row of the tree that begins with a name."""
    css = "[role=treeitem]" + (f"[aria-level='{level}']" if level else "")
    for one in hands.driver.find_elements(By.CSS_SELECTOR, css):
        keys = one.find_elements(By.CSS_SELECTOR, ".key")
        if keys and keys[0].text == name:
            return one
    return None


def press(hands, name, words, level=None):
    """Point at a row of the tree and click what it offers."""

    def go():
        row = line(hands, name, level)
        if row is None:
            tree = hands.find("[role=tree]")
            hands.driver.execute_script("arguments[0].scrollTop += 200", tree)
            return False
        ActionChains(hands.driver).move_to_element(row).perform()
        for button in row.find_elements(By.CSS_SELECTOR, ".take"):
            if button.text == words:
                button.click()
                return True
        return False

    hands.wait(go, f"nothing to press for {name}")


def headings(hands):
    return [one.text.split("\n")[0] for one in hands.driver.find_elements(By.CSS_SELECTOR, "[role=columnheader]")]


def asked(base, path):
    with urllib.request.urlopen(urllib.request.Request(base + path, headers={KEY_HEADER: KEY})) as answer:
        return json.load(answer)


def test_fares_a_row_with_their_sailing_by_clicks_alone(hands, driver, running, operations):
    days = f"from={date.today()}&to={date.today() + timedelta(days=1)}"
    path = f"/sailings?route=hesta-quern&{days}&per_page=100"
    truth = asked(running.base, path)["data"]
    begin(hands, running.base, path)
    hands.says("list of", "[role=tree]")
    made = operations.calls

    # The list that looks like rows is pointed out with the reason; its items become the rows.
    assert f"looks like rows: a list of {len(truth)} objects" in hands.says("looks like rows", "[role=treeitem]")
    press(hands, "data", "take its items as rows")
    hands.says("the rows", "[role=treeitem]")
    hands.wait(lambda: "sailing_id" in headings(hands), "the table did not follow")

    # A price is picked by its class: the clicked fare's own class is offered.
    press(hands, "fares", "✓ a column …")
    hands.find("[role=dialog][aria-label^='What becomes of']")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    second = hands.wait(lambda: _second_fare(hands), "no second fare")
    second.find_element(By.CSS_SELECTOR, "button.turn").click()
    hands.wait(lambda: line(hands, "class", 6), "the second fare did not open")
    amount = hands.wait(lambda: _amount_under_car(hands), "no amount of the car")
    ActionChains(driver).move_to_element(amount).perform()
    amount.find_element(By.CSS_SELECTOR, ".take").click()
    hands.click_row("where class is car")
    hands.wait(lambda: hands.cells("fares.amount, car"), "no picked column")

    # Every fare is a row; the sailing's columns are repeated.
    press(hands, "fares", "✓ a column …")
    hands.click_row("A row for each of its items")
    press(hands, "class", "make it a column", 6)
    press(hands, "amount", "make it a column", 6)
    hands.click("Table", "[role=tab]")
    rows = [(one, fare) for one in truth for fare in one["fares"]]
    hands.says(f"{len(rows)} rows")
    hands.wait(lambda: hands.cells("sailing_id")[:6] == [one["sailing_id"] for one, _ in rows[:6]], "not repeated")
    assert hands.cells("fares.class")[:6] == [fare["class"] for _, fare in rows[:6]]
    cars = [next(f["amount"] for f in one["fares"] if f["class"] == "car") for one, _ in rows[:6]]
    assert [float(text) for text in hands.cells("fares.amount, car")[:6]] == cars
    # Codes keep their noughts, long ids every digit.
    assert hands.cells("port_code")[:3] == [one["port_code"] for one, _ in rows[:3]]
    assert hands.cells("vessel.hull_id")[0] == str(rows[0][0]["vessel"]["hull_id"])

    # Seconds since 1970 are offered as what they are.
    hands.column("departs")
    hands.click("departs", "[role=columnheader] button")
    hands.click("Read as date and time")
    hands.wait(lambda: ":" in hands.cells("departs")[0], "no date")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    hands.says("one for each of fares", "[aria-label='Where the rows went']")
    assert operations.calls == made

    # The trace of a cell leads to its place, before anything is kept …
    hands.click_cell("fares.amount", 4)
    said = hands.says("/data/1/fares/1/amount", "[role=dialog].card")
    assert json.dumps(rows[4][1]["amount"]) in driver.find_element(By.CSS_SELECTOR, "[role=dialog].card mark").text
    assert "row 5" in said
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    assert operations.calls == made

    # … and when it is kept, with what was made of the value.
    hands.click("Refresh")
    hands.says("1 snapshot")
    hands.click_cell("departs", 3)
    said = hands.says("/data/1/departs", "[role=dialog].card")
    assert f"{rows[3][0]['departs']} read as date and time (seconds since 1970)" in said


def _second_fare(hands):
    rows = hands.driver.find_elements(By.CSS_SELECTOR, "[role=treeitem][aria-level='5'][aria-expanded=false]")
    return next((one for one in rows if one.find_elements(By.CSS_SELECTOR, ".key")[0].text == "1"), None)


def _amount_under_car(hands):
    rows = hands.driver.find_elements(By.CSS_SELECTOR, "[role=treeitem]")
    for one, following in pairwise(rows):
        if one.text.startswith("class") and '"car"' in one.text and following.text.startswith("amount"):
            return following
    return None


def test_an_answer_is_searched_and_told_as_it_came(furnished, driver):
    furnished.go("/query/1")
    furnished.click("Answers", "[role=tab]")
    furnished.says("the rows", "[role=treeitem]")
    furnished.type("input[aria-label='Find in the answer']", "hull_id" + Keys.ENTER)
    first = furnished.says("1 of ", "label [role=status]")
    driver.find_element(By.CSS_SELECTOR, "input[aria-label='Find in the answer']").send_keys(Keys.ENTER)
    furnished.wait(lambda: furnished.says("2 of ", "label [role=status]") != first, "no next find")
    furnished.wait(lambda: "hull_id" in furnished.find("[role=treeitem].hit").text, "the find is not shown")
    # Hovering a column lights its place in the tree.
    head = next(one for one in driver.find_elements(By.CSS_SELECTOR, "[role=columnheader]") if "port_code" in one.text)
    ActionChains(driver).move_to_element(head).perform()
    furnished.wait(lambda: "port_code" in furnished.find("[role=treeitem].lit").text, "the place is not lit")
    furnished.click("Raw")
    assert furnished.says('"sailing_id"', "pre").startswith("{")


def test_columns_of_a_wide_table_are_chosen_ordered_and_hidden(furnished, driver):
    furnished.go("/query/1")
    furnished.wait(lambda: furnished.cells("sailing_id"), "no rows")
    furnished.click("Columns", ".phrase")
    furnished.type("input[placeholder^='Find a column']", "capacity.cars")
    furnished.click("Take $.vessel.capacity.cars", "input")
    furnished.type("input[placeholder^='Find a column']", "status")
    furnished.click("Hide it", "[role=listitem] button")
    button = next(
        one for one in driver.find_elements(By.CSS_SELECTOR, "[role=dialog] .press.main") if "Take" in one.text
    )
    button.click()
    furnished.wait(lambda: furnished.cells("vessel.capacity.cars"), "not taken")
    furnished.column("sailing_id")
    assert "status" not in headings(furnished)
    furnished.says("1 hidden")
    furnished.click("Discard changes")
    furnished.wait(lambda: furnished.cells("status"), "still hidden")


def test_snapshots_are_read_anew_from_saved_answers(furnished, driver, ferries):
    furnished.go("/query/4")
    furnished.wait(lambda: furnished.cells("code"), "no rows")
    made = ferries.operations.calls
    furnished.click("name", "[role=columnheader] button")
    furnished.click("The column", "[role=tab]")
    furnished.type("[role=dialog] label input", "harbour" + Keys.TAB)
    furnished.wait(lambda: furnished.cells("harbour"), "not renamed")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    furnished.click("Save")
    furnished.says("Refresh")
    furnished.click("Saved answers", ".phrase")
    furnished.click("Rebuild")
    furnished.says("rebuilt", "[role=dialog]")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    furnished.wait(lambda: furnished.cells("harbour"), "the snapshot is not rebuilt")
    furnished.says("rebuilt", ".tabs")
    assert ferries.operations.calls == made
