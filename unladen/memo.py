"""Costly pure functions, bytes in and bytes out, computed once: on several cores, kept by content."""

from __future__ import annotations

import hashlib
import json
import multiprocessing
import resource
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from concurrent.futures import TimeoutError as FutureTimeout
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from unladen.capture.store import BodyStore
from unladen.progress import Progress
from unladen.raster.probe import ImageRefused
from unladen.raster.recode import VERSION, Recipe, Recoded, recode

_MEMORY = 3_000_000_000  # address space of a worker process in bytes
_SECONDS = 120  # for one image
CORES = 2
Job = tuple[str, Recipe]


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
    refused: str = ""


class Memo:
    """Outcomes of `recode`, kept beside the bodies under function, version, parameters and digest of the input."""

    def __init__(self, root: Path, store: BodyStore) -> None:
        self.root = root
        self.store = store
        self.hits = 0
        root.mkdir(parents=True, exist_ok=True)

    def _path(self, digest: str, recipe: Recipe) -> Path:
        key = json.dumps(["recode", VERSION, recipe.as_json(), digest], sort_keys=True)
        return self.root / (hashlib.sha256(key.encode()).hexdigest() + ".json")

    def known(self, digest: str, recipe: Recipe) -> Encoded | None:
        """The remembered outcome, if its body is still there."""
        try:
            outcome = Encoded(**json.loads(self._path(digest, recipe).read_text()))
        except (OSError, ValueError, TypeError):
            return None
        if outcome.digest and outcome.digest not in self.store:
            return None
        self.hits += 1
        return outcome

    def keep(self, digest: str, recipe: Recipe, result: Recoded | str) -> Encoded:
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
            )
        path = self._path(digest, recipe)
        temporary = path.with_suffix(".part")
        temporary.write_text(json.dumps({name: getattr(outcome, name) for name in Encoded.__slots__}))
        temporary.replace(path)
        return outcome

    def recode(self, digest: str, recipe: Recipe) -> Encoded:
        """The outcome for one image, computed here and now when it is not known."""
        known = self.known(digest, recipe)
        return known or self.keep(digest, recipe, _attempt(self.store.path(digest).read_bytes(), recipe))

    def recode_all(
        self, wanted: Sequence[Job], progress: Progress, stage: str, executor: Executor | None = None
    ) -> dict[Job, Encoded]:
        """The outcomes for many images (digest and recipe each), several at a time; raises `Cancelled`.

        An image that takes too long or kills its worker is refused, and the rest goes on.
        """
        outcomes = {job: found for job in dict.fromkeys(wanted) if (found := self.known(*job))}
        waiting = [job for job in dict.fromkeys(wanted) if job not in outcomes]
        total = len(outcomes) + len(waiting)
        progress.step(stage, len(outcomes), total)
        while waiting:
            with _pool(executor) as pool:
                alone = _drain(self, pool, waiting, outcomes, lambda: progress.step(stage, len(outcomes), total))
            waiting = [job for job in waiting if job not in outcomes]
            for job in alone:  # one of these broke the pool; each gets a pool of its own to find out which
                with _pool(None, 1) as single:
                    try:
                        result = single.submit(_attempt, self.store.get(job[0]), job[1]).result(_SECONDS)
                    except (BrokenProcessPool, FutureTimeout, MemoryError):
                        result = "could not be treated within the limits of time and memory"
                        _kill(single)
                outcomes[job] = self.keep(*job, result)
                progress.step(stage, len(outcomes), total)
            waiting = [job for job in waiting if job not in outcomes]
        return outcomes


def _drain(
    memo: Memo, pool: Executor, jobs: list[Job], outcomes: dict[Job, Encoded], tick: Callable[[], None]
) -> list[Job]:
    """Run jobs with few in flight, so that memory stays bounded; returns those that were in flight at a crash."""
    queue = iter(jobs)
    flying: dict[Future[Recoded | str], Job] = {}

    def launch() -> None:
        for job in queue:
            flying[pool.submit(_attempt, memo.store.get(job[0]), job[1])] = job
            return

    try:
        for _ in range(CORES + 1):
            launch()
        while flying:
            future = next(iter(flying))
            result = future.result(_SECONDS)
            outcomes[flying[future]] = memo.keep(*flying[future], result)
            del flying[future]
            tick()
            launch()
    except (BrokenProcessPool, FutureTimeout, MemoryError):
        _kill(pool)
        return list(flying.values())
    except BaseException:
        _kill(pool)
        raise
    return []


def _attempt(data: bytes, recipe: Recipe) -> Recoded | str:
    try:
        return recode(data, recipe)
    except ImageRefused as error:
        return str(error)
    except MemoryError:
        return "could not be treated within the limits of time and memory"


@contextmanager
def _pool(executor: Executor | None, workers: int = CORES) -> Iterator[Executor]:
    if executor is not None:
        yield executor
        return
    context = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(workers, mp_context=context, initializer=_limit_worker) as pool:
        yield pool


def _limit_worker() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY))


def _kill(pool: Executor) -> None:
    if isinstance(pool, ProcessPoolExecutor):
        for process in list((pool._processes or {}).values()):
            process.kill()
        pool.shutdown(wait=False, cancel_futures=True)
