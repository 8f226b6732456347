"""Somebody is told: a notice is made, tried and received; what cannot be sent is said."""

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.accessibility import barriers
from tin_bucket.demo.services.receiver import PASSWORD, USER, Receiver

pytestmark = pytest.mark.browser


def test_a_notice_is_made_tried_and_received(furnished, driver):
    with Receiver() as receiver:
        furnished.go("/notices")
        furnished.says("Nobody is told anything yet.")
        assert barriers(driver) == {}
        furnished.click("Mail server: none yet")
        furnished.type("input[name=mail-host]", "127.0.0.1")
        furnished.type("input[name=mail-port]", str(receiver.mail_port))
        furnished.type("input[name=mail-sender]", "tin-bucket@skerrywick.example")
        furnished.type("input[name=mail-user]", USER)
        furnished.type("input[name=mail-password]", PASSWORD)
        assert barriers(driver) == {}
        furnished.click("Use it")
        furnished.says("Mail server: 127.0.0.1")
        furnished.click("New notice")
        furnished.choose("select[name=notice-why]", "A figure passes a bound, or moves")
        furnished.choose("select[name=notice-figure-query]", "Sailings by route")
        option = furnished.wait(
            lambda: [one.text for one in driver.find_elements("css selector", "select[name=notice-figure] option")
                     if one.text.startswith("late sailings, in %")],
            "no figure is offered",
        )  # fmt: skip
        furnished.choose("select[name=notice-figure]", option[0])
        furnished.type("input[name=notice-value]", "0")
        furnished.type("input[name=notice-mail]", "desk@skerrywick.example")
        furnished.type("textarea[name=notice-hooks]", f"{receiver.base}/hook")
        furnished.type("input[name=notice-name]", "Late")
        assert barriers(driver) == {}
        furnished.click("Tell them")
        # Its secret is shown once; the hook is told at once, since it holds.
        furnished.says("is shown this once", "[role=status]")
        furnished.wait(lambda: [one.by for one in receiver.came] == ["web hook"], "the web hook is not told")
        assert receiver.came[0].facts["figure"] == "late sailings, in %"
        # The mail is not: its certificate is nobody's.
        furnished.says("The certificate of the mail server is not trusted", ".went")
        furnished.click("Mail server: 127.0.0.1")
        furnished.click_text("A certificate to trust", "summary")
        furnished.paste("textarea[name=mail-certificate]", receiver.certificate)
        furnished.click("Use it")
        furnished.click("Send it now")
        furnished.wait(lambda: "mail" in [one.by for one in receiver.came], "the mail does not come")
        furnished.says("at try 2", ".went")
        assert PASSWORD not in driver.page_source
        assert barriers(driver) == {}
        driver.execute_script("document.documentElement.dataset.mode = 'dark'")
        assert barriers(driver, colours=True) == {}
        furnished.click("Delete")
        furnished.click("Delete the notice")
        furnished.says("Nobody is told anything yet.")
        driver.switch_to.active_element.send_keys(Keys.ESCAPE)
