"""Shared set-up: a place of its own for the server's files, before Django reads its settings."""

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("WATTAXIS_VAR", tempfile.mkdtemp(prefix="wattaxis-test-"))
sys.path.insert(0, str(Path(__file__).parent / "support"))
