"""Writes the OpenAPI description from which the front end's client is generated."""

import json
from pathlib import Path

from django.core.management.base import BaseCommand, CommandParser


class Command(BaseCommand):
    """``manage.py export_openapi FILE``"""

    help = "Write the OpenAPI description of the API."

    def add_arguments(self, parser: CommandParser) -> None:
        """One file name."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: object, **options: Path) -> None:
        """Write it, stable in order."""
        from api.routes import http

        options["file"].write_text(json.dumps(http.get_openapi_schema(), indent=1, sort_keys=True) + "\n")
