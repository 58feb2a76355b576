"""Visits to pages on other machines, by the browsers that are there.

A capture travels by content: a worker says which bodies it lacks, gets those, and keeps them in a folder of its own
as long as it runs. Whatever comes back is the same as if it had been done here, so that a machine with another
browser or other fonts is refused.
"""

from __future__ import annotations

import atexit
import hashlib
import json
import shutil
import subprocess
import tempfile
import threading
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, Future
from concurrent.futures import TimeoutError as FutureTimeout
from contextlib import ExitStack
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any, Generic, TypeVar

from unladen.capture import BodyStore, Capture
from unladen.executors import Drain, MachinesMissing, on_machines
from unladen.replay import ReplayServer
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.session import Session

Job = TypeVar("Job")
Done = TypeVar("Done")
_PARCEL = 8_000_000  # bytes sent at a time
_CAPTURES = 4  # kept read on a worker
_SECONDS = 900.0  # for a visit with all that belongs to it
_DELIVERED_WITHIN = 300.0  # s
_MOST_DELIVERIES = 3  # of the same bodies to the same worker


@dataclass(frozen=True, slots=True)
class RemoteTask:
    """A visit to be made elsewhere: `work(browser, capture, *arguments)`, a function of a module and plain values."""

    work: Callable[..., Any]
    arguments: tuple[Any, ...]


@dataclass(frozen=True, slots=True)
class Batch(Generic[Job, Done]):
    """Jobs of one sort for a browser: `work` does one of them, `note` names it.

    `stage` is the stage of progress; `remote_task` is the same job for another machine, where machines can do it.
    """

    stage: str
    jobs: Sequence[Job]
    work: Callable[[Browser, Job], Done]
    note: Callable[[Job], str]
    remote_task: Callable[[Job], RemoteTask] | None = None


@dataclass(frozen=True, slots=True)
class _Lacking:
    worker: str
    digests: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _Came(Generic[Done]):
    """What a visit found, the bodies that it put into the store, and what the machine's browser is."""

    result: Done
    bodies: dict[str, bytes]
    machine: str


class _NotingStore(BodyStore):
    """A store that knows what was put into it last."""

    def __init__(self, root: Path) -> None:
        super().__init__(root)
        self.noted: dict[str, bytes] = {}

    def put(self, body: bytes) -> str:
        digest = super().put(body)
        self.noted[digest] = body
        return digest


@lru_cache(maxsize=1)
def fonts_here() -> str:
    """A digest of the names and versions of all fonts of this machine; "" where nobody can say."""
    try:
        listing = subprocess.run(
            ["fc-list", "--format", "%{fullname} %{fontversion}\n"], capture_output=True, timeout=60, check=True
        ).stdout
    except (OSError, subprocess.SubprocessError):
        return ""
    return hashlib.sha256(b"\n".join(sorted(set(listing.splitlines())))).hexdigest()[:12]


def machine_of(browser: Browser) -> str:
    """What decides how pages look and weigh on a machine."""
    return f"Chromium {browser.version}, fonts {fonts_here()}"


# On a worker


class _Here(threading.local):
    """What a thread of a worker has: a browser, and captures that it has read."""

    def __init__(self) -> None:
        self.store: _NotingStore | None = None
        self.browser: Browser | None = None
        self.captures: dict[str, Capture] = {}


_here = _Here()
_stack = ExitStack()
_starting = threading.Lock()


@lru_cache(maxsize=1)
def _folder() -> Path:
    folder = Path(tempfile.mkdtemp(prefix="mule-machine-"))
    atexit.register(shutil.rmtree, folder, True)
    atexit.register(_stack.close)
    return folder


def _store() -> _NotingStore:
    if _here.store is None:
        with _starting:
            _here.store = _NotingStore(_folder())
    return _here.store


def receive(bodies: dict[str, bytes]) -> int:
    """Keep bodies that were lacking; returns how many bytes they have."""
    _store()
    store = BodyStore(_folder())
    return sum(len(body) for body in bodies.values() if store.put(body))


def run_errand(worker: str, index: str, remote_task: RemoteTask) -> _Lacking | _Came[Any]:
    """Make a visit here, or say which bodies it lacks."""
    store = _store()
    worker = worker or _address()
    if index not in store:
        return _Lacking(worker, (index,))
    if index not in _here.captures:
        while len(_here.captures) >= _CAPTURES:
            _here.captures.pop(next(iter(_here.captures)))
        _here.captures[index] = Capture.from_index(json.loads(store.get(index)), store)
    capture = _here.captures[index]
    lacking = tuple(digest for digest in digests_of(capture) if digest not in store)
    if lacking:
        return _Lacking(worker, lacking)
    browser = _browser(capture)
    store.noted = {}
    with browser.serving(capture):
        result = remote_task.work(browser, capture, *remote_task.arguments)
    return _Came(result, store.noted, machine_of(browser))


