"""Reports as people write and read them: from nothing, as of another date, by a stranger, from a file, by keyboard."""

import base64
import re
import shutil
import sqlite3
from contextlib import closing
from datetime import UTC, datetime, timedelta

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.accessibility import barriers, watch
from tests.browser.conftest import Hands, serving

pytestmark = pytest.mark.browser


def editor(hands):
    return hands.find(".cm-content")


def write(hands, text):
    """Type into the text, a word after the other, as its offers come with the words."""
    editor(hands).send_keys(text)


def take(hands, word, wanted):
    """Type a word, and take a figure that is offered for it."""
    write(hands, word)

    def offered():
        for one, words, *_ in hands.shown(".cm-tooltip-autocomplete li"):
            if words.startswith(wanted):
                one.click()
                return True
        return False

    hands.wait(offered, f"“{wanted}” is not offered")


def test_a_paragraph_with_four_figures_and_two_exhibits_from_nothing(furnished, driver):
    furnished.go("/reports")
    furnished.says("The harbour this week", "tbody")
    furnished.click("New report")
    furnished.click("An empty page")
    furnished.click("Edit this text")
    furnished.click("A figure…")
    furnished.choose("select[name=figure-query]", "Sailings by route")
    furnished.click_text("mean delay", "[role=dialog] li button")
    furnished.wait(lambda: furnished.shown(".cm-content .fig"), "no figure stands in the text")
    write(furnished, " is the mean. In all ")
    take(furnished, "sail", "sailings")
    write(furnished, " go, of which ")
    take(furnished, "late", "late sailings, in %")
    write(furnished, " are late; ")
    take(furnished, "route", "route with the highest delay")
    write(furnished, " is the worst.")
    furnished.wait(lambda: len(furnished.shown(".cm-content .fig")) == 4, "not four figures")
    assert barriers(driver) == {}
    furnished.click("Done")
    words = furnished.says("is the worst.", ".words")
    assert re.fullmatch(
        r"[\d.]+\smin is the mean. In all [\d,]+ go, of which [\d.]+\s% are late; .+ is the worst\.", words
    )
    for kind in ("Chart", "Table"):
        furnished.click("Add to the report")
        furnished.choose("select[name=exhibit-query]", "Sailings by route")
        furnished.click(kind, "[role=dialog] button")
        furnished.click("Done")
    furnished.says("2 · Sailings by route", ".exhibit")
    furnished.wait(lambda: driver.find_elements(By.CSS_SELECTOR, ".drawing svg path"), "nothing is drawn")
    furnished.type("input[name=report-title]", "From nothing" + Keys.TAB)
    furnished.says("kept", "[role=status]")
    # It is there when the page is loaded again, and in the list.
    furnished.wait(lambda: "kept" in [words for _, words, *_ in furnished.shown(".kept")], "it is not kept")
    driver.refresh()
    furnished.says("is the worst.", ".words")
    # A figure leads to its rows.
    share = next(one for one, text, *_ in furnished.shown(".words a.fig") if "%" in text)
    share.click()
    furnished.wait(lambda: set(furnished.cells("status")) == {"late"}, "other rows than those that are late")
    furnished.go("/reports")
    furnished.says("From nothing", "tbody")


def test_what_was_done_is_undone_and_a_figure_is_renamed_everywhere(furnished, driver):
    furnished.go("/report/1")
    furnished.says("are on the timetable", ".words")
    furnished.click("Edit this text")
    furnished.wait(lambda: furnished.shown(".cm-content .fig"), "no figures")
    driver.execute_script(
        "document.querySelector('.cm-content .fig').dispatchEvent(new MouseEvent('mousedown', {bubbles: true}))"
    )
    furnished.type("input[name=figure-name]", "crossings")
    furnished.type("input[name=figure-decimals]", "1")
    furnished.says("Now:", "[role=dialog]")
    furnished.click("Change it")
    furnished.click("Done")
    furnished.says(".0 sailings are on the timetable", ".words")
    furnished.click("Delete this exhibit")
    furnished.wait(lambda: len(furnished.shown(".exhibit")) == 2, "it is still there")
    furnished.click("Undo")
    furnished.wait(lambda: len(furnished.shown(".exhibit")) == 3, "it does not come back")
    furnished.click("Undo")
    furnished.wait(
        lambda: ".0 sailings are on" not in driver.find_element(By.CSS_SELECTOR, ".words").text, "not undone"
    )


@pytest.fixture
def twelve_days(tmp_path, driver, furnished_home):
    """The demo's snapshots of today, of ten days ago and of the day before that."""
    home = shutil.copytree(furnished_home, tmp_path / "home")
    now = datetime.now(UTC)
    with closing(sqlite3.connect(home / "workspace.sqlite", isolation_level=None)) as db:
        for back, place in ((11, 3), (10, 2)):
            db.execute(
                "UPDATE snapshot SET taken = ? WHERE id IN (SELECT id FROM (SELECT id, row_number() OVER"
                " (PARTITION BY query_id ORDER BY taken DESC, id DESC) AS place FROM snapshot) WHERE place = ?)",
                ((now - timedelta(days=back)).isoformat(timespec="seconds"), place),
            )
    with serving(home) as address:
        yield Hands(driver, address)


