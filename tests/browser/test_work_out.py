"""Working a table out: from a heading, by typing what one wants, over tables and dates; and when a field goes away."""

import asyncio
import json
from datetime import UTC, datetime, timedelta

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Hands, serving
from tests.conftest import Awkward
from tests.waiting import LeapingClock
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.demo.running import Running
from tin_bucket.engine.engine import Engine
from tin_bucket.store.workspace import Workspace

pytestmark = pytest.mark.browser
DAYS = 12


def rows(day):
    """The sailings of a day: those of later days are later."""
    return [
        {"id": f"S{at}", "route": ["Harl – Brae", "Oxnith – Tarn"][at % 2], "delay": day + at, "port": f"00{at % 3}"}
        for at in range(6)
    ]


class Line:
    """A person at the lines of a brief."""

    def __init__(self, hands):
        self.hands = hands

    def add(self, text):
        """Type what is wanted, and take what is found first."""
        self.hands.type("[name=add-line]", text)
        self.hands.wait(lambda: self.hands.shown("[role=option]"), f"no line is found by {text}")
        self.hands.find("[name=add-line]").send_keys("\ue007")
        self.hands.find("form.form")

    def put(self, label, text):
        """Fill in a field of the form."""
        self.hands.type(self._field(label), text)

    def choose(self, label, words):
        """Choose in a field of the form."""
        self.hands.choose(self._field(label), words)

    def _field(self, label):
        self.hands.find("form.form")
        self.hands.driver.execute_script(
            """const label = arguments[0];
            for (const one of document.querySelectorAll('form.form [data-mark]')) delete one.dataset.mark;
            const form = document.querySelector('form.form');
            const named = [...form.querySelectorAll('[aria-label]')].find((one) => one.ariaLabel === label);
            const under = [...form.querySelectorAll('label')].find(
              (one) => one.querySelector('.label')?.innerText.trim() === label);
            (named ?? under?.querySelector('input, select')).dataset.mark = 'yes';""",
            label,
        )
        return "form.form [data-mark=yes]"

    def done(self):
        """Use the line."""
        self.hands.click("Done", "form.form button")
        self.hands.wait(lambda: not self.hands.shown("form.form"), "the form stays open")

    def says(self, number, text):
        """Wait until a line says something."""
        return self.hands.says(text, f"li[data-line='{number}']")


def shows(hands, column, values):
    """Wait until a column has some values in sight."""
    hands.wait(lambda: hands.cells(column) == values, f"{column} does not show {values}")


@pytest.fixture
def twelve_days(tmp_path, driver):
    """A query with a snapshot of each of twelve days, on a service that a test changes; gives hands, and the service."""
    home = tmp_path / "home"
    workspace = Workspace(home, create=True)
    awkward = Awkward()
    with Running(awkward.app()) as running:
        workspace.services.save(Service(id="own", name="Own", base=running.base))
        brief = {"name": "Sailings", "ask": {"service": "own", "path": "/sailings"}, "take": {"records": "$.rows[*]"}}
        query = workspace.queries.add(load_brief({**brief, "keep": {"match": ["id"]}}), datetime.now(UTC))

        def serve(records):
            body = json.dumps({"rows": records}).encode()
            awkward.answers["/sailings"] = (200, {"Content-Type": "application/json"}, body)

        async def go():
            for day in range(DAYS):
                serve(rows(day))
                engine = Engine(workspace, LeapingClock(datetime.now(UTC) - timedelta(days=DAYS - 1 - day)))
                await engine.refresh(query.id, {}, "by hand")
                await engine.close()

        asyncio.run(go())
        workspace.close()
        with serving(home) as address:
            yield Hands(driver, address), serve


def test_label_by_threshold_from_a_heading_then_count_and_share_by_label(furnished):
    furnished.go("/query/1")
    furnished.says("delay", "[role=columnheader]")
    line = Line(furnished)
    furnished.column("delay")
    furnished.click_text("delay", "[role=columnheader] button")
    furnished.click("Work out", "[role=tab]")
    furnished.click("Label by threshold…")
    line.put("Name of the label", "late")
    line.put("Label 1", "late")
    line.put("Value of label 1", "10")
    line.put("Otherwise", "on time")
    furnished.says("on time ·", "form.form")
    line.done()
    line.says(1, "late is “late” when delay is above 10, otherwise “on time”")
    assert set(furnished.cells("late")) <= {"late", "on time", ""}
    line.add("percent by late")
    furnished.says("groups of", "form.form")
    line.done()
    furnished.wait(lambda: furnished.cells("late") == ["late", "on time", ""], "no row a label")
    shares = [float(words) for words in furnished.cells("share of rows in %")]
    assert sum(shares) == pytest.approx(100, abs=0.01)
    # A figure leads to the rows behind it.
    counted = int(furnished.cells("rows")[0].replace(",", ""))
    furnished.click_cell("rows", 0)
    furnished.says(f"{counted} rows counted here", "[role=dialog]")
    furnished.click("see them")
    furnished.says(f"{counted} rows are counted in a row of line 2", "[role=status]")
    furnished.click("Back to the table")
    # A click on a line shows its table, and one on a word its form.
    furnished.click("See the table behind line 1")
    furnished.says("after line 1 of 2")
    furnished.click("see the end")
    furnished.click_text("is above 10", "[role=button]")
    line.put("Value of label 1", "20")
    line.done()
    line.says(1, "is above 20")


