"""Snapshots as things: named, pinned, seen as of, deleted with what goes told, and thinned out by a rule."""

import csv
import io
import re
from datetime import datetime
from urllib.parse import unquote

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.accessibility import barriers

pytestmark = pytest.mark.browser


def open_list(hands):
    hands.go("/query/1")
    hands.says("Refreshed")
    hands.click("3 snapshots")
    hands.click("Names, pins, sizes…")
    hands.says("in all", "[role=dialog] [role=status]")


def test_a_snapshot_is_named_pinned_seen_and_deleted(furnished, driver):
    open_list(furnished)
    names = furnished.shown("[role=dialog] input[placeholder='no name']")
    assert len(names) == 3
    names[1][0].send_keys("Before the storm", Keys.TAB)
    furnished.wait(lambda: "1 with a name" in furnished.says("with a name", "[role=dialog] label"), "not named")
    pins = furnished.shown("[role=dialog] button.pin")
    pins[2][0].click()
    furnished.wait(
        lambda: furnished.shown("[role=dialog] button.pin")[2][0].get_attribute("aria-pressed") == "true", "not pinned"
    )
    furnished.click("Check them")
    furnished.says("all 3 are as stored", "[role=dialog] [role=status]")
    assert barriers(driver) == {}
    # The oldest is seen, then deleted: the newest is in sight again.
    furnished.shown("[role=dialog] tbody td button.plain")[4][0].click()
    furnished.wait(lambda: not furnished.shown("[role=dialog]"), "the list stays open")
    assert "read-only" in furnished.says("As of", ".band")
    furnished.click("The date after")
    furnished.says("“Before the storm”", ".band")
    furnished.click("The date before")
    furnished.wait(lambda: "storm" not in furnished.says("As of", ".band"), "the oldest is not in sight")
    furnished.click("Names, pins, sizes…")
    furnished.says("in all", "[role=dialog] [role=status]")
    furnished.shown("[role=dialog] tbody input[type=checkbox]")[2][0].click()
    furnished.click("Delete 1 snapshot…")
    furnished.says("rows that no other snapshot has")
    furnished.click("Delete it")
    furnished.wait(lambda: len(furnished.shown("[role=dialog] input[placeholder='no name']")) == 2, "it is not deleted")
    furnished.click("Close")
    furnished.says("2 snapshots")
    furnished.wait(lambda: not furnished.shown(".band"), "a date that is gone is in sight")


def test_the_table_as_of_a_typed_date_is_marked_wherever_it_goes(furnished, driver):
    furnished.go("/query/1")
    newest = furnished.says("as of", "button.as-of")
    furnished.click("3 snapshots")
    furnished.type("input[name=date]", "32 June" + Keys.ENTER)
    furnished.says("“32 June” is no date.", "[role=alert]")
    furnished.type("input[name=date]", "before 2001" + Keys.ENTER)
    furnished.says("No snapshot is as old as that.")
    furnished.type("input[name=date]", "before yesterday" + Keys.ENTER)
    band = furnished.says("As of", ".band")
    assert "read-only" in band
    assert "✓ complete" in band
    # Its columns cannot be changed, and its address leads to it again.
    furnished.click("departs", "[role=columnheader] button")
    furnished.says("At a glance", "[role=tab]")
    assert all(words != "The column" for _, words, *_ in furnished.shown("[role=tab]"))
    driver.find_element("css selector", "body").send_keys(Keys.ESCAPE)
    address = furnished.wait(lambda: driver.current_url if "as-of=" in driver.current_url else None, "no date in it")
    rows = furnished.find("[role=grid]").get_attribute("aria-rowcount")
    first = furnished.cells("sailing_id")[:5]
    # What is copied and exported says of when it is.
    driver.execute_script("navigator.clipboard.writeText = async (text) => { window.copiedText = text; };")
    grid = furnished.find("[role=grid]")
    grid.send_keys(Keys.CONTROL, "a")
    grid.send_keys(Keys.CONTROL, "c")
    furnished.says("copied, date and headings first")
    date = band.split("·")[0].replace("As of", "").strip()
    lines = driver.execute_script("return window.copiedText").splitlines()
    assert lines[0].endswith(f", as of {date}")
    assert lines[1].startswith("sailing_id\t")
    furnished.click("Export")
    furnished.says(f"The snapshot of {date}")
    link = driver.find_element("css selector", "a[download][href*='.csv']").get_attribute("href")
    name, file = driver.execute_async_script(
        "const done = arguments[1]; fetch(arguments[0]).then(async (got) =>"
        " done([got.headers.get('content-disposition'), await got.text()]));",
        link,
    )
    assert str(len(list(csv.reader(io.StringIO(file))))) == rows
    moment = re.search(r"as-of=([^&]+)", unquote(address))[1]
    local = datetime.fromisoformat(moment).astimezone()
    assert f"{local:%Y-%m-%d %H.%M}" in unquote(name)
    driver.find_element("css selector", "body").send_keys(Keys.ESCAPE)
    # Back leads to the newest, the address to the date.
    furnished.click("See the newest")
    furnished.wait(lambda: not furnished.shown(".band"), "the band stays")
    assert furnished.says("as of", "button.as-of") == newest
    driver.back()
    furnished.says("As of", ".band")
    driver.get("about:blank")
    driver.get(address)
    furnished.says(date, ".band")
    furnished.wait(lambda: furnished.cells("sailing_id")[:5] == first, "other rows are in sight")
    assert barriers(driver) == {}
    furnished.click("What changed since")
    assert furnished.says("Between", ".sentence").startswith(f"Between {date.split(',')[0]} and ")


