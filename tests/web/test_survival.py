"""What survives: an acknowledged edit, whatever is killed; a backup and its way back; a database of the first landed version."""

import http.cookiejar
import json
import os
import random
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
ROUNDS = int(os.environ.get("WATTAXIS_KILLS", "6"))


def manage(folder, *command):
    environment = {**os.environ, "WATTAXIS_VAR": str(folder)}
    done = subprocess.run([sys.executable, "web/manage.py", *command], cwd=ROOT, env=environment, capture_output=True, text=True, check=False)
    return done.returncode, done.stdout + done.stderr


class Server:
    """A real server process with its own database, and a signed-in person."""

    def __init__(self, folder):
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.environment = {**os.environ, "WATTAXIS_VAR": str(folder), "WATTAXIS_PORT": str(self.port), "WATTAXIS_SOLVERS": "1"}
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.process = None

    def start(self):
        started = time.monotonic()
        quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
        self.process = subprocess.Popen([sys.executable, "tools/serve.py"], cwd=ROOT, env=self.environment, **quiet)
        while time.monotonic() < started + 40:
            try:
                self.call("GET", "/healthz")
                return time.monotonic() - started
            except OSError:
                time.sleep(0.05)
        raise AssertionError("the server did not come back")

    def kill(self):
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def kill_solver(self):
        children = Path(f"/proc/{self.process.pid}/task/{self.process.pid}/children").read_text().split()
        for child in children:
            os.kill(int(child), signal.SIGKILL)

    def call(self, method, path, body=None):
        token = next((c.value for c in self.jar if c.name == "csrftoken"), "")
        headers = {"Content-Type": "application/json", "X-CSRFToken": token}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"http://127.0.0.1:{self.port}{path}", data, headers, method=method)
        with self.opener.open(request, timeout=20) as reply:
            text = reply.read()
        return json.loads(text) if text[:1] in b"[{" else text


@pytest.fixture
def folder(tmp_path):
    assert manage(tmp_path, "migrate", "--verbosity", "0")[0] == 0
    assert manage(tmp_path, "load_demo")[0] == 0
    return tmp_path


def test_killing_server_and_solver_at_random_moments_loses_no_acknowledged_edit(folder):
    rng = random.Random(3)
    server = Server(folder)
    server.start()
    server.call("GET", "/api/session")
    server.call("POST", "/api/session", {"username": "engineer", "password": "sandlark-bay"})
    variant = server.call("GET", "/api/projects")[0]["variants"][0]["id"]
    path = f"/api/variants/{variant}"
    acknowledged = server.call("GET", path)["revision"]
    value = 35.0
    for number in range(ROUNDS):
        stop = time.monotonic() + rng.uniform(0.05, 0.6)
        while time.monotonic() < stop:
            tried = round(rng.uniform(20, 60), 3)
            edit = {"kind": "set_values", "unit": "E-103", "values": {"outlet_temperature": {"value": tried, "unit": "degC"}}}
            acknowledged, value = server.call("POST", path + "/edits", {"base": acknowledged, "edit": edit})["revision"], tried
        if number % 2:
            server.kill_solver()
        else:
            server.kill()
            assert server.start() < 15
        state = server.call("GET", path)
        units = {u["tag"]: u["spec"] for u in state["document"]["units"]}
        assert state["revision"] == acknowledged
        assert units["E-103"]["outlet_temperature"]["value"] == value
        end = time.monotonic() + 20
        while (state["answer"] or {}).get("revision") != acknowledged and time.monotonic() < end:
            time.sleep(0.05)
            state = server.call("GET", path)
        assert state["answer"]["result"]["streams"]["S-07"]["temperature"] == pytest.approx(value + 273.15)
    server.kill()


def test_backup_of_a_running_database_and_restore(folder, tmp_path):
    copy = tmp_path / "copy.sqlite3"
    code, out = manage(folder, "backup", str(copy))
    assert (code, "checked" in out) == (0, True)
    assert manage(folder, "backup", str(copy))[0] == 1  # never overwrites
    assert manage(folder, "shell", "-c", "from projects.models import Project; Project.objects.all().delete()")[0] == 0
    assert "No project" in manage(folder, "shell", "-c", "from projects.models import *; print(Project.objects.first() or 'No project')")[1]
    assert manage(folder, "restore", str(copy))[0] == 0
    assert "Sandlark Bay" in manage(folder, "shell", "-c", "from projects.models import *; print(Project.objects.first())")[1]
    (tmp_path / "junk").write_text("no database")
    code, out = manage(folder, "restore", str(tmp_path / "junk"))
    assert (code, "no backup of Wattaxis" in out) == (1, True)
