"""Wrong things typed everywhere: the message is in words, nothing is lost, no request ends in a server error."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser

WRONG = [
    ("E-103", "outlet_temperature", "warm", "does not start with a number"),
    ("E-103", "outlet_temperature", "40 bar", "unit of pressure"),
    ("E-103", "outlet_temperature", "-300 degC", "absolute zero"),
    ("E-103", "outlet_temperature", "1e300 K", "above the 6000 K"),
    ("E-103", "outlet_temperature", "0 K", "absolute zero"),
    ("E-103", "duty", "5 kg/h", "unit of"),
    ("E-103", "pressure_change", "1,5 bar", "ambiguous"),
    ("V-101", "vapour_fraction", "3", "between 0 and 1"),
    ("V-101", "temperature", "=cmd()", "does not start with a number"),
    ("VL-101", "outlet_pressure", "0 bar", "above vacuum"),
    ("VL-101", "outlet_pressure", "-2 barg", "above vacuum"),
    ("F-101", "composition.water", "-4 kmol/h", "negative"),
    ("F-101", "composition.water", "1e300 kmol/h", "above"),
    ("F-101", "composition.butanone", "70 bar", "unit of pressure"),
]


@pytest.fixture
def demo(page):
    page.sign_in()
    page.click("//a[text()='Sandlark Bay']")
    page.in_date()
    return page


def test_wrong_values_are_refused_where_they_stand_and_stay_typed(demo):
    revision = demo.revision()
    wanted = demo.table()
    for unit, field, text, says in WRONG:
        demo.select(unit)
        demo.to_field(field)
        demo.press(text, Keys.ENTER)
        demo.wait(lambda says=says: any(says in alert for alert in demo.alerts()), message=f"{field} {text}: {demo.alerts()}")
        box = demo.find(f"[data-field='{field}'] input")
        assert box.get_attribute("value") == text
        assert box.get_attribute("aria-invalid") == "true"
        demo.press(Keys.ESCAPE)
        demo.wait(lambda says=says: not any(says in alert for alert in demo.alerts()))
    assert demo.revision() == revision
    assert demo.table() == wanted


@pytest.mark.parametrize(("values", "says"), [(("0", "0"), "are zero"), (("1.5", "1.5"), "sum to 3")])
def test_fractions_that_sum_to_nothing_or_to_three(demo, values, says):
    demo.driver.get(demo.address + "/")
    demo.find("[name=project-name]").send_keys(f"Fractions {values[0]}", Keys.ENTER)
    for name in ("propane", "n-butane"):
        search = demo.find("[aria-label='Find a component']")
        search.send_keys(name)
        demo.find("[role=option]")
        search.send_keys(Keys.ENTER)
        demo.wait(lambda: not demo.driver.find_elements("css selector", "[role=option]"))
    demo.press(Keys.ESCAPE)
    demo.driver.execute_script("document.activeElement.blur()")
    demo.press("2")
    demo.text("Put the first feed on it")
    demo.do("Add Feed")
    for field, text in (("temperature", "300 K"), ("pressure", "5 bar"), ("flow", "100 kmol/h")):
        demo.type_value(field, text)
    demo.type_value("composition.propane", values[0])
    demo.type_value("composition.butane", values[1])
    demo.text(says)
    assert demo.find("[data-field='composition.propane'] input").get_attribute("value") == values[0]
    if says == "sum to 3":
        demo.click("//button[text()='Normalise']")
        demo.wait(lambda: not demo.shows("sum to 3"))
        assert demo.find("[data-field='composition.propane'] input").get_attribute("value") == "1.5"


def test_blank_and_zero_are_two_things(demo):
    demo.select("V-102")
    demo.type_value("duty", Keys.BACKSPACE)
    demo.text("V-102 needs one value for its condition")
    demo.type_value("duty", "0 kW")
    demo.in_date()


def test_a_lost_connection_keeps_what_was_typed(demo):
    demo.select("E-103")
    demo.driver.execute_cdp_cmd("Network.enable", {})
    demo.driver.execute_cdp_cmd("Network.emulateNetworkConditions", {"offline": True, "latency": 0, "downloadThroughput": 0, "uploadThroughput": 0})
    demo.to_field("outlet_temperature")
    demo.press("47 degC", Keys.ENTER)
    demo.text("cannot be reached")
    assert demo.find("[data-field=outlet_temperature] input").get_attribute("value") == "47 degC"
    demo.driver.execute_cdp_cmd(
        "Network.emulateNetworkConditions", {"offline": False, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
    )
    demo.press(Keys.ENTER)
    demo.wait(lambda: demo.table()["Temperature"][1] == "47.00")
    demo.in_date()
    demo.press(Keys.ESCAPE)
    demo.chord("z")
    demo.wait(lambda: demo.table()["Temperature"][1] == "35.00")
    demo.driver.get_log("browser")
