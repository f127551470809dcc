"""Reactors."""
