"""From the docs' example to a tested question with parameters, asked for each of several values; keys on the way."""

import json
from datetime import date, timedelta

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tin_bucket.demo import timetable
from tin_bucket.demo.services.fares import CLIENT, CLIENT_SECRET
from tin_bucket.demo.services.operations import KEY, KEY_HEADER

pytestmark = pytest.mark.browser


def everything_shown(driver):
    """All that a picture, the page's source, the address bar, the fields or the console could give away."""
    fields = "return [...document.querySelectorAll('input, textarea')].map(e => e.value).join()"
    return driver.page_source + driver.current_url + driver.execute_script(fields) + str(driver.get_log("browser"))


def test_a_command_line_becomes_a_question_for_each_of_three_values(hands, driver, ferries):
    # The docs page's example, with the key in it, as it is copied.
    base = ferries.bases["operations"]
    before = ferries.operations.calls
    end = date.today() + timedelta(days=1)
    address = f"{base}/sailings?route=harl-oxnith&from=2025-01-18&to={end}&per_page=100"
    command = f"curl '{address}' -H '{KEY_HEADER}: {KEY}'"
    hands.go("/")
    hands.paste("textarea[aria-label^='Address']", command)
    said = hands.says("Nothing has been sent yet", "[role=dialog]")
    assert f"header {KEY_HEADER}" in said
    assert f"…{KEY[-4:]}" in said
    assert KEY not in everything_shown(driver)
    hands.type("input[name=service-name]", "Operations")
    # A date near today is offered to move along with it.
    hands.choose("select[aria-label='How to is used']", "moves: tomorrow")
    hands.click("Create the query")
    hands.says("No table yet")
    hands.says("tomorrow", "header")
    assert ferries.operations.calls == before

    # A relative date, with what it is today in sight.
    hands.click("Parameter from")
    hands.click("moves with the calendar", "label")
    hands.type("input[aria-label='How many']", "2")
    day = date.today() - timedelta(days=2)
    hands.says(f"sent as {day}", "[role=dialog]")
    hands.click("Done")
    hands.says("two days ago")
    hands.says(f"from={day}", "[aria-label='The call that will be sent']")

    # The route becomes a choice.
    routes = timetable.ROUTES[:4]
    hands.click("Parameter route")
    hands.choose("select[name=kind]", "choice of codes")
    hands.type("textarea[name=choices]", "\n".join(f"{route.code};{route.name}" for route in routes))
    hands.click("Done")
    hands.says(routes[0].name, "header")

    # Ask once: one call, and the answer is here.
    hands.click("Ask once")
    hands.says("list of")
    assert ferries.operations.calls == before + 1
    hands.click("Take its items as rows")
    hands.click("Turn pages by number")

    # The list of three routes: one question for each.
    hands.click("asked once", ".phrase")
    hands.choose("select[name=each-parameter]", "route")
    hands.type("textarea[name=each-values]", "\n".join(route.code for route in routes[:3]))
    hands.click("Done", "[role=dialog] button")
    hands.says("3 values", "aside")
    hands.click("Refresh")
    truth = timetable.sailings(ferries.operations.today, day, end)
    wanted = [one for one in truth if one["route"]["code"] in {route.code for route in routes[:3]}]
    hands.says(f"{len(wanted):,} of {len(wanted):,} rows")
    hands.says("3 of 3 values reached the last page", "aside")
    hands.click("Table", "[role=tab]")
    assert hands.wait(lambda: hands.cells("route"), "no column of the values")[0] == routes[0].code
    assert KEY not in everything_shown(driver)

    # The copied command names the key as a variable, and nowhere its text.
    preview = driver.execute_async_script(
        "const done = arguments[0]; fetch('/api/queries/1').then(r => r.json()).then(q => fetch('/api/plan', {"
        "method: 'POST', headers: {'Content-Type': 'application/json'},"
        "body: JSON.stringify({brief: q.brief})})).then(r => r.json()).then(p => done(p.first_call))"
    )
    assert f"-H '{KEY_HEADER}: '\"$KEY\"" in preview["command"]
    assert KEY not in json.dumps(preview)


def test_a_key_that_is_refused_in_the_middle_is_replaced_and_the_run_goes_on(furnished, driver, ferries):
    ferries.operations.pause = 0.1
    furnished.go("/query/1")
    furnished.wait(lambda: furnished.cells("sailing_id"), "no rows")
    made = ferries.operations.calls
    furnished.click("Refresh")
    furnished.wait(lambda: ferries.operations.calls > made + 2, "no call was made")
    ferries.operations.key = "the-new-key-of-2027"
    furnished.says("The refresh is waiting for the key “Operations desk” of Skerrywick Operations", "[role=alert]")
    furnished.says("waiting for a key", "footer")
    furnished.type("input[name=secret-key]", "the-new-key-of-2027")
    ferries.operations.pause = 0.0
    furnished.click("Store the key", "[role=alert] button")
    furnished.says("4 snapshots")
    furnished.says("was complete", "footer")
    assert "the-new-key-of-2027" not in everything_shown(driver)


def test_a_service_that_gives_tokens_is_set_up_by_its_docs(hands, driver, ferries):
    base, made = ferries.bases["fares"], ferries.fares.tokens
    hands.go("/")
    body = json.dumps(
        {"day": date.today().isoformat(), "route": "harl-oxnith", "classes": ["foot", "car"], "limit": 200}
    )
    command = (
        f"curl {base}/fares/search -H 'Authorization: Bearer YOUR_TOKEN' "
        f"-H 'Content-Type: application/json' -d '{body}'"
    )
    hands.paste("textarea[aria-label^='Address']", command)
    hands.says("its place in the example was empty", "[role=dialog]")
    hands.type("input[name=service-name]", "Fares")
    hands.click("change")
    hands.choose("select[name=key-way]", "OAuth 2, client id and secret")
    hands.type("input[name=source-address]", "/oauth/token")
    hands.type("input[name=secret-client_id]", CLIENT)
    hands.type("input[name=secret-client_secret]", CLIENT_SECRET)
    hands.click("Create the query")
    hands.says("No table yet")
    hands.click("Ask once")
    hands.says("list of")
    hands.click("Take its items as rows")
    hands.click("Refresh")
    hands.says("1 snapshot")
    assert ferries.fares.tokens == made + 1
    hands.go("/services")
    hands.says("Fares key", "article")
    hands.says("token until", "article")
    assert CLIENT_SECRET not in everything_shown(driver)


