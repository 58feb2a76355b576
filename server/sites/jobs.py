"""Starting, running, stopping and recovering jobs."""

from __future__ import annotations

import errno
import logging
import threading
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from django.conf import settings
from django.db import close_old_connections, connection, transaction
from django.db.models import F, Max
from django.utils import timezone
from django_tasks import task

from server.sites import quota, storage, work
from server.sites.models import ASIDE, MOST_ATTEMPTS, STALE_AFTER, Job, Run, Site
from unladen.errors import Cancelled, SetDown, UnladenError
from unladen.progress import Progress, Proof

log = logging.getLogger(__name__)

_ACTIVE = (Job.State.WAITING, Job.State.RUNNING)
_PATIENCE = 3.0  # s that a paused job keeps its worker
_WRITE_EVERY = 0.4  # s
_BEAT_EVERY = 4.0  # s
_OFTEN = {"daily": timedelta(days=1), "weekly": timedelta(days=7)}


class Busy(Exception):
    """The site has a job under way already."""


class TooMany(Exception):
    """The user has as many jobs waiting and running as one may have."""


def start(site: Site, kind: str, params: dict[str, Any] | None = None) -> Job:
    """Queue a job; raises `Busy` while another one of the site waits or runs, `TooMany` where the user has enough.

    What the user has running aside stops for it, and is queued again once nothing else is left to do.
    """
    with transaction.atomic():
        expect_idle(site)
        active = Job.objects.filter(site__owner=site.owner_id, state__in=_ACTIVE)
        if active.exclude(kind__in=ASIDE).count() >= settings.JOBS_OF_A_USER:
            raise TooMany
        for aside in active.filter(kind__in=ASIDE):
            _stop(aside)
        job = Job.objects.create(site=site, kind=kind, params=params or {})
        run_next.enqueue()
    return job


def go_on(job: Job) -> Job:
    """Queue a stopped job again; what it had proven is kept and not looked at twice. Raises as `start` does."""
    return start(job.site, job.kind, job.params)


def expect_idle(site: Site) -> None:
    """Raises `Busy` while a job of the site waits or runs, but for what runs aside."""
    if site.jobs.filter(state__in=_ACTIVE).exclude(kind__in=ASIDE).exists():
        raise Busy


def cancel(job: Job) -> None:
    """Ask a job to stop; one that waits is stopped at once, and what ran aside does not come again."""
    _have_done(job)
    _stop(job)


def _have_done(job: Job) -> None:
    """Have what a job did aside not come again."""
    if job.kind == Job.Kind.REFINE:
        Site.objects.filter(pk=job.site_id).update(unrefined=False)
    if job.kind == Job.Kind.NARROW:
        Run.objects.filter(pk=job.params["run"]).update(open=False)


def _stop(job: Job) -> None:
    Job.objects.filter(pk=job.pk).update(cancel=True)
    Job.objects.filter(pk=job.pk, state=Job.State.WAITING).update(state=Job.State.CANCELLED)


def steer(job: Job, *, paused: bool, easy: bool) -> None:
    """Pause a job or let it go on, at full speed or with rests."""
    Job.objects.filter(pk=job.pk).update(paused=paused, easy=easy)
    _call_for_waiting()


def recover() -> int:
    """Queue jobs again whose worker has died; returns how many. What they had encoded is remembered."""
    stale = timezone.now() - STALE_AFTER
    count = 0
    for job in Job.objects.filter(state=Job.State.RUNNING, heartbeat__lt=stale):
        with transaction.atomic():
            mine = Job.objects.filter(pk=job.pk, state=Job.State.RUNNING, attempt=job.attempt, heartbeat__lt=stale)
            if job.attempt >= MOST_ATTEMPTS:
                error = f"the worker died {MOST_ATTEMPTS} times; its log may show why"
                count += mine.update(state=Job.State.FAILED, error=error)
            elif mine.update(state=Job.State.WAITING, note="restarting after an interruption"):
                run_next.enqueue()
                count += 1
    return count


@task()
def run_next() -> None:
    """Run the job whose turn it is, to its end. A task is no more than a call: which job it is shows only now."""
    with transaction.atomic():
        key = _turn()
        claimed = key is not None and _claim(key)
    if claimed and key is not None:
        _work_on(key)
    _call_for_waiting()


def _turn() -> UUID | None:
    """The job that comes next: users take turns, and nobody has more workers at once than leaves one for others."""
    running = Counter(Job.objects.filter(state=Job.State.RUNNING).values_list("site__owner", flat=True))
    waiting = Job.objects.filter(state=Job.State.WAITING, paused=False).order_by("created")
    first: dict[int, UUID] = {}
    for key, owner in waiting.values_list("pk", "site__owner"):
        if running[owner] < settings.JOBS_AT_ONCE:
            first.setdefault(owner, key)
    if not first:
        return None
    # Who was served longest ago, never before all others.
    served = dict(
        Job.objects.filter(site__owner__in=first).values_list("site__owner").annotate(latest=Max("heartbeat"))
    )
    return first[min(first, key=lambda owner: (running[owner], served[owner] is not None, served[owner] or 0))]


