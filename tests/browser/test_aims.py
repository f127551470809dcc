"""Aims in the browser: a target typed over a result, what is freed for it, pausing, missing, and taking it all back."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


@pytest.fixture
def plant(page):
    page.sign_in()
    page.click("//a[normalize-space()='Sandlark Bay']")
    page.in_date()
    yield page
    page.undo_all()


def row(page):
    return page.find("[data-aim]").text


def test_a_target_over_a_result_is_met_paused_missed_and_taken_back(plant):
    page = plant
    plain = page.find("[data-pin='Off-gas']").text
    page.select("S-08")
    page.driver.execute_script("document.querySelector('[aria-label=\"Aim at the mole flow of S-08\"]').focus()")
    page.press(Keys.ENTER)
    page.text("What may vary")
    page.find("[data-field=target] input").send_keys("74 kmol/h", Keys.ENTER)
    page.text("E-103 outlet temperature")
    page.click("//button[normalize-space()='Aim at it']")
    page.wait(lambda: not page.driver.find_elements("css selector", "[role=dialog]"))
    page.click("//button[starts-with(normalize-space(), 'Aims')]")
    page.wait(lambda: "met" in row(page).split())
    assert page.find("[data-pin='Off-gas']").text != plain
    page.select("E-103")
    page.text("by the aim S-08.mole_flow")
    page.click("//button[normalize-space()='Pause']")
    page.wait(lambda: "paused" in row(page))
    page.wait(lambda: plain.split()[1] in page.find("[data-pin='Off-gas']").text)
    page.click("//button[normalize-space()='Pursue']")
    page.wait(lambda: "met" in row(page).split())
    page.click("//button[normalize-space()='Change']")
    page.text("What may vary")
    field = page.find("[data-field=target] input")
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys("55 kmol/h", Keys.ENTER)
    page.click("//button[normalize-space()='Keep']")
    page.wait(lambda: "missed" in row(page))
    page.click("//button[contains(., 'Asks and findings')]")
    page.text("The aim S-08.mole_flow is missed.")
    for _ in range(4):
        page.chord("z")
    page.click("//button[starts-with(normalize-space(), 'Aims')]")
    page.text("No aims.")