def test_a_rule_says_what_would_go_before_it_is_kept(furnished):
    furnished.go("/query/1")
    furnished.says("Refreshed")
    furnished.click_text("each stays", "button.phrase")
    furnished.click_text("They are thinned out", "label")
    furnished.says("Now none would go.", "[role=status]")
    furnished.type("input[name=stay-days]", "1\t")
    furnished.wait(
        lambda: "of 3 snapshots would go" in furnished.says("Now", "[role=status]"), "it is not said what goes"
    )
    furnished.type("input[name=stay-weeks]", "1\t")
    furnished.click("Done")
    furnished.says("each stays for 1 day, then one a week for 1 week, then one a month", "button.phrase")


def test_a_comparison_is_narrowed_to_what_rose_by_more_than_some_percent(furnished, driver):
    furnished.go("/query/1/compare")
    furnished.click_text("car fare", "button.change")
    everything = int(furnished.says("rows", "section [role=status]").split()[0].replace(",", ""))
    furnished.choose("select[name=way]", "rose")
    furnished.choose("select[name=measure]", "% of what it was")
    furnished.type("input[name=least]", "3\t")
    told = furnished.says(f" of {everything}", "section [role=status]")
    narrowed = int(told.split()[0].replace(",", ""))
    assert 0 < narrowed < everything
    driver.find_element("name", "largest-first").click()

    def percents():
        texts = [words for _, words, *_ in furnished.shown("[role=table] .difference small")]
        return [float(text.removesuffix(" %")) for text in texts if text]

    furnished.wait(lambda: percents() and percents() == sorted(percents(), reverse=True), "not the largest first")
    assert all(value > 2.9 for value in percents())
    furnished.type("input[name=least]", "5000\t")
    furnished.says("No change is like this.")
    furnished.click("all columns")
    furnished.wait(lambda: not furnished.shown("select[name=way]"), "the bar stays")


def test_what_is_seen_of_a_comparison_is_taken_away_and_its_sentence_copied(furnished, driver):
    furnished.go("/query/1/compare")
    furnished.click_text("car fare", "button.change")
    furnished.choose("select[name=way]", "rose")
    told = furnished.says(" of ", "section [role=status]")
    furnished.click("Export")
    furnished.says(f"changed in car fare, {told.split()[0]} row", ".popover, [role=dialog]")
    address = driver.find_element("css selector", "a[download][href*='.csv']").get_attribute("href")
    file = driver.execute_async_script(
        "const done = arguments[1]; fetch(arguments[0]).then((got) => got.text()).then(done);", address
    )
    head, *rows = csv.reader(io.StringIO(file.removeprefix("\ufeff")))
    assert head[0] == "change"
    assert len(rows) == int(told.split()[0].replace(",", ""))
    now, before = head.index("car fare"), head.index("car fare, before")
    assert all(row[0] == "changed" and float(row[now]) > float(row[before]) for row in rows)
    driver.execute_script("navigator.clipboard.writeText = async (text) => { window.copiedText = text; };")
    furnished.click("Copy the sentence")
    furnished.says("The sentence is copied.", "[role=status]")
    copied = driver.execute_script("return window.copiedText")
    assert copied.startswith(f"{furnished.find('h1').text.removesuffix(', then and now')}: Between ")
    assert " changed in " in copied
    assert "Copy the" not in copied


def test_a_text_is_found_in_what_differs(furnished, driver):
    furnished.go("/query/1/compare")
    furnished.says("all that differs", "button.state")
    name = furnished.find("[role=table] .row [role=cell]:nth-child(2)").text
    furnished.type("input[name=find]", name.lower())
    told = furnished.says(" of ", "aside [role=status]")
    number = int(told.split()[0])
    assert number < int(told.split()[2].replace(",", ""))
    furnished.wait(
        lambda: len(furnished.shown("[role=table] .row [role=cell]:nth-child(2)")) == number,
        "other rows are seen",
    )
    furnished.click("Export")
    furnished.says(f"with “{name.lower()}” in it")
    driver.find_element("css selector", "body").send_keys(Keys.ESCAPE)
    furnished.type("input[name=find]", "no such text")
    furnished.says("None of these rows has “no such text” in it, now or then.")
