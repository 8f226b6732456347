"""A pasted key is never dropped, sent where nobody said, or shown: at known services, and in texts that are no call."""

import pytest

pytestmark = pytest.mark.browser
KEY = "k9f3a2b1c9d4e5f60718"


def paste(hands, text):
    hands.go("/")
    hands.paste("textarea[aria-label^='Address']", text)


def test_a_key_for_a_known_service_without_one_is_offered_and_sent_as_shown(furnished, driver, ferries):
    base = ferries.bases["awkward"]
    paste(furnished, f"curl '{base}/ways/seven' -H 'X-Api-Key: {KEY}'")
    furnished.says("asked without a key. This key is", "[role=dialog]")
    furnished.says("X-Api-Key: ••••", "[role=dialog]")
    furnished.click("not used: no key is sent", "label")
    furnished.wait(lambda: "X-Api-Key:" not in furnished.find("[role=dialog]").text, "a key that is not sent is shown")
    furnished.click_text("for a service of its own", "label")
    furnished.type("input[name=service-name]", "Awkward with a key")
    furnished.click("Create the query")
    furnished.says("No table yet")
    furnished.says("X-Api-Key: ••••", "[aria-label='The call that will be sent']")
    seen = len(ferries.awkward.seen) if hasattr(ferries.awkward, "seen") else None
    furnished.click("Ask once")
    furnished.says("rows")
    assert KEY not in driver.page_source
    assert seen is None or any(KEY in str(request) for request in ferries.awkward.seen[seen:])


def test_a_text_with_a_key_is_no_table_before_somebody_says_so(furnished, driver):
    paste(furnished, f"How to ask for ports\nAuthorization: Bearer {KEY}\nthen read the list")
    furnished.says("A key may be in this text", "[role=dialog]")
    furnished.says("line 2: Authorization", "[role=dialog]")
    assert KEY not in driver.execute_script("return document.body.innerText + document.querySelector('textarea').value")
    furnished.click("Clear the text")
    furnished.wait(lambda: not driver.find_element("tag name", "textarea").get_attribute("value"), "it is still there")


def test_a_service_that_wants_a_key_gets_one_where_that_is_said(furnished, driver, ferries):
    """Asked without a key, refused: the place to enter one is right there, and the table comes."""
    base = ferries.bases["register"]
    furnished.go("/services")
    paste(furnished, f"{base.replace('127.0.0.1', 'localhost')}/v1/vessels")
    furnished.click("Create the query")
    furnished.says("No table yet")
    furnished.click("Ask once")
    furnished.says("is asked without a key")
    furnished.find("main select[name=key-way]")
    furnished.find("main input[name=secret-key]")
