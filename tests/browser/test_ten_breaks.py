"""A loop with an exchanger, a drum, a pump and a splitter, broken by hand in a dozen ways; each is mended from what the page says of it."""

import pytest
from plants import C4, feed, plant, q
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from wattaxis import dump

pytestmark = pytest.mark.browser

UNITS = {
    "F-1": feed(temperature="350 K", pressure="8 bar"),
    "M-1": ("mixer", {}),
    "X-1": ("heat-exchanger", {"minimum_approach": q("15 K")}),
    "E-1": ("heater", {"outlet_temperature": q("400 K")}),
    "C-1": ("cooler", {"outlet_temperature": q("320 K"), "pressure_change": q("-0.2 bar")}),
    "V-1": ("drum", {"duty": q("0 kW")}),
    "N-1": ("splitter", {"share_1": q("40 %")}),
    "P-1": ("pump", {"outlet_pressure": q("9 bar"), "efficiency": q("60 %")}),
    "G-1": ("product", {}),
    "L-1": ("product", {}),
}
LINES = [
    "S-1: F-1.outlet -> M-1.inlet",
    "S-2: M-1.outlet -> X-1.cold_in",
    "S-3: X-1.cold_out -> E-1.inlet",
    "S-4: E-1.outlet -> X-1.hot_in",
    "S-5: X-1.hot_out -> C-1.inlet",
    "S-6: C-1.outlet -> V-1.inlet",
    "S-7: V-1.vapour -> G-1.inlet",
    "S-8: V-1.liquid -> N-1.inlet",
    "S-9: N-1.outlet_1 -> P-1.inlet",
    "S-10: P-1.outlet -> M-1.inlet",
    "S-11: N-1.outlet_2 -> L-1.inlet",
]
#: Unit, field and value that break it; words of what is said; the repair's button, or the field and value that mend it.
BREAKS = [
    ("E-1", "pressure_change", "0.3 bar", "there is no pump here", "button", None),
    ("X-1", "minimum_approach", "200 K", "apart", "minimum_approach", "15 K"),
    ("X-1", "hot_outlet_temperature", "300 K", "temperatures cross", "minimum_approach", "15 K"),
    ("N-1", "share_2", "70 %", "sum to 1.1", "share_2", Keys.BACKSPACE),
    ("P-1", "outlet_pressure", "2 bar", "a pump raises it", "outlet_pressure", "9 bar"),
    ("P-1", "efficiency", "0 %", "efficiency of zero", "efficiency", "60 %"),
    ("E-1", "duty", "900 MW", "6000 K", "outlet_temperature", "400 K"),
    ("C-1", "pressure_change", "-30 bar", "leaves no pressure", "pressure_change", "-0.2 bar"),
    ("F-1", "composition.propane", "0.9", "sum to 1.6", "button", None),
    ("V-1", "vapour_fraction", "200 %", "", "refused", None),
    ("F-1", "temperature", Keys.BACKSPACE, "F-1 needs one value more for its state", "temperature", "350 K"),
    ("E-1", "outlet_temperature", Keys.BACKSPACE, "one value for its outlet", "outlet_temperature", "400 K"),
]


@pytest.fixture
def loop(page, tmp_path):
    document = tmp_path / "ten breaks.json"
    document.write_text(dump(plant(C4, UNITS, LINES)))
    page.sign_in()
    page.driver.find_element(By.NAME, "document").send_keys(str(document))
    page.in_date()
    page.click("//button[contains(., 'Asks and findings')]")
    return page


def told(page, words):
    """The line of the list that says it."""
    return page.wait(
        lambda: next(e for e in page.driver.find_elements(By.CSS_SELECTOR, "[aria-label=Results] li") if words in e.text),
        message=f"nothing says {words!r}",
    )


def faults(page):
    """Lines of the list that tell a fault."""
    return [e.text for e in page.driver.find_elements(By.CSS_SELECTOR, "[aria-label=Results] li") if "Fault." in e.text]


def test_a_dozen_breaks_are_mended_from_what_is_said_of_them(loop):
    for unit, field, value, words, way, mending in BREAKS:
        loop.select(unit)
        if way == "refused":
            loop.type_value(field, value, wait=False)
            loop.wait(
                lambda: any("between 0 and" in text or "at most" in text or "100" in text for text in loop.alerts()), message=str(loop.alerts())
            )
            loop.press(Keys.ESCAPE)
            continue
        loop.type_value(field, value)
        told(loop, words)
        loop.leave_field()
        if way == "button":
            loop.wait(lambda words=words: told(loop, words).find_element(By.CSS_SELECTOR, "button.link:not(.tag)").click() or True)
        else:
            # The line leads to its unit, where the value is typed.
            loop.wait(lambda words=words: told(loop, words).find_element(By.CSS_SELECTOR, "button.tag").click() or True)
            loop.wait(lambda unit=unit: loop.find("[aria-label=Inspector] button.tag").text == unit)
            loop.type_value(way, mending)
        loop.in_date()
        loop.wait(lambda: not faults(loop), message=f"{unit} {field}: {faults(loop)}")
        loop.leave_field()


def test_a_stream_that_was_taken_away_is_asked_for_and_drawn_again(loop):
    loop.do("Find S-10,")
    loop.click("//button[normalize-space()='Remove']")
    told(loop, "The outlet of P-1 is not connected")
    loop.select("P-1")
    loop.do("Connect P-1 outlet to M-1")
    loop.in_date()
    loop.undo_all(60)
