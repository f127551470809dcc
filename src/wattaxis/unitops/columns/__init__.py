"""Unit operations in stages: one file each."""
