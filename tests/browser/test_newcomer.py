"""From an empty desk to a first snapshot, what is missing made where it is missing, and the keyboard on its way."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.jobs import Counted, World

pytestmark = pytest.mark.browser


@pytest.fixture
def world(hands, ferries):
    return World(Counted(hands), ferries)


def step(hands):
    """The step that is said to be next on the way to the first snapshot."""
    return hands.find("[aria-current=step]").text


def test_an_empty_desk_has_services_to_try_and_the_first_query_says_what_is_next(hands):
    hands.go("/")
    hands.says("The desk is empty")
    hands.click("Start the practice services")
    hands.click("Sailings of four weeks")
    hands.says("Nothing has been sent yet")
    hands.click("Create the query")
    hands.says("Nothing is kept of it", "aside")
    assert step(hands) == "Look"
    hands.click("Ask once")
    hands.wait(lambda: step(hands) == "Pages", "pages are not next")
    hands.click("Turn pages by number")
    hands.wait(lambda: step(hands) == "Rows", "rows are not next")
    hands.click("Take its items as rows")
    hands.wait(lambda: step(hands) == "Refresh", "the refresh is not next")
    hands.click("Refresh")
    hands.says("✓ complete", "header")
    # The table comes into sight, and the way is done.
    hands.says("sailing_id", "[role=columnheader]")
    assert not hands.shown("[aria-current=step]")


def test_a_question_without_parameters_offers_its_parts_and_a_sheet_is_added_there(world, hands):
    hands.go("/")
    world.do.paste_on_desk(f"curl '{world.operations}/ports/007' -H 'X-Skerrywick-Key: skw-demo-4b7e21f09c5d'")
    hands.says("Nothing has been sent yet")
    hands.click("can be changed each time", "label")
    hands.click("Create the query")
    hands.click("asked once", ".phrase")
    hands.says("Which part of the question is another one in each call?", "[role=dialog]")
    hands.choose("select[name=each-part]", "007 in /ports/007")
    hands.choose("select[name=each-by]", "rows of a sheet")
    field = hands.find("textarea[aria-label='Cells of a new sheet']")
    hands.driver.execute_script(
        "const data = new DataTransfer(); data.setData('text/plain', 'code\\tnote\\n007\\ta\\n000\\tb\\n');"
        "arguments[0].dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true}))",
        field,
    )
    hands.says("Rows of a sheet", "[role=dialog]")
    hands.type("input[name=sheet-name]", "Two ports")
    hands.click("Store the sheet")
    hands.click("Done")
    hands.says("row of the sheet “Two ports”", "aside")
    hands.says("2 values: 007 · 000", "aside")
    hands.says("/ports/{port}", "aside")


def test_the_question_takes_a_full_address_of_a_service_that_is_added_there(world, hands):
    world.begun()
    hands.click("/sailings", ".phrase")
    hands.type("input[name=path]", f"{world.company.bases['statistics']}/passengers\t")
    hands.says("No service is at", "[role=dialog]")
    done = [one for one, words, *_ in hands.shown("[role=dialog] button") if words == "Done"]
    assert not done[0].is_enabled()
    hands.click("Add it")
    hands.wait(lambda: hands.find("input[name=path]").get_attribute("value") == "/passengers", "the path is not left")
    hands.click("Done")
    hands.says(f"{world.company.bases['statistics']}/passengers", "aside")


def test_rows_of_a_sheet_are_looked_at_and_replaced(hands, tmp_path):
    old, new = tmp_path / "ports.csv", tmp_path / "newer.csv"
    old.write_text("code,berths\n" + "".join(f"{at:04},{at}\n" for at in range(3000)))
    new.write_text("code\n7777\n")
    hands.go("/sheets")
    hands.says("No sheet yet")
    hands.driver.find_element("name", "sheet-file").send_keys(str(old))
    hands.click("Make a query of it")
    hands.says("No table yet")
    hands.go("/sheets")
    hands.click("ports")
    hands.says("3,000 rows of ports.csv", "[role=dialog]")
    hands.says("0005", "[role=dialog] [role=listitem]")
    # The last row is read when it comes into sight.
    hands.driver.execute_script("document.querySelector('.sheet-rows').scrollTop = 1e9")
    hands.says("2999", "[role=dialog] [role=listitem]")
    hands.click("Close")
    hands.find("table")
    hands.driver.find_element("css selector", "input[aria-label='File with new rows for ports']").send_keys(str(new))
    hands.says("take the place of 3,000 rows, read by ports", "[role=dialog]")
    hands.says("berths is a column of the old rows and not of these", "[role=dialog]")
    hands.click("Replace the rows")
    hands.says("newer.csv", "td")
    assert len(hands.shown("tbody tr")) == 1
    # A second sheet of the name is asked about.
    hands.driver.find_element("name", "sheet-file").send_keys(str(old))
    hands.says("There is a sheet “ports” already: 1 row, read by ports", "[role=dialog]")
    hands.click("Store the sheet, without a query")
    hands.says("ports 2", "td")


def test_several_conditions_of_one_column_hold_at_once(furnished):
    furnished.go("/query/2")
    rows = furnished.number("rows")
    furnished.click("class", "[role=columnheader] button")
    text = "input[aria-label='Text']"
    furnished.choose("select[aria-label='Text is there or not']", "without")
    furnished.type(text, f"car{Keys.ENTER}")
    furnished.says(f"{rows * 2 // 3} of {rows} rows in sight")
    furnished.choose("select[aria-label='Text is there or not']", "with")
    furnished.type(text, f"o{Keys.ENTER}")
    furnished.says(f"{rows // 3} of {rows} rows in sight")
    furnished.says("and class with “o”", "[role=dialog]")
    furnished.find("body").send_keys(Keys.ESCAPE)
    assert {cell for cell in furnished.cells("class") if cell} == {"foot"}
    furnished.click("class with “o”", ".chip")
    furnished.says(f"{rows * 2 // 3} of {rows} rows in sight")


def test_the_arrows_move_in_the_tree_and_tab_goes_to_what_a_place_can_become(world, hands):
    world.looked()
    hands.click("Answers", "[role=tab]")
    tree = hands.find("[role=tree]")
    hands.driver.execute_script("arguments[0].focus()", tree)
    active = "return document.getElementById(arguments[0].getAttribute('aria-activedescendant'))?.innerText ?? ''"

    def on(words):
        hands.wait(lambda: words in hands.driver.execute_script(active, tree), f"the keyboard is not on {words}")

    chain = ActionChains(hands.driver)
    for _ in range(4):
        chain.send_keys(Keys.ARROW_DOWN)
    chain.perform()
    on("sailing_id")
    world.do.key(Keys.TAB)
    world.do.on("a column")
    world.do.key(Keys.ENTER)
    hands.wait(lambda: "sailing_id" not in world.heads(), "it is a column still")
    hands.driver.execute_script("if (document.activeElement !== arguments[0]) throw 'elsewhere'", tree)
    # The row says so before a person goes there.
    hands.wait(
        lambda: any("make it a column" in (words or label or "") for _, words, label, *_ in hands.shown("button")),
        "the place cannot become a column",
    )
    world.do.key(Keys.TAB)
    world.do.on("make it a column")
