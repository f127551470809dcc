"""Machines, valves and pipes."""