def test_a_report_as_of_ten_days_ago_and_by_route(twelve_days, driver):
    hands = twelve_days
    hands.go("/report/1")
    newest = hands.says("are on the timetable", ".words")
    assert "since" in newest
    assert "missing" not in newest
    hands.click("As of which date")
    hands.says("The newest tables", "[role=dialog]")
    days = [one for one, *_ in hands.shown("[aria-label='Days with tables'] button")]
    assert len(days) == 3
    days[1].click()
    hands.wait(lambda: hands.shown(".words")[0][1] != newest, "it reads as before")
    then = hands.says("are on the timetable", ".words")
    # A week before there was nothing yet, and that is said; the day before there was.
    assert "missing" in then
    hands.says("There is no other date to hold it against.", ".margin")
    hands.click("Against which date")
    hands.choose("select[name=against-rule]", "the date before")
    driver.switch_to.active_element.send_keys(Keys.ESCAPE)
    hands.wait(lambda: "missing" not in hands.shown(".words")[0][1], "no date before")
    assert "rows are new" in hands.says("3 · What changed", ".exhibit")
    assert barriers(driver) == {}
    hands.choose("select[name='choice-route']", "Skerrywick – Tarn Head")
    fewer = re.compile(r"This week (\d{2,3}) sailings")
    hands.wait(lambda: fewer.search(hands.shown(".words")[0][1]), "other routes are counted too")
    # What one exhibit lacks on that date is said beside it, and the rest stays.
    hands.says("has no snapshot as old as this table", ".margin")


def test_a_stranger_reads_it_at_its_address_and_sees_nothing_else(furnished, driver):
    furnished.go("/report/1")
    furnished.says("are on the timetable", ".words")
    furnished.click("Hand out")
    furnished.click("Give it an address")
    furnished.type("input[name=new-reader]", "Board" + Keys.ENTER)
    key = furnished.says("reader-", ".made code")
    assert barriers(driver) == {}
    driver.delete_all_cookies()
    driver.get("about:blank")
    driver.get(f"{furnished.address}/reports/the-harbour-this-week#key={key}")
    furnished.says("are on the timetable", ".words")
    assert driver.current_url == f"{furnished.address}/reports/the-harbour-this-week"
    assert key not in driver.page_source
    furnished.wait(lambda: driver.find_elements(By.CSS_SELECTOR, ".drawing svg path"), "its charts are not drawn")
    assert barriers(driver) == {}
    driver.execute_script("document.documentElement.dataset.mode = 'dark'")
    assert barriers(driver, colours=True) == {}
    # A choice is read at once.
    furnished.choose("select[name='choice route']", "Skerrywick – Tarn Head")
    furnished.wait(lambda: "choice+route=" in driver.current_url, "the choice is not asked for")
    furnished.says("are on the timetable", ".words")
    driver.get(f"{furnished.address}/")
    furnished.says("has no access to the workspace yet")


def test_its_file_is_read_from_disk_with_the_network_cut_and_printed(furnished, driver, tmp_path):
    furnished.go("/report/1")
    furnished.says("are on the timetable", ".words")
    furnished.wait(lambda: driver.find_elements(By.CSS_SELECTOR, ".drawing svg path"), "nothing is drawn")
    furnished.click("Hand out")
    before = set(driver.downloads.glob("*.html"))
    furnished.click_text("One HTML file")
    furnished.says("Saved,", "[role=status]")
    new = furnished.wait(lambda: set(driver.downloads.glob("*.html")) - before, "no file")
    file = tmp_path / "report.html"
    shutil.copy(new.pop(), file)
    driver.execute_cdp_cmd("Network.enable", {})
    offline = {"offline": True, "latency": 0, "downloadThroughput": 0, "uploadThroughput": 0}
    driver.execute_cdp_cmd("Network.emulateNetworkConditions", offline)
    try:
        driver.get_log("browser")
        driver.get(file.as_uri())
        furnished.says("are on the timetable", ".words")
        furnished.wait(lambda: driver.find_elements(By.CSS_SELECTOR, ".drawing svg path"), "its charts are not alive")
        assert [one["message"] for one in driver.get_log("browser")] == []
        watch(driver)
        assert barriers(driver) == {}
        # By keyboard from mark to mark.
        drawing = driver.find_element(By.CSS_SELECTOR, ".drawing")
        told = drawing.get_attribute("aria-label")
        drawing.send_keys(Keys.END)
        furnished.wait(lambda: drawing.get_attribute("aria-label") != told, "no mark is told")
        printed = driver.execute_cdp_cmd("Page.printToPDF", {"printBackground": True})
        pages = base64.b64decode(printed["data"])
        assert pages.startswith(b"%PDF")
        assert 1 <= len(re.findall(rb"/Type\s*/Page\b", pages)) <= 4
    finally:
        driver.execute_cdp_cmd(
            "Network.emulateNetworkConditions",
            {**offline, "offline": False, "downloadThroughput": -1, "uploadThroughput": -1},
        )


def test_a_report_is_written_by_keyboard_alone(furnished, driver):
    furnished.go("/reports")
    furnished.says("The harbour this week", "tbody")

    def tab_to(words, most=60):
        for _ in range(most):
            active = driver.switch_to.active_element
            label = active.get_attribute("aria-label") or active.text
            if label.strip() == words:
                return active
            active.send_keys(Keys.TAB)
        raise AssertionError(f"“{words}” is not reached")

    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.TAB)
    tab_to("New report").send_keys(Keys.ENTER)
    furnished.says("An empty page", "[role=dialog]")
    tab_to("An empty page").send_keys(Keys.ENTER)
    furnished.says("Write here.")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.TAB)
    tab_to("Edit this text").send_keys(Keys.ENTER)
    furnished.wait(
        lambda: "cm-content" in driver.switch_to.active_element.get_attribute("class"), "nothing to write in"
    )
    driver.switch_to.active_element.send_keys(
        "# Today", Keys.ENTER, Keys.ENTER, "All is well.", Keys.CONTROL, Keys.ENTER
    )
    furnished.says("All is well.", ".words p")
    assert furnished.shown(".words h2")[0][1] == "Today"
    furnished.wait(lambda: "kept" in [words for _, words, *_ in furnished.shown(".kept")], "it is not kept")
