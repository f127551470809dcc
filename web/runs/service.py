"""Supervised solver processes outside the web server, and the events they cause.

Every variant sticks to one process, so that its memory of earlier results stays warm. A newer request for a variant supersedes the older
one. Questions have processes of their own, so that no live result waits for them, and everybody so many at once at most. A process that hangs
beyond its time limit or dies is replaced, and the page is told what happened.
"""

from __future__ import annotations

import itertools
import json
import logging
import os
import queue
import signal
import subprocess
import sys
import threading
import time
from concurrent.futures import Future
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings
from runs.broker import broker
from runs.events import Broadcaster, Event
from runs.results import Results

log = logging.getLogger("wattaxis.runs")
WORKER = Path(__file__).with_name("worker.py")
#: Seconds after which a result that another process should calculate is not waited for any longer, beside those that it may take.
LATE = 10.0


#: What a request is known by: results by their variant, questions by their number.
Key = tuple[str, int]


def _key(message: dict[str, Any]) -> Key:
    return ("job", message["job"]) if "job" in message else ("variant", message["variant"])


class Solver(threading.Thread):
    """One solver process with the thread that watches it. Requests and answers come by one inbox; what the process is told goes out by a thread
    of its own, since a process that does not read would hold up whoever writes to it.

    The process says when it is ready and which request it begins. The one under way is held to the time limit of a calculation; a process that
    does not come up is replaced after the time limit of a start, one that is up and leaves a request lying after a shorter one.
    """

    def __init__(self, service: SolverService, number: int) -> None:
        super().__init__(name=f"solver-{number}", daemon=True)
        self.service = service
        #: Results go before questions where both want the same core, and those before studies.
        self.niceness = 0 if number < settings.SOLVERS else 5 if number < settings.SOLVERS + settings.ANSWERERS else 10
        self.inbox: queue.Queue[tuple[str, Any]] = queue.Queue()
        self.process: subprocess.Popen[str] | None = None
        self.waiting: dict[Key, dict[str, Any]] = {}
        self.running: Key | None = None
        self.ready = False
        self.outbox: queue.SimpleQueue[str | None] = queue.SimpleQueue()
        self.since = time.monotonic()

    def run(self) -> None:
        """Feed requests, pass answers on, keep the time limits, replace the process when it fails."""
        self._launch()
        while True:
            try:
                what, message = self.inbox.get(timeout=0.2 if self.waiting else 1.0)
            except queue.Empty:
                what, message = "nothing", None
            if what == "stop":
                break
            if what == "request":
                self._request(message)
            elif what == "pass on":
                self._send(message)
            elif what == "told":
                self._told(*message)
            if self._late() or (self.process is not None and self.process.poll() is not None):
                self._replace()
        if self.process is not None:
            self.process.kill()
            self.process.wait()

    def _request(self, request: dict[str, Any]) -> None:
        if not self.waiting:
            self.since = time.monotonic()
        self._send(request)
        self.waiting[_key(request)] = request

    def _told(self, message: dict[str, Any], size: int) -> None:
        self.since = time.monotonic()
        if message["kind"] == "ready":
            self.ready = True
            return
        if message["kind"] == "begun":
            self.running = _key(message)
            return
        self.running = None
        pending = self.waiting.get(_key(message))
        if pending is not None and pending.get("revision") == message.get("revision"):
            del self.waiting[_key(message)]
        self.service.finished(message, size)

    def _late(self) -> bool:
        limit = settings.RUN_SECONDS if self.running is not None else settings.BEGIN_SECONDS if self.ready else settings.START_SECONDS
        return bool(self.waiting) and time.monotonic() - self.since > limit

    def _launch(self) -> None:
        command = [sys.executable, str(WORKER), str(settings.RUN_MEGABYTES), str(self.niceness), str(os.getpid())]
        self.process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, bufsize=1)
        self.running, self.ready, self.since = None, False, time.monotonic()
        self.outbox.put(None)  # whoever still writes to the process before
        self.outbox = queue.SimpleQueue()
        threading.Thread(target=self._read, args=(self.process,), daemon=True).start()
        threading.Thread(target=self._write, args=(self.process, self.outbox), daemon=True).start()

    def _read(self, process: subprocess.Popen[str]) -> None:
        assert process.stdout is not None
        for line in process.stdout:
            told = json.loads(line)
            if told["kind"] == "partial":
                self.service.under_way(told)
                if "token" in told and process is self.process:
                    self.since = time.monotonic()  # a question says that it goes on; how long it may take in all is its own limit
            elif process is self.process:
                self.inbox.put(("told", (told, len(line))))

    def _write(self, process: subprocess.Popen[str], outbox: queue.SimpleQueue[str | None]) -> None:
        assert process.stdin is not None
        try:
            while (line := outbox.get()) is not None:
                process.stdin.write(line)
                process.stdin.flush()
        except OSError:
            log.warning("%s is gone before a request", self.name)

    def _send(self, request: dict[str, Any]) -> None:
        self.outbox.put(json.dumps(request) + "\n")

    def _replace(self) -> None:
        """A new process. What ran too long is told as failed; what only waited behind it, or met a death, is tried once more."""
        assert self.process is not None
        late = self.running if self._late() else None
        died = "The solver process died and was replaced."
        hung = f"The calculation took longer than {settings.RUN_SECONDS:g} s and was ended."
        if late:
            log.warning("%s: %s", self.name, hung)
            self.process.send_signal(signal.SIGUSR1)  # it says on standard error where it was
            time.sleep(0.1)
        else:
            log.warning("%s: %s", self.name, died if self.process.poll() is not None else "The solver process did not answer and was replaced.")
        self.process.kill()
        self.process.wait()
        self._launch()
        for key, request in list(self.waiting.items()):
            if key != late and not request.get("again"):
                self.waiting[key] = {**request, "again": True}
                self._send(self.waiting[key])
                continue
            del self.waiting[key]
            named: dict[str, Any] = {name: request[name] for name in ("variant", "revision", "job") if name in request}
            self.service.finished({"kind": "failed", **named, "text": hung if key == late else died}, 0)


