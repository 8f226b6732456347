"""What is seen is what is taken: exports, copies, a column at a glance, and the answers behind a table."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.test_nothing_is_lost import heads, rename

pytestmark = pytest.mark.browser
QUERY = 2  # Fares, week ahead: a row for each of three classes.


def open_column(hands, name):
    hands.wait(lambda: name in heads(hands), "no columns")
    hands.click(name, "[role=columnheader] button")


def only(hands, column, text):
    open_column(hands, column)
    hands.type("input[aria-label='Text']", text)
    hands.find("input[aria-label='Text']").send_keys(Keys.ENTER)
    hands.says("rows in sight")
    hands.find("body").send_keys(Keys.ESCAPE)


def exported(hands, ending):
    hands.click("Export the table")
    hands.click_text({"csv": "CSV, ", "xlsx": "A workbook"}[ending])
    downloads = hands.driver.downloads
    file = hands.wait(lambda: next(iter(downloads.glob(f"*.{ending}")), None), "no file came")
    data = hands.wait(file.read_bytes, "the file is empty")
    file.unlink()
    hands.find("body").send_keys(Keys.ESCAPE)
    return data


def test_a_renamed_filtered_table_is_exported_as_it_is_seen(furnished, driver):
    furnished.go(f"/query/{QUERY}")
    rename(furnished, driver, "fare", "price")
    only(furnished, "class", "car")
    seen = furnished.number("of [\\d,]+ rows in sight")
    data = exported(furnished, "csv")
    assert data.startswith(b"\xef\xbb\xbf"), "a double click reads its letters right"
    lines = data.decode("utf-8-sig").splitlines()
    names = lines[0].split(",")
    assert "price" in names
    assert "fare" not in names
    assert len(lines) == 1 + seen
    assert {line.split(",")[names.index("class")] for line in lines[1:]} == {"car"}


def test_a_glance_is_of_what_is_seen_and_its_values_are_copied_or_opened(furnished, driver):
    driver.execute_cdp_cmd(
        "Browser.grantPermissions",
        {"permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"], "origin": furnished.address},
    )
    furnished.go(f"/query/{QUERY}")
    only(furnished, "class", "car")
    seen = furnished.number("of [\\d,]+ rows in sight")
    open_column(furnished, "vessel")
    furnished.says(f"Of the {seen} rows that are seen", "[role=dialog]")
    furnished.click_text("values with counts")
    furnished.says(f"different in {seen} rows", "[role=dialog]")
    furnished.click("Copy with counts")
    furnished.says("copied", "[role=dialog]")
    text = driver.execute_async_script("navigator.clipboard.readText().then(arguments[0])")
    rows = [line.split("\t") for line in text.splitlines()]
    assert rows[0] == ["vessel", "count", "percent"]
    assert sum(int(row[1]) for row in rows[1:]) == seen
    furnished.click("Open as a query…")
    furnished.says("Rows of a sheet", "[role=dialog]")


def test_a_copied_column_is_a_list_of_values_alone(furnished, driver):
    driver.execute_cdp_cmd(
        "Browser.grantPermissions",
        {"permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"], "origin": furnished.address},
    )
    furnished.go(f"/query/{QUERY}")
    furnished.wait(lambda: "class" in heads(furnished), "no columns")
    furnished.click_cell("class", 0)
    keys = ActionChains(driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_DOWN, Keys.ARROW_DOWN).key_up(Keys.SHIFT)
    keys.key_down(Keys.CONTROL).send_keys("c").key_up(Keys.CONTROL).perform()
    furnished.says("3 cells copied, without the heading")
    text = driver.execute_async_script("navigator.clipboard.readText().then(arguments[0])")
    assert text.split() == ["foot", "car", "van"]


def test_answers_are_those_of_the_newest_table(furnished, driver, ferries):
    """A look at five rows, then a refresh with seven: the answers that are shown are those of the refresh."""
    furnished.go("/")
    furnished.paste("textarea[aria-label^='Address']", f"{ferries.bases['awkward']}/ways/seven?size=5")
    furnished.click("Create the query")
    furnished.says("No table yet")
    furnished.click("Ask once")
    furnished.click("Answers", "[role=tab]")
    furnished.says("of one call", "main")
    furnished.click("Refresh")
    furnished.says("Refreshed")
    furnished.click("Answers", "[role=tab]")
    furnished.says("of the refresh", "main")
    assert "of one call" not in furnished.find("main").text


def test_texts_that_mean_nothing_are_read_as_empty_when_somebody_says_so(furnished, driver):
    rows = "code\tfee\n" + "\n".join(f"K{n}\t{'-' if n % 5 == 0 else n}" for n in range(1, 21))
    furnished.go("/")
    furnished.paste("textarea[aria-label^='Address']", rows)
    furnished.says("Rows of a sheet", "[role=dialog]")
    furnished.click_text("Make a query")
    furnished.says("No table yet")
    furnished.click("Refresh")
    open_column(furnished, "fee")
    furnished.says("“-” 4 times", "[role=dialog]")
    furnished.click_text("Read as")
    furnished.wait(lambda: "-" not in furnished.cells("fee"), "it is still a text")
