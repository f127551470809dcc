"""A recycle in the browser: built by keys and clicks, closed by itself, broken and repaired; and the guide to a property model."""

import re

import pytest
from plants import C4, feed, plant, q
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from wattaxis import dump

pytestmark = pytest.mark.browser


def push(page, text):
    page.click(f"//button[normalize-space()='{text}']")


@pytest.fixture
def recycle(page):
    page.sign_in()
    page.click("//tr[contains(., 'Alcohol recycle')]//a")
    page.in_date()
    return page


def pin(page, name):
    return re.search(r"[\d.]+", page.find(f"[data-pin='{name}']").text.removeprefix(name)).group()


def test_the_demo_loop_is_closed_and_follows_an_edit(recycle):
    recycle.click("//button[starts-with(normalize-space(), 'Loops')]")
    recycle.text("Loop 1, closed")
    assert recycle.find("svg[aria-label^='Largest change in each of']")
    before = float(pin(recycle, "Recycle"))
    recycle.select("R-201")
    recycle.type_value("conversions[1].conversion", "70 %")
    recycle.in_date()
    recycle.wait(lambda: float(pin(recycle, "Recycle")) > 1.8 * before)
    recycle.choose("Base component, row 1", "hydrogen")
    recycle.click("//button[contains(., 'Asks and findings')]")
    recycle.text("hydrogen, the base component, is not used up by Dehydrogenation")
    recycle.press(Keys.ESCAPE)
    recycle.chord("z")
    recycle.chord("z")
    recycle.wait(lambda: float(pin(recycle, "Recycle")) == before)


def test_a_loop_without_a_way_out_is_named_and_a_purge_mends_it(page, tmp_path):
    units = {"F-1": feed(), "M-1": ("mixer", {}), "N-1": ("splitter", {"share_1": q("1")}), "Z-1": ("product", {})}
    streams = ["S-1: F-1.outlet -> M-1.inlet", "S-2: M-1.outlet -> N-1.inlet", "S-3: N-1.outlet_1 -> M-1.inlet", "S-4: N-1.outlet_2 -> Z-1.inlet"]
    document = tmp_path / "closed.json"
    document.write_text(dump(plant(C4, units, streams)))
    page.sign_in()
    page.driver.find_element(By.NAME, "document").send_keys(str(document))
    page.click("//button[contains(., 'Asks and findings')]")
    page.text("Nothing removes propane and n-butane and n-pentane from the loop")
    page.text("Add a purge")
    page.select("N-1")
    page.type_value("share_1", "90 %")
    page.in_date()
    page.click("//button[normalize-space()='Streams']")
    page.wait(lambda: page.table()["Mole flow"][2] == "900.00")


def test_the_guide_proposes_and_pairs_are_estimated_alike(recycle):
    recycle.click("//a[text()='Chemistry']")
    recycle.text("to be expected: 2-butanol with water")
    recycle.click("//button[@aria-label='Use NRTL']")
    recycle.text("0 of 6 assumed zero")
    push(recycle, "Estimate all pairs alike")
    recycle.click("//button[@aria-label='Pair 2-butanol and water']")
    recycle.text("estimated: fitted to UNIFAC")
    recycle.press("2")
    recycle.in_date()
    recycle.click("//button[contains(., 'Asks and findings')]")
    recycle.text("are estimated, not measured")
    recycle.press(Keys.ESCAPE)
    recycle.chord("z")
    recycle.chord("z")
    recycle.in_date()


def test_a_closed_circuit_is_charged_and_its_pressures_follow_two_temperatures(page, tmp_path):
    units = {
        "K-1": ("compressor", {"efficiency": q("75 %")}),
        "E-1": ("cooler", {"subcooling": q("2 K")}),
        "VL-1": ("valve", {}),
        "E-2": ("heater", {"superheat": q("0 K")}),
    }
    ring = ["S-1: K-1.outlet -> E-1.inlet", "S-2: E-1.outlet -> VL-1.inlet", "S-3: VL-1.outlet -> E-2.inlet", "S-4: E-2.outlet -> K-1.inlet"]
    document = tmp_path / "ring.json"
    document.write_text(dump(plant(C4[:1], units, ring)))
    page.sign_in()
    page.driver.find_element(By.NAME, "document").send_keys(str(document))
    page.click("//button[contains(., 'Asks and findings')]")
    page.text("put a circuit charge into S-1 if it is closed")
    page.select("S-4")
    page.press("i")
    field = page.find("[aria-label='Find or do']")
    field.send_keys("Circuit charge")
    page.text("Circuit charge into S-4")
    field.send_keys(Keys.ENTER)
    page.wait(lambda: page.find("[aria-label=Inspector] button.tag").text.startswith("C-"))
    page.type_value("composition.propane", "1")
    page.type_value("heat_taken_in", "100 kW")
    page.text("needs one value for its pressure")
    page.select("E-1")
    page.type_value("saturation_temperature", "40 degC")
    page.select("E-2")
    page.type_value("saturation_temperature", "-20 degC")
    page.in_date()
    page.text("that follows from the saturation temperature of E-1")
    page.select("K-1")
    page.wait(lambda: "13.7" in page.find("[aria-label=Inspector]").text)
