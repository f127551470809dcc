"""Solids from the bank to the dryer, tables and turned symbols on the sheet, money, a question stopped, a vapour pressure fitted."""

import math

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser


def opened(page, name):
    page.sign_in()
    page.click(f"//tr[contains(., '{name}')]//a")
    page.in_date()


@pytest.fixture
def drying(page):
    opened(page, "Salt drying")
    yield page
    page.undo_all(40)


@pytest.fixture
def butanone(page):
    opened(page, "Butanone plant")
    yield page
    page.undo_all(30)


def status(page):
    return page.find("[data-test=status]").text


def test_a_solid_is_found_added_fed_and_filtered(drying):
    page = drying
    page.press("1")
    field = page.find("[aria-label='Find a component']")
    field.send_keys("limestone")
    page.wait(lambda: "solid, 471-34-1" in page.driver.find_element(By.CSS_SELECTOR, "[role=option]").text)
    field.send_keys(Keys.ENTER)
    page.click("//li//button[contains(., 'calcium carbonate')]")
    page.text("A conventional solid: it stays beside the fluid")
    page.wait(lambda: page.find("[data-field=density] input").get_attribute("placeholder") or page.find("[data-field=density]").text)
    assert "calcium carbonate" not in page.find("[data-test=pairs], table").text
    page.click("//a[text()='Sheet']")
    page.select("F-601")
    page.type_value("composition.calcium carbonate (calcite)", "100 kg/h")
    page.in_date()
    page.select("S-601")
    page.wait(lambda: float(page.table()["Mass flow"][0].replace(" ", "")) == pytest.approx(8530, abs=1))
    page.type_value("moisture", "20 %")
    page.in_date()
    page.text("Solids in the filtrate")


def test_a_cyclone_is_turned_and_back(drying):
    page = drying
    page.select("S-602")
    box = page.find("[data-test=unit-S-602]").size
    page.do("Turn by a quarter")
    page.wait(lambda: page.find("[data-test=unit-S-602]").size == {"width": box["height"], "height": box["width"]})
    page.leave_field()
    page.press("o")
    page.wait(lambda: page.find("[data-test=unit-S-602]").size == box)
    page.chord("z")
    page.wait(lambda: page.find("[data-test=unit-S-602]").size["width"] == box["height"])


def test_a_table_of_results_stands_on_the_sheet_and_follows_them(drying):
    page = drying
    page.click("//button[normalize-space()='Table']")
    page.text("Streams, one column each")
    name = page.find("[name=table-name]")
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("Air")
    for tag in ("S-01", "S-02", "S-09", "S-10"):
        page.click(f"//fieldset//label[contains(., '{tag}')]/input")
    page.click("//fieldset//label[contains(., 'S-05')]/input")
    page.click("//label[contains(., 'mass fraction of each component')]/input")
    page.click("//button[normalize-space()='Keep']")
    table = page.find("[data-test='table-Air']")
    page.wait(lambda: "160" in table.text)
    assert "oxygen, mass fraction" in page.find("[data-test='table-Air']").text
    page.select("E-601")
    page.type_value("outlet_temperature", "170 degC")
    page.wait(lambda: "170" in page.find("[data-test='table-Air']").text)
    ActionChains(page.driver).double_click(page.find("[data-test='table-Air']")).perform()
    page.click("//*[@role='dialog']//button[normalize-space()='Remove']")
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[data-test='table-Air']"))


