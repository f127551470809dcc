"""How long a test waits before it calls something hung: no figure of speed, which would fail on a busy machine."""

import os

PATIENCE = float(os.environ.get("WATTAXIS_PATIENCE", "240"))
