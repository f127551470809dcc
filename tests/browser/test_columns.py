"""Columns in the browser: specified by what is wanted, asked for the impossible, mended by the explanation, read stage by stage."""

import pytest
from plants import plant, q
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser
PARTS = [("benzene", "71-43-2"), ("toluene", "108-88-3")]


def splitter():
    values = {"benzene": q("0.5"), "toluene": q("0.5")}
    feed = {"temperature": "92 degC", "pressure": "1.2 bar", "flow": "360 kmol/h", "composition": {"basis": "mole_fraction", "values": values}}
    at = {"rows": [{"id": "1", "cells": {"stream": "S-1", "stage": q("6")}}]}
    units = {"F-1": ("feed", feed), "T-1": ("staged-column", {"feeds": at}), "Z-1": ("product", {}), "Z-2": ("product", {})}
    return plant(PARTS, units, ["S-1: F-1.outlet -> T-1.inlet", "S-2: T-1.distillate -> Z-1.inlet", "S-3: T-1.bottoms -> Z-2.inlet"], "ideal")


def cell(page, label, text):
    field = page.find(f"[aria-label='{label}']")
    if field.tag_name == "select":
        Select(field).select_by_visible_text(text)
    else:
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text, Keys.TAB)


def test_a_column_is_specified_explained_mended_and_read(page, tmp_path):
    page.upload(tmp_path, "splitter", splitter())
    page.text("F-1")
    page.select("T-1")
    page.type_value("stages", "12")
    for field, option in (("condenser", "total"), ("reboiler", "kettle")):
        before = page.revision()
        Select(page.find(f"[data-field={field}] select")).select_by_visible_text(option)
        page.wait(lambda before=before: page.revision() > before)
    page.type_value("top_pressure", "1 bar")
    page.text("needs 2 values for its specifications")
    page.type_value("reflux_ratio", "2")
    page.type_value("distillate_flow", "180 kmol/h")
    page.in_date()

    # A purity in the place of the rate: one of the three is too much, and the repair says which.
    page.click("//*[@data-field='purities']//button[normalize-space()='Type or paste rows']")
    before = page.revision()
    cell(page, "Product, row 1", "distillate")
    page.wait(lambda: page.revision() > before)
    for label, text in (("Component, row 1", "benzene"), ("Counts as, row 1", "mole fraction"), ("Value, row 1", "99.5 %")):
        before = page.revision()
        cell(page, label, text)
        page.wait(lambda before=before: page.revision() > before)
    page.text("has too many values for its specifications")
    page.click("//button[normalize-space()='Clear distillate']")

    # Too pure for twelve stages at this reflux: the answer says how far it goes, and more stages get there.
    page.type_value("reflux_ratio", "0.9")
    page.text("was not reached with a reflux ratio of 0.9: the last state that was found has")
    page.type_value("stages", "34")
    page.type_value("feeds[1].stage", "17")
    page.type_value("reflux_ratio", "2.2")
    page.in_date()
    page.click("//button[starts-with(normalize-space(), 'Streams')]")
    page.wait(lambda: "0.99500" in page.table()["benzene"])

    page.click("//a[normalize-space()='Open the page of T-1']")
    section = page.find("[data-test=section]")
    section.send_keys(Keys.HOME)
    top = float(page.find("[data-test=read-temperature]").text)
    section.send_keys(Keys.END)
    page.wait(lambda: float(page.find("[data-test=read-temperature]").text) > top + 20.0)
    page.click("//nav[@aria-label='Views of the unit']//button[normalize-space()='Numbers']")
    page.wait(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Stage by stage, numbers'] tbody tr")) == 34)
