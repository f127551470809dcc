"""Asks the studies of the examples and writes their answers, which the demo shows as finished: after an example or a study in it has changed.

Usage: tools/demo_answers.py
"""

import gzip
import json
import time
from importlib.resources import files

from wattaxis import load
from wattaxis.studies import ask, question_keys

EXAMPLES = files("wattaxis.examples")


def main() -> None:
    """Write all answers into one file beside the examples."""
    answers: dict[str, dict[str, object]] = {}
    for path in sorted(EXAMPLES.iterdir(), key=lambda path: path.name):
        if not path.name.endswith(".json"):
            continue
        document = load(path.read_text(encoding="utf-8"))
        keys = question_keys(document)
        for study in document.studies:
            begun = time.monotonic()
            result = ask(document, study).to_data()
            name = path.name.removesuffix(".json")
            answers.setdefault(name, {})[study.name] = {"key": keys[study.name], "seconds": round(time.monotonic() - begun, 1), "result": result}
            print(f"{name}: {study.name}, {len(result['cases'])} cases")
    text = json.dumps(answers, separators=(",", ":")).encode()
    EXAMPLES.joinpath("answers.json.gz").write_bytes(gzip.compress(text, mtime=0))


if __name__ == "__main__":
    main()
