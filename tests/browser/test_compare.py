"""Two variants side by side in the browser: one branched from the other, changed, and laid beside it."""

import pytest
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser
#: The row of the branch; other projects on the same server may have one of the same name.
BRANCH = "//tr[td[1]//a[text()='Sandlark Bay'] and starts-with(td[2], 'Base, branch')]"


def test_a_branch_is_changed_and_laid_beside_its_origin(page):
    page.sign_in()
    page.click("//tr[td[1]//a[text()='Sandlark Bay'] and td[2][text()='Base']]//button[normalize-space()='Branch']")
    page.click(f"{BRANCH}//a")
    page.in_date()
    page.select("E-103")
    page.type_value("outlet_temperature", "20 degC")
    page.in_date()
    page.click("//a[normalize-space()='Compare']")
    Select(page.find("[name=other-variant]")).select_by_visible_text("Sandlark Bay / Base")
    page.wait(lambda: "Outlet temperature" in page.find("[data-test=givens]").text)
    givens = page.find("[data-test=givens]").text
    assert ("20 °C" in givens, "35 °C" in givens) == (True, True)
    results = page.find("[data-test=results]").text.splitlines()
    assert any(line.startswith("S-07 Temperature 20 °C 35 °C +15") for line in results), results
    assert not any(line.startswith("S-06 ") for line in results)
    page.click("//button[@aria-label='Take over E-103 Outlet temperature from Sandlark Bay / Base']")
    page.text("Nothing: all were given the same.")
    Select(page.find("[name=one-more]")).select_by_visible_text("Sandlark Bay / Alcohol recycle")
    page.text("Change, Sandlark Bay / Alcohol recycle")
    page.driver.get(page.address)
    page.click(f"{BRANCH}//button[starts-with(@aria-label, 'Variant Base, branch')]")
    page.click("//button[normalize-space()='Delete variant']")
    page.wait(lambda: not page.driver.find_elements("xpath", BRANCH))
