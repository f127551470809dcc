"""What survives: an acknowledged edit, whatever is killed; a backup and its way back; a database of the first landed version."""

import os
import random
import time
from statistics import median

import pytest
from patience import PATIENCE
from server import Server, lay_out, manage, report

ROUNDS = int(os.environ.get("WATTAXIS_KILLS", "4"))
SOAK = "WATTAXIS_REPORT" in os.environ


@pytest.fixture
def folder(tmp_path):
    lay_out(tmp_path)
    return tmp_path


def in_date(server, path, revision):
    """The state of a variant whose results belong to a revision."""
    end = time.monotonic() + PATIENCE
    while time.monotonic() < end:
        state = server.call("GET", path)
        if (state["answer"] or {}).get("revision") == revision:
            return state
        time.sleep(0.05)
    raise AssertionError(f"no results of revision {revision}")


def test_killing_server_and_solver_amid_calculations_loses_no_acknowledged_edit(folder):
    rng = random.Random(3)
    server = Server(folder)
    server.start()
    server.sign_in()
    plant = next(v for v in server.call("GET", "/api/projects")[0]["variants"] if v["name"] == "Butanone plant")
    path = f"/api/variants/{plant['id']}"
    acknowledged, back, amid = in_date(server, path, 1)["revision"], [], 0
    outlet = next(s["tag"] for s in server.call("GET", path)["document"]["streams"] if s["source"]["unit"] == "E-304")
    for number in range(ROUNDS):
        for _ in range(rng.randrange(1, 4)):
            value = round(rng.uniform(53, 55), 3)
            edit = {"kind": "set_values", "unit": "E-304", "values": {"outlet_temperature": {"value": value, "unit": "degC"}}}
            acknowledged = server.call("POST", path + "/edits", {"base": acknowledged, "edit": edit})["revision"]
            time.sleep(rng.uniform(0, 0.2))
        amid += (server.call("GET", path)["answer"] or {}).get("revision") != acknowledged
        if number % 2:
            server.kill_solver()
        else:
            server.kill()
            back.append(server.start())
        state = in_date(server, path, acknowledged)
        units = {u["tag"]: u["spec"] for u in state["document"]["units"]}
        assert state["revision"] == acknowledged
        assert units["E-304"]["outlet_temperature"]["value"] == value
        assert state["answer"]["result"]["complete"]
        assert state["answer"]["result"]["streams"][outlet]["temperature"] == pytest.approx(value + 273.15)
    server.kill()
    assert amid > ROUNDS / 3
    figures = f"server back after {median(back):.1f} s, at most {max(back):.1f} s"
    report(f"{ROUNDS} kills of server and solver, {amid} of them amid a calculation: no acknowledged edit lost; {figures}")
    assert not SOAK or max(back) < 5


def test_a_study_goes_on_after_the_server_was_killed_with_its_finished_parts_kept(folder):
    server = Server(folder)
    server.start()
    server.sign_in()
    base = next(v for v in server.call("GET", "/api/projects")[0]["variants"] if v["name"] == "Base")
    path = f"/api/variants/{base['id']}"
    cold = {
        "unit": "E-103",
        "field": "outlet_temperature",
        "low": {"value": 5, "unit": "degC"},
        "high": {"value": 40, "unit": "degC"},
        "points": 501,
    }
    study = {"name": "Cold", "inputs": [cold], "outputs": [{"name": "Duty", "formula": "E-103.duty"}]}
    revision = server.call("GET", path)["revision"]
    server.call("POST", path + "/edits", {"base": revision, "edit": {"kind": "set_study", "name": "Cold", "study": study}})
    number = server.call("POST", path + "/study-answers", {"name": "Cold"})["id"]

    def until(good):
        end = time.monotonic() + PATIENCE
        while not good(answer := server.call("GET", f"{path}/study-answers/{number}")):
            assert time.monotonic() < end, answer["state"]
            time.sleep(0.05)
        return answer

    kept = until(lambda answer: answer["cases"] >= 50)
    server.kill()
    server.start()
    again = server.call("GET", f"{path}/study-answers/{number}")
    assert again["state"] == "running"
    assert again["cases"] >= kept["cases"]
    done = until(lambda answer: answer["state"] != "running")
    server.kill()
    assert done["state"] == "done"
    assert [case["number"] for case in done["result"]["cases"]] == list(range(501))
    bits = {case["number"]: case for case in done["result"]["cases"]}
    assert all(bits[case["number"]] == case for case in kept["result"]["cases"])


def test_backup_of_a_running_database_and_restore(folder, tmp_path):
    copy = tmp_path / "copy.sqlite3"
    code, out = manage(folder, "backup", str(copy))
    assert (code, "checked" in out) == (0, True)
    assert manage(folder, "backup", str(copy))[0] == 1  # never overwrites
    assert manage(folder, "shell", "-c", "from projects.models import Project; Project.objects.all().delete()")[0] == 0
    assert "No project" in manage(folder, "shell", "-c", "from projects.models import *; print(Project.objects.first() or 'No project')")[1]
    assert manage(folder, "restore", str(copy))[0] == 0
    assert "Sandlark Bay" in manage(folder, "shell", "-c", "from projects.models import *; print(Project.objects.first())")[1]
    (tmp_path / "junk").write_text("no database")
    code, out = manage(folder, "restore", str(tmp_path / "junk"))
    assert (code, "no backup of Wattaxis" in out) == (1, True)
