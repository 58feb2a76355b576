"""Costly pure functions, bytes in and bytes out, computed once: on several cores, kept by content."""

from __future__ import annotations

import hashlib
import json
import multiprocessing
import resource
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Executor, Future, ProcessPoolExecutor, wait
from concurrent.futures import TimeoutError as FutureTimeout
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from unladen.capture.store import BodyStore
from unladen.film.encode import SECONDS, Filmed, FilmRecipe, film
from unladen.machines import MachinesMissing, on_machines
from unladen.progress import Progress
from unladen.raster.probe import ImageRefused
from unladen.raster.recode import VERSION, Recipe, Recoded, recode

_MEMORY = 3_000_000_000  # address space of a worker process in bytes
_SECONDS = 120  # for one image
_IMAGES_OF_ONE_WORKER = 500  # then a fresh one takes over, so that memory does not creep up
_LISTEN_EVERY, _LONGEST_REST = 0.2, 5.0  # s
_BEYOND_LIMITS = "could not be treated within the limits of time and memory"
CORES = 2
AnyRecipe = Recipe | FilmRecipe
Made = Recoded | Filmed | str
Job = tuple[str, AnyRecipe]


@dataclass(frozen=True, slots=True)
class Encoded:
    """A remembered outcome: either a body (by digest) with what it is, or the reason why there is none."""

    digest: str = ""
    size: int = 0
    format: str = ""
    width: int = 0
    height: int = 0
    quality: int = 0
    likeness: float = 0.0
    encodes: int = 0
    refused: str = ""


# Outcomes read before, so that a change among thousands does not read all files again.
_remembered: dict[tuple[str, str, AnyRecipe], Encoded] = {}
_MOST_REMEMBERED = 50_000


@lru_cache(maxsize=4096)
def _parameters(recipe: AnyRecipe) -> str:
    """The beginning of a key: function, version and parameters, as JSON without its closing bracket."""
    return json.dumps(["recode", VERSION, recipe.as_json()], sort_keys=True)[:-1]


class Memo:
    """Outcomes of `recode` and `film`, kept beside the bodies under function, version, parameters and digest of the input."""

    def __init__(self, root: Path, store: BodyStore) -> None:
        self.root = root
        self.store = store
        self.hits = 0
        root.mkdir(parents=True, exist_ok=True)

    def _path(self, digest: str, recipe: AnyRecipe) -> Path:
        key = f'{_parameters(recipe)}, "{digest}"]'
        return self.root / (hashlib.sha256(key.encode()).hexdigest() + ".json")

    def known(self, digest: str, recipe: AnyRecipe) -> Encoded | None:
        """The remembered outcome, if its body is still there."""
        key = str(self.root), digest, recipe
        outcome = _remembered.get(key)
        if outcome is None:
            try:
                outcome = Encoded(**json.loads(self._path(digest, recipe).read_text()))
            except (OSError, ValueError, TypeError):
                return None
            if len(_remembered) >= _MOST_REMEMBERED:
                _remembered.clear()
            _remembered[key] = outcome
        if outcome.digest and outcome.digest not in self.store:
            return None
        self.hits += 1
        return outcome

    def keep(self, digest: str, recipe: AnyRecipe, result: Made) -> Encoded:
        """Remember a result, or the reason for none."""
        if isinstance(result, str):
            outcome = Encoded(refused=result)
        else:
            kept = self.store.put(result.data)
            outcome = Encoded(
                kept,
                len(result.data),
                result.format,
                result.width,
                result.height,
                result.quality,
                round(result.likeness, 4),
                result.encodes,
            )
        path = self._path(digest, recipe)
        temporary = path.with_suffix(".part")
        temporary.write_text(json.dumps({name: getattr(outcome, name) for name in Encoded.__slots__}))
        temporary.replace(path)
        return outcome

    def recode(self, digest: str, recipe: AnyRecipe) -> Encoded:
        """The outcome for one image, computed here and now when it is not known."""
        known = self.known(digest, recipe)
        return known or self.keep(digest, recipe, attempt(self.store.path(digest).read_bytes(), recipe))

    def recode_all(
        self, wanted: Sequence[Job], progress: Progress, stage: str, executor: Executor | None = None
    ) -> dict[Job, Encoded]:
        """The outcomes for many images (digest and recipe each), several at a time; raises `Cancelled` at once.

        They run on `executor` if there is one, else where `progress.machines` says, else in processes of this machine.
        An image that takes too long or kills its worker is refused, and the rest goes on.
        """
        outcomes = {job: found for job in dict.fromkeys(wanted) if (found := self.known(*job))}
        waiting = [job for job in dict.fromkeys(wanted) if job not in outcomes]
        total = len(outcomes) + len(waiting)

        def tick() -> None:
            progress.step(stage, len(outcomes), total)

        tick()
        while waiting:
            with workers(executor, progress.machines) as (pool, width):
                alone = _Drain(self, pool, width, outcomes, progress, tick).run(waiting)
            for job in alone:  # one of these broke the pool; each gets a pool of its own to find out which
                with workers(None, "", 1) as (single, _):
                    try:
                        result = single.submit(attempt, self.store.get(job[0]), job[1]).result(seconds_for(job[1]))
                    except (BrokenProcessPool, FutureTimeout, MemoryError):
                        result = _BEYOND_LIMITS
                        kill(single)
                outcomes[job] = self.keep(*job, result)
                tick()
            waiting = [job for job in waiting if job not in outcomes]
        return outcomes


