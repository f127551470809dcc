"""From an edit in the browser to all results on the page, alone and beside a study, on warm kernels; server memory; a large sheet; a large answer."""

from __future__ import annotations

import itertools
import statistics
import sys
import tempfile
import time
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[1]


def edited(page, values: range) -> list[float]:
    """Milliseconds from Enter in a field to the results on the page, for so many temperatures."""
    from selenium.webdriver.common.keys import Keys

    page.select("E-103")
    page.driver.execute_script(PROBE)
    times = []
    for value in values:
        page.to_field("outlet_temperature")
        page.press(f"{value} degC")
        time.sleep(0.4)
        page.driver.execute_script("window.expected = arguments[0]", f"{value}.00")
        page.press(Keys.ENTER)
        time.sleep(0.8)  # asking the page meanwhile would slow it down
        page.wait(lambda: page.driver.execute_script("return window.took"))
        times.append(page.driver.execute_script("const t = window.took; window.took = null; return t"))
    return times


def test_edit_to_results(page):
    """Type a temperature, wait until the table shows what follows from it; then once more while a study is calculated on all cores."""
    page.sign_in()
    page.wait(lambda: page.driver.find_element("link text", "Sandlark Bay")).click()
    page.in_date()
    times = edited(page, range(40, 52))
    memory = sum(rss(pid) for pid in children("tools/serve.py"))
    print(f"\nEdit to results on the page: median {statistics.median(times):.0f} ms, slowest {max(times):.0f} ms")
    print(f"Web server {memory / 1024:.0f} MB, each solver process {max(rss(pid) for pid in children('runs/worker.py')) / 1024:.0f} MB")
    varied = {"unit": "F-101", "field": "temperature", "low": {"value": 170, "unit": "degC"}, "high": {"value": 190, "unit": "degC"}, "points": 1001}
    study = {"name": "Long", "design": "samples", "samples": 10_000, "inputs": [varied], "outputs": [{"name": "y", "formula": "E-103.duty"}]}
    page.driver.execute_async_script(POSTED, "/edits", {"edit": {"kind": "set_study", "name": "Long", "study": study}})
    page.driver.execute_async_script(POSTED, "/study-answers", {"name": "Long"})
    time.sleep(15.0)  # its processes come up
    beside = edited(page, range(52, 64))
    slower = statistics.median(beside) / statistics.median(times)
    print(f"Beside a study: median {statistics.median(beside):.0f} ms, slowest {max(beside):.0f} ms; {slower:.2f} times as long")
    assert page.driver.execute_async_script(GOT, "/study-answers")[0]["state"] == "running"


