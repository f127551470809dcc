"""The page of a unit with profiles: the apparatus in section, a line that reads across, numbers, a pin and an aim at a place."""

from plants import C4, feed, plant, q
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

LINES = ["S-1: F-1.outlet -> L-1.inlet", "S-2: L-1.outlet -> Z-1.inlet"]


def read(page, key):
    return float(page.find(f"[data-test=read-{key}]").text)


def test_a_pipe_is_read_along_its_length_pinned_and_aimed_at(page, tmp_path):
    pipe = {"length": q("120 m"), "diameter": q("60 mm"), "heat_transfer": q("20 W/m2/K"), "surroundings": q("5 degC")}
    units = {"F-1": feed(pressure="12 bar", temperature="330 K"), "L-1": ("pipe", pipe), "Z-1": ("product", {})}
    page.upload(tmp_path, "pipe", plant(C4, units, LINES))
    page.in_date()
    page.select("L-1")
    page.click("//a[normalize-space()='Open the page of L-1']")
    section = page.find("[data-test=section]")
    page.wait(lambda: section.get_attribute("aria-valuetext") == "Length from the inlet 60 m")
    middle = read(page, "pressure")
    # The line goes along with the keys, and every value with it.
    section.send_keys(Keys.END)
    assert section.get_attribute("aria-valuetext") == "Length from the inlet 120 m"
    assert read(page, "pressure") < middle
    section.send_keys(Keys.HOME)
    assert read(page, "pressure") == 12.0
    # The streams stand at the ends of the apparatus.
    drawn = page.find("svg[aria-label='L-1 in section']").text.split()
    assert drawn == ["S-1", "S-2"]
    page.click("//nav[@aria-label='Views of the unit']//button[normalize-space()='Numbers']")
    rows = page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Along the pipe, numbers'] tbody tr")
    assert len(rows) == 25
    page.click("//nav[@aria-label='Views of the unit']//button[normalize-space()='Section']")
    # What is given can be changed here; the profile follows.
    page.type_value("diameter", "40 mm")
    page.find("[data-test=section]").send_keys(Keys.END)
    page.wait(lambda: read(page, "pressure") < 11.9)
    page.click("//button[@aria-label='Aim at temperature here']")
    formula = page.find("input[name=aim-formula]")
    page.wait(lambda: formula.get_attribute("value") == "L-1.temperature[length 120 m]")
    page.wait(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog] input[type=radio]"))
    page.driver.switch_to.active_element.send_keys(Keys.ESCAPE)
    page.click("//button[@aria-label='Pin pressure here']")
    page.driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    page.text("L-1.pressure[length 120 m]")
    page.undo_all()


def test_drawer_and_inspector_fold_and_stay_so_and_a_unit_is_found_by_another_word(page, tmp_path):
    units = {"F-1": feed(pressure="12 bar", temperature="330 K"), "Z-1": ("product", {})}
    page.upload(tmp_path, "room", plant(C4, units, ["S-1: F-1.outlet -> Z-1.inlet"]))
    page.in_date()
    drawer = page.find("section[aria-label=Results]")
    tall = drawer.size["height"]
    page.press("d")
    page.wait(lambda: drawer.size["height"] < 50)
    page.driver.refresh()
    page.in_date()
    drawer = page.find("section[aria-label=Results]")
    assert drawer.size["height"] < 50
    # A tab opens it; its border is moved by key.
    page.click("//button[normalize-space()='Balances']")
    page.wait(lambda: drawer.size["height"] == tall)
    page.find("[aria-label='Height of the drawer']").send_keys(Keys.ARROW_UP)
    page.wait(lambda: drawer.size["height"] == tall + 16)
    page.find("[aria-label='Height of the drawer']").send_keys(Keys.ARROW_DOWN)
    page.leave_field()
    page.press("v")
    page.wait(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Show the inspector']"))
    # A value of the inspector brings it back.
    page.do("Find F-1,")
    page.press(Keys.ENTER)
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Show the inspector']"))
    page.leave_field()
    page.click("//button[normalize-space()='Add a unit']")
    field = page.find("[aria-label='Find a unit operation']")
    field.send_keys("turbine", Keys.ENTER)
    page.wait(lambda: page.find("[aria-label=Inspector] button.tag").text == "X-101")
    page.undo_all()


def test_enter_takes_a_value_once_and_goes_on_and_back_where_it_is_refused(page, tmp_path):
    units = {"F-1": feed(pressure="12 bar", temperature="330 K"), "Z-1": ("product", {})}
    page.upload(tmp_path, "enter", plant(C4, units, ["S-1: F-1.outlet -> Z-1.inlet"]))
    page.in_date()
    page.select("F-1")
    here = "return document.activeElement.closest('[data-field]')?.dataset.field ?? ''"
    page.to_field("temperature")
    before = page.revision()
    page.press("340 K", Keys.ENTER)
    page.wait(lambda: page.driver.execute_script(here) == "pressure")
    page.wait(lambda: page.revision() == before + 1)
    # What is cleared is cleared in one step, and one step of undo brings it back.
    page.to_field("temperature")
    page.press(Keys.BACKSPACE, Keys.ENTER)
    page.wait(lambda: page.revision() == before + 2)
    page.click("//button[normalize-space()='Undo']")
    page.wait(lambda: page.find("[data-field=temperature] input").get_attribute("value") == "340 K")
    assert page.revision() == before + 3
    # The same again is no revision.
    page.select("F-1")
    page.to_field("temperature")
    page.press("340 K", Keys.ENTER)
    page.to_field("pressure")
    page.press("-3 bar", Keys.ENTER)
    page.wait(lambda: page.driver.execute_script(here) == "pressure" and page.alerts())
    page.press(Keys.ESCAPE)
    assert page.revision() == before + 3
    page.undo_all()


def test_a_composition_is_shown_by_mass_and_aimed_at_by_the_name_on_the_screen(page, tmp_path):
    units = {"F-1": feed(pressure="12 bar", temperature="330 K", parts=(0.5, 0.3, 0.2)), "Z-1": ("product", {})}
    page.upload(tmp_path, "mass", plant(C4, units, ["S-1: F-1.outlet -> Z-1.inlet"]))
    page.in_date()
    page.select("S-1")
    page.choose("Composition as", "Mass fraction")
    row = "//aside[@aria-label='Inspector']//tr[th[normalize-space()='propane']]"
    page.wait(lambda: page.driver.find_element(By.XPATH, row + "/td[1]").text == "0.4089")
    page.driver.execute_script("arguments[0].click()", page.driver.find_element(By.XPATH, row + "//button"))
    formula = page.find("input[name=aim-formula]")
    page.wait(lambda: formula.get_attribute("value") == "S-1.mass_fraction[propane]")
    page.driver.switch_to.active_element.send_keys(Keys.ESCAPE)
