"""Pages, limits and failures in the browser: what is short is noticed, what waits says so, what failed is retried."""

from datetime import UTC, datetime

import pytest
from selenium.webdriver.common.by import By

from tests.browser.conftest import Hands, serving
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.traffic.rate_window import Window
from tin_bucket.demo.setting import services
from tin_bucket.store.workspace import Workspace

pytestmark = pytest.mark.browser


@pytest.fixture
def desk(tmp_path, driver, ferries):
    """Opens a query on one of the services, made beforehand; gives hands on its page."""
    workspace = Workspace(tmp_path / "home", create=True)
    now = datetime.now(UTC)
    for service, secret in services(ferries.bases):
        workspace.services.save(service)
        if service.key is not None:
            workspace.vault.store(service.id, service.key.bound_to(service.base), secret, now)
    made = {}

    def prepare(name, path, records="$.rows[*]", service="skerrywick-awkward", query=(), **parts):
        document = {
            "name": name, "ask": {"service": service, "path": path, "query": list(query)},
            "take": {"records": records}, **parts,
        }  # fmt: skip
        made[name] = workspace.queries.add(load_brief(document), now).id

    def limit(service, **changes):
        workspace.services.save(workspace.services.get(service).model_copy(update=changes))

    prepare("well", "/ways/well")
    prepare("fails", "/ways/one-page-fails", pages={"by": "number", "last_page": "$.pages", "total": "$.total"})
    prepare("lies", "/ways/lies-about-total", pages={"by": "number", "last_page": "$.pages", "total": "$.total"})
    prepare(
        "bookings", "/bookings", "$.bookings[*]", "skerrywick-bookings",
        [{"name": "from", "value": str(ferries.calendar.today)}, {"name": "to", "value": str(ferries.calendar.today)},
         {"name": "size", "value": "25"}],
        pages={"by": "next", "next": "$.next"},
    )  # fmt: skip
    limit("skerrywick-bookings", limits=[Window(calls=2, per="PT4S")])
    workspace.close()
    with serving(tmp_path / "home") as address:
        hands = Hands(driver, address)

        def open_query(name):
            hands.go(f"/query/{made[name]}")
            hands.says(name, "header")
            return hands

        yield open_query


def test_25_of_118_is_noticed_paging_taken_with_a_click_proved_and_all_are_here(desk, ferries):
    asked = ferries.awkward.asked["well"]
    hands = desk("well")
    hands.click("Ask once")
    hands.says("◐ incomplete: 25 of 118 stated rows are here.", "aside")
    hands.says("25 of 118 rows")
    hands.click("Turn pages by number")
    hands.click("Verify with a second call")
    hands.says("Verified by a second call", "aside")
    assert "25 other rows" in hands.says("are here after two calls", "aside")
    assert ferries.awkward.asked["well"] == asked + 3  # The first was asked without its number.
    hands.click("Refresh")
    hands.says("118 of 118 rows", "header")
    hands.says("the API states 5 pages", "footer")


def test_a_failed_page_is_told_and_tried_again_alone(desk, driver, ferries):
    ferries.awkward.asked.clear()
    hands = desk("fails")
    hands.click("Refresh")
    hands.says("93 of 118 rows", "header")
    hands.says("incomplete", "header")
    assert "1 page has failed" in hands.says("The table is incomplete")
    # The strip leads to the call, with the API's words and its exact request.
    hands.click("page 3, failed", "footer button")
    hands.says("the crane is stuck", "table")
    hands.says("with status 501", "table")
    hands.click("Retry")
    hands.says("4 from saved answers", "footer")
    hands.says("93 of 118 rows", "header")
    hands.click("Retry what failed")
    hands.says("118 of 118 rows", "header")
    assert ferries.awkward.asked["one-page-fails"] == 7
    hands.go("/runs")
    hands.says("+ 4 saved", "tbody")
    hands.choose("select[aria-label='Runs of']", "fails")
    hands.click("only what went wrong", "label")
    hands.wait(lambda: len(driver.find_elements(By.CSS_SELECTOR, "tbody tr")) == 2, "not the two short runs")


def test_a_total_that_is_not_reached_is_told_wherever_the_table_is(desk):
    hands = desk("lies")
    hands.click("Refresh")
    assert "118 of 130 stated rows are here" in hands.says("The table is incomplete")
    hands.says("118 of 130 rows · ◐ incomplete", "header")
    hands.go("/")
    hands.says("118 of 130 stated rows are here")
    hands.go("/runs")
    hands.says("118 of 130 stated rows are here", "tbody")


def test_a_wait_for_the_limits_is_counted_down_and_said(desk, driver, ferries):
    hands = desk("bookings")
    refused = ferries.bookings.refused
    hands.click("Refresh")
    first = hands.says("2 calls in 4 seconds", "footer [role=timer]")
    hands.wait(
        lambda: driver.find_element(By.CSS_SELECTOR, "footer [role=timer]").text != first, "it is not counted down"
    )
    hands.says("1 snapshot", "header")
    assert ferries.bookings.refused == refused
    hands.go("/runs")
    assert "s" in hands.wait(lambda: driver.find_element(By.CSS_SELECTOR, "tbody td:nth-child(6)").text, "no wait told")


def test_limits_are_set_where_the_service_is(desk, driver):
    hands = desk("well")
    hands.go("/services")
    card = "article:first-of-type"
    hands.click("Edit", f"{card} button")
    hands.click("add a rate limit")
    hands.type("input[aria-label='Calls of limit 1']", "5000")
    hands.type("input[aria-label='Length of limit 1']", "1")
    hands.choose("select[aria-label='Unit of limit 1']", "days")
    hands.click("from midnight", "label")
    hands.type("input[name=at_once]", "2")
    hands.click("Save")
    hands.says("5,000 left of 5,000 calls a day from midnight, UTC", card)
