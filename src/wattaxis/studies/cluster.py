"""Studies calculated by a cluster of processes (Dask distributed): one on this machine, or any that a scheduler's address leads to.

Parts go out a few at a time and come back in any order, with the same bits whoever calculates them. A process that dies in the middle of a part is
replaced and the part calculated again; what has come back is kept by whoever listens, so that nothing is lost and nothing is done twice.
"""

from __future__ import annotations

import faulthandler
import logging
import os
import threading
import time
import uuid
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from wattaxis.flowsheet.document import load_data
from wattaxis.progress import Stopped, listening
from wattaxis.studies.asking import asked_of, joined
from wattaxis.studies.cases import StudyError
from wattaxis.studies.result import StudyResult

#: Seconds between two looks at whether a study goes on, and between two words of how far a part has come.
EVERY = 0.5
#: Parts that are out at once, for each process.
AHEAD = 2
#: How often a part may end its process before it is given up, and seconds that closing may take.
DEATHS, CLOSING = 3, 10.0
#: Seconds that a single calculation may take before its process is ended.
HUNG = 120.0
#: How the cluster is set up; no pages of its own.
SETTINGS = {
    "distributed.scheduler.allowed-failures": DEATHS,
    "distributed.comm.timeouts.connect": CLOSING,
    "distributed.scheduler.http.routes": [],
    "distributed.worker.http.routes": [],
}


@dataclass(frozen=True)
class Plan:
    """How many parts a study has, and how many cases where that is known before."""

    parts: int
    cases: int | None


def plan_of(data: dict[str, Any], name: str) -> Plan | str:
    """What is to be calculated for a study of a document (JSON data), or the sentence that says why it cannot be asked."""
    try:
        with _watched():
            asked = asked_of(data, name)
            asked.check()
    except (StudyError, ValueError) as error:
        return str(error)
    return Plan(asked.parts, asked.cases)


@contextmanager
def _watched() -> Iterator[Callable[[], None]]:
    """Within it the process ends when nothing is heard for too long, whatever holds it up; what is given is called to be heard of."""

    def heard() -> None:
        faulthandler.dump_traceback_later(HUNG, exit=True)

    heard()
    try:
        yield heard
    finally:
        faulthandler.cancel_dump_traceback_later()


def part_of(data: dict[str, Any], name: str, number: int, run: str) -> dict[str, Any] | str:
    """A part of a study as JSON data, or the sentence that says why there is none; it ends early when the ``run`` is stopped."""
    from distributed import Event, get_worker

    stop, told = Event(f"stop {run}"), time.monotonic()

    def goes_on(share: float | None) -> bool:
        nonlocal told
        if time.monotonic() - told < EVERY:
            return True
        told = time.monotonic()
        heard()
        get_worker().log_event(run, {"part": number, "share": share})
        return not stop.is_set()

    try:
        with _watched() as heard, listening(goes_on):
            return asked_of(data, name).part(number).to_data()
    except (StudyError, ValueError) as error:
        return str(error)
    except Stopped:
        return "Stopped."


def joined_of(data: dict[str, Any], name: str, parts: list[dict[str, Any]]) -> dict[str, Any]:
    """The answer to a study from all its parts, as JSON data."""
    study = next(study for study in load_data(data).studies if study.name == name)
    return joined(study, [StudyResult.from_data(part) for part in parts]).to_data()


@dataclass
class Listener:
    """Who is told of a run, from threads of it: its plan, every part that is done, how far parts under way have come, the answer, and its end.

    ``kept`` gives the parts that are done in their order, those of earlier runs too. ``ended`` gets the sentence that says why the run failed, blank
    when the answer is there, None when it was stopped.
    """

    planned: Callable[[Plan], None]
    done: Callable[[int, dict[str, Any]], None]
    under_way: Callable[[int, float | None], None]
    kept: Callable[[], list[dict[str, Any]]]
    answered: Callable[[dict[str, Any]], None]
    ended: Callable[[str | None], None]


