"""Studies calculated by a cluster: the same bits as alone, with a process killed in the middle, stopped and gone on with, or elsewhere."""

import os
import signal
import subprocess
import sys
import threading
import time

import pytest
from patience import PATIENCE
from plants import example, q

from wattaxis import edit
from wattaxis.cli import main
from wattaxis.flowsheet import dump
from wattaxis.flowsheet.document import to_data
from wattaxis.studies import StudyResult, ask
from wattaxis.studies.cluster import Listener, Plan, StudyCluster

COLD = {"unit": "E-103", "field": "outlet_temperature", "low": q("10 degC"), "high": q("40 degC"), "points": 150}
DUTY = {"name": "Duty", "formula": "E-103.duty"}


@pytest.fixture(scope="module")
def cluster():
    found = StudyCluster(workers=2)
    yield found
    found.close()


class Heard(Listener):
    """Keeps all that is told."""

    def __init__(self):
        self.plan, self.parts, self.end, self.over = None, {}, "", threading.Event()
        self.shares, self.twice, self.answer, self.before = [], [], None, {}
        told = lambda part, share: self.shares.append((part, share))  # noqa: E731
        super().__init__(self._planned, self._done, told, self._kept, self._answered, self._ended)

    def _kept(self):
        every = self.before | self.parts
        return [every[k].to_data() for k in sorted(every)]

    def _answered(self, answer):
        self.answer = StudyResult.from_data(answer)

    def _planned(self, plan):
        self.plan = plan

    def _done(self, number, part):
        self.twice += [number] if number in self.parts else []
        self.parts[number] = StudyResult.from_data(part)

    def _ended(self, text):
        self.end = text
        self.over.set()

    def waited(self):
        assert self.over.wait(PATIENCE)
        return self

    def until(self, parts):
        end = time.monotonic() + PATIENCE
        while len(self.parts) < parts and not self.over.is_set() and time.monotonic() < end:
            time.sleep(0.02)
        assert len(self.parts) >= parts


def plant(**also):
    study = {"name": "Cold", "inputs": [COLD], "outputs": [DUTY], **also}
    return edit(example("sandlark_bay"), "set_study", name="Cold", study=study)


def alone(document):
    return ask(document, document.studies[0])


def test_a_cluster_has_the_same_bits_as_one_process(cluster):
    document, heard = plant(), Heard()
    cluster.begin(to_data(document), "Cold", (), heard)
    heard.waited()
    assert heard.end == ""
    assert heard.plan == Plan(parts=6, cases=150)
    assert heard.answer == alone(document)


def test_a_process_killed_in_the_middle_loses_nothing_and_does_nothing_twice(cluster):
    document, heard = plant(inputs=[{**COLD, "points": 300}]), Heard()
    cluster.begin(to_data(document), "Cold", (), heard)
    heard.until(2)
    os.kill(cluster.processes()[0], signal.SIGKILL)
    heard.waited()
    assert heard.end == ""
    assert sorted(heard.parts) == list(range(heard.plan.parts))
    assert heard.twice == []
    assert heard.answer == alone(document)


def test_what_was_stopped_goes_on_with_its_finished_parts_kept(cluster):
    document, first, second = plant(inputs=[{**COLD, "points": 300}]), Heard(), Heard()
    run = cluster.begin(to_data(document), "Cold", (), first)
    first.until(2)
    run.stop()
    assert first.waited().end is None
    kept = dict(first.parts)
    assert len(kept) < first.plan.parts
    second.before = kept
    cluster.begin(to_data(document), "Cold", kept, second)
    assert second.waited().end == ""
    assert kept.keys().isdisjoint(second.parts)
    assert second.answer == alone(document)


def test_a_search_for_the_best_is_one_part_and_ends_when_it_is_stopped(cluster):
    cold = {"unit": "E-103", "field": "outlet_temperature", "low": q("5 degC"), "high": q("40 degC")}
    document, heard = plant(asks="optimum", inputs=[cold], objectives=[DUTY], limits=[], outputs=[]), Heard()
    cluster.begin(to_data(document), "Cold", (), heard)
    assert heard.waited().end == ""
    assert heard.answer == alone(document)


def test_what_cannot_be_asked_is_said_before_the_first_part(cluster):
    for also, text in (({"outputs": []}, "Nothing is looked at"), ({"outputs": [{"name": "X", "formula": "E-9.duty"}]}, "nothing on the sheet")):
        heard = Heard()
        cluster.begin(to_data(plant(**also)), "Cold", (), heard)
        assert text in heard.waited().end
        assert heard.plan is None


def test_a_scheduler_elsewhere_is_reached_by_its_address():
    """Here one with a process of its own on this machine, which does not ask for certificates."""
    from distributed import LocalCluster

    document, heard = plant(), Heard()
    with LocalCluster(n_workers=1, threads_per_worker=1, host="127.0.0.1", dashboard_address="127.0.0.1:0") as there:
        elsewhere = StudyCluster(address=there.scheduler_address)
        elsewhere.begin(to_data(document), "Cold", (), heard)
        assert heard.waited().end == ""
        elsewhere.close()
    assert heard.answer == alone(document)


def test_nobody_without_its_certificates_reaches_a_cluster_of_our_own(cluster):
    from distributed import Client

    address = cluster.client().scheduler.address
    assert address.startswith("tls://127.0.0.1:")
    with pytest.raises(OSError, match="reset|Timed out|closed"):
        Client(address.replace("tls://", "tcp://"), timeout=2, set_as_default=False)


def test_a_scheduler_that_does_not_answer_is_said():
    heard = Heard()
    StudyCluster(address="tcp://127.0.0.1:9").begin(to_data(plant()), "Cold", (), heard)
    assert heard.waited().end.startswith("The processes that calculate studies were lost")


def test_the_command_line_takes_several_processes(tmp_path, capsys):
    path = tmp_path / "plant.json"
    path.write_text(dump(plant()))
    outputs = []
    for more in ((), ("--workers", "2")):
        assert main(["study", str(path), "Cold", *more]) == 0
        outputs.append(capsys.readouterr().out)
    assert outputs[0] == outputs[1]
    assert main(["study", str(path), "Cold", "--cluster", "tcp://127.0.0.1:9"]) == 2
    assert "were lost" in capsys.readouterr().err


def test_a_calculation_that_hangs_ends_its_process():
    """Whatever holds it up: the watch needs nothing of the interpreter."""
    code = "import time, wattaxis.studies.cluster as c; c.HUNG = 0.5\nwith c._watched() as heard:\n    time.sleep({0}); heard(); time.sleep({0})"
    for seconds, good in ((0.3, True), (30, False)):
        done = subprocess.run([sys.executable, "-c", code.format(seconds)], capture_output=True, check=False, timeout=PATIENCE)
        assert (done.returncode == 0) is good
