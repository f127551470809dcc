"""A solver process: reads requests as JSON lines from standard input, writes answers as JSON lines to standard output.

Knows nothing of Django. A newer request for the same variant stops the calculation under way.
"""

from __future__ import annotations

import ctypes
import faulthandler
import json
import os
import resource
import select
import signal
import sys
import time
from collections import OrderedDict
from dataclasses import asdict
from typing import Any

#: Seconds between two messages of units that are done.
EVERY = 0.1


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
        """The next request, the newest of its variant; questions one by one. None when the server has gone."""
        while not (wanted := [r for r in self._waiting if "stop" not in r and "halt" not in r]):
            self._waiting = []  # what is to be stopped is done already
            if not self._read():
                return None
        first = wanted[0]
        if "job" in first:
            self._waiting.remove(first)
            return first
        self.peek()
        mine = [r for r in self._waiting if supersedes(r, first["variant"])]
        self._waiting = [r for r in self._waiting if r not in mine]
        return mine[-1]

    def unwanted(self, job: int) -> bool:
        """Whether someone has asked to stop a question."""
        return any(r.get("stop") == job for r in self.peek())

    def halted(self, variant: int, revision: int) -> bool:
        """Whether someone has asked to stop the calculation of a revision."""
        return any(r.get("halt") == revision and r["variant"] == variant for r in self.peek())

    def over(self, variant: int) -> None:
        """Forget what was said of calculations of a variant."""
        self._waiting = [r for r in self._waiting if not ("halt" in r and r["variant"] == variant)]

    def done(self, job: int) -> None:
        """Forget what was said of a question."""
        self._waiting = [r for r in self._waiting if r.get("stop") != job]

    def _read(self) -> bool:
        chunk = os.read(0, 1 << 16)
        if not chunk:
            return False
        *lines, self._buffer = (self._buffer + chunk).split(b"\n")
        self._waiting += [json.loads(line) for line in lines if line.strip()]
        return True


def supersedes(request: dict[str, Any], variant: int) -> bool:
    """Whether a request asks for newer results of a variant."""
    return request["variant"] == variant and "document" in request and "job" not in request


#: Where answers go. What a library prints goes to standard error: a line of it among the answers would be none.
ANSWERS = os.fdopen(os.dup(1), "w")


def answer(**message: Any) -> None:
    """One line to the server."""
    ANSWERS.write(json.dumps(message) + "\n")
    ANSWERS.flush()


def without_profiles(unit: dict[str, Any]) -> tuple[dict[str, Any], Any]:
    """A unit's result with the keys of its profiles in their place, and the profiles, which are sent where they are looked at."""
    return {**unit, "profiles": [profile["key"] for profile in unit["profiles"]]}, unit["profiles"]


class Told:
    """Sends units on as they are calculated: all that came in since the last time, a few times a second at most."""

    def __init__(self, variant: int, revision: int) -> None:
        self.variant, self.revision = variant, revision
        self.waiting: dict[str, Any] = {}
        self.streams: set[str] = set()
        self.last = time.perf_counter()

    def unit(self, state: Any, result: Any) -> None:
        """One more unit."""
        self.waiting[state.tag] = without_profiles(asdict(state))[0]
        if time.perf_counter() - self.last < EVERY:
            return
        new = {tag: asdict(stream) for tag, stream in result.streams.items() if tag not in self.streams}
        answer(kind="partial", variant=self.variant, revision=self.revision, units=self.waiting, streams=new)
        self.streams |= new.keys()
        self.waiting = {}
        self.last = time.perf_counter()


class Share:
    """Tells how far a question has come, a few times a second at most, and whether it is still wanted."""

    def __init__(self, request: dict[str, Any], requests: Requests) -> None:
        self.request, self.requests = request, requests
        self.last = time.perf_counter()

    def __call__(self, share: float | None) -> bool:
        """Called by the work under way."""
        if time.perf_counter() - self.last < EVERY:
            return True
        self.last = time.perf_counter()
        if share is not None and self.request.get("token"):
            answer(kind="partial", variant=self.request["variant"], token=self.request["token"], share=share)
        return not self.requests.unwanted(self.request["job"])


