"""Reactions and reactors in the browser: an equation that balances itself, constants that cannot be mistyped, a reactor with its profile."""

import pytest
from plants import plant
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser
PARTS = [("2-butanol", "78-92-2"), ("butanone", "78-93-3"), ("hydrogen", "1333-74-0")]


def plant_with(reactor, sets=()):
    values = {name: {"value": 1.0 if name == "2-butanol" else 0.0} for name, _ in PARTS}
    feed = {"temperature": "400 degC", "pressure": "2 bar", "flow": "36 kmol/h", "composition": {"basis": "mole_fraction", "values": values}}
    units = {"F-1": ("feed", feed), "R-1": ("plug-flow-reactor", reactor), "Z-1": ("product", {})}
    return plant(PARTS, units, ["S-1: F-1.outlet -> R-1.inlet", "S-2: R-1.outlet -> Z-1.inlet"], "ideal", reactions=list(sets))


def fill(page, label, text):
    field = page.find(f"[aria-label='{label}']")
    field.clear()
    field.send_keys(text, Keys.TAB)


def pick(page, title, option):
    page.wait(lambda: page.driver.find_element(By.XPATH, f"//label[span[text()='{title}']]/select"))
    Select(page.driver.find_element(By.XPATH, f"//label[span[text()='{title}']]/select")).select_by_visible_text(option)


def test_from_an_equation_to_a_reactor_with_its_profile(page, tmp_path):
    page.upload(tmp_path, "alcohol", plant_with({}))
    page.text("F-1")
    page.driver.get(page.driver.current_url.replace("/sheet", "/chemistry/reactions"))
    page.click("//button[normalize-space()='Add a set']")
    page.text("Reactions of Reactions 1")
    page.click("//button[normalize-space()='Add a reaction']")
    fill(page, "Equation", "2-butanol = butanone + 2 H2")
    page.text("The products have 2 H more than the reactants.")
    page.click("//button[normalize-space()='Balance: 2-butanol = butanone + hydrogen']")
    page.text("2-butanol = butanone + hydrogen; the elements balance.")
    assert "it takes heat" in page.find("[data-test=heat]").text

    pick(page, "Rate", "by a rate law")
    page.click("//button[normalize-space()='As in one step']")
    page.text("r = k c[2-butanol] with k in 1/s")
    fill(page, "Rate forward: constant", "0.6")
    before = page.revision()
    fill(page, "Rate forward: unit of the constant", "L/(mol s)")
    page.text("units like 1/s, and this has those of m^3/(mol s)")
    assert page.revision() == before
    fill(page, "Rate forward: unit of the constant", "1/min")
    page.text("0.01 1/s, E/R = 0 K")
    page.wait(lambda: page.revision() > before)
    page.click("//a[normalize-space()='Sheet']")
    page.text("F-1")
    page.select("R-1")
    Select(page.find("[data-field=reactions] select")).select_by_visible_text("Reactions 1")
    page.type_value("volume", "4 m3")
    page.in_date()
    page.click("//a[normalize-space()='Open the page of R-1']")
    section = page.find("[data-test=section]")
    section.send_keys(Keys.END)
    page.wait(lambda: float(page.find("[data-test=read-temperature]").text) < 400.0)
    page.click("//nav[@aria-label='Views of the unit']//button[normalize-space()='Numbers']")
    page.wait(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Along the reactor, numbers'] tbody tr")) == 41)
    # A rate taken back is taken back where it is used.
    page.driver.get(page.driver.current_url.split("/sheet")[0] + "/chemistry/reactions")
    page.text("Used by R-1.")
    page.undo_all(1)


RATE = {"orders": {"2-butanol": 1}, "value": 0.4, "unit": "1/s"}
SET = {"name": "Main", "reactions": [{"name": "R1", "numbers": {"2-butanol": -1, "butanone": 1, "hydrogen": 1}, "forward": RATE}]}


def test_how_many_tubes_reach_a_conversion(page, tmp_path):
    tubes = {"reactions": "Main", "length": "3 m", "diameter": "40 mm", "tubes": "100", "heat": "isothermal"}
    page.upload(tmp_path, "tubes", plant_with(tubes, [SET]))
    page.in_date()
    page.select("R-1")
    page.press("/")
    page.find("[aria-label='Find or do']").send_keys("Aim at a value")
    page.wait(lambda: "Aim at a value" in page.driver.find_elements(By.CSS_SELECTOR, "[role=option]")[0].text)
    page.press(Keys.ENTER)
    page.find("input[name=aim-formula]").send_keys("R-1.conversion", Keys.TAB)
    page.text("What may vary")
    page.find("[data-field=target] input").send_keys("60 %", Keys.ENTER)
    page.text("R-1 tubes")
    page.click("//label[contains(., 'R-1 tubes')]")
    page.click("//button[normalize-space()='Aim at it']")
    page.wait(lambda: not page.driver.find_elements("css selector", "[role=dialog]"))
    page.click("//button[starts-with(normalize-space(), 'Aims')]")
    page.wait(lambda: "met" in page.find("[data-aim]").text.split())
    assert "tubes" in page.find("[data-aim]").text


def test_a_law_is_written_as_an_expression_and_one_that_does_not_fit_is_not_kept(page, tmp_path):
    page.upload(tmp_path, "written", plant_with({"reactions": "Main", "volume": "4 m3"}, [SET]))
    page.in_date()
    page.driver.get(page.driver.current_url.replace("/sheet", "/chemistry/reactions"))
    page.text("Reactions of Main")
    before = page.revision()
    page.click("//button[contains(., 'Hindered by adsorption')]")
    page.choose("Rate forward: component of K1", "hydrogen")
    fill(page, "Rate forward: constant K1", "50")
    fill(page, "Rate forward: unit of the constant K1", "1/bar")
    page.text("its constant has units like m3/mol, and this has m s^2/kg")
    assert page.revision() == before
    fill(page, "Rate forward: unit of the constant K1", "L/mol")
    page.wait(lambda: page.revision() == before + 1)
    page.choose("Rate forward: written as", "expression")
    fill(page, "Rate forward: expression", "k * c[2-butanol] / (1 + K * p[hydrogen])")
    fill(page, "Rate forward: constant k", "0.4")
    fill(page, "Rate forward: unit of the constant k", "1/s")
    fill(page, "Rate forward: constant K", "2")
    page.text("A plain number and something in kg/(m s^2) cannot be added")
    assert page.revision() == before + 1
    fill(page, "Rate forward: unit of the constant K", "1/bar")
    page.wait(lambda: page.revision() == before + 2)
    page.in_date()
    page.undo_all(2)


def test_a_reactor_by_conversions_row_by_row(page, tmp_path):
    document = plant_with({}, [SET])
    units = [{**u.model_dump(), "type": "conversion-reactor", "spec": {}} if u.tag == "R-1" else u for u in document.units]
    page.upload(tmp_path, "converted", type(document).model_validate({**document.model_dump(), "units": units}))
    page.text("F-1")
    page.select("R-1")
    Select(page.find("[data-field=reactions] select")).select_by_visible_text("Main")
    page.click("//div[@data-field='conversions']//button[normalize-space()='Type or paste rows']")
    page.choose("Reaction, row 1", "R1")
    page.text("1 row")
    page.type_value("conversions[1].conversion", "85 %")
    page.type_value("outlet_temperature", "400 degC")
    page.in_date()
    page.wait(lambda: "Conversion, 2-butanol" in page.find("[aria-label=Inspector]").text)
    assert "0.85" in page.find("[aria-label=Inspector]").text
