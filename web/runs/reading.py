"""Files that people send are read in processes of their own, one a file, with limits of time and memory."""

from __future__ import annotations

import json
import logging
import subprocess
import sys
import threading
from pathlib import Path
from typing import Any

from django.conf import settings

log = logging.getLogger("wattaxis.runs")
READER = Path(__file__).with_name("reader.py")


class Readers:
    """Starts a process for each file; the next one waits warm. So many files at once at most, others wait their turn for a while."""

    def __init__(self, at_once: int = 2) -> None:
        self._turns = threading.BoundedSemaphore(at_once)
        self._lock = threading.Lock()
        self._warm: subprocess.Popen[bytes] | None = None

    def read(self, content: bytes, **asked: Any) -> dict[str, Any]:
        """What the file says, or a text that says why it is not read."""
        if not self._turns.acquire(timeout=settings.READ_SECONDS):
            return {"text": "Other files are being read. Try again in a moment."}
        try:
            limits = {"megabytes": settings.READ_MEGABYTES, "seconds": max(1, int(settings.READ_SECONDS))}
            return self._answer(self._take(), json.dumps({"limits": limits, **asked}).encode() + b"\n" + content)
        finally:
            self._turns.release()

    def stop(self) -> None:
        """End the process that waits."""
        with self._lock:
            warm, self._warm = self._warm, None
        if warm is not None:
            warm.kill()
            warm.communicate()

    def _take(self) -> subprocess.Popen[bytes]:
        with self._lock:
            taken, self._warm = self._warm, self._launch()
        if taken is not None and taken.poll() is None:
            return taken
        return self._launch()

    @staticmethod
    def _launch() -> subprocess.Popen[bytes]:
        return subprocess.Popen([sys.executable, str(READER)], stdin=subprocess.PIPE, stdout=subprocess.PIPE)

    @staticmethod
    def _answer(process: subprocess.Popen[bytes], request: bytes) -> dict[str, Any]:
        try:
            # The start of a process counts too where none was warm.
            told, _ = process.communicate(request, timeout=settings.READ_SECONDS + settings.START_SECONDS)
        except subprocess.TimeoutExpired:
            process.kill()
            process.communicate()
            told = b""
        if process.returncode == 0 and told:
            answer: dict[str, Any] = json.loads(told)
            return answer
        log.warning("a file of %d bytes was given up", len(request))
        return {"text": f"Reading this file takes more than {settings.READ_SECONDS:g} s or more memory than a file may have; it was given up."}


readers = Readers()
