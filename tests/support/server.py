"""A real server process with a database of its own, for tests that kill it or crowd it."""

import http.cookiejar
import json
import os
import re
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from patience import PATIENCE

ROOT = Path(__file__).resolve().parents[2]


def manage(folder, *command):
    environment = {**os.environ, "WATTAXIS_VAR": str(folder)}
    done = subprocess.run([sys.executable, "web/manage.py", *command], cwd=ROOT, env=environment, capture_output=True, text=True, check=False)
    return done.returncode, done.stdout + done.stderr


def report(line):
    """Add a line to the soak report, where one is asked for."""
    path = os.environ.get("WATTAXIS_REPORT")
    if path:
        with open(path, "a", encoding="utf-8") as stream:
            stream.write(f"- {line}.\n")


class Server:
    """A real server process with its own database, and a signed-in person."""

    def __init__(self, folder):
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.environment = {
            **os.environ,
            "WATTAXIS_VAR": str(folder),
            "WATTAXIS_PORT": str(self.port),
            "WATTAXIS_SOLVERS": "1",
            "WATTAXIS_RUN_SECONDS": str(PATIENCE),
        }
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.process = None

    def start(self):
        started = time.monotonic()
        quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
        self.process = subprocess.Popen([sys.executable, "tools/serve.py"], cwd=ROOT, env=self.environment, **quiet)
        while time.monotonic() < started + PATIENCE:
            try:
                self.call("GET", "/healthz")
                return time.monotonic() - started
            except OSError:
                time.sleep(0.05)
        raise AssertionError("the server did not come back")

    def sign_in(self, name="engineer", password="sandlark-bay"):
        self.call("GET", "/api/session")
        self.call("POST", "/api/session", {"username": name, "password": password})
        return self

    def beside(self):
        """Another person's client of the same running server."""
        other = Server.__new__(Server)
        other.port, other.process = self.port, self.process
        other.jar = http.cookiejar.CookieJar()
        other.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(other.jar))
        return other

    def megabytes(self):
        """Resident memory of the server process."""
        status = Path(f"/proc/{self.process.pid}/status").read_text()
        return int(re.search(r"VmRSS:\s+(\d+)", status).group(1)) / 1024

    def kill(self):
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def kill_solver(self):
        children = Path(f"/proc/{self.process.pid}/task/{self.process.pid}/children").read_text().split()
        for child in children:
            os.kill(int(child), signal.SIGKILL)

    def call(self, method, path, body=None, **more):
        token = next((c.value for c in self.jar if c.name == "csrftoken"), "")
        headers = {"Content-Type": "application/json", "X-CSRFToken": token, **more}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"http://127.0.0.1:{self.port}{path}", data, headers, method=method)
        with self.opener.open(request, timeout=PATIENCE) as reply:
            text = reply.read()
        return json.loads(text) if text[:1] in b"[{" else text

    def send_file(self, path, name, content):
        """Send a file, as a form does."""
        token = next((c.value for c in self.jar if c.name == "csrftoken"), "")
        edge = "wattaxis-edge"
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\nContent-Type: application/octet-stream\r\n\r\n'
        data = head.encode() + content + f"\r\n--{edge}--\r\n".encode()
        headers = {"Content-Type": f"multipart/form-data; boundary={edge}", "X-CSRFToken": token}
        request = urllib.request.Request(f"http://127.0.0.1:{self.port}{path}", data, headers, method="POST")
        with self.opener.open(request, timeout=PATIENCE) as reply:
            return json.loads(reply.read())
