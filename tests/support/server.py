"""A real server process with a database of its own, for tests that kill it or crowd it."""

import atexit
import http.cookiejar
import json
import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from functools import cache
from pathlib import Path

from patience import PATIENCE

ROOT = Path(__file__).resolve().parents[2]


def manage(folder, *command):
    environment = {**os.environ, "WATTAXIS_VAR": str(folder)}
    done = subprocess.run([sys.executable, "web/manage.py", *command], cwd=ROOT, env=environment, capture_output=True, text=True, check=False)
    return done.returncode, done.stdout + done.stderr


@cache
def _made(script):
    folder = tempfile.mkdtemp(prefix="wattaxis-demo-")
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    for command in (("migrate", "--verbosity", "0"), ("load_demo",), *([("shell", "-c", script)] if script else [])):
        code, text = manage(folder, *command)
        assert code == 0, text
    return folder


def lay_out(folder, script=""):
    """The demo, and what a script does to it, in a folder; it is made once for all tests of a process."""
    shutil.copytree(_made(script), folder, dirs_exist_ok=True)


def report(line):
    """Add a line to the soak report, where one is asked for."""
    path = os.environ.get("WATTAXIS_REPORT")
    if path:
        with open(path, "a", encoding="utf-8") as stream:
            stream.write(f"- {line}.\n")


def free_port():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def children(pid):
    return [int(child) for child in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


class Redis:
    """A Redis of its own on the loopback, which writes nothing down."""

    def __init__(self, folder):
        port = free_port()
        self.address = f"redis://127.0.0.1:{port}/0"
        command = ["redis-server", "--port", str(port), "--bind", "127.0.0.1", "--save", "", "--appendonly", "no", "--dir", str(folder)]
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
        end = time.monotonic() + PATIENCE
        while time.monotonic() < end:
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", port)) == 0:
                    return
            time.sleep(0.05)
        raise AssertionError("Redis did not come up")

    def kill(self):
        self.process.kill()
        self.process.wait()


class Server:
    """A real server process with its own database, and a signed-in person."""

    def __init__(self, folder, **more):
        self.port, self.processes = free_port(), int(more.get("WATTAXIS_PROCESSES", 1))
        self.environment = {
            **os.environ,
            "WATTAXIS_VAR": str(folder),
            "WATTAXIS_PORT": str(self.port),
            "WATTAXIS_SOLVERS": "1",
            "WATTAXIS_RUN_SECONDS": str(PATIENCE),
            **more,
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
        other.port, other.process, other.processes = self.port, self.process, self.processes
        other.jar = http.cookiejar.CookieJar()
        other.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(other.jar))
        return other

    def megabytes(self):
        """Resident memory of the server process, or of all web processes that it has."""
        served = children(self.process.pid) if self.processes > 1 else [self.process.pid]
        sizes = (re.search(r"VmRSS:\s+(\d+)", Path(f"/proc/{pid}/status").read_text()) for pid in served)
        return sum(int(size.group(1)) for size in sizes) / 1024

    def kill(self):
        if self.process.poll() is not None:
            return
        served = children(self.process.pid) if self.processes > 1 else []
        for pid in (self.process.pid, *served):
            os.kill(pid, signal.SIGKILL)
        self.process.wait()

    def kill_solver(self):
        for child in children(self.process.pid):
            os.kill(child, signal.SIGKILL)

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


def open_page(server, path):
    """An event stream as a page holds it: a socket that only listens."""
    cookies = "; ".join(f"{c.name}={c.value}" for c in server.jar)
    page = socket.create_connection(("127.0.0.1", server.port), timeout=PATIENCE)
    page.sendall(f"GET {path}/events HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: {cookies}\r\n\r\n".encode())
    assert b"200 OK" in page.recv(4096)
    return page


def heard(page, text, seconds=PATIENCE):
    """Whether a page receives a text."""
    page.settimeout(0.5)
    seen, end = b"", time.monotonic() + seconds
    while text not in seen and time.monotonic() < end:
        try:
            seen += page.recv(1 << 16)
        except TimeoutError:
            continue
    return text in seen
