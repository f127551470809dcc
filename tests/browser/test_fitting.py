"""A missing pair is fitted to data pasted in foreign units, compared with a second model, applied, and its mark changes."""

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from wattaxis import PropertyModel

pytestmark = pytest.mark.browser


def pasted():
    """Points at 65 degC in mmHg, with a heading and a cell that is no number."""
    model = PropertyModel("margules", ["2-butanol", "butanone"], {("2-butanol", "butanone"): {"a12": 0.35, "a21": 0.3}})
    lines = ["T\tP\tx1"]
    for x in (0.1, 0.25, 0.4, 0.55, 0.7, 0.85):
        lines.append(f"65\t{model.flash([x, 1 - x], T=338.15, VF=0.0).pressure / 133.322368:.3f}\t{x}")
    return "\n".join([*lines, "65\tleak\t0.9"])


def test_a_pair_is_fitted_compared_and_applied(page):
    page.sign_in()
    page.click("//a[text()='Sandlark Bay']")
    page.in_date()
    page.press("1")
    page.click("//button[@role='radio'][contains(., 'Margules')]")
    page.text("3 of 6 assumed zero")
    page.click("//a[text()='Data and fits']")
    page.text("Laboratory still")
    page.click("//label[contains(., 'Laboratory still')]/input")  # not this one
    page.click("//button[normalize-space()='Add a set']")
    page.wait(lambda: page.find("[aria-label='T, point 1']").get_attribute("value") == "")  # the new set is open, not the one before it
    page.choose("Unit of P", "mmHg")
    page.wait(lambda: page.find("[aria-label='Unit of P']").get_attribute("value") == "mmHg")
    page.paste("T, point 1", pasted())
    page.text("1 cell is not a number")
    assert page.find("[aria-label='P, point 7']").get_attribute("value") == "leak"
    page.text("7 points")
    page.click("//button[normalize-space()='Fit']")
    first = page.find("[data-test=fit]").text
    assert "measured fit" in first
    Select(page.find("aside select")).select_by_visible_text("Wilson")
    page.click("//button[normalize-space()='Fit']")
    page.wait(lambda: page.find("[data-test=fit]").text != first)
    Select(page.find("aside select")).select_by_visible_text("Margules")
    page.click("//button[normalize-space()='Fit']")
    page.wait(lambda: page.find("[data-test=fit]").text == first)
    page.click("//button[normalize-space()='Keep and apply']")
    page.text("Fits that were kept")
    page.click("//a[text()='Components and model']")
    page.text("2 of 6 assumed zero")
    page.find("[aria-label='Pair 2-butanol and butanone']").click()
    page.text("measured fit: Fit 1 to Data 1")
    assert "G_E/RT = x1 x2 (A21 x1 + A12 x2)" in page.find("[data-test=equation]").text
    fitted = brief(page)
    # Other values in its place; the fit that was kept is applied again.
    page.type_value("a12", "0.9")
    page.text("typed in")
    page.wait(lambda: brief(page) != fitted)
    page.click("//a[text()='Data and fits']")
    page.click("//button[starts-with(@aria-label, 'Apply Fit 1')]")
    page.click("//a[text()='Components and model']")
    page.wait(lambda: brief(page) == fitted)
    page.chord("z")
    page.wait(lambda: brief(page) != fitted)
    page.chord("z")
    page.wait(lambda: brief(page) == fitted)
    page.chord("z")  # the fit and its pair go in one step
    page.text("3 of 6 assumed zero")
    page.click("//a[text()='Diagrams']")
    page.click("//button[@role='radio'][contains(., 'Boiling diagram')]")
    page.click("//input[@value='temperature']")
    field = page.find("main input[placeholder]")
    field.click()
    field.send_keys("65 degC", Keys.ENTER)
    page.text("at 338.15 K")
    page.undo_all()


def brief(page):
    """What the cell of the fitted pair says."""
    return page.find("[aria-label='Pair 2-butanol and butanone']").text


def cells(page, row):
    return [page.find(f"[aria-label='{key}, point {row}']").get_attribute("value") for key in ("T", "P", "x1")]