def test_a_large_answer_opens(page, server_folder):
    """From the click on a study with 10 000 cases to its pictures and table; frames a second while a range is drawn over them."""
    from selenium.webdriver.common.action_chains import ActionChains
    from server import manage

    code, text = manage(server_folder, "shell", "-c", LARGE)
    assert code == 0, text
    page.sign_in()
    page.click("//tr[contains(., 'Hydrogen compression')]//a")
    page.in_date()
    began = time.perf_counter()
    page.click("//nav//*[normalize-space()='Studies']")
    page.wait(lambda: len(page.driver.find_elements("css selector", "[data-test=study-cases] tbody tr")) >= 500)
    page.wait(lambda: page.driver.find_elements("css selector", "[data-test=parallel]"))
    print(f"\n10 000 cases of three values and two results on the page: {1000 * (time.perf_counter() - began):.0f} ms")
    plot = page.find("[data-test=parallel]")
    page.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", plot)
    moves = ActionChains(page.driver, duration=20).move_to_element_with_offset(plot, -plot.size["width"] // 2 + 40, -60).click_and_hold()
    for _ in range(40):
        moves.move_by_offset(0, 3)
    page.driver.execute_script(FRAMES)
    moves.release().perform()
    print(f"a range drawn over them: {fluid(page)}")


def fluid(page) -> str:
    """What the frames since FRAMES say."""
    frames = page.driver.execute_script("return window.frames_took")
    gaps = sorted(b - a for a, b in itertools.pairwise(frames))
    rate, near = 1000.0 * len(gaps) / sum(gaps), gaps[int(0.95 * len(gaps))]
    return f"{rate:.0f} frames a second, 95 of 100 within {near:.0f} ms, longest {gaps[-1]:.0f} ms"


def test_a_large_sheet_stays_fluid(page):
    """Frames a second while a sheet of 150 units is moved, and while one of its units is dragged."""
    from mazes import maze
    from selenium.webdriver.common.action_chains import ActionChains

    from wattaxis.flowsheet.document import to_data

    document = to_data(maze(124, 12, 3))
    for k, unit in enumerate(document["units"]):
        unit["x"], unit["y"] = 120.0 * (k % 15), 150.0 * (k // 15)
    page.sign_in()
    page.wait(lambda: page.driver.find_element("link text", "Sandlark Bay")).click()
    page.in_date()
    page.driver.execute_async_script(REPLACE, document)
    page.driver.refresh()
    page.wait(lambda: len(page.driver.find_elements("css selector", "[data-test^=unit-]")) == len(document["units"]))
    page.in_date()
    sheet = page.find("[data-test=sheet]")
    empty = ActionChains(page.driver, duration=20).move_to_element_with_offset(sheet, -400, -150).click_and_hold()
    unit = ActionChains(page.driver, duration=20).move_to_element(page.find("[data-test=unit-U60]")).click_and_hold()
    for what, moves in (("moved", empty), ("one unit dragged", unit)):
        for k in range(60):
            moves.move_by_offset(3 if k % 20 < 10 else -3, 2 if k % 10 < 5 else -2)
        page.driver.execute_script(FRAMES)
        moves.release().perform()
        print(f"\n{len(document['units'])} units {what}: {fluid(page)}")


REPLACE = """
const [wanted, done] = arguments, path = '/api/variants/' + location.pathname.match(/plant.(\\d+)/)[1]
const token = document.cookie.split('; ').find((c) => c.startsWith('csrftoken='))?.slice(10) ?? '';
(async () => {
  const variant = await (await fetch(path)).json()
  const body = JSON.stringify({ base: variant.revision, edit: { kind: 'replace_all', document: wanted } })
  const headers = { 'X-CSRFToken': token, 'Content-Type': 'application/json' }
  const reply = await fetch(path + '/edits', { method: 'POST', headers, body })
  done(reply.status)
})()
"""
POSTED = """
const [where, body, done] = arguments, path = '/api/variants/' + location.pathname.match(/plant.(\\d+)/)[1]
const token = document.cookie.split('; ').find((c) => c.startsWith('csrftoken='))?.slice(10) ?? '';
(async () => {
  const base = (await (await fetch(path)).json()).revision
  const headers = { 'X-CSRFToken': token, 'Content-Type': 'application/json' }
  const reply = await fetch(path + where, { method: 'POST', headers, body: JSON.stringify(where === '/edits' ? { base, ...body } : body) })
  done(await reply.json())
})()
"""
GOT = """
const [where, done] = arguments, path = '/api/variants/' + location.pathname.match(/plant.(\\d+)/)[1];
(async () => done(await (await fetch(path + where)).json()))()
"""
LARGE = """
from math import sin
from django.contrib.auth import get_user_model
from projects.models import StudyAnswer, Variant
from projects.service import latest, submit
from projects.documents import documents
from wattaxis.studies import Case, StudyColumn, StudyResult, question_keys
variant = Variant.objects.get(name="Hydrogen compression")
person = get_user_model().objects.get(username="engineer")
plant = documents.plant(latest(variant))
unit = next(u for u in plant.units if u.type == "feed")
inputs = [{"unit": unit.tag, "field": "pressure"}]
study = {"name": "Large", "design": "samples", "samples": 10000, "inputs": inputs, "outputs": [{"name": "y", "formula": "S-01.mass_flow"}]}
revision = submit(variant, person, latest(variant).number, {"kind": "set_study", "name": "Large", "study": study})
columns = [StudyColumn(name, name, None, "") for name in "abcxy"]
rows = [Case(k, (k % 97, k % 89, k % 83), (sin(k), (k * k) % 1009), ("", ""), ()) for k in range(10000)]
result = StudyResult("Large", tuple(columns[:3]), tuple(columns[3:]), rows).to_data()
about = {"key": question_keys(documents.plant(revision))["Large"], "revision": revision.number, "planned": 10000, "cases": 10000, "seconds": 1.0}
StudyAnswer.objects.create(variant=variant, name="Large", state="done", answer=result, author=person, **about)
"""
FRAMES = """
window.frames_took = []
const note = (at) => { window.frames_took.push(at); requestAnimationFrame(note) }
requestAnimationFrame(note)
"""
PROBE = """
window.took = null
let pressed = 0
window.addEventListener('keydown', (e) => { if (e.key === 'Enter') pressed = performance.now() }, true)
new MutationObserver(() => {
  const cell = document.querySelector('[data-test=stream-rows] tr td:nth-of-type(3)')
  const status = document.querySelector('[data-test=status]')
  if (pressed && cell?.textContent === window.expected && status.textContent.includes('in date')) {
    window.took = performance.now() - pressed
    pressed = 0
  }
}).observe(document.body, { subtree: true, childList: true, characterData: true })
"""


def children(script: str) -> list[int]:
    """Processes that run a script."""
    found = []
    for folder in Path("/proc").iterdir():
        if folder.name.isdigit():
            try:
                if script.encode() in (folder / "cmdline").read_bytes():
                    found.append(int(folder.name))
            except OSError:
                continue
    return found


def rss(pid: int) -> int:
    """Resident memory in kB."""
    lines = (Path("/proc") / str(pid) / "status").read_text().splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith("VmRSS"))


if __name__ == "__main__":
    folder = tempfile.mkdtemp(prefix="wattaxis-bench-")
    arguments = ["-q", "-s", "-p", "no:cacheprovider", f"--basetemp={folder}/base", "--rootdir", str(ROOT), str(Path(__file__))]
    sys.path[:0] = [str(ROOT / "tests" / "browser"), str(ROOT / "tests" / "support")]
    import conftest

    sys.exit(pytest.main(arguments, plugins=[conftest]))
