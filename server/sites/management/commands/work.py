"""`manage.py work`: the worker, with recovery of what a killed one left behind."""

from __future__ import annotations

import threading
from itertools import count
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import connection
from django_tasks_db.models import DBTaskResult

from server.sites.jobs import recover, watch_due
from server.sites.sweep import own_temporary_folder, sweep

_RECOVER_EVERY = 5.0  # s
_SWEEP_AFTER = 240  # turns
_WATCH_AFTER = 12  # turns


class Command(BaseCommand):
    """Runs queued jobs until it is stopped."""

    help = "Run jobs until stopped."

    def handle(self, *args: Any, **options: Any) -> None:
        own_temporary_folder()
        sweep()
        stop = threading.Event()

        def watch() -> None:
            try:
                for turn in count(1):
                    if stop.wait(_RECOVER_EVERY):
                        break
                    recover()
                    if turn % _WATCH_AFTER == 0:
                        watch_due()
                    if turn % _SWEEP_AFTER == 0:
                        sweep()
                    # Our own rows hold the state of jobs; a finished task has nothing left to tell.
                    DBTaskResult.objects.finished().delete()
            finally:
                connection.close()

        threading.Thread(target=watch, name="recover", daemon=True).start()
        try:
            call_command("db_worker", "--no-reload", "--no-startup-delay", "--interval", "0.5")
        finally:
            stop.set()
