"""Everything can be used at 390 pixels: the brief and the table one at a time, and nothing lies beyond the edge."""

import pytest

from tests.browser.test_accessibility import PAGES, mode  # noqa: F401

pytestmark = pytest.mark.browser


def test_no_page_is_wider_than_a_narrow_window(furnished, driver, mode):  # noqa: F811
    mode(False, 390)
    for path, says in PAGES.values():
        furnished.go(path)
        furnished.says(says)
        width = driver.execute_script("return document.documentElement.scrollWidth")
        assert width <= 390, path


def test_brief_and_table_take_turns(furnished, driver, mode):  # noqa: F811
    mode(False, 390)
    furnished.go("/query/2")
    furnished.says("Refreshed")
    grid = furnished.find("[role=grid]")
    assert grid.rect["width"] >= 380
    furnished.click("Brief", "[role=tab]")
    brief = furnished.find("[aria-label='The brief']")
    assert brief.rect["width"] >= 380
    # What the brief opens fits, and changes the table as it does in a wide window.
    furnished.click("not at all" if "not at all" in brief.text else "How pages are turned")
    panel = furnished.find("[role=dialog]").rect
    assert panel["x"] >= 0
    assert panel["x"] + panel["width"] <= 390
    furnished.find("body").send_keys("\ue00c")
    mode(False, 1280)
    furnished.wait(lambda: furnished.find("[role=grid]").rect["width"] > 700, "the wide window shows both")
    assert furnished.find("[aria-label='The brief']").rect["width"] == 340
