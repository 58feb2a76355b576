"""`manage.py backup OUT`: all that is kept in one file, while the server runs."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from server.sites.safekeeping import back_up
from unladen.errors import BadInput


class Command(BaseCommand):
    """Writes the archive."""

    help = "Write the database and all sites into one TAR file."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("out", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            count, size = back_up(options["out"])
        except (BadInput, OSError) as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{options['out']}: the database and {count:,} files, {size / 1e6:,.0f} MB")