class StudyCluster:
    """The processes that calculate studies; they come up with the first one. ``address``: of a scheduler; blank for processes of our own, which
    stand behind others by their ``niceness`` and have so many ``megabytes`` each (0: all there are).

    >>> cluster = StudyCluster(workers=1)
    >>> cluster.close()
    """

    def __init__(self, address: str = "", workers: int = 2, megabytes: int = 1500, niceness: int = 0) -> None:
        self.address, self.workers, self.megabytes, self.niceness = address, workers, megabytes, niceness
        self._lock = threading.Lock()
        self._client: Any = None
        self._local: Any = None

    def client(self) -> Any:
        """The connection to the scheduler, made anew where the one before was lost. Raises OSError where it cannot be reached."""
        import dask
        from distributed import Client, LocalCluster, Security

        with self._lock:
            if self._client is not None and self._client.status == "running":
                return self._client
            dask.config.set(SETTINGS)
            if not self.address and self._local is None:
                self._local = LocalCluster(
                    n_workers=self.workers,
                    threads_per_worker=1,
                    memory_limit=f"{self.megabytes}MB" if self.megabytes else 0,
                    host="127.0.0.1",
                    protocol="tls",
                    # Whoever reaches a scheduler has it run whatever they like: certificates that only these processes know.
                    security=Security.temporary(),
                    # Its pages have no routes; a port for them it opens all the same.
                    dashboard_address="127.0.0.1:0",
                    silence_logs=logging.ERROR,
                )
            self._client = Client(self.address or self._local, timeout=CLOSING, set_as_default=False)
            if not self.address and self.niceness and hasattr(os, "nice"):
                self._client.run(os.nice, self.niceness)
            return self._client

    def begin(self, data: dict[str, Any], name: str, finished: Collection[int], listener: Listener) -> Run:
        """Calculate the parts of a study that are not ``finished``."""
        run = Run(self, data, name, finished, listener)
        run.start()
        return run

    def ask(self, data: dict[str, Any], name: str) -> StudyResult:
        """The answer to a study, waited for. Raises StudyError for one that cannot be asked, or where the processes were lost."""
        parts, answers, ends = dict[int, dict[str, Any]](), list[dict[str, Any]](), list[str | None]()
        listener = Listener(
            planned=lambda plan: None,
            done=parts.__setitem__,
            under_way=lambda part, share: None,
            kept=lambda: [parts[number] for number in sorted(parts)],
            answered=answers.append,
            ended=ends.append,
        )
        self.begin(data, name, (), listener).join()
        if not answers:
            raise StudyError(ends[0] or "Stopped.")
        return StudyResult.from_data(answers[0])

    def processes(self) -> list[int]:
        """The process numbers of those that calculate."""
        return list(self.client().run(os.getpid).values())

    def close(self) -> None:
        """End the processes, if they came up at all."""
        with self._lock:
            client, local, self._client, self._local = self._client, self._local, None, None
        for one in (client, local):
            if one is not None:
                one.close(timeout=CLOSING)


class Run(threading.Thread):
    """A study under way."""

    def __init__(self, cluster: StudyCluster, data: dict[str, Any], name: str, finished: Collection[int], listener: Listener) -> None:
        self.number = f"study {uuid.uuid4().hex}"
        super().__init__(name=self.number, daemon=True)
        self.cluster, self.data, self.study, self.finished, self.listener = cluster, data, name, set(finished), listener
        self._stopped = threading.Event()

    def stop(self) -> None:
        """End it soon; parts under way are given up."""
        self._stopped.set()

    @property
    def stopping(self) -> bool:
        """Whether it was told to end."""
        return self._stopped.is_set()

    def run(self) -> None:
        """Send parts out and hand on what comes back."""
        try:
            end = self._calculated()
        except Exception as error:  # whatever happens to the cluster, whoever listens is told
            end = f"The processes that calculate studies were lost: {error or type(error).__name__}"
            if type(error).__name__ == "KilledWorker":
                end = "A part of the study takes too long or too much memory: its process was ended again and again. Ask for less."
        self.listener.ended(None if self._stopped.is_set() else end)

    def _calculated(self) -> str:
        from distributed import Event

        client = self.cluster.client()
        client.subscribe_topic(self.number, lambda event: self.listener.under_way(event[1]["part"], event[1]["share"]))
        try:
            plan = self._waited(client.submit(plan_of, self.data, self.study, pure=False))
            if not isinstance(plan, Plan):
                return str(plan or "")
            self.listener.planned(plan)
            with client.as_current():
                failed = self._parts(client, [k for k in range(plan.parts) if k not in self.finished])
            if failed or self._stopped.is_set():
                return failed
            answer = self._waited(client.submit(joined_of, self.data, self.study, self.listener.kept(), pure=False))
            if answer is not None:
                self.listener.answered(answer)
            return ""
        finally:
            if self._stopped.is_set():
                Event(f"stop {self.number}", client=client).set()
            client.unsubscribe_topic(self.number)

    def _waited(self, future: Any) -> Any:
        while not self._stopped.is_set():
            if future.done():
                return future.result()
            time.sleep(EVERY / 10.0)
        future.cancel()
        return None

    def _parts(self, client: Any, wanted: list[int]) -> str:
        from distributed import wait

        out: dict[Any, int] = {}
        while (wanted or out) and not self._stopped.is_set():
            while wanted and len(out) < AHEAD * max(len(client.scheduler_info()["workers"]), 1):
                number = wanted.pop(0)
                out[client.submit(part_of, self.data, self.study, number, self.number, pure=False, priority=-number)] = number
            try:
                done = wait(list(out), timeout=EVERY, return_when="FIRST_COMPLETED").done
            except TimeoutError:
                continue
            for future in done:
                part = future.result()
                number = out.pop(future)
                if isinstance(part, str):
                    client.cancel(list(out))
                    return part
                self.listener.done(number, part)
        client.cancel(list(out))
        return ""