def test_money_flows_as_wide_as_it_is_worth_and_needs_every_price(drying):
    page = drying

    def widths():
        return {
            tag: float(page.driver.find_elements(By.CSS_SELECTOR, f"[data-test=stream-{tag}] path")[1].get_attribute("stroke-width"))
            for tag in ("S-01", "S-03", "S-04")
        }  # fmt: skip

    Select(page.find("[name=lines]")).select_by_visible_text("money flow")
    page.wait(lambda: widths()["S-01"] > 10)
    found = widths()
    assert found["S-03"] > 8
    assert found["S-04"] == pytest.approx(1.0, abs=0.1)
    page.leave_field()
    page.press("1")
    page.click("//li//button[contains(., 'sodium sulfate')]")
    field = page.find("[data-field=price] input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(Keys.DELETE, Keys.ENTER)
    page.wait(lambda: page.find("[data-field=price] input").get_attribute("value") == "")
    page.click("//a[text()='Sheet']")
    page.text("Give every component a price under Chemistry.")


def test_rows_and_streams_of_the_table_are_chosen(drying):
    page = drying
    assert "Money flow" in page.table()
    page.click("//button[normalize-space()='Rows']")
    page.click("//label[contains(., 'Money flow')]/input")
    page.click("//label[contains(., 'Liquid, mole fractions')]/input")
    page.wait(lambda: "Money flow" not in page.table())
    assert "water, liquid" in page.table()
    page.click("//label[contains(., 'Money flow')]/input")
    page.click("//label[contains(., 'Liquid, mole fractions')]/input")
    page.press(Keys.ESCAPE)
    Select(page.find("[name=which-streams]")).select_by_visible_text("in and out of the plant")
    page.wait(lambda: len(page.table()["Temperature"]) == 5)


def test_a_long_question_shows_how_far_it_is_and_is_stopped(butanone):
    page = butanone
    page.press("1")
    page.click("//a[text()='Diagrams']")
    page.click("//button[@role='radio'][contains(., 'Azeotropes over pressure')]")
    page.wait(lambda: "%" in page.find("[data-test=working]").text)
    page.click("//button[normalize-space()='Stop']")
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[data-test=working]"))
    page.click("//button[@role='radio'][contains(., 'One component')]")
    page.text("vapour pressure")


def test_a_vapour_pressure_is_fitted_applied_and_given_back(butanone):
    page = butanone
    page.press("1")
    page.click("//a[text()='Data and fits']")
    page.click("//button[normalize-space()='Add a set']")
    page.wait(lambda: page.find("[aria-label='T, point 1']").get_attribute("value") == "")  # the new set is open, not the tube
    page.choose("Kind of data", "Vapour pressure of one component (T, P)")
    page.text("ln(P/Pa) = A")
    lines = [f"{t}\t{math.exp(21.0 - 2900.0 / (t + 273.15 - 48.0)) / 1e5:.6f}" for t in (50, 60, 70, 80, 90, 100)]
    script = (
        "const d = new DataTransfer(); d.setData('text/plain', arguments[1]);"
        "arguments[0].dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true}))"
    )
    page.driver.execute_script(script, page.find("[aria-label='T, point 1']"), "\n".join(lines))
    page.text("6 points")
    page.click("//button[normalize-space()='Fit']")
    page.wait(lambda: "measured fit" in page.find("[data-test=fit]").text)
    assert "2900" in page.find("aside table").text.replace(" ", "").replace("\u202f", "")
    page.click("//button[normalize-space()='Keep and apply']")
    page.text("Fits that were kept")
    page.click("//a[text()='Components and model']")
    page.text("Fit 1 to Data 1")
    page.click("//button[normalize-space()='Use the bank value']")
    page.wait(lambda: not page.shows("Own vapour pressure"))


def test_a_dissolved_salt_is_typed_crystallised_and_taken_back(drying):
    page = drying
    before = page.revision()
    page.press("1")
    page.click("//button[normalize-space()='Own component…']")
    page.find("[aria-label='Name of the own component']").send_keys("sulfate in solution")
    Select(page.find("[aria-label='What is known']")).select_by_visible_text("Typed constants of a dissolved salt")
    page.click("//button[normalize-space()='Check']")
    page.text("Still needed: molar mass, enthalpy of formation, dissolved.")
    for field, text in (("molar_mass", "142.04 g/mol"), ("formation_enthalpy", "-1389.5 kJ/mol")):
        page.find(f"form [data-field={field}] input").send_keys(text, Keys.ENTER)
    page.find("[aria-label='Formula']").send_keys("Na2SO4")
    page.click("//button[normalize-space()='Check']")
    page.click("//button[normalize-space()='Add it']")
    page.text("dissolved, own")
    page.click("//li//button[contains(., 'sulfate in solution')]")
    page.text("Only ever dissolved: it neither boils nor freezes")
    page.click("//a[text()='Reactions']")
    page.click("//button[normalize-space()='Add a set']")
    page.click("//button[normalize-space()='Add a reaction']")
    field = page.find("[aria-label='Equation']")
    field.clear()
    field.send_keys("sulfate in solution = sodium sulfate", Keys.TAB)
    page.text("the elements balance")
    page.click("//a[text()='Sheet']")
    page.text("F-601")
    page.do("Add Crystalliser")
    page.type_value("solvent", "water")
    page.text("needs one value for its solubilities")
    page.undo_all()
    assert page.revision() > before
