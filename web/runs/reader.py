"""A process that reads one file which somebody has sent, and ends: whatever the file does to it, the server goes on.

Knows nothing of Django. One JSON line and the bytes of the file on standard input, one JSON line on standard output.
"""

from __future__ import annotations

import json
import os
import resource
import sys
from typing import Any


def limited(megabytes: int, seconds: int) -> None:
    """So much memory and time of a processor at most, what is spent already left out."""
    spent = int(resource.getrusage(resource.RUSAGE_SELF).ru_utime)
    resource.setrlimit(resource.RLIMIT_DATA, (megabytes << 20, megabytes << 20))
    resource.setrlimit(resource.RLIMIT_CPU, (spent + seconds, spent + seconds + 1))


def read(asked: dict[str, Any], content: bytes) -> dict[str, Any]:
    """What a file says, as plain data: a flowsheet document, the composition of a feed, or measured data."""
    from wattaxis.exchange import data_from_table, data_from_thermoml, feed_from_table, read_table
    from wattaxis.flowsheet.data_checks import data_doubts
    from wattaxis.flowsheet.document import load, load_data, to_data

    if asked["kind"] == "document":
        document = load(content)
        return {"document": to_data(document), "title": document.title}
    plant = load_data(asked["document"])
    if asked["kind"] == "feed":
        found = feed_from_table(read_table(content), plant)
        return {"composition": found.composition.model_dump(mode="json"), "left_out": found.left_out[:20]}
    if content.lstrip(b"\xef\xbb\xbf \r\n\t")[:1] == b"<":
        sets, left_out = data_from_thermoml(content, plant.chemistry.components)
    else:
        table = data_from_table(read_table(content), asked["data_kind"], asked["components"], asked["name"])
        sets, left_out = [table.data], table.left_out
    doubts = [f"{part.name}: {text}" for part in sets for text in data_doubts(plant.chemistry, part)]
    return {"data": [part.model_dump(mode="json") for part in sets], "left_out": left_out[:20], "doubts": doubts[:20]}


def main() -> None:
    """Wait for the file, warm, and read it."""
    for module in ("wattaxis.exchange", "wattaxis.flowsheet.data_checks", "openpyxl"):
        __import__(module)
    read({"kind": "document"}, b'{"format": "wattaxis-flowsheet", "version": 8, "title": "warm"}')
    line = sys.stdin.buffer.readline()
    if not line:
        return  # the server has gone
    asked = json.loads(line)
    limited(**asked["limits"])
    os.nice(10)  # who edits goes first
    try:
        answer = read(asked, sys.stdin.buffer.read())
    except ValueError as error:
        answer = {"text": str(error)}
    except (MemoryError, RecursionError):
        answer = {"text": "Reading this file needs more memory than a file may have."}
    sys.stdout.write(json.dumps(answer))


if __name__ == "__main__":
    main()
