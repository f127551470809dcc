"""A study in the browser: what is varied and looked at is typed, asked, read off pictures and table, out of date after an edit, and asked again."""

import pytest
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser


def rows(page, table):
    """The texts of the cells of a table, read at once: it may be drawn anew meanwhile."""
    read = "return [...document.querySelectorAll(arguments[0])].map((row) => [...row.querySelectorAll('td')].map((cell) => cell.innerText.trim()))"
    return page.driver.execute_script(read, f"[data-test={table}] tbody tr")


def cells(page):
    return rows(page, "study-cases")


def typed(page, label, text):
    before = page.revision()
    field = page.find(f"input[aria-label='{label}']")
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys(text, Keys.TAB)
    page.wait(lambda: page.revision() > before, message=page.alerts())


def studies(page, plant="//a[normalize-space()='Sandlark Bay']"):
    """The page of studies of a plant."""
    page.sign_in()
    page.click(plant)
    page.in_date()
    page.click("//nav//*[normalize-space()='Studies']")


def test_a_study_is_made_asked_goes_stale_and_is_asked_again(page):
    studies(page)
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
    for case in (1, 3):
        page.click(f"//input[@aria-label='Compare case {case}']")
    page.click("//a[starts-with(normalize-space(), 'Compare 2 cases')]")
    page.wait(lambda: rows(page, "givens")[0][2:] == ["35 °C", "10 °C Take over", "30 °C Take over"])
    duties = next(row for row in rows(page, "results") if row[1] == "E-103.duty")
    assert duties[2].endswith("kW"), duties
    assert len(duties) == 7
    page.driver.back()
    page.wait(lambda: len(cells(page)) == 4)
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
    studies(page, "//tr[contains(., 'Reactors on one feed')]//a")
    page.find("[name=study-name]")  # the sheet has a button that begins alike
    page.click("//section[@aria-label='Answer']//button[starts-with(normalize-space(), 'Ask')]")
    page.wait(lambda: len(cells(page)) == 39)
    Select(page.find("[name=drawn-as]")).select_by_visible_text("lines of equal value")
    page.click("(//section[@aria-label='Answer']//button[normalize-space()='Numbers'])[2]")
    page.text("1000 kW")
    page.text("1800 kW")


def test_what_matters_most_is_ranked(page):
    studies(page)
    page.click("//button[normalize-space()='What matters most']")
    page.find("[name=effects-on]").send_keys("S-08.mass_flow", Keys.ENTER)
    first = page.wait(lambda: page.driver.find_elements("css selector", "[data-test=effects] tbody tr")[0].text)
    assert "kg/h" in first
    found = page.driver.find_elements("css selector", "[data-test=effects] tbody tr")
    widths = [bar.size["width"] for row in found for bar in row.find_elements("css selector", "div")]
    assert widths == sorted(widths, reverse=True)
    assert widths[0] > 100


def test_fields_may_be_typed_faster_than_the_server_answers(page):
    studies(page)
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
        page.wait(lambda: (now := page.driver.execute_script(read))["outputs"] and now["inputs"][0]["high"])
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


def best_of(page):
    return rows(page, "optimum")


def limits_of(page):
    return rows(page, "limits")


def ask(page):
    page.click("//section[@aria-label='Answer']//button[starts-with(normalize-space(), 'Ask')]")