def question(request: dict[str, Any]) -> dict[str, Any]:
    """The answer to a question about a chemistry, a plant or several variants, or why there is none."""
    from wattaxis.flowsheet import Chemistry
    from wattaxis.flowsheet.diagram_questions import QuestionError, draw, question_from_json
    from wattaxis.flowsheet.document import load_data
    from wattaxis.flowsheet.estimates import estimate_pairs
    from wattaxis.flowsheet.fitting import fit_question_from_json, run_fit
    from wattaxis.flowsheet.generated import generate, generated_question_from_json
    from wattaxis.progress import Stopped
    from wattaxis.questions import (
        Apart,
        CompressionQuestion,
        ReactionQuestion,
        assumption_influence,
        calculate_apart,
        compare,
        lay_out_compression,
        look_at_reaction,
        pair_influence,
        propose_free,
    )
    from wattaxis.studies import local_effects

    try:
        if "documents" in request:
            return {"comparison": compare([load_data(document) for document in request["documents"]]).to_data()}
        if "compression" in request:
            wanted = CompressionQuestion.model_validate(request["compression"])
            return {"layout": asdict(lay_out_compression(load_data(request["document"]), wanted))}
        if "apart" in request:
            apart = Apart(load_data(request["apart"]), tuple(request["places"]))
            return {"cases": [case.to_data() for case in calculate_apart(apart)]}
        if "formula" in request:
            return {"aims": propose_free(load_data(request["document"]), request["formula"]).to_data()}
        if "influence" in request:
            document = load_data(request["document"])
            moved = pair_influence(document) if request["influence"] == "pairs" else assumption_influence(document)
            return {"influences": [i.to_data() for i in moved]}
        if "effects" in request:
            wanted = request["effects"]
            return {"effects": local_effects(load_data(request["document"]), wanted["formula"], frozenset(wanted["units"])).to_data()}
        chemistry = Chemistry.model_validate(request["chemistry"])
        if "estimate" in request:
            return asdict(estimate_pairs(chemistry, alike=request["estimate"]))
        if "reaction" in request:
            return {"look": look_at_reaction(chemistry, ReactionQuestion.model_validate(request["reaction"])).to_data()}
        if "generated" in request:
            return {"generated": generate(chemistry, generated_question_from_json(request["generated"])).model_dump(mode="json")}
        if "fit" in request:
            return {"fit": run_fit(chemistry, fit_question_from_json(request["fit"]))}
        return {"diagram": draw(chemistry, question_from_json(request["question"])).to_data()}
    except (QuestionError, ValueError) as error:
        return {"text": str(error)}
    except Stopped:
        return {"text": "Stopped."}
    except MemoryError:
        return {"text": "The answer needed more memory than it may have."}


def end_with(server: int) -> None:
    """Have the kernel end this process with the server that started it: the next one needs the cores. Elsewhere than on Linux a calculation
    under way is finished first."""
    if sys.platform == "linux":
        set_parent_death_signal = 1  # PR_SET_PDEATHSIG of linux/prctl.h
        ctypes.CDLL(None).prctl(set_parent_death_signal, signal.SIGKILL)
        if os.getppid() != server:
            sys.exit()


def main() -> None:
    """Serve until standard input closes."""
    end_with(int(sys.argv[3]))
    os.dup2(2, 1)
    faulthandler.register(signal.SIGUSR1)
    for name in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS"):  # one core a process: the same bits everywhere, and no threads to wait for each other
        os.environ[name] = "1"
    megabytes = int(sys.argv[1])
    os.nice(int(sys.argv[2]))
    resource.setrlimit(resource.RLIMIT_DATA, (megabytes << 20, megabytes << 20))
    from wattaxis.flowsheet.document import load_data
    from wattaxis.progress import listening
    from wattaxis.solving import Memory, solve

    memories: OrderedDict[int, Memory] = OrderedDict()
    requests = Requests()
    _ = __import__("wattaxis.properties.model")  # the kernels are ready before the first question
    answer(kind="ready")
    while (request := requests.take()) is not None:
        variant = request["variant"]
        answer(kind="begun", **{name: request[name] for name in ("variant", "revision", "job") if name in request})
        if "job" in request:
            told = {"kind": "answer", "variant": variant, "job": request["job"]}
            if requests.unwanted(request["job"]):
                answer(**told, text="Stopped.")
            else:
                with listening(Share(request, requests)):
                    answer(**told, **question(request))
            requests.done(request["job"])
            continue
        memory = memories.setdefault(variant, Memory())
        memories.move_to_end(variant)
        while len(memories) > 20:
            memories.popitem(last=False)
        started = time.perf_counter()
        revision = request["revision"]
        progress = Told(variant, revision)

        def unless_superseded(*unit: Any, variant: int = variant, progress: Told = progress) -> bool:
            if unit:
                progress.unit(*unit)
            return not any(supersedes(r, variant) for r in requests.peek()) and not requests.halted(variant, progress.revision)

        try:
            result = solve(load_data(request["document"]), memory=memory, progress=unless_superseded)
        except MemoryError:
            memories.clear()
            answer(kind="failed", variant=variant, revision=revision, text="The calculation needed more memory than it may have.")
            continue
        halted = requests.halted(variant, revision)
        if halted or unless_superseded():
            seconds = time.perf_counter() - started
            data = result.to_data()
            parted = {tag: without_profiles(unit) for tag, unit in data["units"].items()}
            data["units"] = {tag: unit for tag, (unit, _) in parted.items()}
            profiles = {tag: found for tag, (_, found) in parted.items() if found}
            kind = "stopped" if halted else "result"
            answer(kind=kind, variant=variant, revision=revision, seconds=seconds, result=data, profiles=profiles)
        requests.over(variant)


if __name__ == "__main__":
    main()