def set_of_data(page):
    """An own set in a project of its own."""
    page.sign_in()
    page.find("[name=project-name]").send_keys("Slips", Keys.ENTER)
    page.text("Start here: type a name")
    page.paste("Find a component", "ethanol\nwater\n")
    page.wait(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, "ul li [aria-pressed]")) == 2)
    page.click("//a[text()='Data and fits']")
    page.click("//button[normalize-space()='Add a set']")
    page.wait(lambda: cells(page, 1) == ["", "", ""])


def test_headings_set_units_slips_are_asked_about_and_typed_cells_are_kept_on_a_slow_line(page):
    set_of_data(page)
    before = page.revision()
    page.paste("T, point 1", "x1\tT/K\tP, mmHg\n0.2\t356.4\t760\n0.4\t353.6\t760")
    page.wait(lambda: cells(page, 2) == ["353.6", "760", "0.4"])
    page.wait(lambda: page.find("[aria-label='Unit of T']").get_attribute("value") == "K")
    page.wait(lambda: page.revision() > before)  # what is pasted is seen before it is saved
    before = page.revision()
    # In degrees Celsius the same numbers are no boiling points: nothing is kept before somebody says so.
    page.choose("Unit of T", "°C")
    page.text("2 points, from point 1 on: the pressure is far below")
    assert page.revision() == before
    page.click("//button[normalize-space()='Discard them']")
    page.wait(lambda: page.find("[aria-label='Unit of T']").get_attribute("value") == "K")
    page.paste("T, point 3", "T/degC\tP/bar\tx1\n79\t1\t0.5")
    page.text("T is pasted in degC, and other points have it in K")
    # Cells that follow each other quicker than the server answers.
    page.slow(800)
    page.click("//input[@aria-label='T, point 3']")
    page.press("352.1", Keys.TAB, "760", Keys.TAB, "0.6", Keys.TAB)
    page.wait(lambda: page.revision() > before)
    page.slow(0)
    page.driver.refresh()
    page.wait(lambda: cells(page, 3) == ["352.1", "760", "0.6"])
    page.find("[aria-label='P, point 3']").send_keys(Keys.CONTROL, "a", Keys.NULL, "7600", Keys.TAB)
    page.text("Point 3: the pressure is far above")
    page.click("//button[normalize-space()='Keep the values']")
    page.wait(lambda: not page.shows("far above"))
    page.driver.refresh()
    page.wait(lambda: cells(page, 3) == ["352.1", "7600", "0.6"])


def test_how_well_a_fit_is_known_goes_into_a_study(page):
    page.sign_in()
    page.click("//a[text()='Sandlark Bay']")
    page.in_date()
    page.press("1")
    page.click("//button[@role='radio'][contains(., 'Margules')]")
    page.text("3 of 6 assumed zero")
    page.click("//a[text()='Data and fits']")
    page.text("Laboratory still")
    page.click("//button[normalize-space()='Fit']")
    page.find("[data-test=fit]")
    page.click("//button[normalize-space()='Keep and apply']")
    page.text("Fits that were kept")
    page.click("//nav//*[normalize-space()='Studies']")
    page.click("//button[normalize-space()='New study']")
    for name, choice in (
        ("study-asks", "uncertainty"),
        ("draw-fit", "Fit 1"),
        ("vary-property", "component | butanone |  | critical_temperature | "),
    ):
        before = page.revision()
        page.wait(lambda name=name, choice=choice: Select(page.find(f"[name={name}]")).select_by_value(choice) or True)
        page.wait(lambda before=before: page.revision() > before)
    page.text("2 numbers, normal and correlated as its data leave them")
    for field, text in (("From", "260 degC"), ("To", "264 degC")):
        before = page.revision()
        page.find(f"input[aria-label='{field}, butanone Critical temperature']").send_keys(text, Keys.TAB)
        page.wait(lambda before=before: page.revision() > before, message=page.alerts())
    before = page.revision()
    page.find("[name=add-outputs]").send_keys("S-08.mass_flow", Keys.TAB)
    page.wait(lambda: page.revision() > before)
    page.click("//button[normalize-space()='Ask']")
    page.text("in 95 % of 100 cases")
    assert "a12 of Margules" in page.find("[data-test=spread]").text
    page.undo_all()
