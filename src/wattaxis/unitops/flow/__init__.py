"""Streams brought together, parted and copied."""