@dataclass(frozen=True)
class Asker:
    """Who asks questions, and how many may be under way at once."""

    name: str
    most: int


class SolverService:
    """All solver processes of this server, and the newest result of each variant."""

    def __init__(self) -> None:
        self.events = Broadcaster()
        self._solvers: list[Solver] = []
        self._lock = threading.Lock()
        self.results = Results()
        self._asked: dict[int, int] = {}
        #: What another process calculates, by variant: which one, and since when.
        self._elsewhere: dict[int, tuple[str, float]] = {}
        self._jobs = itertools.count(1)
        self._answers: dict[int, Future[dict[str, Any]]] = {}
        #: Who asked each question under way, and by variant, token and person: its number and its process.
        self._askers: dict[int, str] = {}
        self._tokens: dict[tuple[int, str, str], tuple[int, Solver]] = {}
        #: The questions of each process in the order in which they are answered: number, variant, token.
        self._lines: dict[int, list[tuple[int, int, str]]] = {}

    def start(self) -> None:
        """Launch the processes; they warm up in the background."""
        with self._lock:
            if not self._solvers:
                self._solvers = [Solver(self, k) for k in range(settings.SOLVERS + settings.ANSWERERS)]
                for solver in self._solvers:
                    solver.start()

    def stop(self) -> None:
        """End the processes."""
        with self._lock:
            solvers, self._solvers = self._solvers, []
        for solver in solvers:
            solver.inbox.put(("stop", None))
        for solver in solvers:
            solver.join(timeout=3)

    def live(self, variant: int) -> Solver:
        """The process of the results of a variant."""
        return self._solvers[variant % settings.SOLVERS]

    def request(self, variant: int, revision: int, document: dict[str, Any]) -> None:
        """Ask for the results of a revision and tell the pages; nothing where the same or a newer one is there or asked for."""
        if self.begin(variant, revision, document):
            self.events.publish(variant, Event({"kind": "solving", "revision": revision}))

    def begin(self, variant: int, revision: int, document: dict[str, Any]) -> bool:
        """Ask for the results of a revision, of the process that this variant belongs to; whether nobody had."""
        self.start()
        known = self.newest(variant)
        if known is not None and known.data["revision"] >= revision:
            return False
        home = broker.home(f"variant:{variant}")
        with self._lock:
            if self._asked.get(variant, 0) >= revision and not self._lost(variant, home):
                return False
            self._asked[variant] = revision
            self._elsewhere.pop(variant, None)
            if home != broker.here:
                self._elsewhere[variant] = home, time.monotonic()
            solver = self.live(variant)
        if home == broker.here:
            solver.inbox.put(("request", {"variant": variant, "revision": revision, "document": document}))
        else:
            broker.tell(what="calculate", home=home, variant=variant, revision=revision)
        return True

    def _lost(self, variant: int, home: str) -> bool:
        """Whether the process that should calculate a variant is no longer its home, or says nothing."""
        where, since = self._elsewhere.get(variant, (home, time.monotonic()))
        return where != home or time.monotonic() - since > settings.RUN_SECONDS + LATE

    def lost(self) -> list[int]:
        """Variants whose results nobody calculates any more."""
        with self._lock:
            waiting = list(self._elsewhere.items())
        return [variant for variant, (where, _) in waiting if self._lost(variant, where if broker.alive(where) else broker.here)]

    def ask(self, variant: int, who: Asker, token: str = "", **question: Any) -> dict[str, Any]:
        """Put a question and wait for its answer; a text in it says why there is none. By its ``token`` the page is told how far it has come."""
        self.start()
        answered: Future[dict[str, Any]] = Future()
        with self._lock:
            if sum(asker == who.name for asker in self._askers.values()) >= who.most:
                return {"text": f"{who.most} questions of yours are being answered. Wait for one of them, or stop it."}
            if len(self._askers) >= settings.QUESTIONS:
                return {"text": "Many people are asking at present. Try again in a minute."}
            job = next(self._jobs)
            self._answers[job], self._askers[job] = answered, who.name
            place = self._place(job, "effects" in question)
            solver = self._solvers[place]
            if token:
                self._tokens[variant, token, who.name] = (job, solver)
            self._lines.setdefault(place, []).append((job, variant, token))
        solver.inbox.put(("request", {"variant": variant, "job": job, "token": token, **question}))
        self._tell_who_waits(place)
        try:
            return answered.result(timeout=settings.ANSWER_SECONDS)
        except TimeoutError:
            solver.inbox.put(("pass on", {"variant": variant, "stop": job}))
            minutes = settings.ANSWER_SECONDS / 60.0
            return {"text": f"After {minutes:.2g} minutes there was no answer, and the question was given up. Ask for less, or at a quieter time."}
        finally:
            self._answers.pop(job, None)
            self._askers.pop(job, None)
            self._tokens.pop((variant, token, who.name), None)
            with self._lock:
                self._lines[place].remove((job, variant, token))
            self._tell_who_waits(place)

    def _place(self, job: int, long: bool) -> int:
        """Which process answers: what matters most takes long and has one of its own, which comes up with the first who asks that."""
        if not long:
            return settings.SOLVERS + job % settings.ANSWERERS
        place = settings.SOLVERS + settings.ANSWERERS
        if len(self._solvers) == place:
            self._solvers.append(Solver(self, place))
            self._solvers[place].start()
        return place

    def _tell_who_waits(self, place: int) -> None:
        """Tell the pages of questions that wait how many are before them."""
        with self._lock:
            line = list(self._lines.get(place, ()))
        for ahead, (_, variant, token) in enumerate(line):
            if ahead and token:
                self.events.publish(variant, Event({"kind": "partial", "token": token, "share": {"ahead": ahead}}))

    def stop_question(self, variant: int, who: Asker, token: str) -> bool:
        """End a person's own question by its token; false when it is answered already, or by another process."""
        found = self.stop_question_here(variant, who.name, token)
        if not found:
            broker.tell(what="question", variant=variant, who=who.name, token=token)
        return found

    def stop_question_here(self, variant: int, who: str, token: str) -> bool:
        """One that this process answers."""
        job, solver = self._tokens.get((variant, token, who), (0, None))
        if solver is not None:
            solver.inbox.put(("pass on", {"variant": variant, "stop": job}))
        return solver is not None

    def halt(self, variant: int) -> bool:
        """End the calculation of a variant, wherever it is: what is calculated is kept and told. False when none is under way."""
        with self._lock:
            elsewhere = variant in self._elsewhere
        if elsewhere:
            broker.tell(what="halt", variant=variant)
        return elsewhere or self.halt_here(variant)

    def halt_here(self, variant: int) -> bool:
        """One that this process calculates."""
        with self._lock:
            asked, known = self._asked.get(variant, 0), self.results.get(variant)
            if variant in self._elsewhere or not self._solvers or not asked or (known is not None and known.data["revision"] >= asked):
                return False
            solver = self.live(variant)
        solver.inbox.put(("pass on", {"variant": variant, "halt": asked}))
        return True

    def newest(self, variant: int) -> Event | None:
        """The newest answer for a variant as pages are told of it, whichever process calculated it."""
        return self.results.get(variant) or self._fetched(variant)

    def latest(self, variant: int) -> dict[str, Any] | None:
        """The newest answer for a variant: kind "result", "stopped" (of what was calculated till then) or "failed", with its revision."""
        found = self.newest(variant)
        return found.data if found else None

    def profiles(self, variant: int, unit: str) -> tuple[int, list[dict[str, Any]]]:
        """The tables of results of a unit in the newest answer, and its revision; 0 where there is none yet."""
        self.newest(variant)
        return self.results.profiles(variant, unit)

    def _fetched(self, variant: int) -> Event | None:
        """What another process calculated, kept here too."""
        found = broker.kept(f"result:{variant}")
        return None if found is None else self._keep(*found)

    def _keep(self, answer: dict[str, Any], profiles: dict[str, Any], size: int) -> Event:
        event, gone = self.results.put(answer, profiles, size)
        with self._lock:
            for variant in gone:
                self._asked.pop(variant, None)  # whoever opens it again has it calculated again
        return event

    def result_elsewhere(self, variant: int) -> None:
        """Another process has an answer: the pages of this one are told, and where there are none it is fetched when somebody asks."""
        with self._lock:
            self._elsewhere.pop(variant, None)
        event = self._fetched(variant) if variant in self.events.shown() else None
        if event is not None:
            self.events.here(variant, event)
            return
        self.results.forget(variant)
        with self._lock:
            self._asked.pop(variant, None)

    def calculate_for_others(self, variant: int, revision: int, document: dict[str, Any]) -> None:
        """What another process asks this one for: an answer that is there is told once more."""
        known = self.results.whole(variant)
        if known is not None and known[0]["revision"] >= revision:
            self._share(variant, known)
        else:
            self.begin(variant, revision, document)

    def _share(self, variant: int, whole: tuple[dict[str, Any], dict[str, Any], int]) -> None:
        broker.keep(f"result:{variant}", whole)
        broker.tell(what="result", variant=variant)

    def finished(self, answer: dict[str, Any], size: int) -> None:
        """Keep a result and tell the pages; hand an answer to whoever asked."""
        if "job" in answer:
            waits = self._answers.get(answer["job"])
            if waits is not None:
                waits.set_result(answer)
            return
        profiles = answer.pop("profiles", {})
        self.events.here(answer["variant"], self._keep(answer, profiles, size))
        self._share(answer["variant"], (answer, profiles, size))

    def under_way(self, told: dict[str, Any]) -> None:
        """Tell the pages how far something has come. Units that are as they were in the newest answer go by their tags."""
        newest = self.latest(told["variant"])
        if "units" in told and newest is not None and newest.get("result"):
            before = newest["result"]
            same = [tag for tag, unit in told["units"].items() if before["units"].get(tag) == unit]
            units = {tag: unit for tag, unit in told["units"].items() if before["units"].get(tag) != unit}
            streams = {tag: stream for tag, stream in told["streams"].items() if before["streams"].get(tag) != stream}
            told = {**told, "units": units, "streams": streams, "same": same, "since": newest["revision"]}
        self.events.publish(told["variant"], Event(told))

    def forget(self, variant: int) -> None:
        """Drop what is kept of a variant, so that the next request calculates again."""
        self.forget_here(variant)
        broker.drop(f"result:{variant}")
        broker.tell(what="forget", variant=variant)

    def forget_here(self, variant: int) -> None:
        """Drop what this process keeps of it."""
        self.results.forget(variant)
        with self._lock:
            self._asked.pop(variant, None)


service = SolverService()
