"""The browser's processes, ended from outside: a page that floods leaves no way through its own messages."""

from __future__ import annotations

import contextlib
import os
import signal
from collections.abc import Iterable, Iterator
from pathlib import Path

_OF_A_PAGE = b"--type=renderer"


def below(process: int) -> Iterator[int]:
    """The processes that a process has started, and those that they have."""
    with contextlib.suppress(OSError):
        for thread in Path(f"/proc/{process}/task").iterdir():
            for child in (thread / "children").read_text().split():
                yield int(child)
                yield from below(int(child))


def pages_below(process: int) -> Iterator[int]:
    """Those of them that hold pages."""
    for child in below(process):
        with contextlib.suppress(OSError):
            if _OF_A_PAGE in Path(f"/proc/{child}/cmdline").read_bytes():
                yield child


def end(processes: Iterable[int]) -> None:
    """End processes at once."""
    for process in list(processes):
        with contextlib.suppress(ProcessLookupError):
            os.kill(process, signal.SIGKILL)
