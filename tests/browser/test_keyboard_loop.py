"""A recycle of two units built from an empty sheet without the mouse; broken by hand, and mended from its finding."""

import time

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser
NAME = "Keyboard loop"


def component(page, text, many):
    search = page.find("[aria-label='Find a component']")
    search.send_keys(text)
    page.wait(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role=option]"))
    search.send_keys(Keys.ENTER)
    page.wait(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, "ul li [aria-pressed]")) == many)


def build(page):
    page.sign_in()
    page.find("[name=project-name]").send_keys(NAME, Keys.ENTER)
    page.text("Start here: type a name")
    component(page, "benzene", 1)
    component(page, "toluene", 2)
    page.press(Keys.ESCAPE)
    page.driver.execute_script("document.activeElement.blur()")
    page.press("2")
    page.text("Put the first feed on it")
    page.add("Feed", "F-101", temperature="300 K", pressure="12 bar", flow="100 kmol/h")
    page.type_value("composition.benzene", "0.4")
    page.type_value("composition.toluene", "0.6")
    page.add("Mixer", "M-101")
    page.add("Splitter", "N-101", share_1="25 %")
    page.add("Product", "Z-101")
    page.select("N-101")
    page.do("Connect N-101 branch 2 to M-101")
    page.in_date()


def test_two_units_go_round_and_the_recycle_is_what_the_shares_say(page):
    """Feed F, share s out: what goes round is F (1 - s)/s."""
    build(page)
    page.wait(lambda: "100.00" in page.table()["Mole flow"][0])
    flows = sorted(float(text) for text in page.table()["Mole flow"])
    assert flows == pytest.approx([100.0, 100.0, 300.0, 400.0], abs=0.06)
    page.do("Find N-101,")
    page.type_value("share_1", "50 %")
    page.in_date()
    page.wait(lambda: sorted(float(text) for text in page.table()["Mole flow"]) == pytest.approx([100.0, 100.0, 100.0, 200.0], abs=0.06))
    # Nothing leaves any more: the loop says so, and holds its own repair.
    page.type_value("share_1", "0 %")
    page.click("//button[contains(., 'Asks and findings')]")
    page.text("Nothing removes benzene")
    page.click("//button[normalize-space()='Add a purge of 5 %']")
    page.in_date()
    page.wait(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, "[data-test^=unit-N-]")) == 2)
    assert not page.shows("Nothing removes benzene")
    for _ in range(3):
        page.chord("z")
        time.sleep(0.3)
    page.wait(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, "[data-test^=unit-N-]")) == 1)
    page.in_date()
    page.undo_all(60)


def test_units_are_found_by_the_words_that_people_use(page):
    page.sign_in()
    page.find("[name=project-name]").send_keys("By other words", Keys.ENTER)
    page.text("Start here: type a name")
    page.leave_field()
    page.driver.execute_script("document.activeElement.blur()")
    page.press("2")
    page.text("Choose components")
    for word, title in (("condenser", "Cooler"), ("turbine", "Expander"), ("knock-out drum", "Flash drum")):
        page.do(f"Add {word}")
        page.wait(lambda title=title: title in page.find("[aria-label=Inspector]").text)
    page.press(Keys.ESCAPE, "/")
    page.find("[aria-label='Find or do']").send_keys("save")
    page.text("Document as JSON (save)")
