"""A panel that needs something lets one make it there, and says what is still to be done."""

import pytest

from tests.browser.test_nothing_is_lost import look_up

pytestmark = pytest.mark.browser


def lacks(hands, words):
    hands.says(words, "[role=dialog] [role=status]")
    button = next(one for one, text, *_ in hands.shown("[role=dialog] button") if text == "Done")
    assert not button.is_enabled()


def test_a_lookup_says_what_it_lacks_and_takes_a_full_address(furnished, driver, ferries):
    furnished.go("/query/2")
    furnished.says("Refreshed")
    look_up(furnished)
    lacks(furnished, "Put the row’s value in braces")
    furnished.type("input[name=lookup-path]", f"{ferries.bases['operations']}/ports/{{port}}\t")
    furnished.wait(
        lambda: furnished.find("input[name=lookup-path]").get_attribute("value") == "/ports/{port}",
        "the service was not found in the address",
    )
    lacks(furnished, "Choose the column that {port} is")
    # An address of no service: it is added here, and nothing else is lost.
    furnished.type("input[name=lookup-path]", "http://127.0.0.1:9/harbours/{port}\t")
    lacks(furnished, "Add the service first")
    furnished.click("Add it")
    furnished.wait(
        lambda: furnished.find("input[name=lookup-path]").get_attribute("value") == "/harbours/{port}",
        "the path is not what stood behind the service",
    )
    lacks(furnished, "Choose the column that {port} is")
    assert "127.0.0.1:9" in furnished.find("select[name=lookup-service]").text


def test_before_there_are_rows_it_is_said_when_values_can_be_looked_up(furnished, ferries):
    furnished.go("/")
    furnished.paste("textarea[aria-label^='Address']", f"{ferries.bases['awkward']}/ways/seven")
    furnished.click("Create the query")
    furnished.says("as soon as there are rows: ask once first", "aside")
