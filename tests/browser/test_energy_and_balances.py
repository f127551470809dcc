"""Heat between units, balances over a part, a yearly production, own units, pressures kept on both sides, feeds in other ways, a cut moved, PDF."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser


def opened(page, name):
    page.sign_in()
    page.click(f"//tr[contains(., '{name}')]//a")
    page.in_date()


@pytest.fixture
def plant(page):
    opened(page, "Base")
    yield page
    page.undo_all(30)


@pytest.fixture
def recycle(page):
    opened(page, "Alcohol recycle")
    yield page
    page.undo_all(30)


def choose_option(page, name, text):
    Select(page.find(f"[name={name}]")).select_by_visible_text(text)


def test_the_heat_of_a_cooler_goes_to_a_sink_and_is_seen(plant):
    plant.select("E-103")
    plant.do("Add heat sink")
    plant.wait(lambda: plant.find("[aria-label=Inspector] button.tag").text == "QZ-101")
    plant.in_date()
    plant.do("Find Q-01,")
    plant.text("Heat stream, calculated")
    plant.text("1232")
    plant.select("QZ-101")
    plant.type_value("temperature", "200 degC")
    plant.in_date()
    plant.text("the temperatures cross")


def test_balances_over_chosen_units_close(plant):
    plant.click("//button[contains(., 'Balances')]")
    plant.wait(lambda: "All of it closes" in plant.find("[data-test=worst]").text)
    assert "S-06" in plant.find("[data-test=crossings]").text
    plant.select("V-101")
    ActionChains(plant.driver).key_down(Keys.SHIFT).click(plant.find("[data-test=unit-E-103]")).key_up(Keys.SHIFT).perform()
    plant.text("Over the border of E-103, V-101")
    plant.wait(lambda: "from outside" in plant.find("[data-test=crossings]").text)
    names = [row.split()[0] for row in plant.find("[data-test=balance]").text.splitlines()[1:]]
    assert names[:5] == ["mass", "energy", "C", "H", "O"]


def test_the_plant_is_scaled_to_a_yearly_production(plant):
    plant.do("Find S-12,")
    plant.click("//button[normalize-space()='Scale to a year']")
    choose_option(plant, "scale-component", "butanone")
    plant.find("[name=scale-amount]").send_keys("40000", Keys.ENTER)
    plant.wait(lambda: 0.5 < float(plant.find("[data-test=factor]").text) < 2.0)
    before = plant.revision()
    plant.click("//button[normalize-space()='Scale the plant']")
    plant.wait(lambda: plant.revision() == before + 1)
    plant.in_date()


def test_units_of_ones_own_show_the_plant(plant):
    choose_option(plant, "units", "custom sets…")
    plant.text("New set, named")
    name = plant.find("[name=set-name]")
    name.clear()
    name.send_keys("Site")
    choose_option(plant, "unit-pressure", "psi")
    plant.click("//button[normalize-space()='Keep this set']")
    plant.wait(lambda: "Site" in plant.find("[name=plant-units]").text)
    choose_option(plant, "plant-units", "Site")
    choose_option(plant, "my-units", "SI")
    plant.click("//button[normalize-space()='Close']")
    plant.wait(lambda: plant.table()["Pressure"][0].replace(",", "").startswith("2"))
    assert "Pa" in plant.find("[aria-label=Results]").text
    choose_option(plant, "units", "Site")
    plant.wait(lambda: float(plant.table()["Pressure"][0]) == pytest.approx(2.2e5 / 6894.757, rel=1e-3))


def test_an_outlet_and_a_change_are_kept_and_settle_the_feed(plant):
    plant.select("F-101")
    plant.to_field("pressure")
    plant.press(Keys.BACKSPACE, Keys.ENTER)
    plant.text("F-101 needs one value more")
    plant.select("E-103")
    plant.type_value("pressure_change", "-0.2 bar")
    plant.type_value("outlet_pressure", "3 bar")
    plant.click("//button[normalize-space()='Keep both']")
    plant.in_date()
    plant.wait(lambda: float(plant.table()["Pressure"][0]) == pytest.approx(3.2))


def test_a_feed_takes_a_moisture_and_the_state_of_a_stream(plant):
    plant.do("Add feed")
    plant.wait(lambda: plant.find("[aria-label=Inspector] button.tag").text == "F-102")
    choose_option(plant, "copy-state", "S-08")
    plant.do("Add product")
    plant.in_date()
    plant.wait(lambda: len(plant.table()["Temperature"]) == 8)
    table = plant.table()
    assert table["Mole flow"][-1] == table["Mole flow"][2]


def test_a_loop_is_cut_elsewhere_and_the_drawing_taken_as_pdf(recycle):
    recycle.click("//button[contains(., 'Loops')]")
    recycle.text("Torn: S-202")
    choose_option(recycle, "tear-1", "S-207")
    recycle.in_date()
    recycle.text("Torn: S-207")
    catch = "window.kept = []; const make = URL.createObjectURL; URL.createObjectURL = (b) => { b.text().then((t) => kept.push(t)); return make(b) }"
    recycle.driver.execute_script(catch)
    recycle.click("//button[normalize-space()='PDF']")
    recycle.wait(lambda: recycle.driver.execute_script("return kept.length") == 1)
    text = recycle.driver.execute_script("return kept[0]")
    assert text.startswith("%PDF-")
    assert all(f"({tag})" in text for tag in ("R-201", "S-212", "N-201"))
    assert not [e for e in recycle.driver.find_elements(By.CSS_SELECTOR, "[role=alert]") if e.text]