def test_rows_are_pasted_and_become_a_table_with_a_lookup(furnished, driver):
    furnished.go("/")
    lines = ["code;note", "007;first", "000;second"]
    field = furnished.find("textarea[aria-label^='Address']")
    for line in lines:
        field.send_keys(line, Keys.SHIFT + Keys.ENTER)
    furnished.click("New query")
    furnished.says("semicolon, detected", "[role=dialog]")
    furnished.type("input[name=sheet-name]", "Berths")
    furnished.click("Make a query of it")
    furnished.says("the sheet “Berths”", "aside")
    furnished.click("Refresh")
    furnished.wait(lambda: furnished.cells("code") == ["007", "000"], "no rows of the sheet")
    furnished.click("nothing yet", ".phrase")
    furnished.choose("select[name=lookup-service]", "Skerrywick Operations")
    furnished.type("input[name=lookup-path]", "/ports/{code}")
    furnished.click("Ask for 007 to see its fields")
    furnished.find("input[aria-label='Take $.name']").click()
    furnished.click("Done")
    furnished.click("Refresh")
    furnished.wait(lambda: furnished.cells("name") == ["Oxnith", "Harl Sound"], "no names")
    furnished.go("/sheets")
    furnished.says("Berths", "tbody")


def test_definitions_are_carried_with_their_clashes_shown(furnished, driver, tmp_path):
    furnished.go("/services")
    furnished.click("Export / import…")
    text = driver.execute_async_script("const done = arguments[0]; fetch('/api/bundle').then(r => r.text()).then(done)")
    bundle = json.loads(text)
    bundle["queries"][3]["note"] = "from elsewhere"
    bundle["queries"][0]["name"] = "Sailings of another desk"
    file = tmp_path / "bundle.json"
    file.write_text(json.dumps(bundle))
    driver.find_element(By.CSS_SELECTOR, "[role=dialog] input[type=file]").send_keys(str(file))
    furnished.says("already here, different", "[role=dialog]")
    furnished.choose("select[aria-label='What to do with Ports']", "keep both")
    furnished.click("Import 2")
    furnished.says("imported under another name", "[role=dialog]")
    furnished.click("Done", "[role=dialog] button")
    furnished.go("/")
    furnished.says("Ports 2", "tbody")
    furnished.says("Sailings of another desk", "tbody")


def test_a_service_form_for_every_way_of_key(furnished, driver):
    """Each way shows its own fields, and what is missing is said."""
    furnished.go("/services")
    furnished.click("Add a service")
    fields = {
        "a key in a header": "place-name",
        "a key in the address": "place-name",
        "a key in the body": "place-place",
        "OAuth 2, client id and secret": "source-address",
        "a sign-in call that gives a token": "source-address",
    }
    for way, field in fields.items():
        furnished.choose("select[name=key-way]", way)
        furnished.find(f"input[name={field}]")
    furnished.type("input[name=name]", "Signed in")
    furnished.type("input[name=base]", "https://api.example")
    furnished.click("Add the service")
    furnished.find("input[name=secret-user]")
    furnished.find("input[name=secret-password]")
    furnished.click("Close", "[role=dialog] button")
    furnished.says("a token by signing in at /login", "article")
    furnished.says("not stored yet", "article")


def test_long_numbers_and_percent_signs_come_through_the_screen_as_they_were_pasted(hands, driver, ferries):
    """A number that no double holds and a percent sign in a body: what was pasted is what is sent."""
    base = ferries.bases["operations"]
    body = '{"id": 123456789012345678, "share": "50%", "kind": "car"}'
    hands.go("/")
    command = f"curl '{base}/sailings?id=123456789012345679' -H 'Content-Type: application/json' -d '{body}'"
    hands.paste("textarea[aria-label^='Address']", command)
    hands.says("Nothing has been sent yet", "[role=dialog]")
    hands.type("input[name=service-name]", "Operations")
    # What is a parameter in the body becomes fixed; the number of the address stays a parameter.
    for box in driver.find_elements(By.CSS_SELECTOR, "[role=dialog] table input[type=checkbox]")[1:]:
        box.click()
    hands.click("Create the query")
    hands.says("No table yet")
    sent = "[aria-label='The call that will be sent']"
    hands.says("id=123456789012345679", sent)
    # The draft is changed and saved by the browser: all digits are still there.
    hands.click("Parameter id")
    hands.type("input[name=value]", "123456789012345681")
    hands.click("for every refresh, by hand and on schedule", "label")
    hands.click("Done")
    hands.says("id=123456789012345681", sent)
    hands.click("Save", "button")
    hands.wait(lambda: "Draft, not saved" not in driver.page_source, "the draft is still not saved")
    text = driver.execute_async_script(
        "const done = arguments[0]; fetch('/api/queries/1').then(r => r.text()).then(done)"
    )
    ask = json.loads(text)["brief"]["ask"]
    assert ask["body"]["value"] == {"id": 123456789012345678, "share": "50%", "kind": "car"}
    assert json.loads(text)["brief"]["parameters"][0]["default"] == 123456789012345681
