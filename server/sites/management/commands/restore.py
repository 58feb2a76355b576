"""`manage.py restore IN`: what a backup holds, in the place of what is there."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from server.sites.safekeeping import take_back
from unladen.errors import BadInput


class Command(BaseCommand):
    """Takes the archive back."""

    help = "Replace the current data by a backup."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("archive", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            before = take_back(options["archive"])
        except (BadInput, OSError) as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{options['archive']} restored; the data from before is in {before}")
