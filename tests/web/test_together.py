"""Many people at one variant, a database of the first version, and a server that refuses a busy port."""

import concurrent.futures
import os
import socket
import subprocess
import sys
from pathlib import Path

import pytest
from patience import PATIENCE
from plants import demo
from server import lay_out

ROOT = Path(__file__).resolve().parents[2]
PLACES = [
    ("E-103", "outlet_temperature", "degC", 30),
    ("VL-101", "outlet_pressure", "bar", 1),
    ("F-101", "temperature", "degC", 150),
    ("F-101", "pressure", "bar", 2.2),
    ("V-101", "duty", "kW", 0),
    ("V-102", "duty", "kW", 0),
    ("E-103", "pressure_change", "bar", -0.1),
    ("V-101", "pressure_change", "bar", -0.01),
]
BUSY = """
import os, sys
sys.path[:0] = ["web", "src"]
os.environ["DJANGO_SETTINGS_MODULE"] = "config.settings"
import django; django.setup()
from django.contrib.auth import get_user_model
from django.db import connection
from projects import service
from projects.models import Variant
variant, person, number = Variant.objects.order_by("id")[0], get_user_model().objects.get(), int(sys.argv[1])
places = eval(sys.argv[2])
unit, field, label, start = places[number]
base = service.latest(variant).number
for k in range(12):
    value = {"value": start + 0.001 * (k + 1), "unit": label}
    base = service.submit(variant, person, base, {"kind": "set_values", "unit": unit, "values": {field: value}}).number
"""


def manage(folder, *command):
    environment = {**os.environ, "WATTAXIS_VAR": str(folder)}
    return subprocess.run([sys.executable, "web/manage.py", *command], cwd=ROOT, env=environment, capture_output=True, text=True, check=True).stdout


def test_eight_writers_at_once_lose_nothing_and_meet_no_lock(tmp_path):
    """Eight processes edit eight places of one variant, twelve times each, all starting from what they last saw."""
    lay_out(tmp_path)
    environment = {**os.environ, "WATTAXIS_VAR": str(tmp_path)}

    def write(number):
        command = [sys.executable, "-c", BUSY, str(number), repr(PLACES)]
        return subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, text=True, check=False)

    with concurrent.futures.ThreadPoolExecutor(8) as pool:
        done = list(pool.map(write, range(8)))
    assert [d.returncode for d in done] == [0] * 8, [d.stderr[-500:] for d in done if d.returncode]
    code = (
        "from projects.models import *; import json; r = Revision.objects.order_by('-number').first(); "
        "print(json.dumps([r.number, {u['tag']: u['spec'] for u in r.document['units']}]))"
    )
    import json

    number, specs = json.loads(manage(tmp_path, "shell", "-c", code).strip().splitlines()[-1])
    assert number == 1 + 8 * 12
    for unit, field, _, start in PLACES:
        assert specs[unit][field]["value"] == pytest.approx(start + 0.012)


def test_a_database_of_the_first_version_is_upgraded_with_all_it_holds(tmp_path):
    manage(tmp_path, "migrate", "--verbosity", "0", "projects", "0001")
    manage(tmp_path, "migrate", "--verbosity", "0", "auth")
    first = (
        "import json, sqlite3, os; from django.conf import settings; c = sqlite3.connect(settings.DATABASES['default']['NAME']); "
        "c.execute(\"insert into projects_project (id, name, created, archived) values (1, 'Old', '2026-01-01', 0)\"); "
        "c.execute(\"insert into projects_variant (id, project_id, name, created) values (1, 1, 'Base', '2026-01-01')\"); "
        "from importlib.resources import files; d = files('wattaxis.examples').joinpath('sandlark_bay.json').read_text(); "
        "c.execute('insert into projects_revision (id, variant_id, number, document, label, created) values (1, 1, 1, ?, ?, ?)', "
        "(d, 'created', '2026-01-01')); c.commit()"
    )
    manage(tmp_path, "shell", "-c", first)
    manage(tmp_path, "migrate", "--verbosity", "0")
    check = (
        "from projects.models import *; from projects.service import latest; from wattaxis.flowsheet.document import load_data; "
        "p = Project.objects.get(); print(p.name, p.deleted, load_data(latest(p.variants.get()).document).title)"
    )
    assert f"Old None {demo().title}" in manage(tmp_path, "shell", "-c", check)


def test_a_busy_port_is_told_in_words(tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        environment = {**os.environ, "WATTAXIS_VAR": str(tmp_path), "WATTAXIS_PORT": str(taken.getsockname()[1])}
        done = subprocess.run(
            [sys.executable, "tools/serve.py"], cwd=ROOT, env=environment, capture_output=True, text=True, check=False, timeout=PATIENCE
        )
    assert done.returncode == 1
    assert "is in use" in done.stderr
    assert "Traceback" not in done.stderr


@pytest.mark.parametrize(
    ("tool", "script", "says"),
    [("node", '#!/bin/sh\n[ "$1" = -e ] && exit 1; echo v16.0.0\n', "Node.js v16.0.0 is too old"), ("python3", "#!/bin/sh\nexit 1\n", "is too old")],
)
def test_set_up_says_what_is_too_old(tmp_path, tool, script, says):
    fake = tmp_path / tool
    fake.write_text(script)
    fake.chmod(0o755)
    environment = {**os.environ, "PATH": f"{tmp_path}:{os.environ['PATH']}"}
    done = subprocess.run(
        ["bash", "tools/setup.sh", "demo"], cwd=ROOT, env=environment, capture_output=True, text=True, check=False, timeout=PATIENCE
    )
    assert done.returncode == 1
    assert says in done.stderr
