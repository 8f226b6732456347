"""Tables are compared: by what counts as the same, by columns that are proposed, and with a sheet of last quarter."""

import csv
import io

import openpyxl
import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.accessibility import barriers

pytestmark = pytest.mark.browser


def fetched(driver, ending):
    """The rows of the file that is offered with an ending, as texts."""
    link = driver.find_element("css selector", f"a[download][href*='.{ending}']").get_attribute("href")
    text = driver.execute_async_script(
        "const done = arguments[1]; fetch(arguments[0]).then((got) => got.text()).then(done);", link
    )
    return list(csv.reader(io.StringIO(text.removeprefix("\ufeff"))))


def test_fares_that_rose_by_more_than_some_percent_without_one_column_are_exported(furnished, driver):
    furnished.go("/query/1/compare")
    before = furnished.says("changed", ".sentence")
    furnished.click_text("status", "button.change")
    furnished.click("ignore it")
    sentence = furnished.says("only in what counts as the same", ".sentence")
    assert sentence != before
    furnished.says("status is ignored", "button.how")
    # Rows that differ in it alone are seen apart, with what they were.
    furnished.click_text("≈ differ only", "button.state")
    furnished.wait(lambda: furnished.shown(".cell.alike s"), "what they were is not seen")
    furnished.click_text("car fare", "button.change")
    furnished.choose("select[name=way]", "rose")
    furnished.choose("select[name=measure]", "% of what it was")
    furnished.type("input[name=least]", "3\t")
    told = furnished.says(" of ", "section [role=status]")
    number = int(told.split()[0].replace(",", ""))
    furnished.click("Export")
    furnished.says(f"{number} row", ".popover, [role=dialog]")
    head, *rows = fetched(driver, "csv")
    now, then = head.index("car fare"), head.index("car fare, before")
    assert len(rows) == number > 0
    assert all(float(row[now]) > float(row[then]) * 1.03 for row in rows)
    driver.find_element("css selector", "body").send_keys(Keys.ESCAPE)
    # It is kept with the query: the brief says so, and the desk counts by it.
    furnished.click_text("status is ignored", "button.how")
    assert barriers(driver) == {}
    furnished.click("Keep this with the query")
    furnished.wait(lambda: not furnished.shown("input[name=match]"), "it is not kept")
    furnished.go("/query/1")
    furnished.says("status is ignored", "aside")
    changed = furnished.says("changed", "header").split("●")[1].split()[0]
    furnished.go("/query/1/compare")
    assert f"{changed} changed" in furnished.says("changed", ".sentence")


def test_prices_up_by_more_than_ten_percent_are_told_by_group_and_become_a_query(furnished, driver):
    furnished.go("/")
    furnished.click_text("Fares by day ahead", "a")
    furnished.says("Fares by day ahead", "h1")
    number = driver.current_url.rsplit("/", 1)[1]
    furnished.go(f"/query/{number}/compare")
    furnished.click_text("price", "button.change")
    told = furnished.says("The sum was", "[role=group][aria-label='What the changes of price come to']")
    assert "of rows that changed" in told
    furnished.choose("select[name=way]", "rose")
    furnished.choose("select[name=measure]", "% of what it was")
    furnished.type("input[name=least]", "10\t")
    furnished.says(" of ", "section [role=status]")
    grouped = furnished.shown("[role=columnheader]")[1][1].split("\n")[0]
    furnished.choose("select[name=grouped-by]", grouped)
    furnished.wait(lambda: furnished.shown("button.group"), "no groups")
    counts = [int(words.split()[-1]) for _, words, *_ in furnished.shown("button.group")]
    total = int(furnished.says(" of ", "section [role=status]").split()[0])
    assert sum(counts) == total > 0
    furnished.shown("button.group")[0][0].click()
    furnished.says(f"{counts[0]} of ", "section [role=status]")
    furnished.click("Export")
    furnished.says(f"{counts[0]} row", ".popover, [role=dialog]")
    head, *rows = fetched(driver, "csv")
    now, then = head.index("price"), head.index("price, before")
    assert len(rows) == counts[0]
    assert all(float(row[now]) > float(row[then]) * 1.1 for row in rows)
    assert len({row[head.index(grouped)] for row in rows}) == 1
    assert barriers(driver) == {}
    # The changes of every date are a query of their own.
    furnished.click("A new query of the changes of every date")
    furnished.says("Changes of Fares by day ahead", "h1")
    furnished.says("the changes of the last 30 days", "aside")
    furnished.wait(lambda: furnished.cells("change"), "no changes")
    assert set(furnished.cells("change")) <= {"new", "gone", "changed"}


def test_a_tolerance_is_tried_and_taken_off_again(furnished):
    furnished.go("/query/1/compare")
    before = furnished.says("changed", ".sentence")
    furnished.click_text("rows match by", "button.how")
    furnished.choose("select[name=alike-column]", "car fare")
    furnished.choose("select[name=alike-by]", "numbers within some percent")
    furnished.type("input[name=alike-percent]", "100")
    furnished.click("Add the rule")
    furnished.says("car fare within 100 %", ".rules")
    furnished.wait(lambda: furnished.says("Between", ".sentence") != before, "nothing is counted apart")
    furnished.click("As the query says")
    furnished.wait(lambda: furnished.says("Between", ".sentence") == before, "the rule stays")


