"""What was typed is there until it is used or thrown away on purpose: drafts, panels, dialogs, parameters."""

from datetime import date, timedelta

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser
QUERY = 2  # Fares, week ahead.


def note(hands, words):
    hands.click("Name and note")
    hands.type("[role=dialog] textarea", words)
    hands.find("[role=dialog] textarea").send_keys(Keys.TAB)
    hands.find("body").send_keys(Keys.ESCAPE)
    hands.says("Draft, not saved", "header")


def noted(hands):
    return hands.find("aside").text


def keys(driver, *pressed):
    chain = ActionChains(driver)
    for one in pressed[:-1]:
        chain.key_down(one)
    chain.send_keys(pressed[-1])
    for one in pressed[:-1]:
        chain.key_up(one)
    chain.perform()


def test_a_draft_survives_the_menu_and_a_reload_and_its_steps_are_undone_by_name(furnished, driver):
    furnished.go(f"/query/{QUERY}")
    furnished.says("Refreshed")
    note(furnished, "checked by hand")
    note(furnished, "checked twice")
    furnished.click("Services and keys")
    furnished.says("Check", "main")
    furnished.go("/")
    furnished.says("draft, not saved", "main")
    furnished.go(f"/query/{QUERY}")
    furnished.says("Draft, not saved", "header")
    assert "checked twice" in noted(furnished)
    undo = furnished.find("header [aria-label=Undo]")
    assert "Undo: changed the note" in undo.get_attribute("title")
    driver.find_element(By.TAG_NAME, "body").click()
    keys(driver, Keys.CONTROL, "z")
    furnished.wait(lambda: "checked by hand" in noted(furnished), "the step was not undone")
    keys(driver, Keys.CONTROL, Keys.SHIFT, "z")
    furnished.wait(lambda: "checked twice" in noted(furnished), "the step was not redone")
    furnished.click("Discard changes")
    furnished.wait(lambda: "checked" not in noted(furnished), "the changes were not discarded")
    # That was a step as well.
    furnished.click("Undo")
    furnished.wait(lambda: "checked twice" in noted(furnished), "discarding was not undone")


def test_two_windows_notice_each_other(furnished, driver):
    furnished.go(f"/query/{QUERY}")
    furnished.says("Refreshed")
    first = driver.current_window_handle
    driver.switch_to.new_window("tab")
    second = driver.current_window_handle
    try:
        driver.get(f"{furnished.address}/#/query/{QUERY}")
        furnished.says("Refreshed")
        note(furnished, "from the second window")
        driver.switch_to.window(first)
        furnished.says("Another window changed this query just now")
        furnished.wait(lambda: "from the second window" in noted(furnished), "the newer draft is not taken over")
    finally:
        driver.switch_to.window(second)
        driver.close()
        driver.switch_to.window(first)


def look_up(hands):
    hands.click("nothing yet" if "nothing yet" in noted(hands) else "something more")


def test_a_half_made_lookup_is_kept_beside_a_click_and_a_way_through_the_menu(furnished, driver):
    furnished.go(f"/query/{QUERY}")
    look_up(furnished)
    furnished.type("input[name=lookup-path]", "/ports/{from_port}")
    # Beside the menu, in the bar.
    bar = driver.find_element(By.CSS_SELECTOR, "header")
    ActionChains(driver).move_to_element_with_offset(bar, 400, 0).click().perform()
    furnished.wait(lambda: not driver.find_elements(By.NAME, "lookup-path"), "the panel is still open")
    furnished.click("Services and keys")
    furnished.says("Check", "main")
    driver.back()
    furnished.says("Refreshed")
    look_up(furnished)
    furnished.says("This was typed before and is not used yet", "[role=dialog]")
    assert furnished.find("input[name=lookup-path]").get_attribute("value") == "/ports/{from_port}"
    furnished.click("Throw it away")
    furnished.wait(lambda: furnished.find("input[name=lookup-path]").get_attribute("value") == "", "it is still there")


def test_a_click_beside_a_dialog_keeps_a_pasted_command(furnished, driver, ferries):
    furnished.go("/")
    address = f"{ferries.bases['operations']}/sailings?from=2026-03-01"
    furnished.paste("textarea", f"curl '{address}' -H 'X-Key: sk-3f9a8b7c6d5e4f3a2b1c'")
    furnished.says("This is what was understood")
    furnished.type("input[name=query-name]", "Sailings of March")
    for kind in ("mousePressed", "mouseReleased"):
        event = {"type": kind, "x": 20, "y": 500, "button": "left", "clickCount": 1}
        driver.execute_cdp_cmd("Input.dispatchMouseEvent", event)
    keys(driver, Keys.ESCAPE)
    assert furnished.find("input[name=query-name]").get_attribute("value") == "Sailings of March"
    furnished.click("Cancel")
    furnished.wait(lambda: not driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"), "the dialog is still open")


@pytest.mark.parametrize("leave", ["enter", "beside"])
def test_a_typed_value_is_used_whether_by_enter_or_by_a_click_beside(furnished, driver, ferries, leave):
    chosen = date.today() + timedelta(days=2)
    furnished.go(f"/query/{QUERY}")
    furnished.click("Parameter from")
    furnished.click("one date", "label")
    field = furnished.find("input[name=value]")
    driver.execute_script(
        "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input', {bubbles: true}))",
        field,
        str(chosen),
    )
    made = ferries.operations.calls
    if leave == "enter":
        field.send_keys(Keys.ENTER)
        furnished.says("one call,")
        assert ferries.operations.calls > made
    else:
        driver.find_element(By.CSS_SELECTOR, "aside").click()
    furnished.says("here only", "header")
    furnished.says(f"from={chosen}", "[aria-label='The call that will be sent']")
    assert "Discard changes" not in furnished.find("header").text, "a value for here changes nobody's query"
    furnished.go(f"/query/{QUERY}")
    furnished.says("here only", "header")
    furnished.click("Parameter from")
    furnished.says("a scheduled refresh uses today", "[role=dialog]")
    furnished.click("Back to today")
    furnished.wait(lambda: "here only" not in furnished.find("header").text, "the value is still given")


def test_a_saved_reading_is_not_lost(furnished, driver):
    """A column read in another way, saved and left: the table that is seen later is of that reading, and says so."""
    furnished.go("/query/2")
    furnished.says("Refreshed")
    rename(furnished, driver, "fare", "price")
    furnished.click("Save")
    furnished.wait(lambda: "Draft, not saved" not in furnished.find("header").text, "it is not saved")
    furnished.go("/")
    furnished.says("read in another way", "main")
    furnished.go("/query/2")
    furnished.says("Read anew")
    furnished.wait(lambda: "price" in heads(furnished), "the old table is shown")
    furnished.click("Rebuild the snapshot")
    furnished.wait(lambda: "Read anew" not in driver.find_element(By.TAG_NAME, "body").text, "it is not rebuilt")
    assert "price" in heads(furnished)


def heads(hands):
    return [words.split("\n")[0] for _, words, *_ in hands.shown("[role=grid] [role=columnheader]")]


def rename(hands, driver, column, name):
    hands.wait(lambda: column in heads(hands), "no columns")
    hands.click(column, "[role=columnheader] button, button")
    hands.click("The column", "[role=tab]")
    hands.type("[role=dialog] input.field", name)
    hands.find("[role=dialog] input.field").send_keys(Keys.TAB)
    hands.wait(lambda: name in heads(hands), "it is not renamed")
    hands.find("body").send_keys(Keys.ESCAPE)