def test_the_best_within_a_limit_has_a_price_and_the_limit_can_be_set_aside(page):
    studies(page)
    page.click("//button[normalize-space()='New study']")
    page.find("[name=vary]")
    before = page.revision()
    page.wait(lambda: Select(page.find("[name=vary]")).select_by_value("E-103 outlet_temperature") or True)
    page.wait(lambda: page.revision() > before)
    before = page.revision()
    Select(page.find("[name=study-asks]")).select_by_visible_text("what is best")
    page.wait(lambda: page.revision() > before)
    typed(page, "From, E-103 Outlet temperature", "5 degC")
    typed(page, "To, E-103 Outlet temperature", "40 degC")
    for part, formula in (("objectives", "E-103.duty"), ("limits", "S-08.component_flow[butanone]")):
        before = page.revision()
        page.find(f"[name=add-{part}]").send_keys(formula, Keys.TAB)
        page.wait(lambda before=before: page.revision() > before)
    typed(page, "At most, S-08.component_flow[butanone]", "5 kmol/h")
    ask(page)
    page.wait(lambda: limits_of(page))
    ((_, value, state, price),) = limits_of(page)
    assert (value, state) == ("5 kmol/h", "binds")
    assert price.startswith("-27.7")
    assert price.endswith("kW per kmol/h")
    assert best_of(page)[1][2].startswith("30.65")
    page.click("//button[normalize-space()='Open the best case as a variant']")
    page.wait(lambda: "/sheet" in page.driver.current_url)
    page.driver.back()
    page.find("[name=study-name]")
    before = page.revision()
    page.find("[name=aside-0]").click()
    page.wait(lambda: page.revision() > before)
    ask(page)
    page.wait(lambda: limits_of(page) and limits_of(page)[0][2] == "set aside, and missed")
    assert best_of(page)[1][2] == "40 °C"
    assert best_of(page)[1][3].startswith("upper; -8.")


def test_how_sure_results_are_is_told_with_what_it_comes_from(page):
    studies(page)
    page.click("//button[normalize-space()='New study']")
    for value in ("E-103 outlet_temperature", "F-101 temperature"):
        before = page.revision()
        page.wait(lambda value=value: Select(page.find("[name=vary]")).select_by_value(value) or True)
        page.wait(lambda before=before: page.revision() > before)
    before = page.revision()
    Select(page.find("[name=study-asks]")).select_by_visible_text("how sure results are")
    page.wait(lambda: page.revision() > before)
    typed(page, "From, E-103 Outlet temperature", "30 degC")
    typed(page, "To, E-103 Outlet temperature", "40 degC")
    typed(page, "From, F-101 Temperature", "179 degC")
    typed(page, "To, F-101 Temperature", "181 degC")
    before = page.revision()
    Select(page.find("[name=spread-0]")).select_by_visible_text("normal, 95 %")
    page.wait(lambda: page.revision() > before)
    before = page.revision()
    page.find("[name=add-outputs]").send_keys("S-08.mass_flow", Keys.TAB)
    page.wait(lambda: page.revision() > before)
    ask(page)
    page.text("in 95 % of 100 cases")
    assert "chance" in page.find("[data-test=spread]").text
    page.wait(lambda: len(cells(page)) == 100)
    page.find("[name=range-from]").send_keys("35")
    page.find("[name=range-to]").send_keys("36,5", Keys.ENTER)
    page.wait(lambda: 0 < len(cells(page)) < 60)
    assert all(35 <= float(row[1]) <= 36.5 for row in cells(page))
    page.text(f"{len(cells(page))} of 100 cases lie in the ranges")
    page.click("//button[normalize-space()='Keep all']")
    page.wait(lambda: len(cells(page)) == 100)


def test_a_study_can_be_paused_and_goes_on(page):
    studies(page, "//tr[contains(., 'Reactors on one feed')]//a")
    page.find("[name=study-name]")
    before = page.revision()
    Select(page.find("[name=study-design]")).select_by_visible_text("samples")
    page.wait(lambda: page.revision() > before)
    before = page.revision()
    field = page.find("[name=study-samples]")
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys("200", Keys.TAB)
    page.wait(lambda: page.revision() > before)
    ask(page)
    page.wait(lambda: len(cells(page)) >= 25)
    page.click("//button[normalize-space()='Pause']")
    page.text("paused, ")
    page.click("//button[normalize-space()='Go on']")
    page.wait(lambda: page.find("[data-test=study-state]").text == "in date")
    page.text("200 cases")
