"""Rates from pasted data: a batch in minutes and mol/L, the constants found and applied, a second law beside the first."""

import math

import pytest
from plants import plant
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser
PARTS = [("1-butene", "106-98-9"), ("cis-2-butene", "590-18-1")]
NUMBERS = {"1-butene": -1, "cis-2-butene": 1}


def reactions(name, order):
    unit = {1: "1/h", 2: "L/(mol h)"}[order]
    law = {"orders": {"1-butene": order}, "value": 30, "unit": unit}
    return {"name": name, "reactions": [{"name": "R1", "numbers": NUMBERS, "phase": "liquid", "forward": law}]}


def batches():
    """Of second order, 0.12 L/(mol min) at 40 degC, 60 kJ/mol: 1/c grows evenly; rounded to three digits."""
    lines = ["T/°C\tt, min\tc1 (mol/L)\tc2, mol/L"]
    for celsius in (30.0, 40.0, 50.0):
        k = 0.12 * math.exp(-60e3 / 8.314462618 * (1 / (celsius + 273.15) - 1 / 313.15))
        for minute in (0, 5, 10, 20, 40, 80):
            left = 1.0 / (1.0 / 2.0 + k * minute)
            lines.append(f"{celsius:g}\t{minute}\t{left:.3f}\t{2.0 - left:.3f}")
    return "\n".join(lines)


def value(page, label):
    return page.find(f"[aria-label='{label}']").get_attribute("value")


def test_rates_are_fitted_compared_and_applied(page, tmp_path):
    units = {"F-1": ("feed", {}), "Z-1": ("product", {})}
    sets = [reactions("First order", 1), reactions("Second order", 2)]
    page.upload(tmp_path, "isomers", plant(PARTS, units, ["S-1: F-1.outlet -> Z-1.inlet"], "ideal", reactions=sets))
    page.text("F-1")
    start = page.driver.current_url
    page.driver.get(start.replace("/sheet", "/chemistry/data"))
    page.click("//button[normalize-space()='Add a set']")
    page.wait(lambda: value(page, "T, point 1") == "")
    Select(page.find("[aria-label='Kind of data']")).select_by_visible_text("Reaction in a batch (T, time, concentrations or conversion)")
    page.wait(lambda: value(page, "t, point 1") == "")
    assert not page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='w, point 1']")  # what is rarely measured is added by hand
    page.paste("T, point 1", batches())
    page.wait(lambda: value(page, "c2, point 18") == "1.95")
    assert value(page, "Unit of t") == "min"
    assert value(page, "Unit of c1") == "mol/L"
    page.text("E of k of R1")
    assert page.find("[aria-label='Free E of k of R1']").is_selected()  # three temperatures tell it
    page.click("//button[normalize-space()='Fit']")
    page.text("information criterion")
    first = page.find("[data-test=fit]").text
    page.click("//button[normalize-space()='Keep for comparison']")
    Select(page.find("aside select")).select_by_visible_text("Second order")
    page.text("30 L/(mol h)")
    assert not page.driver.find_elements(By.CSS_SELECTOR, "[data-test=fitted-rate]")  # the answer there is one to the first law
    page.click("//button[normalize-space()='Fit']")
    page.text("rates of Second order, 2 free")
    assert page.find("[data-test=fit]").text != first
    page.text("Beside it rates of First order, 2 free")
    fitted = [found.text for found in page.driver.find_elements(By.CSS_SELECTOR, "[data-test=fitted-rate]")]
    assert "L/(mol h) at" in fitted[0]
    assert fitted[1].startswith(("59.9", "60")), fitted
    Select(page.find("[aria-label='Picture of the fit']")).select_by_visible_text("Over temperature, k of R1")
    page.find("canvas")
    before = page.revision()
    page.click("//button[normalize-space()='Keep and apply']")
    page.text("Applied: the rate laws have these values now.")
    page.text("rates of Second order")
    page.wait(lambda: page.revision() > before)
    page.driver.get(start.replace("/sheet", "/chemistry/reactions"))
    page.click("//button[starts-with(normalize-space(), 'Second order')]")
    page.wait(lambda: value(page, "Rate forward: constant").startswith("7."))
    page.chord("z")
    page.wait(lambda: value(page, "Rate forward: constant") == "30")


def test_data_without_a_start_say_so(page, tmp_path):
    units = {"F-1": ("feed", {}), "Z-1": ("product", {})}
    document = plant(PARTS, units, ["S-1: F-1.outlet -> Z-1.inlet"], "ideal", reactions=[reactions("First order", 1)])
    page.upload(tmp_path, "startless", document)
    page.text("F-1")
    page.driver.get(page.driver.current_url.replace("/sheet", "/chemistry/data"))
    page.click("//button[normalize-space()='Add a set']")
    page.wait(lambda: value(page, "T, point 1") == "")
    Select(page.find("[aria-label='Kind of data']")).select_by_visible_text(
        "Reaction in a stirred tank (T, space time, concentrations or conversion)"
    )
    page.wait(lambda: value(page, "t, point 1") == "")
    page.paste("T, point 1", "T/K\tt/h\tc1 mol/L\n320\t1\t0.4\n320\t2\t0.3")
    page.wait(lambda: value(page, "c1, point 2") == "0.3")
    page.click("//button[normalize-space()='Fit']")
    page.text("point 1: what it started from is not known. Give the concentrations")
    page.choose("Add a column", "X, conversion of the first component")
    page.wait(lambda: value(page, "X, point 1") == "")
    page.click("//button[@aria-label='Remove the column X']")
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='X, point 1']"))
    page.paste("f1, point 1", "1\t0\n1\t0")
    page.wait(lambda: value(page, "f2, point 2") == "0")
    page.click("//button[normalize-space()='Fit']")
    page.text("sum of squares")  # of two values and one constant there is no criterion to tell laws by


def test_without_reactions_the_way_to_them_is_shown(page, tmp_path):
    units = {"F-1": ("feed", {}), "Z-1": ("product", {})}
    page.upload(tmp_path, "no-reactions", plant(PARTS, units, ["S-1: F-1.outlet -> Z-1.inlet"], "ideal"))
    page.text("F-1")
    page.driver.get(page.driver.current_url.replace("/sheet", "/chemistry/data"))
    page.click("//button[normalize-space()='Add a set']")
    page.wait(lambda: value(page, "T, point 1") == "")
    Select(page.find("[aria-label='Kind of data']")).select_by_visible_text("Reaction in a batch (T, time, concentrations or conversion)")
    page.text("Write the reactions first, with their rate laws")
    page.click("//aside//a[normalize-space()='Reactions']")
    page.text("Write the reactions once, use them in every reactor")
