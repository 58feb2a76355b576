"""Where costly work runs: in worker processes with limits, or on other machines.

A Dask scheduler takes the same pure functions, bytes in and bytes out. Its workers must run this version of the
product, since they import it. Bodies travel to them; nothing is kept there.
"""

from __future__ import annotations

import ipaddress
import multiprocessing
import os
import resource
import signal
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Executor, Future, ProcessPoolExecutor, wait
from concurrent.futures import TimeoutError as FutureTimeout
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from pathlib import Path
from typing import Generic, TypeVar
from urllib.parse import urlsplit

from unladen.errors import UnladenError
from unladen.progress import Progress

J = TypeVar("J")
R = TypeVar("R")

CORES = 2
_SECONDS = 10  # for a scheduler to answer
_MEMORY = 6_000_000_000  # address space of a worker process in bytes, whatever its work asks for
_WORKS_OF_ONE_WORKER = 500  # then a fresh one takes over, so that memory does not creep up
_LISTEN_EVERY, _LONGEST_REST = 0.2, 5.0  # s
STARTS_WITHIN = 120.0  # s for a worker process to be there with its program, which takes long on a busy machine


# What a scheduler is told runs on its workers, and what they send comes into this process: both ends prove who they
# are.
_CERTIFICATES = ("MULE_MACHINES_CA", "MULE_MACHINES_CERT", "MULE_MACHINES_KEY")


class MachinesMissing(UnladenError):
    """No scheduler answers at the address, it has no workers, or this machine lacks what it takes to ask."""


def _certificates(address: str) -> dict[str, str]:
    """What to show to a scheduler: nothing on this machine itself, certificates elsewhere; raises `MachinesMissing`."""
    parts = urlsplit(address)
    host = parts.hostname or ""
    if parts.scheme == "tls":
        files = {name: os.environ.get(name, "") for name in _CERTIFICATES}
        for name, file in files.items():
            if not Path(file).is_file():
                why = f"names {file}, which is not a file" if file else "is not set"
                raise MachinesMissing(f"a scheduler by TLS needs {', '.join(_CERTIFICATES)}, and {name} {why}")
        return files
    if parts.scheme == "tcp" and (host == "localhost" or _is_loopback(host)):
        return {}
    raise MachinesMissing(
        f"the scheduler at {address} is not used: others could read and change what is sent. "
        "Have it speak TLS and name it tls://HOST:PORT, or run it on this machine"
    )


def _is_loopback(host: str) -> bool:
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


@contextmanager
def on_machines(address: str) -> Iterator[tuple[Executor, int]]:
    """An executor on a scheduler such as `tls://10.0.0.5:8786`, and how many threads its workers have.

    One that is not on this machine must speak TLS. Raises `MachinesMissing`.
    """
    certificates = _certificates(address)
    try:
        from distributed import Client  # an extra that few need
        from distributed.security import Security
    except ImportError:
        raise MachinesMissing("remote workers need the packages in requirements/machines.txt") from None
    try:
        ca, certificate, key = (certificates.get(name) for name in _CERTIFICATES)
        security = Security(
            tls_ca_file=ca, tls_client_cert=certificate, tls_client_key=key, require_encryption=bool(ca)
        )
        client = Client(address, timeout=_SECONDS, set_as_default=False, security=security)
    except (OSError, ValueError, TimeoutError) as error:
        raise MachinesMissing(f"the scheduler at {address} does not answer ({error})") from error
    with client:
        try:
            client.wait_for_workers(1, timeout=_SECONDS)  # they may just be starting
        except TimeoutError:
            raise MachinesMissing(f"the scheduler at {address} has no workers") from None
        threads = sum(client.nthreads().values())
        # Pure functions: a worker that died may be replaced, but not for ever by a body that kills them.
        with client.get_executor(pure=False, retries=1) as pool:
            yield pool, threads