def _call_for_waiting() -> None:
    """Call a worker where a job waits that may run."""
    if _turn() is not None:
        run_next.enqueue()


def run_job(key: UUID) -> None:
    """Run a job to its end. A failure is written to the job; nothing is raised."""
    if _claim(key):
        _work_on(key)


def _claim(key: UUID) -> bool:
    waiting = Job.objects.filter(pk=key, state=Job.State.WAITING)
    return bool(waiting.update(state=Job.State.RUNNING, heartbeat=timezone.now(), attempt=F("attempt") + 1))


def _work_on(key: UUID) -> None:
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
        except SetDown:
            # Its worker takes another job; it comes up again once it may go on.
            mine.update(state=Job.State.WAITING, attempt=F("attempt") - 1, heartbeat=timezone.now())
            return
        except Cancelled:
            end(Job.State.CANCELLED)
        except UnladenError as error:
            end(Job.State.FAILED, str(error))
        except Exception as error:
            log.exception("job %s failed", key)
            end(Job.State.FAILED, _words(error))
    if job.params.get("archive"):
        (storage.arrived(job.site_id) / job.params["archive"]).unlink(missing_ok=True)
    # Done, or failed for a reason that would come again; one that was stopped for other work comes again.
    if Job.objects.filter(pk=key, state__in=(Job.State.DONE, Job.State.FAILED)).exists():
        _have_done(job)
    index = Site.objects.filter(pk=job.site_id).values_list("index", flat=True).first()
    if not (index or {}).get("exchanges"):
        storage.remove(job.site_id)  # the site is gone, or what was read of it is of no use
    if index is not None:
        quota.measure(job.site)
    _refine_next(job.site.owner_id)


def watch_due() -> int:
    """Queue visits to live sites whose time has come, at most one of a user who has nothing else to do; returns how
    many.
    """
    begun = 0
    now = timezone.now()
    watched = Site.objects.exclude(watch="").filter(archived=False, baseline__isnull=False)
    for key, owner, often, last in watched.values_list("pk", "owner", "watch", "watched__at"):
        if last is not None and now - datetime.fromisoformat(last) < _OFTEN[often]:
            continue
        with transaction.atomic():
            if not Job.objects.filter(site__owner=owner, state__in=_ACTIVE).exists():
                Job.objects.create(site_id=key, kind=Job.Kind.WATCH)
                run_next.enqueue()
                begun += 1
    return begun


def _refine_next(owner: int) -> None:
    """Queue what can be done aside, one site at a time, when a user has nothing else to do."""
    with transaction.atomic():
        if Job.objects.filter(site__owner=owner, state__in=_ACTIVE).exists():
            return
        mine = Site.objects.filter(owner=owner, baseline__isnull=False)
        # What somebody has just tried comes before what nobody has asked for yet.
        if (site := mine.filter(run__open=True, run__state=Run.State.DONE).first()) is not None:
            Job.objects.create(site=site, kind=Job.Kind.NARROW, params={"run": str(site.run_id)})
        elif (site := mine.filter(unrefined=True).first()) is not None:
            Job.objects.create(site=site, kind=Job.Kind.REFINE)
        else:
            return
        run_next.enqueue()


def _words(error: Exception) -> str:
    if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT):
        return "the server's disk is full; the site is unchanged"
    return f"the server failed ({type(error).__name__}: {error})"


class _Orders:
    """What the user wants of a running job, asked for now and then."""

    def __init__(self, job: Job) -> None:
        self.mine = Job.objects.filter(pk=job.pk, attempt=job.attempt, state=Job.State.RUNNING)
        self.asked = self.written = 0.0
        self.proofs: dict[tuple[str, str], Proof] = {}
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

    def found(self, proof: Proof) -> None:
        self.proofs[proof.page, proof.device] = proof
        self.mine.update(proofs=[asdict(each) for each in self.proofs.values()])

    def report(self, stage: str, done: int, total: int, note: str) -> None:
        now = time.monotonic()
        if now - self.written > _WRITE_EVERY or done == total:
            self.written = now
            self.mine.update(stage=stage, done=done, total=total, note=note[:300], heartbeat=timezone.now())


def _progress(job: Job) -> Progress:
    orders = _Orders(job)
    return Progress(orders.report, orders.cancelled, orders.is_paused, orders.goes_easy, _PATIENCE, orders.found)


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
