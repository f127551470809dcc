"""Studies under way: calculated by the cluster, their parts kept in the database as they come, told to the pages, gone on with after a restart."""

from __future__ import annotations

import logging
import threading
import time
from typing import Any

from django.conf import settings
from django.db import DatabaseError, IntegrityError, connection, transaction
from projects.models import StudyAnswer, StudyPart
from projects.service import revision_of
from runs.broker import broker
from runs.events import Event
from runs.service import service

from wattaxis.studies.cluster import Listener, Plan, Run, StudyCluster

log = logging.getLogger("wattaxis.runs")
State = StudyAnswer.State
#: Answers of a study that are kept.
KEPT = 10
#: Seconds that the end of a run may take.
ENDING = 30.0


class _Kept(Listener):
    """Keeps what comes of a study in the database and tells the pages. Called from threads of the run."""

    def __init__(self, runs: StudyRuns, answer: StudyAnswer) -> None:
        super().__init__(self._planned, self._done, self._under_way, self._parts, self._answered, self._ended)
        self.runs, self.id, self.variant, self.name = runs, answer.id, answer.variant_id, answer.name
        self.total, self.cases, self.failed, self.before = answer.planned, answer.cases, answer.failed, answer.seconds
        self.begun, self.first = time.monotonic(), answer.cases

    def tell(self, state: str = State.RUNNING) -> None:
        """How far the study has come, to all pages of its variant."""
        here = self.cases - self.first
        left = (time.monotonic() - self.begun) * (self.total - self.cases) / here if self.total and here else None
        counts = {"done": self.cases, "planned": self.total, "failed": self.failed, "left": left}
        service.events.publish(self.variant, Event({"kind": "study", "answer": self.id, "name": self.name, "state": state, **counts}))

    def _change(self, **values: Any) -> None:
        seconds = self.before + time.monotonic() - self.begun
        StudyAnswer.objects.filter(id=self.id).exclude(state=State.DONE).update(seconds=seconds, **values)

    def _planned(self, plan: Plan) -> None:
        self.total = plan.cases
        self._change(planned=plan.cases)
        self.tell()

    def _done(self, number: int, part: dict[str, Any]) -> None:
        try:
            with transaction.atomic():
                StudyPart.objects.create(answer_id=self.id, number=number, data=part)
                self.cases += len(part["cases"])
                self.failed += sum(None in case["outputs"] for case in part["cases"])
                self._change(cases=self.cases, failed=self.failed)
        except IntegrityError:
            known = StudyAnswer.objects.filter(id=self.id).values_list("cases", "failed").first()
            if known is None:
                self.runs.stop(self.id)  # it was deleted meanwhile
                return
            self.cases, self.failed = known  # another server on the same database was faster
        self.tell()

    def _under_way(self, part: int, share: float | None) -> None:
        self.tell()

    def _parts(self) -> list[dict[str, Any]]:
        return list(StudyPart.objects.filter(answer_id=self.id).order_by("number").values_list("data", flat=True))

    def _answered(self, answer: dict[str, Any]) -> None:
        self.cases, self.failed = len(answer["cases"]), sum(None in case["outputs"] for case in answer["cases"])
        with transaction.atomic():
            self._change(answer=answer, state=State.DONE, cases=self.cases, failed=self.failed)
            StudyPart.objects.filter(answer_id=self.id).delete()

    def _ended(self, text: str | None) -> None:
        try:
            state: str = State.DONE
            if text is None:
                state = StudyAnswer.objects.filter(id=self.id).values_list("state", flat=True).first() or State.STOPPED
                self._change()
            elif text:
                state = State.FAILED
                self._change(state=State.FAILED, text=text)
            self.tell(state)
        except DatabaseError:
            log.warning("the end of a study could not be kept", exc_info=True)
        finally:
            self.runs.over(self.id)
            connection.close()


class StudyRuns:
    """The studies of this server that are calculated now."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._cluster: StudyCluster | None = None
        self._runs: dict[int, Run] = {}

    def begin(self, answer: StudyAnswer) -> None:
        """Calculate what of a study is not calculated yet, here."""
        broker.claim(f"study:{answer.id}")
        before = self._runs.get(answer.id)
        if before is not None and before.stopping:
            before.join(ENDING)  # it was paused a moment ago, and may have kept a part since
            answer.refresh_from_db()
        revision = revision_of(answer.variant, answer.revision)
        assert revision is not None, "revisions are never deleted"
        finished = set(answer.parts.values_list("number", flat=True))
        listener = _Kept(self, answer)
        with self._lock:
            if answer.id in self._runs:
                return
            run = self._runs[answer.id] = Run(self._processes(), revision.document, answer.name, finished, listener)
        run.start()
        listener.tell()

    def _processes(self) -> StudyCluster:
        """What calculates; it comes up with the first study."""
        if self._cluster is None:
            self._cluster = StudyCluster(settings.CLUSTER, settings.STUDY_WORKERS, settings.RUN_MEGABYTES, settings.STUDY_NICENESS)
        return self._cluster

    @property
    def under_way(self) -> int:
        """How many studies are calculated now."""
        return len(self._runs)

    def stop(self, answer_id: int) -> None:
        """End the calculation of a study soon, whichever process calculates it; what is calculated is kept."""
        self.stop_here(answer_id)
        broker.tell(what="study", answer_id=answer_id)

    def stop_here(self, answer_id: int) -> None:
        """One that this process calculates."""
        run = self._runs.get(answer_id)
        if run is not None:
            run.stop()

    def over(self, answer_id: int) -> None:
        """A run has ended."""
        with self._lock:
            self._runs.pop(answer_id, None)

    def resume(self) -> None:
        """Go on with all that was running when the server, or another process that calculated it, went down."""
        try:
            for answer in StudyAnswer.objects.filter(state=State.RUNNING, variant__project__deleted=None).select_related("variant"):
                if answer.id not in self._runs and broker.home(f"study:{answer.id}") == broker.here:
                    self.begin(answer)
        finally:
            connection.close()  # of the thread that does this

    def halt(self) -> None:
        """End all runs; they go on when the server comes up again."""
        for run in list(self._runs.values()):
            run.stop()
        for run in list(self._runs.values()):
            run.join(ENDING)

    def close(self) -> None:
        """End all runs, and the processes."""
        self.halt()
        with self._lock:
            cluster, self._cluster = self._cluster, None
        if cluster is not None:
            cluster.close()


def prune(variant_id: int, name: str) -> None:
    """Leave the newest answers of a study."""
    kept = StudyAnswer.objects.filter(variant_id=variant_id, name=name).order_by("-id").values_list("id", flat=True)[:KEPT]
    StudyAnswer.objects.filter(variant_id=variant_id, name=name).exclude(id__in=list(kept)).exclude(state=State.RUNNING).delete()


runs = StudyRuns()
