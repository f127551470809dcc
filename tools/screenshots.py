"""Takes the pictures of docs/screenshots from the demo data of a running server (default http://127.0.0.1:8000) at 1280 x 800."""

import sys
import time
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select, WebDriverWait

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
BASE = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000"


def main() -> None:
    """Sign in, visit every main view, leave the demo as it was."""
    options = webdriver.ChromeOptions()
    for flag in ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-background-networking", "--hide-scrollbars"):
        options.add_argument(flag)
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    screen = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", screen)
    driver.implicitly_wait(30)

    def click(selector: str) -> None:
        driver.find_element(By.CSS_SELECTOR, selector).click()
        time.sleep(0.5)

    def in_date() -> None:
        """Wait until the sheet is calculated: the first calculation of a server just started takes seconds."""
        WebDriverWait(driver, 120).until(lambda d: "in date" in d.find_element(By.TAG_NAME, "header").text)
        time.sleep(0.6)

    def shot(name: str) -> None:
        time.sleep(0.6)
        driver.save_screenshot(str(FOLDER / f"{name}.png"))

    driver.get(BASE + "/sign-in")
    driver.find_element(By.NAME, "username").send_keys("engineer")
    driver.find_element(By.NAME, "password").send_keys("sandlark-bay", Keys.ENTER)
    driver.find_element(By.LINK_TEXT, "Sandlark Bay").click()
    in_date()
    click("[data-test=unit-E-103]")
    shot("sheet")
    field = driver.find_element(By.CSS_SELECTOR, "[data-field=outlet_temperature] input")
    field.click()
    field.send_keys(Keys.CONTROL + "a", Keys.BACKSPACE, Keys.ENTER)
    time.sleep(0.8)
    driver.find_element(By.XPATH, "//button[contains(., 'Asks and findings')]").click()
    shot("findings")
    driver.find_element(By.XPATH, "//button[normalize-space()='Undo']").click()
    time.sleep(0.8)
    driver.execute_script("document.documentElement.classList.add('dark')")
    click("[data-test=unit-F-101]")
    driver.find_element(By.XPATH, "//button[contains(., 'Streams')]").click()
    shot("feed-dark")
    driver.execute_script("document.documentElement.classList.remove('dark')")
    driver.find_element(By.LINK_TEXT, "Chemistry").click()
    time.sleep(1)
    click("[aria-label='Pair butanone and water']")
    shot("chemistry")
    driver.find_element(By.XPATH, "//button[@role='radio'][normalize-space()='UNIFAC']").click()  # taken back below
    time.sleep(0.5)
    driver.find_element(By.LINK_TEXT, "Diagrams").click()
    driver.find_element(By.XPATH, "//button[@role='radio'][contains(., 'Residue curves')]").click()
    Select(driver.find_element(By.XPATH, "//label[contains(., 'Component 3')]//select")).select_by_visible_text("water")
    time.sleep(3)
    shot("residue-curves")
    driver.find_element(By.XPATH, "//header//button[normalize-space()='Undo']").click()
    driver.find_element(By.LINK_TEXT, "Data and fits").click()
    Select(driver.find_element(By.CSS_SELECTOR, "aside select")).select_by_visible_text("Margules")
    driver.find_element(By.XPATH, "//button[normalize-space()='Fit']").click()
    driver.find_element(By.CSS_SELECTOR, "[data-test=fit]")
    shot("fit")
    driver.get(BASE)
    driver.find_element(By.XPATH, "//tr[contains(., 'Alcohol recycle')]//a").click()
    in_date()
    click("[data-test=unit-R-201]")
    driver.find_element(By.XPATH, "//button[starts-with(normalize-space(), 'Loops')]").click()
    shot("loop")
    driver.find_element(By.XPATH, "//button[starts-with(normalize-space(), 'Aims')]").click()
    click("[data-test=unit-E-202]")
    shot("aims")
    driver.find_element(By.XPATH, "//button[normalize-space()='Values beside']").click()
    for name in ("stream.temperature", "stream.mass_flow", "cooler.duty", "heater.duty"):
        click(f"[name='{name}']")
    driver.find_element(By.XPATH, "//button[normalize-space()='Close']").click()
    driver.find_element(By.TAG_NAME, "body").send_keys("l")
    time.sleep(2)
    Select(driver.find_element(By.XPATH, "//label[contains(., 'Lines')]//select")).select_by_value("mass_flow")
    shot("values-beside")
    for _ in range(5):
        driver.find_element(By.XPATH, "//header//button[normalize-space()='Undo']").click()
        time.sleep(0.6)
    driver.find_element(By.TAG_NAME, "body").send_keys("/")
    driver.switch_to.active_element.send_keys("Find S-206,", Keys.ENTER)
    time.sleep(0.6)
    driver.find_element(By.XPATH, "//button[normalize-space()='Compress in stages']").click()
    driver.find_element(By.CSS_SELECTOR, "[role=dialog] [data-field=pressure] input").send_keys("30 bar", Keys.ENTER)
    time.sleep(3)
    shot("compression")
    driver.get(BASE)
    driver.find_element(By.XPATH, "//tr[contains(., 'Butanone plant')]//a").click()
    in_date()
    shot("butanone-plant")
    click("[data-test=unit-E-302]")
    driver.find_element(By.TAG_NAME, "body").send_keys("p")
    time.sleep(1.5)
    shot("unit-page")
    driver.get(BASE)
    driver.find_element(By.XPATH, "//tr[contains(., 'Steam power')]//a").click()
    in_date()
    click("[data-test=unit-E-101]")
    shot("steam-power")
    driver.find_element(By.XPATH, "//button[normalize-space()='Balances']").click()
    time.sleep(1.5)
    shot("balances")
    driver.get(BASE)
    driver.find_element(By.XPATH, "//tr[contains(., 'Reactors on one feed')]//a").click()
    in_date()
    driver.find_element(By.TAG_NAME, "body").send_keys("/")
    driver.switch_to.active_element.send_keys("Find R-104,", Keys.ENTER)
    time.sleep(1)
    shot("reactors")
    driver.find_element(By.LINK_TEXT, "Chemistry").click()
    driver.find_element(By.LINK_TEXT, "Reactions").click()
    driver.find_element(By.CSS_SELECTOR, "[data-test=heat]")
    time.sleep(2)
    shot("reactions")
    driver.get(BASE)
    driver.find_element(By.XPATH, "//tr[contains(., 'Butane splitter')]//a").click()
    in_date()
    click("[data-test=unit-T-601]")
    driver.find_element(By.TAG_NAME, "body").send_keys("p")
    time.sleep(1.5)
    shot("column")
    driver.get(BASE)
    driver.find_element(By.XPATH, "//tr[contains(., 'Ammonia loop')]//a").click()
    in_date()
    driver.find_element(By.LINK_TEXT, "Studies").click()
    driver.execute_script("arguments[0].scrollIntoView()", driver.find_element(By.CSS_SELECTOR, "[data-test=optimum]"))
    time.sleep(1.5)
    shot("studies")
    driver.get(BASE)
    driver.find_element(By.XPATH, "//tr[contains(., 'Alcohol recycle')]//a").click()
    in_date()
    driver.find_element(By.LINK_TEXT, "Compare").click()
    Select(driver.find_element(By.NAME, "one-more")).select_by_visible_text("Sandlark Bay / Butanone plant")
    time.sleep(6)
    shot("compare")
    driver.quit()


if __name__ == "__main__":
    main()
