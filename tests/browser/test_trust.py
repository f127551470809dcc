"""A chemistry settled from nothing by paste, guide and fit, its marks followed downstream; curves, assumptions, a calculation that is stopped."""

import pytest
from mazes import maze, with_aims
from plants import C4, feed, plant, q
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from wattaxis import PropertyModel, solve

pytestmark = pytest.mark.browser
PAIR = ("2-butanol", "5-methyl-3-heptanone")


def measured():
    """Points at 1 atm in degF and psi, of a mixture that the bank knows nothing of."""
    model = PropertyModel("margules", PAIR, {PAIR: {"a12": 0.5, "a21": 0.35}})
    rows = []
    for x in (0.08, 0.2, 0.35, 0.5, 0.65, 0.8, 0.92):
        state = model.flash([x, 1 - x], P=101325.0, VF=0.0)
        rows.append(f"{(state.temperature - 273.15) * 1.8 + 32:.4f}\t{state.pressure / 6894.757:.5f}\t{x}\t{state.vapour_fractions[0]:.5f}")
    return "\n".join(rows)


def quiet(page):
    page.driver.execute_script("document.activeElement.blur()")


def test_components_by_paste_a_model_by_the_guide_a_pair_by_fitting_and_its_mark_downstream(page):
    page.sign_in()
    page.find("[name=project-name]").send_keys("Trust", Keys.ENTER)
    page.text("Start here: type a name")
    page.paste("Find a component", "2-butanol\n541-85-5\nunobtainium\n")
    page.text("unobtainium")
    page.wait(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, "ul li [aria-pressed]")) == 2)
    page.click("//button[@aria-label='Use NRTL']")
    page.text("1 of 1 assumed zero")
    # A plant that rests on the pair says so.
    quiet(page)
    page.press("2")
    page.text("Put the first feed on it")
    page.add("Feed", "F-101", temperature="300 K", pressure="1 bar", flow="10 kmol/h")
    page.type_value("composition.2-butanol", "0.5")
    page.type_value("composition.5-methyl-3-heptanone", "0.5")
    page.add("Heater", "E-101", outlet_temperature="395 K")
    page.add("Product", "Z-101")
    page.in_date()
    page.click("//button[normalize-space()='Streams']")
    page.wait(lambda: page.table()["Pairs not measured"] == ["◇ 1", "◇ 1"])
    page.do("Find S-02,")
    page.text("Depends on 1 pair without measured data")
    # Measured points in foreign units, two models beside each other, the better one applied.
    quiet(page)
    page.press("1")
    page.click("//a[text()='Data and fits']")
    page.click("//button[normalize-space()='Add a set']")
    page.wait(lambda: page.find("[aria-label='T, point 1']").get_attribute("value") == "")
    for column, unit in (("T", "°F"), ("P", "psi")):
        page.choose(f"Unit of {column}", unit)
    page.wait(lambda: page.find("[aria-label='Unit of P']").get_attribute("value") == "psi")
    page.paste("T, point 1", measured())
    page.text("7 points")
    page.click("//button[normalize-space()='Fit']")
    page.text("NRTL, least squares, 2 free")
    page.click("//button[contains(., 'Keep for comparison')]")
    Select(page.find("aside select")).select_by_visible_text("Margules")
    page.click("//button[normalize-space()='Fit']")
    page.text("Margules, least squares, 2 free")
    table = page.find("[data-test=deviations]").text
    assert ("Beside it NRTL" in table, table.count("beside") >= 2) == (True, True)
    page.click("//summary[contains(., 'Correlation')]")
    assert "1.000" in page.find("[data-test=correlation]").text
    Select(page.find("aside select")).select_by_visible_text("NRTL")
    page.click("//button[normalize-space()='Fit']")
    # Only the answer to what is asked can be applied, and Margules' was there a moment ago.
    page.click("//button[normalize-space()='Keep and apply'][not(@disabled)]")
    page.text("Fits that were kept")
    page.press("2")
    page.in_date()
    page.click("//button[normalize-space()='Streams']")
    page.wait(lambda: "Pairs not measured" not in page.table() and "Temperature" in page.table())
    page.do("Find S-02,")
    page.text("E-101 outlet")
    assert not page.driver.find_elements(By.CSS_SELECTOR, "[data-test=doubts]")
    page.undo_all(60)


