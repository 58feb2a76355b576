"""How long work tells where it stands and learns that it should stop."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from unladen.errors import Cancelled


def _ignore(_stage: str, _done: int, _total: int, _note: str) -> None:
    return None


def _never() -> bool:
    return False


@dataclass(slots=True)
class Progress:
    """`report(stage, done, total, note)` is called as work advances; `cancelled()` is asked at every step."""

    report: Callable[[str, int, int, str], None] = field(default=_ignore)
    cancelled: Callable[[], bool] = field(default=_never)

    def step(self, stage: str, done: int, total: int, note: str = "") -> None:
        """Tell where the work stands; raises `Cancelled` when the caller wants it to stop."""
        if self.cancelled():
            raise Cancelled("stopped on request")
        self.report(stage, done, total, note)
