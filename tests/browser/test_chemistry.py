"""Chemistry and the small tools of the sheet: pairs, models, pasting, keys, themes, walking along streams."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


@pytest.fixture
def demo(page):
    page.sign_in()
    page.click("//a[text()='Sandlark Bay']")
    page.in_date()
    page.wait(lambda: page.table().get("Temperature"))
    yield page
    page.undo_all()


def test_a_pair_is_typed_changes_results_and_goes_back(demo):
    before = demo.table()
    demo.press("1")
    demo.find("[aria-label='Pair butanone and hydrogen']").click()
    field = demo.find("section[aria-labelledby=pairs-title] input")
    field.click()
    field.send_keys("9", Keys.ENTER)
    demo.text("lies between -2 and 0.999")
    assert field.get_attribute("value") == "9"
    field.click()
    field.send_keys("0.2", Keys.ENTER)
    demo.text("4 of 6 assumed zero")
    demo.text("typed in. Type a number")
    demo.click("//button[contains(., 'How far do the doubtful ones matter')]")
    rows = demo.find("[data-test=influences]").text.splitlines()
    assert len(rows) >= 5
    assert "kij +0.02" in demo.find("[data-test=influences]").text
    demo.press(Keys.ESCAPE)
    demo.press("2")
    demo.in_date()
    demo.wait(lambda: demo.table().get("hydrogen") and demo.table()["hydrogen"] != before["hydrogen"])
    demo.chord("z")
    demo.wait(lambda: demo.table() == before)


def test_another_model_gives_other_results_and_says_its_limits(demo):
    before = demo.table()
    demo.press("1")
    demo.click("//button[@role='radio'][contains(., 'Ideal')]")
    demo.text("No azeotropes, no two liquids")
    demo.text("has no pair parameters of its own")
    demo.press("2")
    demo.in_date()
    demo.wait(lambda: demo.table() and demo.table()["Mole flow"][2] != before["Mole flow"][2])
    assert 700 < float(demo.table()["Density"][3]) < 820  # the ideal liquid takes its volume from Rackett's equation
    demo.chord("z")
    demo.wait(lambda: demo.table() == before)


def test_components_are_searched_and_taken_out_without_touching_flows(demo):
    demo.press("1")
    search = demo.find("[aria-label='Find a component']")
    search.send_keys("C4H10O")
    demo.wait(lambda: len(demo.driver.find_elements(By.CSS_SELECTOR, "[role=option]")) >= 4)
    isomers = [o.text for o in demo.driver.find_elements(By.CSS_SELECTOR, "[role=option]")]
    assert any("71-36-3" in t for t in isomers)
    assert any("already among the components" in t for t in isomers)
    search.send_keys(Keys.ESCAPE)
    demo.find("[aria-label='Remove water']").click()
    demo.wait(lambda: not demo.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Remove water']"))
    demo.press("2")
    demo.click("//button[contains(., 'Asks and findings')]")
    demo.text("Values for water are kept but not used")
    demo.chord("z")
    demo.in_date()
    demo.select("F-101")
    assert demo.find("[data-field='composition.water'] input").get_attribute("value") == "1.5 kmol/h"


def test_a_list_is_pasted_and_an_own_component_made(demo):
    demo.press("1")
    search = demo.find("[aria-label='Find a component']")
    demo.driver.execute_script(
        "const d = new DataTransfer(); d.setData('text/plain', arguments[1]);"
        "arguments[0].dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true}))",
        search,
        "acetone\nMEK\nunobtainium",
    )
    demo.text("1 added, 1 were there already.")
    demo.text("“unobtainium” is not in the bank.")
    demo.click("//button[contains(., 'Own component')]")
    demo.find("[aria-label='Name of the own component']").send_keys("gas oil")
    for field, value in (("boiling", "290 degC"), ("density", "850 kg/m3")):
        box = demo.find(f"[data-field={field}] input")
        box.click()
        box.send_keys(value, Keys.ENTER)
        demo.wait(lambda box=box, value=value: box.get_attribute("value") == value.replace("degC", "°C").replace("m3", "m³"))
    demo.click("//button[normalize-space()='Estimate']")
    demo.text("must not react")
    demo.click("//button[normalize-space()='Add it']")
    demo.find("[aria-label='Remove gas oil']")
    demo.click("//button[contains(., 'gas oil')]")
    demo.text("estimated, Kesler, Lee 1976")


def test_a_column_from_a_spreadsheet_is_pasted_into_the_composition(demo):
    demo.select("F-101")
    first = demo.find("[data-field='composition.2-butanol'] input")
    demo.driver.execute_script(
        "const d = new DataTransfer(); d.setData('text/plain', arguments[1]);"
        "arguments[0].dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true}))",
        first,
        "2-butanol\t=26/2\nbutanone\t71 kmol/h\nhydrogen\t20 mol/s\nwater\t2",
    )
    demo.wait(lambda: demo.find("[data-field='composition.hydrogen'] input").get_attribute("value") == "20 mol/s")
    assert demo.find("[data-field='composition.water'] input").get_attribute("value") == "2 kmol/h"
    demo.in_date()
    demo.wait(lambda: demo.table()["Mole flow"][0] == "158.00")
    demo.driver.execute_script(
        "const d = new DataTransfer(); d.setData('text/plain', 'x\\nbad'); "
        "arguments[0].dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true}))",
        demo.find("[data-field='composition.2-butanol'] input"),
    )
    demo.text("Nothing was pasted")


def test_keys_are_listed_and_streams_are_walked(demo):
    demo.press(Keys.ESCAPE)
    demo.press("?")
    demo.text("Walk along the streams")
    demo.press(Keys.ESCAPE)
    demo.wait(lambda: not demo.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
    demo.select("F-101")
    for tag in ("S-06", "E-103", "S-07", "V-101"):
        demo.press(Keys.ARROW_RIGHT)
        demo.wait(lambda tag=tag: demo.find("[aria-label=Inspector] button.tag").text == tag)
    demo.press(Keys.ARROW_LEFT)
    demo.wait(lambda: demo.find("[aria-label=Inspector] button.tag").text == "S-07")
    demo.select("V-101")
    before = demo.revision()
    ActionChains(demo.driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_DOWN).key_up(Keys.SHIFT).perform()
    demo.wait(lambda: demo.revision() == before + 1)


def test_renaming_refuses_a_taken_tag_and_reaches_every_stream(demo):
    demo.select("V-101")
    demo.press("r")
    field = demo.find("[aria-label=Tag]")
    field.send_keys("V-102", Keys.ENTER)
    demo.text("The tag V-102 is taken already.")
    field.clear()
    field.send_keys("V-100", Keys.ENTER)
    demo.find("[data-test=unit-V-100]")
    demo.select("S-08")
    assert "V-100" in demo.find("[aria-label=Inspector]").text


def test_history_goes_back(demo):
    demo.select("E-103")
    demo.type_value("outlet_temperature", "44 degC")
    demo.click("//button[contains(., 'History')]")
    demo.text("35 degC -> 44 degC")
    start = demo.revision() - 1
    demo.find(f"[aria-label='Back to revision {start}']").click()
    demo.text(f"back to revision {start}")
    demo.click("//button[normalize-space()='Streams']")
    demo.wait(lambda: demo.table()["Temperature"][1] == "35.00")


def test_a_property_over_temperature_gives_way_to_points_of_ones_own(demo):
    demo.press("1")
    demo.text("Over temperature")
    demo.click("//ul/li//button[@aria-pressed][contains(., '2-butanol')]")
    demo.text("Poling, Prausnitz, O'Connell 2001, table A.F")  # its vapour pressure
    demo.click("//button[@aria-label='Give an own surface tension']")
    demo.choose("Unit of temperature", "K")
    demo.paste("Temperature, point 1", "T\tsigma\n300\t23.1\n=273.15+66.85\t19.5")
    demo.text("of the bank:")
    demo.wait(lambda: demo.find("[aria-label='Temperature, point 2']").get_attribute("value") == "340")
    demo.paste("Temperature, point 3", "340\t18")
    demo.text("another temperature")
    demo.click("//button[normalize-space()='Use the bank value']")
    demo.wait(lambda: not demo.shows("of the bank:"))
    note = demo.find("[data-field=stands_for] input")
    note.send_keys("all butanols", Keys.TAB)
    demo.wait(lambda: "border-act!" in demo.find("[data-field=stands_for] input").get_attribute("class"))
    demo.undo_all()
