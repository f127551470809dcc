"""Heaters, coolers and exchangers."""
