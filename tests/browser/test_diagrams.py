"""Reading diagrams of the chemistry: azeotropes, residue curves, a second model, readings that stay, numbers."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser


@pytest.fixture
def diagrams(page):
    page.sign_in()
    page.click("//a[text()='Sandlark Bay']")
    page.in_date()
    page.press("1")
    page.click("//a[text()='Diagrams']")
    page.find("[data-test=diagram-title]")
    return page


def choose(page, title):
    page.click(f"//button[@role='radio'][contains(., '{title}')]")


def select(page, label, value):
    found = page.driver.find_element(By.XPATH, f"//label[contains(., '{label}')]//select")
    Select(found).select_by_visible_text(value)


def title(page):
    return page.driver.execute_script("return document.querySelector('[data-test=diagram-title]')?.innerText ?? ''")


def test_a_boiling_diagram_is_read_beside_a_second_model(diagrams):
    select(diagrams, "Component 1", "butanone")
    select(diagrams, "Component 2", "water")
    diagrams.wait(lambda: title(diagrams).startswith("butanone and water at 1.01325 bar"))
    select(diagrams, "Beside it", "NRTL")
    diagrams.text("heterogeneous azeotrope of butanone and water")
    diagrams.click("//button[normalize-space()='Numbers']")
    numbers = "[aria-label='Numbers of the diagram'] "
    assert "temperature, °C" in diagrams.find(numbers + "thead").text
    diagrams.wait(lambda: len(diagrams.driver.find_elements(By.CSS_SELECTOR, numbers + "tr")) > 450)  # both models
    diagrams.click("//button[normalize-space()='Curves']")
    canvas = diagrams.find("figure canvas")
    ActionChains(diagrams.driver).move_to_element_with_offset(canvas, 0, -100).click().perform()
    field = diagrams.find("input[placeholder]")
    assert field.get_attribute("value") == "1.01325 bar"


def test_azeotropes_are_listed_and_residue_curves_read(diagrams):
    choose(diagrams, "Azeotropes")
    diagrams.wait(lambda: title(diagrams).startswith("Azeotropes at 1.01325 bar"))
    diagrams.text("unstable node")
    rows = diagrams.driver.find_elements(By.CSS_SELECTOR, "main table tbody tr")
    assert any("azeotrope" in r.text for r in rows)
    choose(diagrams, "Azeotropes over pressure")
    diagrams.wait(lambda: title(diagrams).startswith("Azeotropes from 1.01325 to 10 bar"))
    diagrams.text("heterogeneous azeotrope of")
    choose(diagrams, "Residue curves")
    select(diagrams, "Component 3", "water")
    diagrams.wait(lambda: title(diagrams).startswith("Residue curves of 2-butanol, butanone, water"))
    diagrams.text("stable node")
    canvas = diagrams.find("figure canvas")
    ActionChains(diagrams.driver).move_to_element_with_offset(canvas, 0, 20).click().perform()
    diagrams.text("Remove these")
    readings = diagrams.find("[aria-label='Readings']")
    assert "butanone 0." in readings.text
    diagrams.find("[aria-label='Remove reading 1']").click()
    diagrams.text("Click in the diagram")


def test_a_stream_has_an_envelope_and_a_wrong_unit_is_refused(diagrams):
    choose(diagrams, "Phase envelope")
    diagrams.wait(lambda: title(diagrams).startswith("Phase envelope"))
    diagrams.text("cricondentherm")
    choose(diagrams, "Boiling diagram")
    field = diagrams.find("main input[placeholder]")
    field.click()
    field.send_keys("3 kg\n")
    diagrams.find("[role=alert]")
    assert field.get_attribute("value") == "3 kg"