class _Drain:
    """Runs jobs with few in flight, so that memory stays bounded."""

    def __init__(
        self,
        memo: Memo,
        pool: Executor,
        width: int,
        outcomes: dict[Job, Encoded],
        progress: Progress,
        tick: Callable[[], None],
    ) -> None:
        self.memo, self.pool, self.width = memo, pool, width
        self.outcomes, self.progress, self.tick = outcomes, progress, tick
        self.flying: dict[Future[Made], tuple[Job, float]] = {}

    def run(self, jobs: Sequence[Job]) -> list[Job]:
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

    def _launch(self, queue: Iterator[Job]) -> None:
        room = 1 if self.progress.easy() else self.width
        while len(self.flying) < room and (job := next(queue, None)) is not None:
            future = self.pool.submit(attempt, self.memo.store.get(job[0]), job[1])
            self.flying[future] = job, time.monotonic()

    def _land(self, future: Future[Made]) -> float:
        """Keep a result; returns the seconds it took."""
        job, began = self.flying[future]
        try:
            result = future.result()
        except (BrokenProcessPool, MemoryError):
            raise
        except Exception as error:  # `attempt` raises nothing, so this came from those who were to run it
            if type(error).__name__ != "KilledWorker":
                raise MachinesMissing(f"the workers cannot run this version's work ({error})") from error
            result = _BEYOND_LIMITS
        self.outcomes[job] = self.memo.keep(*job, result)
        del self.flying[future]
        return time.monotonic() - began

    def _drop_overdue(self) -> None:
        now = time.monotonic()
        overdue = [f for f, (job, began) in self.flying.items() if began + seconds_for(job[1]) < now]
        if overdue and isinstance(self.pool, ProcessPoolExecutor):
            raise FutureTimeout  # a worker of our own can be killed
        for future in overdue:
            job, _ = self.flying.pop(future)
            future.cancel()
            self.outcomes[job] = self.memo.keep(*job, _BEYOND_LIMITS)


def seconds_for(recipe: AnyRecipe) -> float:
    """How long one job may take, in s."""
    return SECONDS if isinstance(recipe, FilmRecipe) else _SECONDS


def attempt(data: bytes, recipe: AnyRecipe) -> Made:
    """What a worker does: the smaller file, or in words why there is none."""
    try:
        return film(data, recipe) if isinstance(recipe, FilmRecipe) else recode(data, recipe)
    except ImageRefused as error:
        return str(error)
    except MemoryError:
        return _BEYOND_LIMITS
    except (
        Exception
    ) as error:  # decoders and encoders raise all sorts of things; one file must not end the work on all
        return f"could not be treated ({type(error).__name__}: {error})"


@contextmanager
def workers(executor: Executor | None, machines: str = "", count: int = CORES) -> Iterator[tuple[Executor, int]]:
    """Where encodes run, and how many to hand over at a time so that nobody waits for work."""
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
        count, mp_context=context, initializer=_limit_worker, max_tasks_per_child=_IMAGES_OF_ONE_WORKER
    )


_kept: list[ProcessPoolExecutor] = []
_keeping = threading.Lock()


def _pool_of_this_process() -> ProcessPoolExecutor:
    """One pool for all jobs of this process, since its start takes as long as several encodes."""
    with _keeping:
        if not _kept:
            _kept.append(new_pool(CORES))
        return _kept[0]


def _limit_worker() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY))


def kill(pool: Executor) -> None:
    """End worker processes in the middle of what they do."""
    if isinstance(pool, ProcessPoolExecutor):
        with _keeping:
            if pool in _kept:
                _kept.remove(pool)
        for process in list((pool._processes or {}).values()):
            process.kill()
        pool.shutdown(wait=False, cancel_futures=True)