def test_split_then_the_same_table_as_of_ten_days_ago(twelve_days):
    hands, _ = twelve_days
    line = Line(hands)
    hands.go("/query/1")
    line.add("split route")
    line.put("Separator", " – ")
    line.put("Names of the columns", "from, to")
    line.done()
    shows(hands, "from", ["Harl", "Oxnith"] * 3)
    line.add("filter delay")
    line.put("Value of condition 1", "12")
    line.done()
    line.says(2, "keep rows where delay is above 12")
    shows(hands, "id", ["S2", "S3", "S4", "S5"])
    hands.click_text("as of ", "button.as-of")
    date = hands.find("[role=slider][aria-label='as of']")
    date.send_keys(*[Keys.ARROW_LEFT] * 8)
    hands.says("0", "li[data-line='2']")
    hands.wait(lambda: not hands.shown("[role=gridcell]"), "rows of the newest date are still in sight")
    date.send_keys(Keys.END, Keys.ARROW_LEFT, Keys.ARROW_LEFT)
    hands.wait(lambda: hands.cells("id") == ["S4", "S5"], "the rows of two days ago are not in sight")
    shows(hands, "to", ["Brae", "Tarn"])


def test_when_the_api_drops_a_field_the_line_says_so_and_the_table_up_to_it_stays(twelve_days):
    hands, serve = twelve_days
    line = Line(hands)
    hands.go("/query/1")
    line.add("order id")
    line.done()
    line.add("label delay")
    line.put("Name of the label", "late")
    line.put("Label 1", "late")
    line.put("Value of label 1", "13")
    line.done()
    hands.click("Save")
    serve([{key: value for key, value in row.items() if key != "delay"} for row in rows(0)])
    hands.click("Refresh")
    told = hands.says("no column “delay” here", "li[data-line='2']")
    assert "The table is as it was before this line." in told
    shows(hands, "id", [f"S{at}" for at in range(6)])
    # Yesterday has the field, and the line with it.
    hands.click_text("as of ", "button.as-of")
    hands.find("[role=slider][aria-label='as of']").send_keys(Keys.ARROW_LEFT, Keys.ARROW_LEFT)
    hands.wait(lambda: hands.cells("late")[-1] == "late", "yesterday is not worked out")


def test_merge_ids_with_details_and_prices_and_pick_the_cheapest(furnished):
    furnished.go("/query/1")
    line = Line(furnished)
    line.add("join")
    line.choose("From", "Ports · 12 rows")
    furnished.click_text("code is port_code", "button")
    furnished.click("name", "label")
    line.done()
    line.says(1, "bring in name of Ports where code is port_code")
    line.add("cheapest car fare route")
    line.choose("Direction 1", "lowest first")
    line.put("How many", "1")
    line.done()
    line.says(2, "keep the first 1 by car fare of each route")
    routes = furnished.cells("route")
    assert len(routes) == len(set(routes)) == 9
    furnished.click_cell("name", 0)
    assert "brought in from Ports of" in furnished.says("brought in from Ports", "[role=dialog]")


def test_the_top_of_one_table_is_what_another_query_asks_for(twelve_days):
    hands, serve = twelve_days
    line = Line(hands)
    hands.go("/query/1")
    line.add("top two delay")
    line.done()
    line.says(1, "keep the first 2 by delay, highest first")
    hands.click("Save")
    hands.click("This query")
    hands.click("New query from this table")
    hands.says("Sailings, worked out", "h1")
    shows(hands, "id", ["S5", "S4"])
    line.add("link id")
    line.put("Name", "link")
    line.put("Text, with columns in braces", "/detail/{id}")
    line.done()
    shows(hands, "link", ["/detail/S5", "/detail/S4"])
    hands.click("Save")
    serve([{"id": "S9", "route": "Harl – Brae", "delay": 99, "port": "001"}])
    hands.click("Refresh")
    hands.wait(lambda: hands.cells("link") == ["/detail/S9"], "what it starts from was not refreshed")


