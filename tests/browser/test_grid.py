"""A refreshed table as people handle it: pictures, copying, columns drawn elsewhere, and fields that came and went."""

import base64
import json
import urllib.request

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser
DOT = "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="


@pytest.fixture
def ships(hands, awkward):
    """A query on a service whose answers can be set, refreshed once; gives a function that sets them."""

    def serve(*records):
        body = json.dumps({"data": records}).encode()
        awkward.answers["/ships"] = (200, {"Content-Type": "application/json"}, body)

    def post(path, document):
        request = urllib.request.Request(
            hands.address + path,
            json.dumps(document).encode(),
            {"Content-Type": "application/json", "Authorization": f"Bearer {hands.token}"},
        )
        with urllib.request.urlopen(request) as response:
            return json.load(response)

    awkward.answers["/dot.png"] = (200, {"Content-Type": "image/png"}, base64.b64decode(DOT))
    photo = f"{awkward.base}/dot.png"
    serve(
        {"id": "007", "name": 'MV "Tystie"', "berths": 12, "photo": photo},
        {"id": "010", "name": "MV Shalder", "berths": None, "photo": photo},
        {"id": "021", "name": "MV Bonxie", "berths": 9, "photo": photo},
    )
    post("/api/services", {"service": {"id": "s", "name": "Ships", "base": awkward.base}})
    columns = [{"place": f"$.{name}", "name": name} for name in ("id", "name", "berths", "photo")]
    take = {"records": "$.data[*]", "columns": columns}
    brief = {"name": "Ships", "ask": {"service": "ships", "path": "/ships"}, "take": take, "keep": {"match": ["id"]}}
    hands.go(f"/query/{post('/api/queries', {'brief': brief})['id']}")
    hands.click("Refresh")
    hands.wait(lambda: len(hands.cells("id")) == 3, "no rows")
    return serve


def headings(driver):
    return [one.text.split("\n")[0] for one in driver.find_elements(By.CSS_SELECTOR, "[role=grid] [role=columnheader]")]


def test_cells_are_copied_as_they_paste_and_pictures_are_fetched_only_when_allowed(hands, driver, ships, awkward):
    driver.execute_cdp_cmd(
        "Browser.grantPermissions", {"permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"]}
    )

    def copied():
        return driver.execute_async_script("navigator.clipboard.readText().then(arguments[0], arguments[0])")

    driver.find_element(By.CSS_SELECTOR, "[role=gridcell]").click()
    hands.says("/data/0/id", "[role=dialog].card")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    grid = hands.find("[role=grid]")
    grid.send_keys(Keys.CONTROL, "c")
    hands.says("1 cell copied", "[role=status]")
    assert copied() == "007"
    grid.send_keys(Keys.SHIFT, Keys.ARROW_DOWN, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    hands.says("2 × 3 cells", "[role=status]")
    grid.send_keys(Keys.CONTROL, "c")
    hands.says("6 cells copied", "[role=status]")
    # Codes keep their zeros, quotes are doubled in quotes, and what is empty stays empty.
    assert copied().splitlines() == ["id\tname\tberths", '007\t"MV ""Tystie"""\t12', "010\tMV Shalder\t"]

    assert not any(path == "/dot.png" for path, _ in awkward.seen)
    hands.click("photo", "[role=columnheader] button")
    hands.says("each is fetched from its own address", "[role=dialog]")
    box = next(
        one for one in driver.find_elements(By.CSS_SELECTOR, "[role=dialog] label") if "Show pictures" in one.text
    )
    box.click()
    hands.wait(lambda: len(driver.find_elements(By.CSS_SELECTOR, "[role=gridcell] img")) == 3, "no pictures")
    hands.wait(lambda: any(path == "/dot.png" for path, _ in awkward.seen), "no picture was fetched")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    hands.wait(lambda: driver.find_element(By.CSS_SELECTOR, "[role=gridcell] img").click() or True, "not to be clicked")
    assert hands.find("[role=dialog].card img").get_attribute("src") == f"{awkward.base}/dot.png"


def test_columns_are_drawn_elsewhere_and_new_fields_are_taken_with_a_click(hands, driver, ships):
    handles = {
        one.text.split("\n")[0]: one for one in driver.find_elements(By.CSS_SELECTOR, "[role=columnheader] .carry")
    }
    drawing = ActionChains(driver).click_and_hold(handles["berths"]).pause(0.1).move_by_offset(-10, 0)
    drawing.pause(0.1).move_to_element(handles["name"])
    for _ in range(3):
        drawing.pause(0.1).move_by_offset(-4, 0)
    drawing.pause(0.2).release().perform()
    hands.wait(lambda: headings(driver) == ["id", "berths", "name", "photo"], "the columns stand as before")
    hands.click("Save")
    hands.wait(lambda: not driver.find_elements(By.XPATH, "//button[normalize-space()='Save']"), "not saved")

    ships(
        {"id": "007", "name": "MV Tystie", "berths": "many", "gate": {"number": 4}}, {"id": "010", "name": "MV Shalder"}
    )
    hands.click("Refresh")
    said = hands.says("The answers have changed", ".seen")
    assert "new gate.number" in said
    assert "no longer there photo" in said
    assert "$.berths (whole number → text)" in said.replace("berths (", "$.berths (").replace("$.$.", "$.")
    assert hands.cells("photo") == ["", ""]
    assert hands.cells("berths") == ["many", ""]
    hands.click("Take it")
    hands.wait(lambda: hands.cells("gate.number") == ["4", ""], "the new field is no column")
    hands.click("gate.number", "[role=columnheader] button")
    assert "1 of 2 (50 %) · 1 not in the answer" in hands.says("not in the answer", "[role=dialog] dd")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    hands.go("/")
    hands.says("answers have changed")
