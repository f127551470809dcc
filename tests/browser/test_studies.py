"""A study in the browser: what is varied and looked at is typed, asked, read off pictures and table, out of date after an edit, and asked again."""

import pytest
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser


def cells(page):
    return [
        [cell.text for cell in row.find_elements("css selector", "td")]
        for row in page.driver.find_elements("css selector", "[data-test=study-cases] tbody tr")
    ]


def typed(page, label, text):
    before = page.revision()
    field = page.find(f"input[aria-label='{label}']")
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys(text, Keys.TAB)
    page.wait(lambda: page.revision() > before, message=page.alerts())


def test_a_study_is_made_asked_goes_stale_and_is_asked_again(page):
    page.sign_in()
    page.click("//a[normalize-space()='Sandlark Bay']")
    page.in_date()
    page.click("//nav//*[normalize-space()='Studies']")
    page.text("There is none yet")
    page.click("//button[normalize-space()='New study']")
    page.find("[name=vary]")
    before = page.revision()
    page.wait(lambda: Select(page.find("[name=vary]")).select_by_value("E-103 outlet_temperature") or True)
    page.wait(lambda: page.revision() > before)
    typed(page, "From, E-103 Outlet temperature", "10 degC")
    typed(page, "To, E-103 Outlet temperature", "40")
    typed(page, "Points, E-103 Outlet temperature", "4")
    before = page.revision()
    page.find("[name=add-outputs]").send_keys("E-103.duty", Keys.TAB)
    page.wait(lambda: page.revision() > before)
    page.click("//button[normalize-space()='Ask']")
    page.wait(lambda: len(cells(page)) == 4)
    assert [row[1] for row in cells(page)] == ["10", "20", "30", "40"]
    duties = [float(row[2]) for row in cells(page)]
    assert duties == sorted(duties, reverse=True)
    page.wait(lambda: page.find("[data-test=study-state]").text == "in date")
    assert page.driver.find_elements("css selector", "canvas")
    typed(page, "To, E-103 Outlet temperature", "30 degC")
    page.wait(lambda: page.find("[data-test=study-state]").text == "out of date")
    page.text("The plant or the question has changed since.")
    page.click("//button[normalize-space()='Ask again']")
    page.wait(lambda: [row[1] for row in cells(page)] == ["10", "16.6667", "23.3333", "30"])
    # What cannot be asked is told, and the answer that is there stays.
    typed(page, "To, E-103 Outlet temperature", "10 degC")
    page.click("//button[normalize-space()='Ask again']")
    page.text("is varied from 10 degC to the same")
    assert len(cells(page)) == 4
    before = page.revision()
    Select(page.find("[name=spacing-0]")).select_by_visible_text("a list")
    page.wait(lambda: page.revision() > before)
    before = page.revision()
    field = page.find("textarea[name=values-0]")
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys("15; 68 degF; 31", Keys.TAB)
    page.wait(lambda: page.revision() > before)
    page.click("//button[normalize-space()='Ask again']")
    page.wait(lambda: [row[1] for row in cells(page)] == ["15", "20", "31"])
    page.undo_all(16)
    page.text("There is none yet")


def test_two_inputs_become_lines_of_equal_value(page):
    page.sign_in()
    page.click("//tr[contains(., 'Reactors on one feed')]//a")
    page.in_date()
    page.click("//nav//*[normalize-space()='Studies']")
    page.find("[name=study-name]")  # the sheet has a button that begins alike
    page.click("//section[@aria-label='Answer']//button[starts-with(normalize-space(), 'Ask')]")
    page.wait(lambda: len(cells(page)) == 39)
    Select(page.find("[name=drawn-as]")).select_by_visible_text("lines of equal value")
    page.click("(//section[@aria-label='Answer']//button[normalize-space()='Numbers'])[2]")
    page.text("1000 kW")
    page.text("1800 kW")


def test_what_matters_most_is_ranked(page):
    page.sign_in()
    page.click("//a[normalize-space()='Sandlark Bay']")
    page.in_date()
    page.click("//nav//*[normalize-space()='Studies']")
    page.click("//button[normalize-space()='What matters most']")
    page.find("[name=effects-on]").send_keys("S-08.mass_flow", Keys.ENTER)
    first = page.wait(lambda: page.driver.find_elements("css selector", "[data-test=effects] tbody tr")[0].text)
    assert "kg/h" in first
    rows = page.driver.find_elements("css selector", "[data-test=effects] tbody tr")
    widths = [bar.size["width"] for row in rows for bar in row.find_elements("css selector", "div")]
    assert widths == sorted(widths, reverse=True)
    assert widths[0] > 100


def test_fields_may_be_typed_faster_than_the_server_answers(page):
    page.sign_in()
    page.click("//a[normalize-space()='Sandlark Bay']")
    page.in_date()
    page.click("//nav//*[normalize-space()='Studies']")
    page.click("//button[normalize-space()='New study']")
    page.wait(lambda: Select(page.find("[name=vary]")).select_by_value("E-103 outlet_temperature") or True)
    page.find("[name=points-0]")
    page.slow(400)
    try:
        for field, text in (
            ("From, E-103 Outlet temperature", "12 degC"),
            ("To, E-103 Outlet temperature", "36 degC"),
            ("Points, E-103 Outlet temperature", "5"),
        ):
            box = page.find(f"input[aria-label='{field}']")
            box.send_keys(Keys.CONTROL + "a")
            box.send_keys(text, Keys.TAB)
        page.find("[name=add-outputs]").send_keys("E-103.duty", Keys.TAB)
        read = "return fetch('/api/variants/' + location.pathname.match(/plant.(\\d+)/)[1]).then((r) => r.json()).then((v) => v.document.studies[0])"
        page.wait(lambda: page.driver.execute_script(read)["outputs"])
    finally:
        page.slow(0)
    (study,) = [page.driver.execute_script(read)]
    assert study["inputs"][0]["low"] == {"value": 12, "unit": "degC"}
    assert study["inputs"][0]["high"] == {"value": 36, "unit": "degC"}
    assert study["inputs"][0]["points"] == 5
    # A formula that cannot be read is refused, and what was typed stays.
    page.find("[name=add-outputs]").send_keys("E-103.duty +", Keys.TAB)
    page.text("is missing")
    assert page.find("[name=add-outputs]").get_attribute("value") == "E-103.duty +"
    page.undo_all()
