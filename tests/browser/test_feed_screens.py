"""Handing a table on: a feed is made, looked at beforehand and run within a minute; a live address is read and shut."""

import time

import openpyxl
import pytest
import requests

pytestmark = pytest.mark.browser


def open_query(hands, name):
    hands.go("/")
    hands.click(name, "a")
    hands.says(name, "h1")


def test_a_feed_is_made_previewed_and_run_within_a_minute(furnished, tmp_path):
    begun = time.monotonic()
    open_query(furnished, "Ports")
    furnished.click("choose where to")
    furnished.says("Say where to", "[role=dialog]")
    furnished.type("[name='feed path']", "desk.xlsx")
    furnished.says("The workbook is not there yet: it is made.", "[role=dialog]")
    furnished.says("12 rows written.", "[role=dialog]")
    path = tmp_path / "home" / "handed-over" / "desk.xlsx"
    assert not path.exists()
    furnished.click("Save the query and hand over now")
    furnished.says("12 rows written.", "aside")
    assert time.monotonic() - begun < 60
    sheet = openpyxl.load_workbook(path)["Ports"]
    assert [cell.value for cell in sheet[1]] == ["code", "name", "zone", "berths"]
    assert sheet.max_row == 13
    # While somebody has it open it is told, the file stays as it is, and a button tries again.
    lock = path.with_name("~$desk.xlsx")
    lock.write_text("somebody")
    old = path.read_bytes()
    furnished.click("Hand over now", "aside button")
    furnished.says("is open in another program", "aside")
    assert path.read_bytes() == old
    furnished.go("/")
    furnished.says("It was not handed over to desk.xlsx")
    furnished.go("/runs")
    furnished.says("not handed over to desk.xlsx")
    furnished.go("/feeds")
    furnished.says("Failed once; tried again")
    lock.unlink()
    furnished.click("Try again now")
    furnished.says("12 rows replaced by 12 rows.")
    furnished.click("Versions")
    furnished.says("desk.xlsx", "[role=dialog]")
    furnished.click("Put back", "[role=dialog] button")
    furnished.says("It is back", "[role=dialog]")


def test_what_cannot_be_is_said_where_it_is_typed(furnished):
    open_query(furnished, "Ports")
    furnished.click("choose where to")
    for path, words in (
        ("desk.doc", "is no workbook"),
        ("../desk.xlsx", "leads out of its folder"),
        ("/etc/desk.xlsx", "may not write to the folder"),
    ):
        furnished.type("[name='feed path']", path)
        furnished.says(words, "[role=dialog]")
    furnished.click_text("A file", "[role=dialog] label")
    furnished.type("[name='feed path']", "ports-{day}.csv")
    furnished.says("is unknown: write {date}", "[role=dialog]")
    furnished.type("[name='feed path']", "ports-{date}.csv")
    furnished.says("12 rows.", "[role=dialog]")


def test_a_live_address_is_switched_on_read_and_shut(furnished):
    open_query(furnished, "Ports")
    furnished.click("choose where to")
    furnished.click_text("A live address", "[role=dialog] label")
    furnished.type("[name='feed name']", "ports")
    furnished.says("/odata/ports", "[role=dialog]")
    furnished.click("Save the query and switch it on")
    furnished.says("readers with a key find it there", "aside")
    furnished.go("/feeds")
    furnished.type("[name='reader name']", "Harbour report")
    furnished.click("Make a key")
    key = furnished.says("reader-", "[data-key]")
    base = furnished.address

    def read(path, **options):
        return requests.get(f"{base}{path}", timeout=20, **options)

    # As the page says: with user and password, as a bearer token, and in the address.
    furnished.choose("[name=address]", "Ports: /tables/ports")
    said = furnished.says("How to read", ".how")
    for words in (f"{base}/tables/ports.csv", f"{base}/odata/", "Authorization: Bearer KEY", "?key=KEY", "?on=2026"):
        assert words in said
    assert read("/tables/ports.csv").status_code == 401
    assert read("/tables/ports.csv", auth=("anybody", key)).text.startswith("code,name,zone,berths")
    assert len(read("/tables/ports.json", headers={"Authorization": f"Bearer {key}"}).json()) == 12
    assert read(f"/tables/ports.csv?key={key}").status_code == 200
    assert len(read("/odata/ports", auth=("anybody", key)).json()["value"]) == 12
    furnished.go("/feeds")
    assert furnished.says("Harbour report", "table")
    assert key not in furnished.driver.page_source
    furnished.click("Revoke…")
    furnished.click("Revoke its key")
    furnished.says("revoked")
    assert read("/tables/ports.csv", auth=("anybody", key)).status_code == 401


@pytest.mark.parametrize("path", ["/", "/runs", "/feeds"])
def test_a_page_that_could_not_be_read_for_a_while_forgets_it(furnished, path):
    def offline(yes):
        conditions = {"offline": yes, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
        furnished.driver.execute_cdp_cmd("Network.emulateNetworkConditions", conditions)

    furnished.go(path)
    furnished.says("Sailings by route")
    furnished.driver.execute_cdp_cmd("Network.enable", {})
    offline(True)
    try:
        furnished.says("does not answer", "[role=alert]")
    finally:
        offline(False)
    furnished.wait(lambda: not furnished.shown("[role=alert]"), "the message stays")
