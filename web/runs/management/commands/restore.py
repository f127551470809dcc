"""Puts a backup in the place of the database. The server must be stopped."""

import shutil
import sqlite3
import time
from contextlib import closing
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser


class Command(BaseCommand):
    """``manage.py restore FILE``"""

    help = "Replace the database by FILE; the present one is kept beside it."

    def add_arguments(self, parser: CommandParser) -> None:
        """One file name."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: object, **options: Any) -> None:
        """Check the backup, move the present database aside, copy."""
        backup: Path = options["file"]
        database = Path(str(settings.DATABASES["default"]["NAME"]))
        if not backup.is_file():
            raise CommandError(f"There is no file {backup}.")
        try:
            with closing(sqlite3.connect(f"file:{backup}?mode=ro", uri=True)) as copy:
                verdict = copy.execute("PRAGMA integrity_check").fetchone()[0]
                copy.execute("SELECT COUNT(*) FROM projects_revision")
        except sqlite3.DatabaseError as error:
            raise CommandError(f"{backup} is no backup of Wattaxis: {error}") from error
        if verdict != "ok":
            raise CommandError(f"{backup} is damaged: {verdict}")
        if database.exists():
            aside = database.with_name(f"{database.name}.before-{time.strftime('%Y%m%d-%H%M%S')}")
            with closing(sqlite3.connect(database)) as present, closing(sqlite3.connect(aside)) as kept:
                present.backup(kept)
            for ending in ("", "-wal", "-shm"):
                database.with_name(database.name + ending).unlink(missing_ok=True)
            self.stdout.write(f"The database before is kept as {aside}")
        shutil.copyfile(backup, database)
        self.stdout.write(f"{database} restored from {backup}; run migrate before the next start")
