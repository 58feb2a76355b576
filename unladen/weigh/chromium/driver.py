"""One driver of browsers for the whole process, on a loop of its own: its program takes longer to start than a
browser.
"""

from __future__ import annotations

import asyncio
import atexit
import contextlib
import os
import threading
from collections.abc import Coroutine
from pathlib import Path
from typing import Any, TypeVar

from playwright.async_api import Browser, Playwright, async_playwright
from playwright.async_api import Error as PlaywrightError

from unladen.weigh.chromium.bounds import keep_bounds
from unladen.weigh.chromium.processes import below, end

T = TypeVar("T")
_ENDS_WITHIN = 5.0  # s
_PROGRAM = b"playwright/driver"
_LAST_TURN = 0.01  # s


class Driver:
    """Starts browsers; all that concerns them runs on its loop. Its program is started when first needed."""

    def __init__(self) -> None:
        self._loop = asyncio.new_event_loop()
        self._loop.set_exception_handler(self._heard)
        self.has_aborted = False  # browsers, or its own program
        self._thread = threading.Thread(target=self._loop.run_forever, name="browsers", daemon=True)
        self._thread.start()
        self._playwright: Playwright | None = None
        self._starting = asyncio.Lock()
        self._bounds = asyncio.run_coroutine_threadsafe(keep_bounds(), self._loop)

    def run(self, work: Coroutine[Any, Any, T]) -> T:
        """The result of a coroutine on the loop; not to be called from there."""
        return asyncio.run_coroutine_threadsafe(work, self._loop).result()

    async def launch(self, **options: Any) -> Browser:
        """A new browser, where the program had died with a new program; raises Playwright's `Error`."""
        first = await self._program(None)
        try:
            return await first.chromium.launch(**options)
        except PlaywrightError:
            # Whether it is the browser's fault or the program's does not show.
            return await (await self._program(first)).chromium.launch(**options)

    async def _program(self, failed: Playwright | None) -> Playwright:
        async with self._starting:
            if self._playwright is None or self._playwright is failed:
                self._playwright = await async_playwright().start()
            return self._playwright

    def abort(self) -> None:
        """End the program at once: whatever waits for it fails. It starts again with the next browser."""
        self.has_aborted = True
        for child in below(os.getpid()):
            with contextlib.suppress(OSError):
                if _PROGRAM in Path(f"/proc/{child}/cmdline").read_bytes():
                    end([child])

    def _heard(self, loop: asyncio.AbstractEventLoop, context: dict[str, Any]) -> None:
        """What nobody waits for any more, since it was ended, is no news."""
        if not (self.has_aborted and isinstance(context.get("exception"), Exception)):
            loop.default_exception_handler(context)

    def stop(self) -> None:
        """End the program, at the end of the process."""
        if self._playwright is not None:
            ending = asyncio.run_coroutine_threadsafe(self._playwright.stop(), self._loop)
            with contextlib.suppress(Exception):
                ending.result(_ENDS_WITHIN)
        self._bounds.cancel()
        # What was cancelled has its last turn before the loop ends.
        self._loop.call_soon_threadsafe(self._loop.call_later, _LAST_TURN, self._loop.stop)
        self._thread.join(_ENDS_WITHIN)


_only: list[Driver] = []
_making = threading.Lock()


def driver() -> Driver:
    """The one of this process."""
    with _making:
        if not _only:
            _only.append(Driver())
            atexit.register(_only[0].stop)
        return _only[0]
