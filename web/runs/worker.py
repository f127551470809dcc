"""A solver process: reads requests as JSON lines from standard input, writes answers as JSON lines to standard output.

Knows nothing of Django. A newer request for the same variant stops the calculation under way.
"""

from __future__ import annotations

import json
import os
import resource
import select
import sys
import time
from collections import OrderedDict
from typing import Any


class Requests:
    """Lines from standard input, with a look ahead that does not wait."""

    def __init__(self) -> None:
        self._buffer = b""
        self._waiting: list[dict[str, Any]] = []

    def peek(self) -> list[dict[str, Any]]:
        """Requests that have arrived but are not taken yet."""
        while select.select([0], [], [], 0)[0]:
            if not self._read():
                break
        return self._waiting

    def take(self) -> dict[str, Any] | None:
        """The next request, the newest of its variant; None when the server has gone."""
        while not self._waiting:
            if not self._read():
                return None
        first = self._waiting[0]["variant"]
        mine = [r for r in self.peek() if r["variant"] == first]
        self._waiting = [r for r in self._waiting if r["variant"] != first]
        return mine[-1]

    def _read(self) -> bool:
        chunk = os.read(0, 1 << 16)
        if not chunk:
            return False
        *lines, self._buffer = (self._buffer + chunk).split(b"\n")
        self._waiting += [json.loads(line) for line in lines if line.strip()]
        return True


def answer(**message: Any) -> None:
    """One line to the server."""
    sys.stdout.write(json.dumps(message) + "\n")
    sys.stdout.flush()


def main() -> None:
    """Serve until standard input closes."""
    megabytes = int(sys.argv[1])
    resource.setrlimit(resource.RLIMIT_DATA, (megabytes << 20, megabytes << 20))
    from wattaxis.flowsheet.document import load_data
    from wattaxis.solving import Memory, solve

    memories: OrderedDict[int, Memory] = OrderedDict()
    requests = Requests()
    _ = __import__("wattaxis.properties.model")  # the kernels are ready before the first question
    answer(kind="ready")
    while (request := requests.take()) is not None:
        variant = request["variant"]
        memory = memories.setdefault(variant, Memory())
        memories.move_to_end(variant)
        while len(memories) > 20:
            memories.popitem(last=False)
        started = time.perf_counter()

        def unless_superseded(*_: Any, variant: int = variant) -> bool:
            return all(r["variant"] != variant for r in requests.peek())

        try:
            result = solve(load_data(request["document"]), memory=memory, progress=unless_superseded)
        except MemoryError:
            memories.clear()
            answer(kind="failed", variant=variant, revision=request["revision"], text="The calculation needed more memory than it may have.")
            continue
        if unless_superseded():
            seconds = time.perf_counter() - started
            answer(kind="result", variant=variant, revision=request["revision"], seconds=seconds, result=result.to_data())


if __name__ == "__main__":
    main()
