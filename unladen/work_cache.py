"""Costly pure functions, bytes in and bytes out, computed once: on several cores, kept by content within a limit.

What is computed is told by a `Work`. Whoever has a new sort of work writes one; nothing here has to know it.
"""

from __future__ import annotations

import hashlib
import json
import os
import threading
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import Executor
from concurrent.futures import TimeoutError as FutureTimeout
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, ClassVar, Protocol

from unladen.atomic_files import write_whole
from unladen.capture.store import BodyStore
from unladen.environment import whole_number
from unladen.errors import Refused
from unladen.executors import STARTS_WITHIN, Drain, kill, limit_memory, time_limit, workers
from unladen.progress import Progress

BEYOND_LIMITS = "exceeded the limits of time or memory"
USUAL_LIMIT = 4_000_000_000  # bytes of bodies; MULE_MEMO_LIMIT
_ROOM = 0.9  # of the limit that is left filled when something had to go


class Made(Protocol):
    """What a work brings: a body, and what is known of it in plain values."""

    @property
    def data(self) -> bytes:
        """The body."""

    def facts(self) -> dict[str, Any]:
        """Plain values that are kept beside it."""


class Work(Protocol):
    """A costly pure function with its parameters; equal works must do the same. It travels to other processes.

    `name` and `version` tell the function: another version, and all is computed anew. `seconds` and `memory` (bytes)
    are its limits; one that took too long beside others gets a few times as long alone.
    """

    name: ClassVar[str]
    version: ClassVar[int]
    seconds: ClassVar[float]
    memory: ClassVar[int]

    def as_json(self) -> dict[str, Any]:
        """The parameters as plain values."""

    def run(self, data: bytes) -> Made:
        """Do it; raises `Refused` with the reason where there is nothing to be made."""


Job = tuple[str, Work]


@dataclass(frozen=True, slots=True)
class Outcome:
    """A remembered outcome: either a body (by digest) with what is known of it, or the reason why there is none."""

    digest: str = ""
    size: int = 0
    refused: str = ""
    facts: Mapping[str, Any] = field(default_factory=dict, hash=False)

    # What pictures and films are known by.
    @property
    def format(self) -> str:
        """The name of its format."""
        return str(self.facts.get("format", ""))

    @property
    def width(self) -> int:
        """Px."""
        return int(self.facts.get("width", 0))

    @property
    def height(self) -> int:
        """Px."""
        return int(self.facts.get("height", 0))

    @property
    def quality(self) -> int:
        """0 for lossless."""
        return int(self.facts.get("quality", 0))

    @property
    def likeness(self) -> float:
        """Similarity to what went in, from 0 to 1."""
        return float(self.facts.get("likeness", 0.0))

    @property
    def encodes(self) -> int:
        """How many tries it took."""
        return int(self.facts.get("encodes", 0))


# Outcomes read before, so that a change among thousands does not read all files again.
_remembered: dict[tuple[str, str, Work], Outcome] = {}
_MOST_REMEMBERED = 50_000
_trimming = threading.Lock()
_LONGER_ALONE = 3  # times: the machine may be busy with what is not ours


def limit_of_environment() -> int:
    """How many bytes a memo may hold: MULE_MEMO_LIMIT, or what is usual."""
    return whole_number("MULE_MEMO_LIMIT", USUAL_LIMIT)


