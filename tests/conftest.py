"""Shared set-up: a place of its own for the server's files, before Django reads its settings."""

import os
import sys
import tempfile
from pathlib import Path

if "WATTAXIS_VAR" not in os.environ or "PYTEST_XDIST_WORKER" in os.environ:
    os.environ["WATTAXIS_VAR"] = tempfile.mkdtemp(prefix="wattaxis-test-")  # one for each of the processes that share the tests
os.environ.setdefault("WATTAXIS_STUDY_NICENESS", "0")  # the tests themselves keep every core busy
sys.path.insert(0, str(Path(__file__).parent / "support"))
