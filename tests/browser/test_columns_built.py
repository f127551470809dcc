"""Columns built in the browser: from an empty project to both purities, specifications swapped; an oil that goes round; a decanter."""

import pytest
from plants import example
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser


def option(page, field, text):
    before = page.revision()
    Select(page.find(f"[data-field={field}] select")).select_by_visible_text(text)
    page.wait(lambda: page.revision() > before)


def purity(page, row, *cells):
    titles = ("Product", "Component", "Counts as", "Value")
    for title, text in zip(titles, cells, strict=True):
        before = page.revision()
        field = page.find(f"[aria-label='{title}, row {row}']")
        if field.tag_name == "select":
            Select(field).select_by_visible_text(text)
        else:
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(text, Keys.TAB)
        page.wait(lambda before=before: page.revision() > before)


def test_from_an_empty_project_to_both_purities_and_swapped_specifications(page):
    page.sign_in()
    page.find("[name=project-name]").send_keys("First column", Keys.ENTER)
    page.text("Start here: type a name")
    for count, name in enumerate(("benzene", "toluene"), 1):
        search = page.find("[aria-label='Find a component']")
        search.send_keys(name)
        page.wait(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role=option]"))
        search.send_keys(Keys.ENTER)
        page.wait(lambda n=count: len(page.driver.find_elements(By.CSS_SELECTOR, "ul li [aria-pressed]")) == n)
    page.driver.execute_script("document.activeElement.blur()")
    page.press("2")
    page.text("Put the first feed on it")
    page.add("Feed", "F-101", temperature="92 degC", pressure="1.3 bar", flow="100 kmol/h")
    for name in ("benzene", "toluene"):
        page.type_value(f"composition.{name}", "0.5")
    page.add("Column", "T-101", stages="30")
    for field, text in (("condenser", "total"), ("reboiler", "kettle")):
        option(page, field, text)
    page.type_value("top_pressure", "1.05 bar")
    page.click("//*[@data-field='purities']//button[normalize-space()='Type or paste rows']")
    purity(page, 1, "distillate", "benzene", "mole fraction", "99 %")
    purity(page, 2, "bottoms", "toluene", "mole fraction", "98 %")
    for number in ("Z-101", "Z-102"):
        page.add("Product", number)
        page.select("T-101")
    page.in_date()
    page.wait(lambda: "0.99000" in page.table()["benzene"])
    page.wait(lambda: "0.98000" in page.table()["toluene"])

    # The reflux that follows becomes a specification in the place of a purity, and the purity of the top follows from it.
    page.click("//*[@data-field='purities']//button[@aria-label='Remove row 1 of purities and recoveries']")
    page.text("needs one value for its specifications")
    page.type_value("reflux_ratio", "4")
    page.in_date()
    page.wait(lambda: "0.99000" not in page.table()["benzene"])
    page.wait(lambda: "0.98000" in page.table()["toluene"])
    page.chord("z")
    page.chord("z")
    page.in_date()
    page.wait(lambda: "0.99000" in page.table()["benzene"])

    # Of too few stages it is told how many more do, and one click gives them.
    page.type_value("stages", "9")
    page.text("Give at least")
    page.click("//button[starts-with(normalize-space(), 'Take') and contains(., 'stages')]")
    page.in_date()
    page.wait(lambda: "0.99000" in page.table()["benzene"])
    page.wait(lambda: "0.98000" in page.table()["toluene"])

    # On the page of the column one specification takes the place of another, and the column stays as it is.
    page.click("//a[normalize-space()='Open the page of T-101']")
    page.wait(lambda: [met(one) for one in active(page)] == [True, True])
    Select(page.find("[name=goes]")).select_by_visible_text("Fraction of toluene in the bottoms")
    page.click("//button[@aria-label='Specify reflux ratio']")
    page.wait(lambda: [one.split("\n")[0] for one in active(page)] == ["Reflux ratio", "Fraction of benzene in the distillate"])
    page.in_date()
    page.wait(lambda: all(met(one) for one in active(page)))
    page.wait(lambda: any("toluene in the bottoms" in one and "0.98" in one for one in waiting(page)))
    page.click("//button[@aria-label='Release reflux ratio']")
    page.click("//button[@aria-label='Specify fraction of toluene in the bottoms']")
    page.wait(lambda: [met(one) for one in active(page)] == [True, True])


def active(page):
    """The texts of the specifications that count, as soon as they stand still."""
    return [one.text for one in page.driver.find_elements(By.CSS_SELECTOR, "[data-test=active]")]


def waiting(page):
    return [one.text for one in page.driver.find_elements(By.CSS_SELECTOR, "[data-test=waiting]")]


def met(text):
    return text.endswith("met")


def test_more_oil_that_goes_round_leaves_less_in_the_gas(page, tmp_path):
    page.upload(tmp_path, "oil", example("gas_in_oil"))
    page.in_date()

    def left():
        return float(page.wait(lambda: page.driver.find_element(By.XPATH, "//*[contains(text(), 'Butane left in the gas')]/following::b[1]")).text)

    before = left()
    assert before > 0.005
    page.select("F-612")
    page.type_value("flow", "18 kmol/h")
    page.in_date()
    page.wait(lambda: left() < before)
    page.click("//button[@role='tab'][starts-with(normalize-space(), 'Loops')]")
    page.text("Loop 1, closed")


def test_a_decanter_parts_what_a_column_cannot(page, tmp_path):
    page.upload(tmp_path, "butanol", example("butanol_and_water"))
    page.in_date()
    page.select("T-701")
    page.click("//a[normalize-space()='Open the page of T-701']")
    section = page.find("[data-test=section]")
    section.send_keys(Keys.HOME)
    page.wait(lambda: 0.0 < float(page.find("[data-test=read-light_share]").text) < 1.0)
    section.send_keys(Keys.END)
    page.wait(lambda: float(page.find("[data-test=read-light_share]").text) == 1.0)
    page.text("There are two liquids on stages 1 to 2")


def test_a_feed_is_tried_on_other_stages_and_put_on_the_best(page, tmp_path):
    page.upload(tmp_path, "ether", example("ether_from_methanol"))
    page.in_date()
    page.select("T-902")
    page.type_value("feeds[1].stage", "6")
    page.in_date()
    page.click("//a[normalize-space()='Open the page of T-902']")
    page.click("//button[normalize-space()='S-911 on other stages']")
    page.text("With S-911 on stage")
    before = page.revision()
    page.click("//button[starts-with(normalize-space(), 'Put S-911 on stage')]")
    page.wait(lambda: page.revision() > before)
    page.in_date()
    page.click("//button[normalize-space()='S-911 on other stages']")
    page.text("S-911 comes in where T-902 takes least heat")
    # Its stages of three components lie among the residue curves of their pressure.
    page.click("//button[normalize-space()='Among residue curves']")
    page.wait(lambda: page.find("[name=column]").get_attribute("value") == "T-902")
    page.click("//button[normalize-space()='Numbers']")
    page.text("liquid on the stages of T-902")