def test_data_of_a_model_stay_branded(page):
    page.sign_in()
    page.click("//tr[contains(., 'Butanone plant')]//a")
    page.in_date()
    page.press("1")
    page.click("//a[text()='Data and fits']")
    page.text("Laboratory tube")
    page.click("//button[normalize-space()='From a model']")
    page.text("stays marked")
    page.click("//button[normalize-space()='Make the set']")
    page.text("marked as not measured, permanently")
    page.wait(lambda: page.find("[aria-label='T, point 1']").get_attribute("value") != "")
    page.click("//button[normalize-space()='Fit']")
    assert "estimated" in page.find("[data-test=fit]").text
    weight = page.find("[aria-label='Weight of point 2']")
    weight.send_keys("0", Keys.TAB)
    page.text("A weight is a positive number")
    weight.send_keys(Keys.BACKSPACE, "4", Keys.TAB)
    page.wait(lambda: page.find("[aria-label='Weight of point 2']").get_attribute("value") == "4")
    # A component more leaves what was typed where it is.
    typed = page.find("[aria-label='T, point 2']").get_attribute("value")
    page.click("//button[normalize-space()='+ component']")
    page.wait(lambda: page.find("[aria-label='x2, point 2']").get_attribute("value") == "")
    assert page.find("[aria-label='T, point 2']").get_attribute("value") == typed
    assert page.find("[aria-label='Weight of point 2']").get_attribute("value") == "4"
    page.undo_all()


def test_a_pump_gets_its_curve_from_a_spreadsheet_and_assumptions_are_weighed(page, tmp_path):
    units = {"F-1": feed(pressure="12 bar", temperature="300 K"), "P-1": ("pump", {"outlet_pressure": q("20 bar")}), "Z-1": ("product", {})}
    page.upload(tmp_path, "curve", plant(C4, units, ["S-1: F-1.outlet -> P-1.inlet", "S-2: P-1.outlet -> Z-1.inlet"]))
    page.in_date()
    page.click("//button[contains(., 'Assumptions')]")
    page.click("//button[contains(., 'How far do they matter?')]")
    row = page.wait(lambda: next(r.text for r in page.driver.find_elements(By.CSS_SELECTOR, "[data-test=assumptions] tr") if "at 70 %" in r.text))
    assert "Efficiency" in row
    assert "%" in row.split("→")[1]
    page.click("//button[@aria-label='Give Efficiency of P-1']")
    page.wait(lambda: page.driver.execute_script("return document.activeElement.closest('[data-field]')?.dataset.field") == "efficiency")
    page.leave_field()
    page.click("//div[@data-field='curve']//button")
    page.paste("Flow, row 1", "Q\tH\teta\n5\t160\t50\n=2*5\t0.15 km\t62\n15\t120\t58")
    page.text("3 rows")
    page.in_date()
    page.text("Curve of the machine")
    page.leave_field()
    page.click("//button[normalize-space()='Streams']")
    full = page.wait(lambda: float(page.table()["Pressure"][1])) - 12.0
    page.select("P-1")
    page.type_value("speed", "80 %")
    # Near the flat end of the curve the head goes nearly with the square of the speed.
    page.wait(lambda: 0.5 * full < float(page.table()["Pressure"][1]) - 12.0 < 0.7 * full)
    page.click("//button[normalize-space()='Remove all rows']")
    page.text("one value for its pressure")
    page.undo_all(20)


def test_a_calculation_is_stopped_keeps_what_it_has_and_goes_on(page, tmp_path):
    document = maze(180, 40, 5, 0.3)
    document = with_aims(document, solve(document), heaters=5)  # six of them take several seconds, however well one started
    page.upload(tmp_path, "maze", document)
    page.in_date()
    page.select(next(u.tag for u in document.units if u.type == "feed"))
    page.type_value("flow", "80 kmol/h")  # where the search for one of the aims starts
    page.click("//button[normalize-space()='Stop']")
    page.text("The calculation was stopped")
    assert page.find("[data-test=status]").text == "stopped"
    page.click("//button[normalize-space()='Go on']")
    page.in_date()
    assert not page.shows("The calculation was stopped")
