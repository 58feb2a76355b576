"""Starting, running, stopping and recovering jobs."""

from __future__ import annotations

import errno
import logging
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from uuid import UUID

from django.conf import settings
from django.db import close_old_connections, connection, transaction
from django.db.models import F
from django.utils import timezone
from django_tasks import task

from server.sites import room, storage, work
from server.sites.models import MOST_ATTEMPTS, STALE_AFTER, Job, Site
from unladen.errors import Cancelled, UnladenError
from unladen.progress import Progress

log = logging.getLogger(__name__)

_WRITE_EVERY = 0.4  # s
_BEAT_EVERY = 4.0  # s


class Busy(Exception):
    """The site has a job under way already."""


def start(site: Site, kind: str, params: dict[str, Any] | None = None) -> Job:
    """Queue a job; raises `Busy` while another one of the site waits or runs."""
    with transaction.atomic():
        expect_idle(site)
        job = Job.objects.create(site=site, kind=kind, params=params or {})
        run_job.enqueue(str(job.pk))
    return job


def expect_idle(site: Site) -> None:
    """Raises `Busy` while a job of the site waits or runs."""
    if site.jobs.filter(state__in=[Job.State.WAITING, Job.State.RUNNING]).exists():
        raise Busy


def cancel(job: Job) -> None:
    """Ask a job to stop; one that waits is stopped at once."""
    Job.objects.filter(pk=job.pk).update(cancel=True)
    Job.objects.filter(pk=job.pk, state=Job.State.WAITING).update(state=Job.State.CANCELLED)


def steer(job: Job, *, paused: bool, easy: bool) -> None:
    """Pause a job or let it go on, at full speed or with rests."""
    Job.objects.filter(pk=job.pk).update(paused=paused, easy=easy)


def recover() -> int:
    """Queue jobs again whose worker has died; returns how many. What they had encoded is remembered."""
    stale = timezone.now() - STALE_AFTER
    count = 0
    for job in Job.objects.filter(state=Job.State.RUNNING, heartbeat__lt=stale):
        with transaction.atomic():
            mine = Job.objects.filter(pk=job.pk, state=Job.State.RUNNING, attempt=job.attempt, heartbeat__lt=stale)
            if job.attempt >= MOST_ATTEMPTS:
                error = f"stopped without a word {MOST_ATTEMPTS} times; the worker's log may say why"
                count += mine.update(state=Job.State.FAILED, error=error)
            elif mine.update(state=Job.State.WAITING, note="starting again after an interruption"):
                run_job.enqueue(str(job.pk))
                count += 1
    return count


@task()
def run_job(job_id: str) -> None:
    """Run a job to its end. A failure is written to the job; nothing is raised."""
    key = UUID(job_id)
    claimed = Job.objects.filter(pk=key, state=Job.State.WAITING).update(
        state=Job.State.RUNNING, heartbeat=timezone.now(), attempt=F("attempt") + 1
    )
    if not claimed:
        return
    job = Job.objects.select_related("site").get(pk=key)
    mine = Job.objects.filter(pk=key, attempt=job.attempt, state=Job.State.RUNNING)

    def end(state: str, error: str = "") -> None:
        mine.update(state=state, error=error, heartbeat=timezone.now())

    with _heart(key, job.attempt):
        try:
            outcome = work.KINDS[job.kind](job.site, job.params, _progress(job))
            with transaction.atomic():
                if mine.filter(cancel=False).exists():
                    outcome.store(job.site)
                    end(Job.State.DONE)
                else:
                    end(Job.State.CANCELLED)
        except Cancelled:
            end(Job.State.CANCELLED)
        except UnladenError as error:
            end(Job.State.FAILED, str(error))
        except Exception as error:
            log.exception("job %s failed", key)
            end(Job.State.FAILED, _words(error))
    if job.params.get("archive"):
        (storage.arrived(job.site_id) / job.params["archive"]).unlink(missing_ok=True)
    if Site.objects.filter(pk=job.site_id).exists():
        room.measure(job.site)
    else:
        storage.remove(job.site_id)


def _words(error: Exception) -> str:
    if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT):
        return "the server's disk is full; nothing of the site was changed"
    return f"something went wrong on our side ({type(error).__name__}: {error})"


class _Orders:
    """What the user wants of a running job, asked for now and then."""

    def __init__(self, job: Job) -> None:
        self.mine = Job.objects.filter(pk=job.pk, attempt=job.attempt, state=Job.State.RUNNING)
        self.asked = self.written = 0.0
        self.stop = self.paused = self.easy = False

    def _ask(self) -> None:
        now = time.monotonic()
        if now - self.asked > _WRITE_EVERY:
            self.asked = now
            row = self.mine.values("cancel", "paused", "easy").first()
            # Gone (the site was deleted, or another attempt runs) is as good as cancelled.
            self.stop = row is None or row["cancel"]
            self.paused, self.easy = bool(row and row["paused"]), bool(row and row["easy"])

    def cancelled(self) -> bool:
        self._ask()
        return self.stop

    def is_paused(self) -> bool:
        self._ask()
        return self.paused

    def goes_easy(self) -> bool:
        self._ask()
        return self.easy

    def report(self, stage: str, done: int, total: int, note: str) -> None:
        now = time.monotonic()
        if now - self.written > _WRITE_EVERY or done == total:
            self.written = now
            self.mine.update(stage=stage, done=done, total=total, note=note[:300], heartbeat=timezone.now())


def _progress(job: Job) -> Progress:
    orders = _Orders(job)
    return Progress(orders.report, orders.cancelled, orders.is_paused, orders.goes_easy, settings.MACHINES)


@contextmanager
def _heart(key: UUID, attempt: int) -> Iterator[None]:
    """Beats beside the work, since a single step may take longer than a worker may be silent."""
    stop = threading.Event()

    def beat() -> None:
        try:
            while not stop.wait(_BEAT_EVERY):
                Job.objects.filter(pk=key, attempt=attempt, state=Job.State.RUNNING).update(heartbeat=timezone.now())
        finally:
            connection.close()

    thread = threading.Thread(target=beat, name="heartbeat", daemon=True)
    thread.start()
    try:
        yield
    finally:
        stop.set()
        thread.join()
        close_old_connections()
