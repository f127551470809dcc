"""A person's way from signing in to a solved plant of their own, by keyboard alone from the second half on."""

import json
import time

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser


def open_demo(page):
    page.sign_in()
    page.click("//a[text()='Sandlark Bay']")
    page.in_date()


def test_open_the_demo_change_a_number_and_see_every_result_change(page):
    open_demo(page)
    page.wait(lambda: page.table()["Temperature"][1] == "35.00")
    before = page.table()
    page.find("[data-test=unit-E-103]").click()
    field = page.find("[data-field=outlet_temperature] input")
    assert field.get_attribute("value") == "35 °C"
    field.click()
    field.send_keys("104 degF")
    page.text("understood as 40 °C")
    field.send_keys(Keys.ENTER)
    page.wait(lambda: page.table()["Temperature"][1] == "40.00")
    page.in_date()
    after = page.table()
    for row in ("Temperature", "Mole flow", "butanone"):
        assert after[row][2:] != before[row][2:]
    page.text("= 40 °C")
    page.press(Keys.ESCAPE)
    page.chord("z")
    page.wait(lambda: page.table() == before)
    page.chord("y")
    page.wait(lambda: page.table() == after)
    page.chord("z")
    page.wait(lambda: page.table() == before)


def test_units_asks_findings_and_history(page):
    open_demo(page)
    Select(page.find("header select")).select_by_visible_text("US customary")
    page.wait(lambda: page.table()["Temperature"][1] == "95.00")
    Select(page.find("header select")).select_by_visible_text("Metric")
    page.wait(lambda: page.table()["Temperature"][1] == "35.00")
    page.select("E-103")
    page.type_value("outlet_temperature", Keys.BACKSPACE)
    page.click("//button[contains(., 'Asks and findings')]")
    page.text(
        "E-103 needs one value for its outlet: outlet temperature, temperature change, heat removed, outlet vapour fraction, superheat or subcooling."
    )
    page.press(Keys.ESCAPE)
    page.press(Keys.ESCAPE)
    page.find("section[aria-label=Results] li button.link").click()
    page.wait(lambda: page.driver.execute_script("return document.activeElement.closest('[data-field]')?.dataset.field") == "outlet_temperature")
    page.press("35 degC", Keys.ENTER)
    page.in_date()
    page.click("//button[contains(., 'History')]")
    page.text("E-103 outlet temperature blank -> 35 degC")
    page.click("//button[contains(., 'Assumptions')]")
    page.text("no pressure loss was given")


COMPONENTS = ["sec-butyl alcohol", "MEK", "1333-74-0", "H2O"]


def build_plant(page, name):
    """The demo plant again, from nothing, without touching the mouse."""
    page.find("[name=project-name]").send_keys(name, Keys.ENTER)
    page.text("Start here: type a name")
    for text in COMPONENTS:
        search = page.find("[aria-label='Find a component']")
        search.send_keys(text)
        page.wait(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role=option]"))
        count = len(page.driver.find_elements(By.CSS_SELECTOR, "ul li [aria-pressed]"))
        search.send_keys(Keys.ENTER)
        page.wait(lambda n=count: len(page.driver.find_elements(By.CSS_SELECTOR, "ul li [aria-pressed]")) == n + 1)
    page.text("5 of 6 assumed zero")
    page.find("input[name=translated]").send_keys(Keys.SPACE)  # the demo keeps the volumes of the equation itself
    page.wait(lambda: not page.find("input[name=translated]").is_selected())
    page.press(Keys.ESCAPE)
    page.driver.execute_script("document.activeElement.blur()")
    page.press("2")
    page.text("Put the first feed on it")
    page.do("Add Feed")
    page.wait(lambda: page.find("[aria-label=Inspector] button.tag").text == "F-101")
    page.text("F-101 needs 2 values for its state")
    page.type_value("temperature", "180 degC")
    page.type_value("pressure", "2.2 bar")
    basis = page.find("[aria-label=Basis]")
    page.press(Keys.ESCAPE)
    basis.send_keys("mole flow")
    page.wait(lambda: basis.get_attribute("value") == "mole_flow")
    for component, flow in (("2-butanol", "12 kmol/h"), ("butanone", "70 kmol/h"), ("hydrogen", "70 kmol/h"), ("water", "1.5 kmol/h")):
        page.type_value(f"composition.{component}", flow)

    def add(what, tag, **values):
        page.do(f"Add {what}")
        page.wait(lambda: page.find("[aria-label=Inspector] button.tag").text == tag)
        for field, text in values.items():
            page.type_value(field, text)

    add("Cooler", "E-101", outlet_temperature="35 degC", pressure_change="-0.15 bar")
    add("Flash drum", "V-101", duty="0 kW", pressure_change="0 bar")
    add("Product", "Z-101")
    page.select("V-101")
    add("Valve", "VL-101", outlet_pressure="1.1 bar")
    add("Flash drum", "V-102", duty="0 kW")
    add("Product", "Z-102")
    page.select("V-102")
    add("Product", "Z-103")
    page.in_date()