def _address() -> str:
    from distributed import get_worker

    return str(get_worker().address)


def _browser(capture: Capture) -> Browser:
    if _here.browser is None:
        with _starting:
            replay = _stack.enter_context(ReplayServer(capture))
            _here.browser = _stack.enter_context(Browser(replay))
    return _here.browser


# On this machine


def digests_of(capture: Capture) -> list[str]:
    """The bodies of a capture as they are and as they are sent, each once."""
    digests = (digest for exchange in capture for digest in (exchange.digest, exchange.packed))
    return [digest for digest in dict.fromkeys(digests) if digest]


class _Sender:
    """Sends visits to workers, and the bodies that these lack."""

    def __init__(self, capture: Capture) -> None:
        self.capture = capture
        self.index = json.dumps(capture.to_index()).encode()
        self.digest = hashlib.sha256(self.index).hexdigest()
        self._sent: dict[str, dict[str, int]] = {}

    def submit(self, pool: Executor, remote_task: RemoteTask) -> Future[Any]:
        return pool.submit(run_errand, "", self.digest, remote_task)

    def deliver(self, pool: Executor, lacking: _Lacking) -> None:
        """Send what a worker lacks; one that has gone meanwhile is left alone. Raises `MachinesMissing`."""
        sent = self._sent.setdefault(lacking.worker, {})
        # Several visits on one worker say the same at the same time.
        wanted = [digest for digest in lacking.digests if sent.get(digest, 0) == 0] or list(lacking.digests)
        for digest in wanted:
            sent[digest] = sent.get(digest, 0) + 1
            if sent[digest] > _MOST_DELIVERIES:
                raise MachinesMissing(f"the worker at {lacking.worker} does not keep what it is sent")
        for parcel in self._parcels(wanted):
            submit: Any = pool.submit  # Dask's takes the worker's address besides
            with ExitStack() as ignoring:
                future = submit(receive, parcel, workers=[lacking.worker], allow_other_workers=False)
                ignoring.callback(future.cancel)
                try:
                    future.result(_DELIVERED_WITHIN)
                except FutureTimeout:
                    return

    def _parcels(self, digests: Sequence[str]) -> Iterator[dict[str, bytes]]:
        parcel: dict[str, bytes] = {}
        size = 0
        for digest in digests:
            body = self.index if digest == self.digest else self.capture.store.get(digest)
            if parcel and size + len(body) > _PARCEL:
                yield parcel
                parcel, size = {}, 0
            parcel[digest] = body
            size += len(body)
        if parcel:
            yield parcel


def visits_elsewhere(
    session: Session, batch: Batch[Job, Done], machine: str, each: Callable[[Done], None] = lambda _: None
) -> dict[int, Done]:
    """The results of remote tasks by the number of their job, from the session's machines.

    Jobs that workers died of are missing. `machine` describes the browser here (`machine_of`). Raises
    `MachinesMissing` and `Cancelled`.
    """
    capture, progress, jobs, remote_task = session.capture, session.progress, batch.jobs, batch.remote_task
    if remote_task is None:
        return {}
    sender = _Sender(capture)
    result: dict[int, Done] = {}
    waiting, latest = list(range(len(jobs))), ""

    def tick() -> None:
        progress.step(batch.stage, len(result), len(jobs), latest)

    with on_machines(session.machines) as (pool, threads):
        while waiting:
            again: list[int] = []

            def land(number: int, came: Any, again: list[int] = again) -> None:
                nonlocal latest
                if isinstance(came, _Lacking):
                    sender.deliver(pool, came)
                    again.append(number)
                elif came is not None:
                    _expect(came.machine, machine)
                    for body in came.bodies.values():
                        capture.store.put(body)
                    result[number], latest = came.result, batch.note(jobs[number])
                    each(came.result)

            drain: Drain[int, Any] = Drain(
                pool,
                threads + 1,
                lambda pool, number: sender.submit(pool, remote_task(jobs[number])),
                lambda _: _SECONDS,
                land,
                progress,
                tick,
            )
            drain.run(waiting)
            waiting = again
    return result


def _expect(there: str, here: str) -> None:
    if there != here:
        raise MachinesMissing(f"a worker has {there}, this machine has {here}; snapshots would differ")