class Drain(Generic[J, R]):
    """Runs jobs with few in flight, so that memory stays bounded.

    `submit` hands a job to the pool, `seconds` tells how long it may take at most, `land` takes a result, or None for
    a job that went beyond its limits. Worker processes of our own look at the clock themselves (`time_limit`), from
    the moment at which they begin; the look from here is for those that do not even get there.
    """

    def __init__(
        self,
        pool: Executor,
        width: int,
        submit: Callable[[Executor, J], Future[R]],
        seconds: Callable[[J], float],
        land: Callable[[J, R | None], None],
        progress: Progress,
        tick: Callable[[], None],
    ) -> None:
        self.pool, self.width = pool, width
        self.submit, self.seconds, self.land = submit, seconds, land
        self.progress, self.tick = progress, tick
        self.flying: dict[Future[R], tuple[J, float]] = {}

    def run(self, jobs: Sequence[J]) -> list[J]:
        """Run them; returns those that were in flight when the pool broke."""
        queue = iter(jobs)
        try:
            self._launch(queue)
            while self.flying:
                done, _ = wait(self.flying, timeout=_LISTEN_EVERY, return_when=FIRST_COMPLETED)
                spent = 0.0
                for future in done:
                    spent = max(spent, self._land(future))
                self._drop_overdue()
                self.tick()
                if done and self.progress.easy():
                    self.progress.rest(min(spent, _LONGEST_REST))
                self._launch(queue)
        except (BrokenProcessPool, FutureTimeout, MemoryError):
            kill(self.pool)
            return [job for job, _ in self.flying.values()]
        except BaseException:
            for future in self.flying:
                future.cancel()
            kill(self.pool)
            raise
        return []

    def _launch(self, queue: Iterator[J]) -> None:
        room = 1 if self.progress.easy() else self.width
        while len(self.flying) < room and (job := next(queue, None)) is not None:
            self.flying[self.submit(self.pool, job)] = job, time.monotonic()

    def _land(self, future: Future[R]) -> float:
        """Hand a result on; returns the seconds it took."""
        job, began = self.flying[future]
        result: R | None
        try:
            result = future.result()
        except (BrokenProcessPool, MemoryError):
            raise
        except Exception as error:  # what runs raises nothing, so this came from those who were to run it
            if type(error).__name__ != "KilledWorker":
                raise MachinesMissing(f"the workers cannot run this version's work ({error})") from error
            result = None
        self.land(job, result)
        del self.flying[future]
        return time.monotonic() - began

    def _drop_overdue(self) -> None:
        own = isinstance(self.pool, ProcessPoolExecutor)
        now = time.monotonic() - (STARTS_WITHIN if own else 0)
        overdue = [f for f, (job, began) in self.flying.items() if began + self.seconds(job) < now]
        if overdue and own:
            raise FutureTimeout  # a worker of our own can be killed
        for future in overdue:
            job, _ = self.flying.pop(future)
            future.cancel()
            self.land(job, None)


@contextmanager
def workers(executor: Executor | None, machines: str = "", count: int = CORES) -> Iterator[tuple[Executor, int]]:
    """Where work runs, and how many jobs to hand over at a time so that nobody waits for work."""
    if executor is not None:
        yield executor, count + 1
    elif machines:
        with on_machines(machines) as (pool, threads):
            yield pool, threads + 2
    elif count != CORES:
        with new_pool(count) as pool:
            yield pool, count + 1
    else:
        yield _pool_of_this_process(), count + 1


def new_pool(count: int) -> ProcessPoolExecutor:
    """Processes with limits. Started afresh, never forked: what runs beside threads must not be copied."""
    context = multiprocessing.get_context("spawn")
    return ProcessPoolExecutor(
        count,
        mp_context=context,
        initializer=_begin_worker,
        initargs=(os.getpid(),),
        max_tasks_per_child=_WORKS_OF_ONE_WORKER,
    )


_kept: list[ProcessPoolExecutor] = []
_keeping = threading.Lock()
_in_worker = False


def _pool_of_this_process() -> ProcessPoolExecutor:
    """One pool for all jobs of this process, since its start takes as long as several encodes."""
    with _keeping:
        if not _kept:
            _kept.append(new_pool(CORES))
        return _kept[0]


def _begin_worker(parent: int) -> None:
    global _in_worker
    _in_worker = True
    threading.Thread(target=_end_with, args=(parent,), name="parent", daemon=True).start()
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY))


def _end_with(parent: int) -> None:
    """End this process once the one that started it has ended, in whatever way."""
    while os.getppid() == parent:
        time.sleep(1)
    os.kill(os.getpid(), signal.SIGKILL)


def limit_memory(count: int) -> None:
    """Let a worker process of ours use this many bytes of address space from now on; does nothing elsewhere."""
    if _in_worker:
        resource.setrlimit(resource.RLIMIT_AS, (min(count, _MEMORY), _MEMORY))


@contextmanager
def time_limit(seconds: float) -> Iterator[None]:
    """End this process, if it is a worker of ours, when what stands inside takes longer; does nothing elsewhere.

    Only an alarm ends what never comes back from a library.
    """
    if not _in_worker:
        yield
        return
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)


def kill(pool: Executor) -> None:
    """End worker processes in the middle of what they do."""
    if isinstance(pool, ProcessPoolExecutor):
        with _keeping:
            if pool in _kept:
                _kept.remove(pool)
        for process in list((pool._processes or {}).values()):
            process.kill()
        pool.shutdown(wait=False, cancel_futures=True)
