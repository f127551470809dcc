"""What survives: an acknowledged edit, whatever is killed; a backup and its way back; a database of the first landed version."""

import os
import random
import time
from statistics import median

import pytest
from patience import PATIENCE
from server import Server, manage, report

ROUNDS = int(os.environ.get("WATTAXIS_KILLS", "6"))
SOAK = "WATTAXIS_REPORT" in os.environ


@pytest.fixture
def folder(tmp_path):
    assert manage(tmp_path, "migrate", "--verbosity", "0")[0] == 0
    assert manage(tmp_path, "load_demo")[0] == 0
    return tmp_path


def test_killing_server_and_solver_at_random_moments_loses_no_acknowledged_edit(folder):
    rng = random.Random(3)
    server = Server(folder)
    server.start()
    server.sign_in()
    variant = server.call("GET", "/api/projects")[0]["variants"][0]["id"]
    path = f"/api/variants/{variant}"
    acknowledged = server.call("GET", path)["revision"]
    value = 35.0
    back = []
    for number in range(ROUNDS):
        stop = time.monotonic() + rng.uniform(0.05, 0.6)
        while time.monotonic() < stop:
            tried = round(rng.uniform(20, 60), 3)
            edit = {"kind": "set_values", "unit": "E-103", "values": {"outlet_temperature": {"value": tried, "unit": "degC"}}}
            acknowledged, value = server.call("POST", path + "/edits", {"base": acknowledged, "edit": edit})["revision"], tried
        if number % 2:
            server.kill_solver()
        else:
            server.kill()
            back.append(server.start())
        state = server.call("GET", path)
        units = {u["tag"]: u["spec"] for u in state["document"]["units"]}
        assert state["revision"] == acknowledged
        assert units["E-103"]["outlet_temperature"]["value"] == value
        end = time.monotonic() + PATIENCE
        while (state["answer"] or {}).get("revision") != acknowledged and time.monotonic() < end:
            time.sleep(0.05)
            state = server.call("GET", path)
        assert state["answer"]["result"]["streams"]["S-07"]["temperature"] == pytest.approx(value + 273.15)
    server.kill()
    report(f"{ROUNDS} kills of server and solver: no acknowledged edit lost; server back after {median(back):.1f} s, at most {max(back):.1f} s")
    assert not SOAK or max(back) < 5


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
