"""A table as a picture: proposed, changed, kept, taken away, and led back to its rows."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.accessibility import barriers

pytestmark = pytest.mark.browser


def open_chart(hands):
    hands.go("/query/1")
    hands.says("Refreshed")
    hands.click("Chart", "[role=tab]")
    hands.wait(lambda: hands.driver.find_elements("css selector", ".drawing svg path"), "nothing is drawn")


def test_from_a_table_to_a_line_by_route_with_its_lowest_and_highest_and_back_to_the_rows(furnished, driver):
    open_chart(furnished)
    # It is proposed: the mean by day, a line for each route.
    drawing = driver.find_element("css selector", ".drawing")
    told = drawing.get_attribute("aria-label")
    assert "Lowest:" in told
    assert "highest:" in told
    words = driver.find_element("css selector", ".drawing svg").text
    assert "highest" in words
    assert "Harl Sound" in words
    assert barriers(driver) == {}
    # A click on a mark leads to its rows; here by keyboard.
    drawing.send_keys(Keys.END)
    furnished.wait(lambda: drawing.get_attribute("aria-label") != told, "no mark is told")
    at = drawing.get_attribute("aria-label").rsplit("). ", 1)[-1]
    route = at.split(", ")[0]
    drawing.send_keys(Keys.ENTER)
    furnished.wait(lambda: furnished.cells("route"), "no rows")
    furnished.wait(lambda: set(furnished.cells("route")) == {route}, f"other rows than those of {route}")
    furnished.says(f"route is {route}")
    # The chart is of what is seen.
    furnished.click("Chart", "[role=tab]")
    furnished.says("Drawn of the rows that are seen")
    furnished.click("All rows")
    furnished.wait(lambda: "Drawn of the rows" not in driver.page_source, "the filter stays")


def test_a_chart_is_changed_kept_with_the_query_and_taken_away(furnished, driver):
    open_chart(furnished)
    furnished.says("How sailings went", ".chip")
    furnished.click("another chart")
    furnished.click("Bars", "[role=radio]")
    furnished.choose("select[name=chart-figure]", "rows")
    furnished.choose("select[name=chart-x]", "route")
    furnished.choose("select[name=chart-series]", "status")
    furnished.choose("select[name=chart-how]", "on each other, as shares in %")
    furnished.wait(
        lambda: "rows by route" in driver.find_element("css selector", ".drawing").get_attribute("aria-label"),
        "other bars",
    )
    furnished.type("input[name=chart-title]", "All that went" + Keys.TAB)
    furnished.click("Keep with the query")
    furnished.click("Save")
    furnished.wait(lambda: not furnished.shown("header button.main[data-next=save]"), "it is not saved")
    open_chart(furnished)
    furnished.click_text("All that went", ".chip")
    furnished.says("All that went", ".chip.on")
    furnished.click("The figures as a table")
    cells = [float(words.split()[0]) for _, words, *_ in furnished.shown("table.listing td.right")]
    assert sum(cells) == pytest.approx(900, abs=5)
    assert barriers(driver) == {}
    furnished.click("Export", ".press.small")
    furnished.says("SVG", "[role=dialog]")
    svg = driver.execute_async_script(
        """const done = arguments[0];
        const made = URL.createObjectURL;
        URL.createObjectURL = (blob) => { blob.text().then(done); return made.call(URL, blob); };
        [...document.querySelectorAll('button')].find((one) => one.innerText.startsWith('SVG')).click();"""
    )
    assert svg.startswith("<svg")
    assert "arrived" in svg
    furnished.click("Export", ".press.small")
    furnished.says("A workbook", "[role=dialog]")
    size = driver.execute_async_script(
        """const done = arguments[0];
        const made = URL.createObjectURL;
        URL.createObjectURL = (blob) => { blob.arrayBuffer().then((all) => done(all.byteLength)); return made.call(URL, blob); };
        [...document.querySelectorAll('button')].find((one) => one.innerText.startsWith('A workbook')).click();"""
    )
    assert size > 5_000
    driver.find_element("css selector", "body").send_keys(Keys.ESCAPE)
    furnished.click("Keep it no more")
    furnished.says("All that went, not kept", ".chip.on")


def test_a_part_of_a_line_is_seen_larger_and_whole_again(furnished, driver):
    open_chart(furnished)
    drawing = driver.find_element("css selector", ".drawing")
    furnished.choose("select[name=chart-series]", "none")
    before = driver.find_element("css selector", ".drawing svg").text
    ActionChains(driver).move_to_element_with_offset(drawing, -150, 0).click_and_hold().move_by_offset(
        160, 0
    ).release().perform()
    furnished.says("Whole again")
    furnished.wait(lambda: driver.find_element("css selector", ".drawing svg").text != before, "it is as it was")
    furnished.click("Whole again")
    furnished.wait(lambda: "Whole again" not in driver.page_source, "it is not whole")


def test_what_cannot_be_drawn_is_said_and_a_figure_is_large(furnished):
    open_chart(furnished)
    furnished.choose("select[name=chart-x]", "route")
    furnished.says("route holds neither times nor numbers")
    furnished.choose("select[name=chart-x]", "departs")
    furnished.wait(lambda: furnished.driver.find_elements("css selector", ".drawing svg path"), "nothing is drawn")
    furnished.click("Figure", "[role=radio]")
    furnished.choose("select[name=chart-figure]", "rows")
    furnished.wait(lambda: furnished.shown(".figures strong")[0][1].replace(",", "").isdigit(), "no figure")
    furnished.choose("select[name=chart-each]", "route")
    furnished.wait(lambda: len(furnished.shown(".figures strong")) == 9, "not one for each route")