def test_a_refresh_right_behind_save_waits_for_it(twelve_days):
    hands, serve = twelve_days
    line = Line(hands)
    hands.go("/query/1")
    line.add("top two delay")
    line.done()
    line.says(1, "keep the first 2 by delay, highest first")
    slow = {"offline": False, "latency": 400, "downloadThroughput": -1, "uploadThroughput": -1}
    hands.driver.execute_cdp_cmd("Network.enable", {})
    hands.driver.execute_cdp_cmd("Network.emulateNetworkConditions", slow)
    serve([{"id": "S9", "route": "Harl – Brae", "delay": 99, "port": "001"}])
    try:
        hands.click("Save")
        hands.click("Refresh")
        hands.wait(lambda: hands.cells("id") == ["S9"], "it was not refreshed")
    finally:
        hands.driver.execute_cdp_cmd("Network.emulateNetworkConditions", {**slow, "latency": 0})
    assert not hands.shown("[role=alert]")


def test_what_the_values_suggest_is_taken_and_selected_cells_are_dropped(furnished, driver):
    furnished.go("/query/1")
    furnished.says("route", "[role=columnheader]")
    line = Line(furnished)
    furnished.click_text("route", "[role=columnheader] button")
    furnished.click("Work out", "[role=tab]")
    furnished.says("“ – ” parts", ".offer")
    furnished.click_text("split at “–”", ".offer")
    line.done()
    line.says(1, "split route at “ – ” into route 1 and route 2")
    routes = furnished.cells("route")
    furnished.wait(lambda: furnished.cells("route 1") == [one.split(" – ")[0] for one in routes], "no first parts")
    furnished.click_cell("status", 0)
    driver.switch_to.active_element.send_keys(Keys.ESCAPE)
    chosen = set(furnished.cells("status")[:4])
    ActionChains(driver).key_down(Keys.SHIFT).send_keys(Keys.DOWN * 3).key_up(Keys.SHIFT).perform()
    furnished.click("Drop these")
    furnished.says("rows dropped here", "form.form")
    line.done()
    line.says(2, "keep rows where status is none of")
    furnished.wait(lambda: not chosen & set(furnished.cells("status")), "the rows are still there")


def test_a_sheet_s_texts_become_numbers_that_are_summed(hands, tmp_path):
    file = tmp_path / "fares.csv"
    ports = ["Oxnith", "Harl, east", "Brae"]
    rows = [f'{at},"{ports[at % 3]}",{"n/a" if at == 4 else f"1 20{at % 10},50"}' for at in range(12)]
    file.write_text("ticket;port;fare\n" + "\n".join(rows).replace('",', '";').replace(',"', ';"'))
    hands.go("/sheets")
    hands.says("No sheet yet")
    hands.driver.find_element("name", "sheet-file").send_keys(str(file))
    hands.click("Store the sheet, without a query")
    hands.click("New query", "td button")
    hands.says("12 rows")
    hands.says("there is nothing to refresh")
    assert "Refresh" not in [words for _, words, *_ in hands.shown("header button")]
    line = Line(hands)
    hands.column("fare")
    hands.click_text("fare", "[role=columnheader] button")
    hands.click("Work out", "[role=tab]")
    hands.says("numbers with a decimal comma", ".offer")
    hands.click_text("read as decimal", ".offer")
    line.done()
    line.says(1, "read fare as decimal with a decimal comma, blank where “n/a”")
    hands.wait(lambda: hands.cells("fare")[:2] == ["1200.5", "1201.5"], "no numbers")
    line.add("keep rows where")
    line.choose("Column of condition 1", "port")
    line.choose("Test of condition 1", "is one of")
    line.put("Values of condition 1", "Oxnith, Harl, east,")
    # The comma within a value ends nothing, however late the column's values are there.
    hands.wait(lambda: [words for _, words, *_ in hands.shown(".values .one")] == ["Oxnith", "Harl, east"], "parted")
    line.done()
    line.says(2, "keep rows where port is one of Oxnith, “Harl, east”")
    line.add("sum fare by port")
    line.done()
    hands.wait(lambda: hands.cells("port") == ["Harl, east", "Oxnith"], "not two rows")
    assert [float(one) for one in hands.cells("sum of fare")] == [3609.5, 4820]
    hands.click("Export")
    hands.says("A workbook, .xlsx")
