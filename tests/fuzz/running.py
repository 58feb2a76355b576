"""One damaged file after the other, and what came of them."""

from __future__ import annotations

import signal
import tempfile
import time
import traceback
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from tests.fuzz.mutate import mutated
from tests.fuzz.targets import ALLOWED, Target

# Far beyond what any of these small files takes on a busy machine: what is still at work by then hangs.
HANGS = 120  # s


class Hung(BaseException):
    """It did not come to an end."""


@dataclass(slots=True)
class Report:
    """How many files were read and refused; `faults` by seed with the end of the traceback."""

    read: int = 0
    refused: int = 0
    slowest: float = 0.0
    faults: dict[str, str] = field(default_factory=dict)

    def __str__(self) -> str:
        return (
            f"{self.read + self.refused + len(self.faults):,} files: {self.read:,} read, {self.refused:,} refused, "
            f"{len(self.faults)} faults; the slowest took {self.slowest:.1f} s"
        )


def tell(name: str, report: Report) -> bool:
    """Print what came of a target's files; whether there was a fault."""
    print(f"{name:<10} {report}", flush=True)
    for called, told in report.faults.items():
        print(f"  {called}\n{told}", flush=True)
    return bool(report.faults)


@contextmanager
def _guard() -> Iterator[None]:
    def ring(*_: object) -> None:
        raise Hung

    before = signal.signal(signal.SIGALRM, ring)
    signal.alarm(HANGS)
    try:
        yield
    finally:
        signal.alarm(0)
        signal.signal(signal.SIGALRM, before)


def feed(target: Target, data: bytes, name: str, report: Report) -> None:
    """One file; what comes of it goes into the report. To be called in the main thread."""
    begin = time.monotonic()
    with tempfile.TemporaryDirectory(prefix="mule-fuzz-") as folder:
        try:
            with _guard():
                target.feed(data, Path(folder))
            report.read += 1
        except ALLOWED:
            report.refused += 1
        except (Exception, Hung):
            report.faults[name] = "".join(traceback.format_exc(limit=-4))
    report.slowest = max(report.slowest, time.monotonic() - begin)


def run(name: str, target: Target, seeds: Iterator[int], report: Report) -> None:
    """Damaged copies of the target's good files, one for each number."""
    for number in seeds:
        seed = f"{name} {number}"
        feed(target, mutated(target.seeds[number % len(target.seeds)], seed), seed, report)
