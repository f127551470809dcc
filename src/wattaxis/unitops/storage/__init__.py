"""Vessels that hold."""
