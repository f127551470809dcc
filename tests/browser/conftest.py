"""The built front end on a real server with real solving, driven in headless Chromium at 1280 x 800."""

from __future__ import annotations

import os
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import pytest
from page import Page, browser
from patience import PATIENCE
from server import free_port, lay_out

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture(scope="session")
def server_folder(tmp_path_factory):
    """Where the server keeps its database and the mail it would have sent."""
    return tmp_path_factory.mktemp("server")


@pytest.fixture(scope="session")
def server(server_folder):
    """Address of a server with a database of its own and the demo data; its log must hold no traceback at the end."""
    folder = server_folder
    port = free_port()
    environment = {**os.environ, "WATTAXIS_VAR": str(folder), "WATTAXIS_PORT": str(port), "WATTAXIS_RUN_SECONDS": str(PATIENCE)}
    lay_out(folder)
    log = (folder / "log").open("w+")
    process = subprocess.Popen([sys.executable, "tools/serve.py"], cwd=ROOT, env=environment, stdout=log, stderr=subprocess.STDOUT)
    address = f"http://127.0.0.1:{port}"
    for _ in range(2000):
        try:
            urllib.request.urlopen(address + "/healthz", timeout=PATIENCE).read()
            break
        except OSError:
            time.sleep(0.1)
    yield address
    process.terminate()
    process.wait(timeout=PATIENCE)
    log.seek(0)
    text = log.read()
    assert "Traceback" not in text, text[-3000:]
    assert "Internal Server Error" not in text, text[-3000:]


@pytest.fixture(scope="session")
def driver():
    chrome = browser()
    yield chrome
    chrome.quit()


@pytest.fixture
def page(driver, server):
    driver.execute_cdp_cmd("Network.clearBrowserCookies", {})  # whatever page is open
    one = Page(driver, server)
    one.size()
    yield one
    driver.get("about:blank")  # what the page still wants to ask must not come without its sign-in
    errors = [entry["message"] for entry in driver.get_log("browser") if entry["level"] == "SEVERE"]
    unexpected = [m for m in errors if not any(code in m for code in ("422", "409", "401", "404 (Not Found)"))]
    assert not unexpected, unexpected


@pytest.fixture
def other(server):
    """A second browser of another person."""
    chrome = browser()
    second = Page(chrome, server)
    second.size()
    yield second
    chrome.quit()
