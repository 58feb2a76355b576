"""`manage.py work`: the worker, with recovery of what a killed one left behind."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from itertools import count
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import OperationalError, connection
from django_tasks_db.models import DBTaskResult

from server.sites.jobs import recover, watch_due
from server.sites.sweep import own_temporary_folder, sweep

log = logging.getLogger(__name__)

_RECOVER_EVERY = 5.0  # s
_DATABASE_WITHIN = 60.0  # s; nobody waits for a worker's answer, so it waits for the database
_AGAIN_AFTER = 1.0  # s
_SWEEP_AFTER = 240  # turns
_WATCH_AFTER = 12  # turns


class Command(BaseCommand):
    """Runs queued jobs until it is stopped."""

    help = "Run jobs until stopped."

    def handle(self, *args: Any, **options: Any) -> None:
        connection.close()
        connection.settings_dict["OPTIONS"]["timeout"] = _DATABASE_WITHIN
        own_temporary_folder()
        stop = threading.Event()

        def watch() -> None:
            try:
                for turn in count():
                    patiently(lambda turn=turn: _look_after(turn))  # type: ignore[misc]
                    if stop.wait(_RECOVER_EVERY):
                        break
            finally:
                connection.close()

        threading.Thread(target=watch, name="recover", daemon=True).start()
        try:
            while not patiently(_run_jobs):
                time.sleep(_AGAIN_AFTER)
        finally:
            stop.set()


def patiently(work: Callable[[], object]) -> bool:
    """Do work on the database; returns False where the database fails, which must not end a worker."""
    try:
        work()
    except OperationalError as error:
        log.warning("the database does not answer, which is tried again: %s", error)
        connection.close()
        return False
    return True


def _run_jobs() -> None:
    call_command("db_worker", "--no-reload", "--no-startup-delay", "--interval", "0.5")


def _look_after(turn: int) -> None:
    """What a worker does every few seconds beside its jobs."""
    if turn % _SWEEP_AFTER == 0:
        sweep()
    if turn == 0:
        return
    recover()
    if turn % _WATCH_AFTER == 0:
        watch_due()
    # Our own rows hold the state of jobs; a finished task has nothing left to tell.
    DBTaskResult.objects.finished().delete()