def test_a_workbook_of_last_quarter_is_laid_over_today(furnished, driver, tmp_path):
    furnished.go("/query/1")
    ids, fares = furnished.cells("sailing_id")[:3], furnished.cells("car fare")[:3]
    book = openpyxl.Workbook()
    book.active.append(["Sailing", "car fare", "remark"])
    for at, (name, fare) in enumerate(zip(ids, fares, strict=True)):
        book.active.append([name, float(fare) + at, "checked"])
    book.active.append(["SK-00001", 1, "long gone"])
    book.save(tmp_path / "Last quarter.xlsx")
    furnished.go("/sheets")
    furnished.wait(lambda: driver.find_elements("css selector", "input[type=file]"), "no file can be added")
    driver.find_element("css selector", "input[type=file]").send_keys(str(tmp_path / "Last quarter.xlsx"))
    furnished.click("Store the sheet, without a query")
    furnished.says("Last quarter", "main")
    furnished.go("/query/1/compare")
    furnished.click("Compare with…", "a")
    furnished.wait(
        lambda: any("Last quarter" in one.text for one in furnished.find("select").find_elements("tag name", "option")),
        "the sheet is not offered",
    )
    driver.execute_script(
        "const one = document.querySelector(\"select[aria-label='The earlier table']\");"
        "one.value = [...one.options].find((own) => own.text.includes('Last quarter')).value;"
        "one.dispatchEvent(new Event('change', { bubbles: true }));"
    )
    # The id has another heading there: that is said, and what looks the same is offered.
    furnished.says("sailing_id is not in both tables", ".sentence")
    furnished.says("Sailing went and sailing_id came: 3 of 4 values of the one are in the other.")
    furnished.click("Compare them as one column")
    furnished.says("Sailing is called sailing_id now", ".sentence")
    # Taken apart again, and paired by hand.
    furnished.click_text("rows match by", "button.how")
    furnished.click("Part Sailing and sailing_id")
    furnished.says("sailing_id is not in both tables", ".sentence")
    furnished.choose("select[name=pair-then]", "Sailing")
    furnished.choose("select[name=pair-now]", "sailing_id")
    furnished.click("Pair them")
    sentence = furnished.says("Sailing is called sailing_id now", ".sentence")
    driver.find_element("css selector", "body").send_keys(Keys.ESCAPE)
    assert "1 is gone, 2 changed in 1 column" in sentence.replace("\xa0", " ")
    furnished.click_text("car fare", "button.change")

    def differences():
        told = [words.split("\n")[0] for _, words, *_ in furnished.shown("[role=table] .row .difference")]
        return [float(one.replace("−", "-")) for one in told if one]

    furnished.wait(differences, "no differences are seen")
    assert differences() == [-1, -2]
    assert barriers(driver) == {}
    # The date of a side is typed; one before all others is said.
    furnished.type("input[aria-label='The later table, a date']", "before 1 Jan 2020" + Keys.ENTER)
    assert "The first date is" in furnished.says("The first date", "[role=alert]")
    newest = furnished.find("select[aria-label='The later table as of']").get_attribute("value")
    furnished.type("input[aria-label='The later table, a date']", "yesterday" + Keys.ENTER)
    furnished.wait(
        lambda: furnished.find("select[aria-label='The later table as of']").get_attribute("value") < newest,
        "it is the newest still",
    )


def test_the_changes_are_gone_through_by_keyboard(furnished, driver):
    furnished.go("/query/1/compare")
    furnished.click_text("● changed", "button.state")
    furnished.wait(lambda: furnished.shown("[role=table] .row.changed"), "no changed rows")
    table = furnished.find("[role=table]")
    table.send_keys("n")
    first = furnished.says("", ".cell.here")
    assert "changed" in driver.find_element("css selector", ".cell.here").get_attribute("class")
    table.send_keys("n")
    furnished.wait(lambda: driver.find_elements("css selector", ".cell.here") and True, "nothing is marked")
    table.send_keys("p")
    furnished.wait(lambda: furnished.says("", ".cell.here") == first, "it does not come back")
    # A heading sorts, whichever way.
    furnished.click_text("sailing_id", "[role=columnheader] button")
    furnished.click_text("sailing_id", "[role=columnheader] button")
    furnished.find("[role=columnheader][aria-sort=descending]")
    names = [words for _, words, *_ in furnished.shown("[role=table] .row [role=cell]:nth-child(2)")]
    furnished.wait(
        lambda: (
            (told := [words for _, words, *_ in furnished.shown("[role=table] .row [role=cell]:nth-child(2)")])
            and told == sorted(told, reverse=True)
        ),
        f"not sorted: {names[:5]}",
    )
    assert barriers(driver) == {}
    # Enter on a change opens the story of its row.
    table.send_keys("n", Keys.ENTER)
    furnished.says("known by sailing_id", "header")
