"""“Is there more?” in the browser: each state and each trap, on the service that says nothing or the wrong thing."""

from datetime import UTC, datetime
from pathlib import Path

import pytest

from tests.browser.conftest import Hands, serving
from tin_bucket.core.document.query import load_brief
from tin_bucket.demo.setting import services
from tin_bucket.store.workspace import Workspace

pytestmark = pytest.mark.browser


@pytest.fixture
def desk(tmp_path, driver, ferries):
    """Opens a query on one of the ways, made beforehand; gives hands on its page."""
    workspace = Workspace(tmp_path / "home", create=True)
    now = datetime.now(UTC)
    for service, _ in services(ferries.bases):
        workspace.services.save(service)
    made = {}
    for way in (
        "quiet", "seven", "own-count", "hidden-mark", "strict", "restless", "twice", "says-more", "proved", "clamped",
        "other-pages", "told-cap", "by-post",
    ):  # fmt: skip
        document = {
            "name": way,
            "ask": {"service": "skerrywick-awkward", "path": f"/ways/{way}"},
            "take": {"records": "$.rows[*]"},
            "keep": {"match": ["id"]},
        }
        if way == "by-post":
            document["ask"] |= {"method": "POST", "body": {"kind": "json", "value": {"berths": "all"}}}
        made[way] = workspace.queries.add(load_brief(document), now).id
    document |= {"name": "rows-move", "ask": {"service": "skerrywick-awkward", "path": "/ways/rows-move"}}
    document["pages"] = {"by": "number", "total": "$.total"}
    made["rows-move"] = workspace.queries.add(load_brief(document), now).id
    workspace.close()
    with serving(tmp_path / "home") as address:
        hands = Hands(driver, address)

        def open_query(way):
            hands.go(f"/query/{made[way]}")
            hands.says(way, "header")
            return hands

        yield open_query


def test_ten_rows_that_say_nothing_become_116_that_are_proved(desk, ferries):
    hands = desk("quiet")
    hands.click("Ask once")
    hands.says("? unverified: 10 rows, as many as a page often has; nothing tells whether there is more.", "aside")
    asked = ferries.awkward.asked["quiet"]
    assert "up to 6 calls" in hands.says("Is there more?", "aside")
    hands.click("Is there more?")
    hands.says("there is more than these 10 rows", "aside")
    hands.says("10 rows a page; the API gives up to 50.", "aside")
    assert ferries.awkward.asked["quiet"] - asked <= 6
    hands.click("Show the calls")
    hands.says("50 rows: the most that the API gives", "aside")
    hands.click("Turn pages by number")
    hands.click("Refresh")
    hands.says("116 rows · ✓ complete · 1 snapshot · proof: page 4 is empty", "header")


def test_what_cannot_be_told_stays_unverified_everywhere_until_a_person_says_otherwise(desk, driver):
    hands = desk("seven")
    hands.click("Refresh")
    hands.says("7 rows · ? unverified", "header")
    hands.says("? The table is unverified: nothing in the answer tells whether there is more.")
    hands.click("Export the table")
    hands.says("unverified: nothing in the answer tells whether there is more")
    hands.click("A workbook, .xlsx")
    files = hands.wait(
        lambda: list(Path(driver.downloads).glob("seven* (unverified).xlsx")), "no file that says so in its name"
    )
    for file in files:
        file.unlink()
    hands.go("/runs")
    hands.says("unverified nothing in the answer tells", "main, body")
    hands.go("/")
    hands.says("unverified")
    desk("seven")
    hands.click("Is there more?")
    hands.says("none of them is heeded", "aside")
    hands.go("/runs")
    hands.says("Asked whether there is more: 1 time")
    hands.find("summary").click()
    hands.click("3 calls")
    hands.says("the same rows: none of these is heeded")
    desk("seven")
    hands.click("One answer is all there is")
    hands.says("one answer is all there is, as was said", "aside")
    hands.click("Refresh")
    hands.says("proof: one answer is all there is, as was said on", "header")
    hands.click("Compare")
    hands.says("Take care: the earlier table is unverified, so rows may only seem new or gone.")


@pytest.mark.parametrize(
    ("way", "found", "accept", "header"),
    [
        ("own-count", "there is more than these 10 rows", "Turn pages by the number of rows before", "45 rows"),
        ("hidden-mark", "there is more than these 10 rows", "Turn pages by a cursor", "116 rows"),
        ("strict", "there is more than these 10 rows", "Turn pages by number", "116 rows"),
        ("says-more", "there is more than these 10 rows", "Turn pages by the last row", "116 rows"),
        ("clamped", "there is more than these 10 rows", "Turn pages by number", "116 rows"),
        ("told-cap", "the API gives up to 40", "Turn pages by number", "116 rows"),
    ],
)
def test_each_trap_is_seen_through(desk, way, found, accept, header):
    hands = desk(way)
    hands.click("Ask once")
    hands.click("Is there more?")
    hands.says(found, "aside")
    hands.click(accept)
    hands.click("Refresh")
    told = hands.says(header, "header")
    assert "✓ complete" in hands.says("✓ complete", "header"), told


@pytest.mark.parametrize(
    ("way", "why"),
    [("restless", "unverified"), ("twice", "a call failed: The service says that there were too many calls")],
)
def test_what_cannot_be_found_out_says_why(desk, way, why):
    hands = desk(way)
    hands.click("Ask once")
    hands.click("Is there more?")
    hands.says(why, "aside")
    hands.click("Show the calls")
    hands.says("Showed", "aside")


def test_a_small_list_whose_end_is_stated_is_no_alarm(desk):
    hands = desk("proved")
    hands.click("Ask once")
    hands.says("✓ complete: has_more is false.", "aside")
    hands.click("Refresh")
    hands.says("✓ complete · 1 snapshot · proof: has_more is false", "header")


def test_pages_that_are_counted_for_another_size_do_not_end_the_table(desk):
    hands = desk("other-pages")
    hands.click("Ask once")
    hands.click("Turn pages by number")
    hands.click("Refresh")
    hands.says("116 rows · ✓ complete", "header")


def test_a_post_is_not_tried_before_a_person_says_that_it_reads(desk, ferries):
    hands = desk("by-post")
    hands.click("Ask once")
    hands.says("? unverified", "aside")
    hands.says("A POST may change something. This one only reads.", "aside")
    asked = ferries.awkward.asked["by-post"]
    assert not hands.find("[aria-label='Is there more?']").is_enabled()
    assert ferries.awkward.asked["by-post"] == asked
    hands.find("[name=reads]").click()
    hands.click("Is there more?")
    hands.click("Turn pages by the number of rows before")
    hands.click("Refresh")
    hands.says("116 rows", "header")


def test_a_service_may_be_asked_unasked(desk):
    hands = desk("quiet")
    hands.click("Ask once")
    hands.click("Find out by itself at Skerrywick Awkward from now on")
    hands.says("there is more than these 10 rows", "aside")
    hands = desk("seven")
    hands.click("Ask once")
    hands.says("none of them is heeded", "aside")


def test_a_list_that_moved_is_fetched_again(desk, ferries):
    hands = desk("rows-move")
    hands.click("Refresh")
    hands.says("A second pass may find it at rest.")
    asked = ferries.awkward.asked["rows-move"]
    hands.click("Fetch it again")
    hands.wait(lambda: ferries.awkward.asked["rows-move"] > asked, "no second pass")
    hands.says("2 snapshots", "header")
