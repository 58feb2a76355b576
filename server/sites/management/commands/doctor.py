"""`manage.py doctor`: what is wrong with the set-up."""

from __future__ import annotations

import sys
from typing import Any

from django.core.management.base import BaseCommand

from server.doctor import examine


class Command(BaseCommand):
    """Prints a line for each thing that was looked at; ends with 1 where something is wrong."""

    help = "Check set-up, disk, database and browser."
    requires_system_checks = ()

    def handle(self, *args: Any, **options: Any) -> None:
        findings = examine()
        for finding in findings:
            self.stdout.write(f"{'ok   ' if finding.well else 'WRONG'}  {finding.name}: {finding.words}")
        if not all(finding.well for finding in findings):
            sys.exit(1)
