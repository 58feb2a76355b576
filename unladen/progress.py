"""How long work tells where it stands and learns that it should stop."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum

from unladen.errors import Cancelled, SetDown


def _ignore(_stage: str, _done: int, _total: int, _note: str) -> None:
    return None


def _never() -> bool:
    return False


def _keep_to_oneself(_proof: Proof) -> None:
    return None


_NAP = 0.2  # s


class Proven(StrEnum):
    """How far a check has come with a page on a device."""

    AT_REST = "same at rest"
    SAME = "same"
    DIFFERS = "differs"
    CANNOT = "cannot be compared"


@dataclass(frozen=True, slots=True)
class Proof:
    """What a check has found of a page (its path) on a device so far.

    `text`: what differs, or why it cannot be compared.
    """

    page: str
    device: str
    proven: Proven
    text: str = ""


@dataclass(slots=True)
class Progress:
    """`report(stage, done, total, note)` is called as work advances; `cancelled()` is asked at every step. `found` is
    told what a check finds of each page as soon as it does.

    While `paused()` is true a step does not return. `easy()` asks for one thing at a time, with rests between.
    `patience`: how long (s) a paused step waits before it raises `SetDown`, which is a `Cancelled`; for ever without
    one.
    """

    report: Callable[[str, int, int, str], None] = field(default=_ignore)
    cancelled: Callable[[], bool] = field(default=_never)
    paused: Callable[[], bool] = field(default=_never)
    easy: Callable[[], bool] = field(default=_never)
    patience: float | None = None
    found: Callable[[Proof], None] = field(default=_keep_to_oneself)

    def step(self, stage: str, done: int, total: int, note: str = "") -> None:
        """Tell where the work stands; raises `Cancelled` when the caller wants it to stop."""
        self.check()
        self.report(stage, done, total, note)

    def check(self) -> None:
        """Wait while paused; raises `Cancelled` when the caller wants the work to stop."""
        began = time.monotonic()
        while True:
            if self.cancelled():
                raise Cancelled("stopped on request")
            if not self.paused():
                return
            if self.patience is not None and time.monotonic() - began > self.patience:
                raise SetDown("paused")
            time.sleep(_NAP)

    def rest(self, seconds: float) -> None:
        """Leave the machine to others for a while; raises `Cancelled` at once when asked to stop."""
        end = time.monotonic() + seconds
        while (left := end - time.monotonic()) > 0:
            self.check()
            time.sleep(min(_NAP, left))


def time_left(spent: float, done: int, total: int) -> float | None:
    """Seconds that the rest of a stage takes if it goes on as it did, None where nothing is done yet."""
    return spent / done * (total - done) if 0 < done <= total else None


class Relay:
    """Progress for other threads, where what tells and asks may be called in one thread only.

    Theirs is `there`. The one thread calls `pass_on` now and then, so that they hear of pauses and such, and `stop`
    when it gives up; `said` is the note that they gave last.
    """

    def __init__(self, progress: Progress) -> None:
        self._progress = progress
        self._paused = self._stopped = False
        self._easy = progress.easy()
        self.said = ""
        self._proofs: deque[Proof] = deque()
        self.there = Progress(
            self._say,
            lambda: self._stopped,
            lambda: self._paused,
            lambda: self._easy,
            found=self._proofs.append,
        )

    def _say(self, _stage: str, _done: int, _total: int, note: str) -> None:
        self.said = note

    def pass_on(self) -> None:
        """Hear what is wanted, and let the others know; tell what they found."""
        while self._proofs:
            self._progress.found(self._proofs.popleft())
        self._paused, self._easy = self._progress.paused(), self._progress.easy()

    def stop(self) -> None:
        """Have the others stop: their next step raises `Cancelled`."""
        self._stopped = True
