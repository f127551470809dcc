"""How long a test waits before it calls something hung: no figure of speed, which would fail on a busy machine."""

PATIENCE = 240.0
