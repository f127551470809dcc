"""Cells of tables typed quickly on a slow line, by one and by two: every one of them is kept."""

import pytest
from plants import C4, feed, plant, points, q
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser

CURVE = points([[5, 160, 50], [10, 150, 62], [15, 120, 58]])


@pytest.fixture
def tables(page, tmp_path):
    """A plant with a composition, shares by component and a curve; the line is quick again afterwards."""
    inlet = feed(pressure="12 bar", temperature="300 K")
    units = {
        "F-1": inlet,
        "P-1": ("pump", {"curve": CURVE}),
        "T-1": ("component-splitter", {"shares": {"values": {"n-butane": q("0.5 ")}}, "overhead_temperature": q("300 K")}),
        "Z-1": ("product", {}),
        "Z-2": ("product", {}),
    }
    lines = ["S-1: F-1.outlet -> P-1.inlet", "S-2: P-1.outlet -> T-1.inlet", "S-3: T-1.overhead -> Z-1.inlet", "S-4: T-1.bottoms -> Z-2.inlet"]
    page.upload(tmp_path, "cells", plant(C4, units, lines))
    page.wait(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-revision]"))
    yield page
    page.slow(0)


def typed(page, field):
    """What stands in the inputs of fields that begin so, and how many edits are still on their way to the page."""
    return [e.get_attribute("value") for e in page.driver.find_elements(By.CSS_SELECTOR, f"[data-field^='{field}'] input")]


@pytest.mark.parametrize("latency", [50, 400, 800])
def test_what_is_typed_quickly_into_tables_is_kept_on_a_slow_line(tables, latency):
    page = tables
    page.slow(latency)
    page.select("F-1")
    ids = [c for c, _ in C4]
    page.to_field(f"composition.{ids[0]}")
    before = page.revision()
    page.press("0.1", Keys.TAB, "0.3", Keys.TAB, "0.6", Keys.TAB)
    page.wait(lambda: page.revision() == before + 3, message="three edits")
    page.wait(lambda: typed(page, "composition")[:3] == ["0.1", "0.3", "0.6"])
    page.select("T-1")
    page.to_field(f"shares.{ids[0]}")
    page.press("0.9", Keys.TAB, "0.2", Keys.TAB, "5 %", Keys.TAB)
    page.wait(lambda: page.revision() == before + 6)
    page.wait(lambda: typed(page, "shares")[:3] == ["0.9", "0.2", "5 %"])
    # A row that begins with its first cell takes the second before the server has answered.
    page.select("P-1")
    page.click("//input[@aria-label='Flow, row 4']")
    page.press("20", Keys.TAB, "80", Keys.TAB, "40", Keys.TAB)
    page.wait(lambda: page.revision() == before + 9)
    page.wait(lambda: typed(page, "curve")[9:12] == ["20 m³/h", "80 m", "40 %"])
    page.text("4 rows")
    # Taken back to before the row was there, its place takes a new one.
    page.leave_field()
    for _ in range(3):
        page.chord("z")
    page.text("3 rows")
    page.click("//input[@aria-label='Flow, row 4']")
    page.press("21", Keys.TAB)
    page.text("4 rows")
    page.wait(lambda: typed(page, "curve")[9] == "21 m³/h")


def test_two_people_type_into_one_table_and_both_are_kept(tables, other):
    page = tables
    page.slow(400)
    other.sign_in()
    other.driver.get(page.driver.current_url)
    other.wait(lambda: other.driver.find_elements(By.CSS_SELECTOR, "[data-revision]"))
    other.slow(400)
    for one in (page, other):
        one.select("P-1")
    before = page.revision()
    page.click("//input[@aria-label='Head, row 1']")
    page.press("161")
    other.click("//input[@aria-label='Head, row 2']")
    other.press("151", Keys.TAB)
    page.press(Keys.TAB)
    for one in (page, other):
        one.wait(lambda one=one: one.revision() == before + 2)
        one.wait(lambda one=one: typed(one, "curve")[1:8:3] == ["161 m", "151 m", "120 m"])
    other.click("//button[@aria-label='Remove row 1 of curve']")
    page.wait(lambda: page.revision() == before + 3)
    page.text("2 rows")
