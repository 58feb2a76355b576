"""What all work on a site in a browser shares."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.capture import Capture
from unladen.progress import Progress
from unladen.weigh.chromium.browser import Browser
from unladen.work_cache import WorkCache, work_cache_of


@dataclass(frozen=True, slots=True)
class Session:
    """A browser, the site that it shows, the cache of costly work, and who hears of progress.

    `machines`: address of a scheduler for visits, snapshots and encodes; "" for this machine.
    """

    browser: Browser
    capture: Capture
    work_cache: WorkCache
    progress: Progress

    @classmethod
    def of(cls, browser: Browser, capture: Capture, progress: Progress, machines: str = "") -> Session:
        """A session with the work cache beside the capture's store."""
        return cls(browser, capture, work_cache_of(capture.store, machines), progress)

    @property
    def machines(self) -> str:
        """Where tasks run."""
        return self.work_cache.machines
