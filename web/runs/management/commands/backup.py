"""Copies the database while the server runs, by SQLite's own online backup."""

import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser


class Command(BaseCommand):
    """``manage.py backup FILE``"""

    help = "Write a complete copy of the database to FILE; the server may go on."

    def add_arguments(self, parser: CommandParser) -> None:
        """One file name."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: object, **options: Any) -> None:
        """Copy page by page, then check the copy."""
        target: Path = options["file"]
        if target.exists():
            raise CommandError(f"{target} exists already; choose another name.")
        with closing(sqlite3.connect(str(settings.DATABASES["default"]["NAME"]))) as source, closing(sqlite3.connect(target)) as copy:
            source.backup(copy)
            verdict = copy.execute("PRAGMA integrity_check").fetchone()[0]
        if verdict != "ok":
            raise CommandError(f"The copy is damaged: {verdict}")
        self.stdout.write(f"{target}: {target.stat().st_size / 1e6:.1f} MB, checked")
