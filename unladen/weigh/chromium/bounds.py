"""The memory that a visited page may take: a process of the browser's that holds more is ended, and the page with
it.
"""

from __future__ import annotations

import asyncio
import contextlib
import os
import signal
from pathlib import Path

from unladen.environment import whole_number
from unladen.weigh.chromium.processes import pages_below

USUAL_LIMIT = 3_000_000_000  # bytes that one process holds for itself; MULE_PAGE_MEMORY
_EVERY = 0.5  # s
_PAGE = os.sysconf("SC_PAGE_SIZE")


async def keep_bounds() -> None:
    """End what takes too much, for as long as this runs. Playwright then tells that the page has crashed."""
    while True:
        await asyncio.sleep(_EVERY)
        limit = whole_number("MULE_PAGE_MEMORY", USUAL_LIMIT)
        for process in pages_below(os.getpid()):
            with contextlib.suppress(OSError, ValueError):
                if _held(process) > limit:
                    os.kill(process, signal.SIGKILL)


def _held(process: int) -> int:
    """Bytes in memory that are its own: what is shared is not given back by ending it."""
    fields = Path(f"/proc/{process}/statm").read_text().split()
    return (int(fields[1]) - int(fields[2])) * _PAGE
