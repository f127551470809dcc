"""Every main view looked through by axe-core against WCAG 2.1, levels A and AA: no serious finding, in either theme."""

import json
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

AXE = (Path(__file__).resolve().parents[2] / "frontend/node_modules/axe-core/axe.min.js").read_text(encoding="utf-8")
#: An experimental rule: names of units, pairs and notes say more than the letters that are seen.
OFF = {"label-content-name-mismatch": {"enabled": False}}
TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"]
VIEWS = [
    "/",
    "/help/guide",
    "chemistry",
    "chemistry/reactions",
    "chemistry/data",
    "chemistry/diagrams",
    "sheet",
    "sheet?area=Recovery",
    "sheet/unit/E-302",
    "studies",
    "compare",
]


def findings(page):
    """Serious and critical findings of the open page, as rule and element."""
    page.driver.execute_cdp_cmd("Runtime.evaluate", {"expression": AXE})
    asked = json.dumps({"runOnly": TAGS, "rules": OFF})
    script = f"const done = arguments[0]; axe.run({asked}).then((r) => done(JSON.stringify(r.violations)));"
    found = json.loads(page.driver.execute_async_script(script))
    return [(v["id"], n["target"], n["html"][:120]) for v in found if v["impact"] in ("serious", "critical") for n in v["nodes"]]


@pytest.mark.parametrize("dark", [False, True])
@pytest.mark.parametrize("view", VIEWS)
def test_a_view_has_no_serious_finding(page, view, dark):
    page.sign_in()
    row = page.wait(lambda: page.driver.find_element(By.XPATH, "//tr[contains(., 'Butanone plant')]//a"))
    home = row.get_attribute("href").split("/sheet")[0]
    page.driver.get(page.address + view if view.startswith("/") else f"{home}/{view}")
    page.find("main")
    if not view.startswith("/"):
        page.in_date()
    page.driver.execute_script("document.documentElement.classList.toggle('dark', arguments[0])", dark)
    told = findings(page)
    assert not told, "\n".join(map(str, told))


@pytest.mark.parametrize("dark", [False, True])
@pytest.mark.parametrize("view", ["chemistry/reactions", "sheet/unit/R-102", "sheet/unit/R-104", "studies"])
def test_reactions_and_reactors_have_no_serious_finding(page, view, dark):
    page.sign_in()
    row = page.wait(lambda: page.driver.find_element(By.XPATH, "//tr[contains(., 'Reactors on one feed')]//a"))
    page.driver.get(f"{row.get_attribute('href').split('/sheet')[0]}/{view}")
    page.in_date()
    page.find(
        "[data-test=heat]"
        if view.endswith("reactions")
        else "[data-test=section]"
        if view.endswith("4")
        else "[name=study-name]"
        if view == "studies"
        else "main"
    )
    page.driver.execute_script("document.documentElement.classList.toggle('dark', arguments[0])", dark)
    told = findings(page)
    assert not told, "\n".join(map(str, told))


def test_the_dialogs_of_the_sheet_have_no_serious_finding(page):
    page.sign_in()
    page.click("//tr[contains(., 'Butanone plant')]//a")
    page.in_date()
    page.driver.find_element(By.CSS_SELECTOR, "[data-test=unit-E-302]").click()
    for key in ("/", "?", "k"):
        page.press(key)
        page.find("[role=dialog]")
        told = findings(page)
        assert not told, key + "\n".join(map(str, told))
        page.press(Keys.ESCAPE)
        page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
