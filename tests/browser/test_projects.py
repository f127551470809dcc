"""Projects and people in the browser: naming, branching, archiving, deleting, passwords, two people at one plant."""

import email
import re

import pytest
from people import add_person
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser


def manage(page, name):
    page.click(f"//button[@aria-label='Manage {name}']")
    page.find("[role=dialog] [name=rename-project]")


def push(page, text):
    page.click(f"//button[normalize-space()='{text}']")


def links(page):
    return [e.text for e in page.driver.find_elements(By.CSS_SELECTOR, "table a.link")]


def test_create_rename_branch_archive_delete_and_bring_back(page):
    page.sign_in()
    page.find("[name=project-name]").send_keys("Trial", Keys.ENTER)
    page.text("Start here")
    page.driver.get(page.address + "/")
    manage(page, "Trial")
    name = page.find("[name=rename-project]")
    name.clear()
    name.send_keys("Trial two", Keys.ENTER)
    page.wait(lambda: "Trial two" in links(page))
    page.click("//tr[contains(., 'Trial two')]//button[normalize-space()='Branch']")
    page.text("Base, branch 1")
    manage(page, "Trial two")
    push(page, "Archive")
    page.wait(lambda: "Trial two" not in links(page))
    archived = page.find("input[type=checkbox]")
    archived.click()
    page.wait(lambda: links(page) == ["Trial two"] * 2)
    manage(page, "Trial two")
    push(page, "Restore from the archive")
    page.wait(lambda: "Trial two" not in links(page))
    archived.click()
    page.wait(lambda: "Trial two" in links(page))
    manage(page, "Trial two")
    push(page, "Delete project")
    page.text("Trial two is deleted.")
    page.wait(lambda: "Trial two" not in links(page))
    push(page, "Restore it")
    page.wait(lambda: "Trial two" in links(page))
    page.find("[aria-label='Search projects']").send_keys("sandl")
    page.wait(lambda: links(page) and all("sandl" in name.lower() for name in links(page)))


def test_a_forgotten_password_is_set_by_the_link_in_the_mail(page, server_folder):
    add_person(server_folder, "petra", "first-long-word")
    page.driver.get(page.address + "/reset")
    page.find("[name=text]").send_keys("petra", Keys.ENTER)
    page.text("a mail with a link is on its way")
    newest = max((server_folder / "mail").iterdir(), key=lambda path: path.stat().st_mtime)
    body = email.message_from_bytes(newest.read_bytes()).get_payload(decode=True).decode()
    page.driver.get(re.search(r"http://\S+/reset/\S+", body).group())
    page.find("[name=text]").send_keys("short", Keys.ENTER)
    page.text("too short")
    page.find("[name=text]").clear()
    page.find("[name=text]").send_keys("second-long-word", Keys.ENTER)
    page.text("The password is set")
    page.sign_in("petra", "second-long-word")
    page.text("No project yet")


def test_two_people_at_one_plant_merge_quarrel_and_lose_nothing(page, other, server_folder):
    add_person(server_folder, "rolf", "rolfs-long-word")
    page.sign_in()
    manage(page, "Sandlark Bay")
    page.find("[name=invite]").send_keys("two words", Keys.ENTER)
    page.text("neither a mail address nor a user name")
    page.find("[name=invite]").clear()
    page.find("[name=invite]").send_keys("rolf", Keys.ENTER)
    page.text("rolf, invited as editor")
    push(page, "Close")
    page.click("//a[text()='Sandlark Bay']")
    page.in_date()
    other.sign_in("rolf", "rolfs-long-word")
    other.text("engineer invites you to Sandlark Bay as editor")
    push(other, "Join")
    other.click("//a[text()='Sandlark Bay']")
    other.in_date()
    page.select("E-103")
    page.type_value("outlet_temperature", "42 degC")
    other.wait(lambda: other.table()["Temperature"][1] == "42.00")
    other.select("VL-101")
    other.type_value("outlet_pressure", "1.25 bar")
    page.wait(lambda: page.table()["Pressure"][4] == "1.2500")
    page.press(Keys.ESCAPE)
    page.chord("z")  # one's own edit, not the other's
    page.wait(lambda: page.table()["Temperature"][1] == "35.00")
    assert page.table()["Pressure"][4] == "1.2500"
    other.press(Keys.ESCAPE)
    other.chord("z")
    page.wait(lambda: page.table()["Pressure"][4] == "1.1000")


def test_a_reader_sees_everything_and_changes_nothing(page, other, server_folder):
    add_person(server_folder, "lea", "leas-long-word")
    page.sign_in()
    manage(page, "Sandlark Bay")
    page.find("[name=invite]").send_keys("lea")
    Select(page.find("[aria-label='Role of the invited person']")).select_by_visible_text("reader")
    push(page, "Invite")
    page.text("lea, invited as reader")
    other.sign_in("lea", "leas-long-word")
    push(other, "Join")
    other.click("//a[text()='Sandlark Bay']")
    other.in_date()
    other.select("E-103")
    field = other.find("[data-field=outlet_temperature] input")
    assert field.get_attribute("value") == "35 °C"
    assert not field.is_enabled()
    assert not other.driver.find_elements(By.XPATH, "//aside//button[text()='Remove']")