def test_build_the_same_plant_from_an_empty_project_by_keyboard(page):
    open_demo(page)
    page.wait(lambda: page.table().get("Temperature"))
    wanted = page.table()
    page.driver.get(page.address + "/")
    build_plant(page, "Second plant")
    assert page.table() == wanted
    page.select("E-101")
    page.press("r")
    page.find("[aria-label=Tag]").send_keys("E-103", Keys.ENTER)
    page.find("[data-test=unit-E-103]")
    assert page.table() == wanted


def test_download_and_upload_give_the_same_plant(page, tmp_path):
    open_demo(page)
    page.wait(lambda: page.table().get("Temperature"))
    wanted = page.table()
    document = page.driver.execute_script(
        "return fetch(location.pathname.replace('/plant', '/api/variants').replace('/sheet', '/document.json')).then(r => r.text())"
    )
    assert json.loads(document)["format"] == "wattaxis-flowsheet"
    path = tmp_path / "plant.json"
    path.write_text(document)
    page.driver.get(page.address + "/")
    page.wait(lambda: page.driver.find_element(By.NAME, "document")).send_keys(str(path))
    page.wait(lambda: "/sheet" in page.driver.current_url)
    page.in_date()
    assert page.table() == wanted


def test_draw_connect_move_and_delete_by_mouse(page):
    from selenium.webdriver.common.action_chains import ActionChains

    page.sign_in()
    page.find("[name=project-name]").send_keys("Mouse plant", Keys.ENTER)
    page.text("Start here")
    search = page.find("[aria-label='Find a component']")
    search.send_keys("propane")
    page.find("[role=option]").click()
    page.find("a.btn-main").click()
    page.find("button.btn-main").click()
    page.find("[data-test=unit-F-101]")
    page.press(Keys.ESCAPE, Keys.ESCAPE)
    page.wait(lambda: page.find("[aria-label=Inspector] h2"))
    page.do("Add Valve")
    valve = page.find("[data-test=unit-VL-101]")
    assert not page.driver.find_elements(By.CSS_SELECTOR, "[data-test^=stream-S]")
    outlet = page.driver.find_element(By.CSS_SELECTOR, "[data-test=unit-F-101] .vue-flow__handle.source")
    inlet = page.driver.find_element(By.CSS_SELECTOR, "[data-test=unit-VL-101] .vue-flow__handle.target")
    ActionChains(page.driver).move_to_element(outlet).click_and_hold().move_by_offset(30, 10).move_to_element(inlet).release().perform()
    page.wait(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-test^=stream-S]"))
    before = page.revision()
    ActionChains(page.driver).click_and_hold(valve).move_by_offset(40, 80).move_by_offset(20, 20).release().perform()
    page.wait(lambda: page.revision() == before + 1)
    page.press(Keys.DELETE)
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[data-test=unit-VL-101]"))
    page.chord("z")
    page.find("[data-test=unit-VL-101]")
    page.find("[data-test=stream-S-01]")


def test_results_of_another_tab_arrive_by_themselves(page):
    open_demo(page)
    page.wait(lambda: page.table().get("Temperature"))
    first = page.driver.current_window_handle
    path = page.driver.current_url
    page.driver.switch_to.new_window("tab")
    page.size()
    page.driver.get(path)
    page.in_date()
    page.select("VL-101")
    page.type_value("outlet_pressure", "1.3 bar")
    page.driver.switch_to.window(first)
    page.wait(lambda: page.table()["Pressure"][4] == "1.3000")
    page.chord("z")
    page.wait(lambda: page.table()["Pressure"][4] == "1.1000")
    page.driver.switch_to.window(next(h for h in page.driver.window_handles if h != first))
    page.wait(lambda: page.table()["Pressure"][4] == "1.1000")
    page.driver.close()
    page.driver.switch_to.window(first)


def test_nothing_overlaps_or_scrolls_sideways_in_both_themes(page):
    open_demo(page)
    base = page.driver.current_url.rsplit("/", 1)[0]
    for path in ("/", base + "/chemistry", base + "/sheet"):
        page.driver.get(path if path.startswith("http") else page.address + path)
        time.sleep(0.5)
        for theme in ("light", "dark"):
            page.driver.execute_script(f"document.documentElement.classList.toggle('dark', {str(theme == 'dark').lower()})")
            assert page.driver.execute_script("return document.documentElement.scrollWidth <= 1280"), (path, theme)
    unlabelled = page.driver.execute_script(
        "return [...document.querySelectorAll('input, select, button')].filter(e => e.offsetParent && !e.labels?.length &&"
        " !(e.getAttribute('aria-label') || e.innerText.trim())).map(e => e.outerHTML)"
    )
    assert not unlabelled
