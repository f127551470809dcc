"""Ways in and out of a project in the browser: share link, invitation, quarrels side by side, pins, feed tables, help."""

import email
import re

import pytest
from people import add_person
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


def push(page, text):
    page.click(f"//button[normalize-space()='{text}']")


def test_a_share_link_opens_the_plant_for_reading_until_it_is_withdrawn(page, other):
    page.sign_in()
    page.click("//button[@aria-label='Variant Base of Sandlark Bay']")
    push(page, "Make a link")
    address = page.find("[aria-label='Address of the link']").get_attribute("value")
    other.driver.get(address)
    other.in_date()
    assert "/sheet" in other.driver.current_url
    other.select("E-103")
    assert not other.find("[data-field=outlet_temperature] input").is_enabled()
    assert not other.driver.find_elements(By.XPATH, "//button[text()='Add a pin']")
    push(page, "Withdraw")
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Address of the link']"))
    other.driver.get(address)
    other.text("This link does not work")


def test_an_invitation_by_mail_makes_an_account(page, other, server_folder):
    page.sign_in()
    page.click("//button[@aria-label='Manage Sandlark Bay']")
    page.find("[name=invite]").send_keys("vera@sandlark-bay.invalid", Keys.ENTER)
    page.text("is on its way to vera@sandlark-bay.invalid")
    newest = max((server_folder / "mail").iterdir(), key=lambda path: path.stat().st_mtime)
    body = email.message_from_bytes(newest.read_bytes()).get_payload(decode=True).decode()
    other.driver.get(re.search(r"http://\S+/invited/\S+", body).group())
    other.text("Sandlark Bay")
    other.find("[name=password]").send_keys("short", Keys.ENTER)
    other.text("too short")
    other.find("[name=password]").clear()
    other.find("[name=password]").send_keys("veras-long-word", Keys.ENTER)
    other.click("//a[text()='Sandlark Bay']")
    other.in_date()
    other.driver.get(other.address + "/")
    push(other, "Sign out")
    other.sign_in("vera", "veras-long-word")
    other.text("Sandlark Bay")


def test_a_quarrel_is_shown_side_by_side_and_the_person_decides(page, other, server_folder):
    add_person(server_folder, "quentin", "quentins-long-word")
    page.sign_in()
    page.click("//button[@aria-label='Manage Sandlark Bay']")
    page.find("[name=invite]").send_keys("quentin", Keys.ENTER)
    page.text("quentin, invited as editor")
    push(page, "Close")
    page.click("//a[text()='Sandlark Bay']")
    page.in_date()
    other.sign_in("quentin", "quentins-long-word")
    push(other, "Join")
    other.click("//a[text()='Sandlark Bay']")
    other.in_date()
    page.select("E-103")
    # The other page does not hear of the edit: its stream is cut, as on a bad line.
    other.driver.execute_script("window.dispatchEvent(new Event('pagehide'))")
    page.type_value("outlet_temperature", "41 degC")
    page.in_date()
    for value, button, stands in (("47 degC", "Keep theirs", "41.00"), ("48 degC", "Keep my change", "48.00")):
        other.select("E-103")
        other.type_value("outlet_temperature", value)
        if stands == "41.00":
            other.text("Conflicting changes")
            assert "35 degC -> 41 degC" in other.find("[data-test=theirs]").text
            assert "41 degC -> 47 degC" in other.find("[data-test=yours]").text
            push(other, button)
            other.wait(lambda: other.table()["Temperature"][1] == "41.00")  # the page has caught up
        page.wait(lambda stands=stands: page.table()["Temperature"][1] == stands)
    other.press(Keys.ESCAPE)
    other.chord("z")
    page.wait(lambda: page.table()["Temperature"][1] == "41.00")
    page.press(Keys.ESCAPE)
    page.chord("z")
    page.wait(lambda: page.table()["Temperature"][1] == "35.00")


def test_pins_show_values_changes_and_what_is_wrong(page):
    page.sign_in()
    page.click("//a[text()='Sandlark Bay']")
    page.in_date()
    push(page, "Add a pin")
    page.find("[name=pin-name]").send_keys("Vapour share")
    formula = page.find("[name=pin-formula]")
    formula.send_keys("S-08.mass_flow / ")
    push(page, "Keep")
    page.text("missing (at character")
    formula.send_keys("S-06.mass_flow", Keys.ENTER)
    page.wait(lambda: "0.10" in page.find("[data-pin='Vapour share']").text)
    page.select("E-103")
    page.type_value("outlet_temperature", "45 degC")
    page.wait(lambda: "+0.0" in page.find("[data-pin='Vapour share']").text)
    page.click("//button[@data-pin='Vapour share']")
    push(page, "Unpin")
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[data-pin='Vapour share']"))
    page.press(Keys.ESCAPE)
    for _ in range(3):
        page.chord("z")
    page.wait(lambda: page.table()["Temperature"][1] == "35.00")


def test_a_feed_takes_its_composition_from_a_table_file(page, tmp_path):
    page.sign_in()
    page.click("//a[text()='Sandlark Bay']")
    page.in_date()
    page.select("F-101")
    table = tmp_path / "feed.csv"
    table.write_text("component;kmol/h\nMEK;60\n2-butanol;22\nhydrogen;60\nunobtainium;3\n")
    page.driver.find_element(By.CSS_SELECTOR, "[name=feed-table]").send_keys(str(table))
    page.text("unobtainium is not one of the components")
    page.wait(lambda: page.table()["Mole flow"][0] == "142.00")
    page.press(Keys.ESCAPE)
    page.chord("z")
    page.wait(lambda: page.table()["Mole flow"][0] == "153.50")


def test_help_opens_at_the_place_of_the_page(page):
    page.sign_in()
    page.driver.get(page.address + "/help/guide#sheet")
    page.text("Press A with a unit selected")
    top = page.driver.execute_script("return document.querySelector('[id=sheet]').getBoundingClientRect().top")
    assert 0 < top < 200
    page.click("//nav//a[text()='Theory manual']")
    page.text("Rachford-Rice")
    assert page.driver.current_url.endswith("/help/theory")
