"""Signing in: again when the sign-in has ended amid work, and with a second factor."""

import pyotp
from people import add_person
from selenium.webdriver.common.keys import Keys


def push(page, text):
    page.click(f"//button[normalize-space()='{text}']")


def test_what_was_typed_when_the_sign_in_had_ended_goes_on_after_signing_in_again(page):
    page.sign_in()
    page.click("//a[text()='Sandlark Bay']")
    page.in_date()
    page.select("E-103")
    page.to_field("outlet_temperature")
    page.driver.delete_cookie("sessionid")
    page.press("42 degC", Keys.ENTER)
    page.text("Sign in again")
    password = page.find("[role=dialog] [name=password]")
    password.send_keys("wrong", Keys.ENTER)
    page.text("User name or password is incorrect")
    password.clear()
    password.send_keys("sandlark-bay", Keys.ENTER)
    page.wait(lambda: page.table()["Temperature"][1] == "42.00")
    assert "Sign in again" not in page.driver.page_source
    page.press(Keys.ESCAPE)
    page.chord("z")
    page.wait(lambda: page.table()["Temperature"][1] == "35.00")


def test_a_second_factor_is_set_up_asked_for_and_removed(page, server_folder):
    add_person(server_folder, "tilda", "tildas-long-word")
    page.sign_in("tilda", "tildas-long-word")
    push(page, "Second factor")
    page.find("[name=again]").send_keys("tildas-long-word", Keys.ENTER)
    totp = pyotp.TOTP(page.find("[data-test=secret]").text)
    page.find("[name=code]").send_keys("000000", Keys.ENTER)
    page.text("The code is incorrect")
    page.find("[name=code]").send_keys(totp.now(), Keys.ENTER)
    page.find("[aria-label='Recovery codes'] li")
    codes = page.find("[aria-label='Recovery codes']").text.split()
    assert len(codes) == 8
    push(page, "Close")
    push(page, "Sign out")
    page.find("[name=username]").send_keys("tilda")
    page.find("[name=password]").send_keys("tildas-long-word", Keys.ENTER)
    page.find("[name=code]").send_keys(codes[0], Keys.ENTER)
    page.text("Projects")
    push(page, "Second factor")
    page.text("7 recovery codes are left")
    page.find("[name=again]").send_keys("tildas-long-word", Keys.ENTER)
    page.text("The second factor is removed")
