"""Phases and components parted."""
