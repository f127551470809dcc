"""People for the browser tests, added as an administrator would."""

import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]


def add_person(folder, name, password):
    """A person with a mail address in the server's database."""
    code = (
        "from django.contrib.auth import get_user_model as m; "
        f"m().objects.filter(username='{name}').exists() or m().objects.create_user('{name}', '{name}@sandlark-bay.invalid', '{password}')"
    )
    environment = {**os.environ, "WATTAXIS_VAR": str(folder)}
    subprocess.run([sys.executable, "web/manage.py", "shell", "-c", code], cwd=ROOT, env=environment, check=True, capture_output=True)
