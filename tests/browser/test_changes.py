"""What changed day by day, and since somebody looked; rows that an API forgot."""

import pytest

from tests.browser.accessibility import barriers

pytestmark = pytest.mark.browser


def test_what_changed_is_listed_day_by_day_and_leads_to_the_comparison(furnished, driver):
    furnished.go("/")
    furnished.click("What changed, day by day")
    furnished.says("What changed", "h1")
    first = furnished.says("●", "table.listing tr")
    name = first.split("\n")[1] if "\n" in first else first.split("\t")[1]
    assert barriers(driver) == {}
    furnished.choose("select[name=only]", "what differs since I looked")
    furnished.says("not looked at", "table.listing")
    furnished.click(name.replace("not looked at", "").strip(), "a")
    furnished.says("Between", ".sentence")
    # What was looked at is marked no more.
    furnished.go("/changes")
    furnished.choose("select[name=only]", "what differs since I looked")
    left = [words for _, words, *_ in furnished.shown("table.listing a")]
    assert name not in left


def test_a_query_of_each_row_ever_seen_is_made_in_its_start_line(furnished):
    furnished.go("/query/2")
    furnished.says("Refreshed")
    furnished.click("This query", "button")
    furnished.click("New query from this table")
    furnished.wait(lambda: "worked out" in furnished.find("h1").text, "no new query")
    one_date = int(furnished.find("[role=grid]").get_attribute("aria-rowcount"))
    furnished.click_text("Fares, week ahead", "button.phrase")
    furnished.find("input[name=every-date]").click()
    furnished.click_text("each row that was ever seen", "label")
    furnished.click("Done")
    furnished.says("each row ever seen of the last 30 days", "aside")
    furnished.wait(
        lambda: int(furnished.find("[role=grid]").get_attribute("aria-rowcount")) > one_date,
        "no more rows than of one date",
    )
    assert all(":" in cell for cell in furnished.cells("first seen"))
    assert {int(cell) for cell in furnished.cells("dates seen")} <= {1, 2, 3}
