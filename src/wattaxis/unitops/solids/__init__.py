"""Solids parted, dried and washed out."""
