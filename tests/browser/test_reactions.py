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


def test_constants_measured_at_several_temperatures_are_pasted(page, tmp_path):
    page.upload(tmp_path, "measured", plant_with({"reactions": "Main", "volume": "4 m3", "heat": "isothermal"}, [SET]))
    page.in_date()
    sheet = page.driver.current_url
    page.driver.get(sheet.replace("/sheet", "/chemistry/reactions"))
    page.text("Reactions of Main")
    before = page.revision()
    page.click("//button[normalize-space()='Measured at several temperatures']")
    page.text("A rate law is kept once its constant is measured at two temperatures or more.")
    page.paste("Temperature, point 1", "300\t0.05\n340\t0.2\n380\t=1.2/2")
    page.wait(lambda: page.revision() == before + 1)
    page.wait(lambda: page.find("[aria-label='Constant, point 3']").get_attribute("value") == "0.6")
    page.driver.get(f"{sheet}/unit/R-1")
    page.text("Its constants are tabulated from 573.15 to 653.15 K and used at 673.15 K")
    page.driver.get(sheet.replace("/sheet", "/chemistry/reactions"))
    page.text("Reactions of Main")
    page.paste("Temperature, point 4", "420\t1.5")
    page.wait(lambda: page.revision() == before + 2)
    page.driver.get(f"{sheet}/unit/R-1")
    page.in_date()
    page.wait(lambda: not page.shows("used at 673.15 K"))
    page.driver.get(sheet.replace("/sheet", "/chemistry/reactions"))
    page.click("//button[normalize-space()='One value, by an activation energy']")
    page.text("A rate law is kept once its constant has a value and a unit.")
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


def test_reactors_on_one_feed_stand_side_by_side(page):
    page.sign_in()
    page.click("//tr[contains(., 'Reactors on one feed')]//a")
    page.in_date()
    page.click("//button[@role='tab'][starts-with(normalize-space(), 'Reactors')]")

    def heads():
        return [e.text for e in page.driver.find_elements(By.CSS_SELECTOR, "[data-test=reactors] thead button")]

    def row(title):
        cells = page.driver.execute_script(
            "return [...document.querySelectorAll('[data-test=reactors] tbody tr')].map(r => [...r.children].map(c => c.innerText))"
        )
        return next(r for r in cells if r[0] == title)

    page.wait(lambda: heads() == ["R-101", "R-102", "R-103", "R-104", "R-105"])
    hot = row("Outlet temperature")
    assert hot[1] == "°C"
    assert all(float(cell) > 100.0 for cell in hot[2:])
    assert row("Space time at the inlet")[2] == "–"
    page.find("[name=beside-R-101]").click()
    page.wait(lambda: heads() == ["R-102", "R-103", "R-104", "R-105"])
    assert row("Outlet temperature")[2:] == hot[3:]
    Select(page.find("[name=along-reactors]")).select_by_visible_text("Pressure")
    page.wait(lambda: page.find("[aria-label^='Pressure']"))
    # The same feed hotter, and half of it; what cannot be is told of that case alone, and all of it survives another page.
    for tag in ("R-102", "R-105"):
        page.find(f"[name=beside-{tag}]").click()
    page.click("//button[normalize-space()='Other conditions at the inlet']")
    fill(page, "Temperature of condition 1", "430 degC")
    page.wait(lambda: heads() == ["R-103", "R-103", "R-104", "R-104"])
    page.click("//button[normalize-space()='Another condition']")
    fill(page, "Temperature of condition 2", "20 degC")
    page.text("R-104, 20 °C: The reactions take place in the vapour, and what comes in is liquid.")
    reached = row("Conversion of 2-butanol")[2:]
    assert float(reached[1]) > float(reached[0])
    assert reached[2] == "–"
    page.click("//a[normalize-space()='Compare']")
    page.click("//a[normalize-space()='Sheet']")
    page.click("//button[@role='tab'][starts-with(normalize-space(), 'Reactors')]")
    assert page.find("[aria-label='Temperature of condition 1']").get_attribute("value") == "430 °C"
    page.click("//button[@aria-label='Remove condition 2']")
    page.wait(lambda: len(heads()) == 10)
    page.select("R-103")


def test_from_an_empty_project_to_a_reactor_with_recycle_by_keyboard(page):
    page.sign_in()
    page.find("[name=project-name]").send_keys("Alcohol round", Keys.ENTER)
    page.text("Start here: type a name")
    for count, name in enumerate(("2-butanol", "butanone", "hydrogen"), 1):
        search = page.find("[aria-label='Find a component']")
        search.send_keys(name)
        page.wait(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role=option]"))
        search.send_keys(Keys.ENTER)
        page.wait(lambda n=count: len(page.driver.find_elements(By.CSS_SELECTOR, "ul li [aria-pressed]")) == n)
    page.driver.find_element(By.XPATH, "//a[normalize-space()='Reactions']").send_keys(Keys.ENTER)
    for button in ("Add a set", "Add a reaction"):
        page.wait(lambda b=button: page.driver.find_element(By.XPATH, f"//button[normalize-space()='{b}']")).send_keys(Keys.ENTER)
    fill(page, "Equation", "2-butanol = butanone + hydrogen")
    page.text("the elements balance")
    page.driver.find_element(By.XPATH, "//label[span[text()='Rate']]/select").send_keys("by a rate law")
    page.wait(lambda: page.driver.find_element(By.XPATH, "//button[normalize-space()='As in one step']")).send_keys(Keys.ENTER)
    before = page.revision()
    fill(page, "Rate forward: constant", "2")
    fill(page, "Rate forward: unit of the constant", "1/s")
    page.wait(lambda: page.revision() > before)
    page.driver.execute_script("document.activeElement.blur()")
    page.press("2")
    page.text("Put the first feed on it")
    page.add("Feed", "F-101", temperature="120 degC", pressure="2 bar", flow="100 kmol/h")
    page.type_value("composition.2-butanol", "1")
    page.add("Mixer", "M-101")
    page.add("Heater", "E-101", outlet_temperature="400 degC")
    page.add("Plug-flow reactor", "R-101")
    page.to_field("reactions")
    page.press("Reactions 1")
    page.type_value("volume", "3 m3")
    page.add("Component splitter", "T-101", overhead_temperature="30 degC", bottoms_vapour_fraction="0")
    for name, share in (("2-butanol", "1 %"), ("butanone", "99 %"), ("hydrogen", "100 %")):
        page.type_value(f"shares.{name}", share)
    page.add("Product", "Z-101")
    page.select("T-101")
    page.do("Connect T-101 bottoms to M-101")
    page.in_date()
    page.wait(lambda: "100.00" in page.table()["Mole flow"])
    page.driver.find_element(By.XPATH, "//button[@role='tab'][starts-with(normalize-space(), 'Loops')]").send_keys(Keys.SPACE)
    page.text("Loop 1, closed")