class WorkCache:
    """Results of costly work on the bodies of a store.

    New bodies lie in a store of their own, from which the least recently used go first. A body that is handed over is
    in the other store too and stays there. `machines`: address of a scheduler that work is sent to; "" for processes of
    this machine.
    """

    def __init__(self, root: Path, store: BodyStore, limit: int | None = None, *, machines: str = "") -> None:
        self.root = root
        self.store = store
        self.machines = machines
        self.made = BodyStore(root / "made")
        self.limit = limit_of_environment() if limit is None else limit
        self.hits = 0
        self._unmeasured = 0

    def _path(self, digest: str, work: Work) -> Path:
        key = json.dumps([work.name, work.version, work.as_json(), digest], sort_keys=True)
        return self.root / (hashlib.sha256(key.encode()).hexdigest() + ".json")

    def known(self, digest: str, work: Work) -> Outcome | None:
        """The remembered outcome, if its body is still there."""
        key = str(self.root), digest, work
        outcome = _remembered.get(key)
        if outcome is None:
            path = self._path(digest, work)
            try:
                outcome = _read(path)
                os.utime(path)  # the least recently used goes first
            except (OSError, ValueError, TypeError, KeyError):
                return None
            if len(_remembered) >= _MOST_REMEMBERED:
                _remembered.clear()
            _remembered[key] = outcome
        if outcome.digest and outcome.digest not in self.made and outcome.digest not in self.store:
            return None
        self.hits += 1
        return outcome

    def keep(self, digest: str, work: Work, result: Made | str) -> Outcome:
        """Remember a result, or the reason for none."""
        if isinstance(result, str):
            outcome = Outcome(refused=result)
        else:
            outcome = Outcome(self.made.put(result.data), len(result.data), "", result.facts())
        path = self._path(digest, work)
        record = {
            "work": work.name,
            "digest": outcome.digest,
            "size": outcome.size,
            "refused": outcome.refused,
            "facts": dict(outcome.facts),
        }
        write_whole(path, json.dumps(record))
        self._unmeasured += outcome.size
        if self._unmeasured > self.limit / 20:
            self.trim()
        return outcome

    def body(self, outcome: Outcome) -> bytes:
        """The body of an outcome; raises `KeyError` when it is gone."""
        return self.made.get(outcome.digest) if outcome.digest in self.made else self.store.get(outcome.digest)

    def hand_over(self, outcome: Outcome) -> None:
        """Have an outcome's body in the store of the bodies as found, where whatever happens here does not reach it."""
        if outcome.digest and outcome.digest not in self.store:
            self.store.take_from(self.made, outcome.digest)

    def outcome(self, digest: str, work: Work) -> Outcome:
        """The outcome for one body, computed here and now when it is not known."""
        return self.known(digest, work) or self.keep(digest, work, attempt(self.input(digest), work))

    def outcome_of(self, data: bytes, work: Work) -> Outcome:
        """The outcome for a body that lies in no store."""
        digest = hashlib.sha256(data).hexdigest()
        return self.known(digest, work) or self.keep(digest, work, attempt(data, work))

    def input(self, digest: str) -> bytes:
        """A body to work on: one as found, or one that another work made."""
        return self.store.get(digest) if digest in self.store else self.made.get(digest)

    def outcomes(
        self, wanted: Sequence[Job], progress: Progress, stage: str, executor: Executor | None = None
    ) -> dict[Job, Outcome]:
        """The outcomes for many bodies (digest and work each), several at a time; raises `Cancelled` at once.

        They run on `executor` if there is one, else on the cache's machines, else in processes of this machine.
        A work that takes too long or kills its worker is refused, and the rest goes on.
        """
        outcomes = {job: known for job in dict.fromkeys(wanted) if (known := self.known(*job))}
        waiting = [job for job in dict.fromkeys(wanted) if job not in outcomes]
        total = len(outcomes) + len(waiting)

        def tick() -> None:
            progress.step(stage, len(outcomes), total)

        def land(job: Job, result: Made | str | None) -> None:
            outcomes[job] = self.keep(*job, BEYOND_LIMITS if result is None else result)

        tick()
        while waiting:
            with workers(executor, self.machines) as (pool, width):
                drain: Drain[Job, Made | str] = Drain(pool, width, self._submit, _seconds_for, land, progress, tick)
                alone = drain.run(waiting)
            for job in alone:  # one of these broke the pool; each gets a pool of its own to find out which
                with workers(None, "", 1) as (single, _):
                    result: Made | str | None
                    try:
                        result = self._submit(single, job, _LONGER_ALONE).result(STARTS_WITHIN + _seconds_for(job))
                    except (BrokenProcessPool, FutureTimeout, MemoryError):
                        result = None
                        kill(single)
                land(job, result)
                tick()
            waiting = [job for job in waiting if job not in outcomes]
        return outcomes

    def _submit(self, pool: Executor, job: Job, patience: int = 1) -> Any:
        return pool.submit(attempt, self.input(job[0]), job[1], patience)

    def holds(self) -> dict[str, tuple[int, int]]:
        """For each sort of work the number of outcomes kept and the bytes of their bodies."""
        sums: dict[str, list[int]] = defaultdict(lambda: [0, 0])
        for path in self.root.glob("*.json"):
            try:
                record = json.loads(path.read_text())
                row = sums[str(record.get("work", "of an older version"))]
                row[1] += int(record["size"])
            except (OSError, ValueError, TypeError, KeyError, AttributeError):
                row = sums["unreadable"]
            row[0] += 1
        return {name: (count, size) for name, (count, size) in sorted(sums.items())}

    def trim(self) -> int:
        """Let the least recently used go until the limit is kept; returns the bytes that went."""
        with _trimming:
            self._unmeasured = 0
            rows = sorted(self._rows(), key=lambda row: row[0])
            held = sum(size for _, size, _, _ in rows)
            if held <= self.limit:
                return 0
            gone = 0
            for _, size, path, digest in rows[:-1]:  # never the latest, which somebody is about to use
                if held - gone <= self.limit * _ROOM:
                    break
                path.unlink(missing_ok=True)
                if digest:
                    self.made.drop(digest)
                gone += size
            _remembered.clear()
            return gone

    def _rows(self) -> Iterable[tuple[float, int, Path, str]]:
        for path in self.root.glob("*.json"):
            try:
                outcome = _read(path)
                yield path.stat().st_mtime, outcome.size, path, outcome.digest
            except (OSError, ValueError, TypeError, KeyError):
                yield 0.0, 0, path, ""  # of an older version, or cut off: of no use to anybody


def work_cache_of(store: BodyStore, machines: str = "") -> WorkCache:
    """The work cache that lies beside a store."""
    return WorkCache(Path(store.root).parent / "memo", store, machines=machines)


def _read(path: Path) -> Outcome:
    record = json.loads(path.read_text())
    if not isinstance(record, dict) or not isinstance(record["facts"], dict):
        raise ValueError("is not a result of this version")
    return Outcome(str(record["digest"]), int(record["size"]), str(record["refused"]), record["facts"])


def _seconds_for(job: Job) -> float:
    return job[1].seconds * _LONGER_ALONE


def attempt(data: bytes, work: Work, patience: int = 1) -> Made | str:
    """What a worker does: the outcome, or in words why there is none. It may take `patience` times its seconds."""
    limit_memory(work.memory)
    try:
        with time_limit(work.seconds * patience):
            return work.run(data)
    except Refused as error:
        return str(error)
    except MemoryError:
        return BEYOND_LIMITS
    except (
        Exception
    ) as error:  # decoders and encoders raise all sorts of things; one file must not end the work on all
        return f"failed ({type(error).__name__}: {error})"
