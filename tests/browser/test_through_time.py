"""A row's story, a figure through time, and what is watched on the desk."""

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.accessibility import barriers

pytestmark = pytest.mark.browser


def test_a_row_of_a_comparison_tells_its_story_and_is_watched(furnished, driver):
    furnished.go("/query/1/compare")
    furnished.click_text("car fare", "button.change")
    was = furnished.says("", "[role=table] .cell.changed s")
    now = furnished.says("", "[role=table] .cell.changed b")
    furnished.wait(lambda: furnished.shown(".sign a"), "no row has a story")
    furnished.shown(".sign a")[0][0].click()
    furnished.says("known by sailing_id · on", "header")
    told = furnished.says("car fare", "ol.events li")
    assert was in told
    assert now in told
    assert "came" in [words for _, words, *_ in furnished.shown("ol.events li strong")]
    assert barriers(driver) == {}
    # A change leads to the call that it came with.
    furnished.click(now, "ol.events button.now")
    card = furnished.says("Call ", "[role=dialog]")
    assert f"{float(now):g}" in card
    driver.find_element("css selector", "body").send_keys(Keys.ESCAPE)
    furnished.click("Watch")
    furnished.says("Watch no more")
    name = furnished.find("h1").text
    furnished.go("/")
    watched = furnished.says(name, "[aria-label=Watched] article")
    assert f"{float(now):g}" in watched
    furnished.click(f"Watch {name} · car fare no more")
    furnished.wait(lambda: not furnished.shown("[aria-label=Watched]"), "it is still watched")


def test_the_cell_of_a_table_leads_to_the_story_of_its_row(furnished):
    furnished.go("/query/1")
    cell = furnished.cells("sailing_id")[0]
    furnished.click_text(cell, "[role=gridcell]")
    furnished.click("The story of this row")
    furnished.wait(lambda: furnished.find("h1").text == cell, "it is another row")


def test_a_figure_is_seen_over_time_by_mouse_and_keyboard(furnished, driver):
    furnished.go("/query/1")
    furnished.click("delay", "[role=columnheader] button")
    furnished.click("See it through time")
    furnished.says("mean delay", "main")
    rows = furnished.shown("table tbody tr")
    assert len(rows) == 3
    value = rows[0][1].split("\t")[1].split()[0] if "\t" in rows[0][1] else rows[0][1].split("\n")[1]
    assert float(value.replace("−", "-"))
    # The line says what it shows, and each of its dates, without being seen.
    line = driver.find_element("css selector", ".line svg")
    assert "Lowest" in line.get_attribute("aria-label")
    line.send_keys(Keys.HOME)
    before = line.get_attribute("aria-label")
    line.send_keys(Keys.ARROW_RIGHT)
    furnished.wait(lambda: line.get_attribute("aria-label") != before, "no other date")
    furnished.choose("select[aria-label=Figure]", "rows")
    furnished.says("rows", "th")
    counts = [words for _, words, *_ in furnished.shown("table tbody tr td:nth-child(2)")]
    assert all(int(one.replace(",", "")) > 1_000 for one in counts)
    assert barriers(driver) == {}
    furnished.click("Export")
    furnished.says("rows on 3 dates", "[role=dialog], .popover")
    link = furnished.find("a[download][href*='figure.csv']").get_attribute("href")
    text = driver.execute_async_script(
        "const done = arguments[1]; fetch(arguments[0]).then((got) => got.text()).then(done);", link
    )
    assert [line.split(",")[1] for line in text.splitlines()[1:]] == [one.replace(",", "") for one in counts[::-1]]
    driver.find_element("css selector", "body").send_keys(Keys.ESCAPE)
    furnished.click("Watch")
    furnished.go("/")
    furnished.click_text("rows", "[aria-label=Watched] a")
    furnished.says("through time", "h1")
