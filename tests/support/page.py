"""A browser tab at 1280 x 800 and the moves that journeys are made of."""

from __future__ import annotations

from patience import PATIENCE
from selenium import webdriver
from selenium.common.exceptions import TimeoutException
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select, WebDriverWait

from wattaxis import dump

FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--no-first-run",
    "--disable-sync",
)
STATUS = "return document.querySelector('[data-test=status]')?.innerText ?? 'nothing'"


def browser() -> webdriver.Chrome:
    """Debian's Chromium, headless, with its console kept."""
    options = webdriver.ChromeOptions()
    for flag in FLAGS:
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    return webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))


class Page:
    """A browser tab with the few moves that journeys are made of."""

    def __init__(self, driver: webdriver.Chrome, address: str) -> None:
        self.driver = driver
        self.address = address

    def size(self):
        """The page itself is 1280 x 800; a window size would count the frame in."""
        screen = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
        self.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", screen)

    def wait(self, condition, seconds=PATIENCE, message=""):
        return WebDriverWait(self.driver, seconds, poll_frequency=0.03, ignored_exceptions=(Exception,)).until(lambda _: condition(), message)

    def find(self, selector, seconds=PATIENCE):
        return self.wait(lambda: next((e for e in self.driver.find_elements(By.CSS_SELECTOR, selector) if e.is_displayed()), None), seconds, selector)

    def text(self, text, seconds=PATIENCE):
        """Wait until the page shows a text."""
        return self.wait(lambda: text in self.driver.execute_script("return document.body.innerText"), seconds, f"the page never showed {text!r}")

    def shows(self, text):
        return text in self.driver.execute_script("return document.body.innerText")

    def click(self, xpath):
        """Find and click in one go, again where the page redraws in between."""
        self.wait(lambda: self.driver.find_element(By.XPATH, xpath).click() or True, message=xpath)

    def press(self, *keys):
        ActionChains(self.driver).send_keys(*keys).perform()

    def chord(self, key):
        """Control with a key, on the sheet rather than in a field."""
        self.leave_field()
        ActionChains(self.driver).key_down(Keys.CONTROL).send_keys(key).key_up(Keys.CONTROL).perform()

    def sign_in(self, name="engineer", password="sandlark-bay"):
        self.driver.get(self.address + "/sign-in")
        self.find("[name=username]").send_keys(name)
        self.find("[name=password]").send_keys(password, Keys.ENTER)
        self.text("Projects")

    def upload(self, folder, name, document):
        """Sign in and open a document as a project of its own."""
        path = folder / f"{name}.json"
        path.write_text(dump(document))
        self.sign_in()
        self.driver.find_element(By.NAME, "document").send_keys(str(path))

    def slow(self, milliseconds):
        """Every answer of the server comes so much later."""
        self.driver.execute_cdp_cmd("Network.enable", {})
        conditions = {"offline": False, "latency": milliseconds, "downloadThroughput": -1, "uploadThroughput": -1}
        self.driver.execute_cdp_cmd("Network.emulateNetworkConditions", conditions)

    def leave_field(self):
        """Escape, where a field has the focus; on the sheet itself it would select nothing."""
        if self.driver.execute_script("return !!document.activeElement.closest('input, select')"):
            self.press(Keys.ESCAPE)

    def do(self, text):
        """By keyboard: open the palette, type, take the first hit."""
        self.leave_field()
        self.press("/")
        field = self.find("[aria-label='Find or do']")
        field.send_keys(text)
        words = text.lower().split()

        def hit():
            first = self.driver.find_elements(By.CSS_SELECTOR, "[role=option]")[0].text.lower()
            return field.get_attribute("value") == text and all(word in first for word in words)

        self.wait(hit, message=f"nothing in the palette for {text!r}")
        field.send_keys(Keys.ENTER)
        self.wait(lambda: not self.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))

    def select(self, tag):
        self.do(f"Find {tag},")
        self.wait(lambda: self.find("[aria-label=Inspector] button.tag").text == tag)

    def to_field(self, field):
        """By keyboard: from the sheet into the inspector, then Tab to the field."""
        self.leave_field()
        self.press(Keys.ENTER)
        for _ in range(60):
            here = self.driver.execute_script("return document.activeElement.closest('[data-field]')?.dataset.field ?? ''")
            if here == field:
                return
            self.press(Keys.TAB)
        raise AssertionError(f"Tab never reached {field}")

    def type_value(self, field, text, wait=True):
        """By keyboard: a value into a field of the selected unit; waits until the server has taken it."""
        self.to_field(field)
        before = self.revision()
        self.press(text, Keys.ENTER)
        if wait:
            self.wait(lambda: self.revision() > before, message=f"{field} = {text!r} was not taken: {self.alerts()}")

    def add(self, what, tag, **values):
        """By keyboard: a unit on the sheet with its values."""
        self.do(f"Add {what}")
        self.wait(lambda: self.find("[aria-label=Inspector] button.tag").text == tag)
        for field, text in values.items():
            self.type_value(field, text)

    def paste(self, label, text):
        """Paste from a spreadsheet into the cell of a label."""
        script = (
            "const d = new DataTransfer(); d.setData('text/plain', arguments[1]);"
            "arguments[0].dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true}))"
        )
        self.driver.execute_script(script, self.find(f"[aria-label='{label}']"), text)

    def choose(self, label, value):
        """Choose from the list of a label, by what it shows."""
        self.wait(lambda: Select(self.driver.find_element(By.CSS_SELECTOR, f"[aria-label='{label}']")).select_by_visible_text(value) or True)

    def revision(self):
        strip = self.driver.execute_script("return document.querySelector('[data-revision]')?.dataset.revision ?? '0'")
        return int(strip)

    def undo_all(self, most=12):
        """Leave the plant as it was found: take back what the person did, by the server, whatever page is open."""
        script = """
            const [most, done] = arguments, path = '/api/variants/' + location.pathname.match(/plant.(\\d+)/)[1];
            const token = document.cookie.split('; ').find((c) => c.startsWith('csrftoken='))?.slice(10) ?? '';
            (async () => {
              for (let k = 0; k < most; k++) {
                const variant = await (await fetch(path)).json();
                if (!variant.undo || variant.undo.includes('created')) break;
                const reply = await fetch(path + '/undo', { method: 'POST', headers: { 'X-CSRFToken': token } });
                if (!reply.ok) break;
              }
              done(true);
            })();
        """
        self.driver.execute_async_script(script, most)

    def alerts(self):
        return self.driver.execute_script("return [...document.querySelectorAll('[role=alert]')].filter(e => e.offsetParent).map(e => e.innerText)")

    def in_date(self):
        try:
            return self.wait(lambda: "in date" in self.find("[data-test=status]").text)
        except TimeoutException as error:
            raise AssertionError(f"the results never came in date: {self.driver.current_url} says {self.driver.execute_script(STATUS)!r}") from error

    def table(self):
        """The stream table as rows of texts by title."""
        rows = self.driver.execute_script(
            "return [...document.querySelectorAll('[data-test=stream-rows] tr')].map(r => [...r.children].map(c => c.innerText))"
        )
        return {row[0]: row[2:] for row in rows}
