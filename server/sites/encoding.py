"""Single encodes for somebody who is looking: in a process of their own, with limits, beside the web server's."""

from __future__ import annotations

import threading
from concurrent.futures import Executor
from concurrent.futures import TimeoutError as FutureTimeout
from concurrent.futures.process import BrokenProcessPool

from unladen.capture import BodyStore
from unladen.executors import kill, new_pool
from unladen.work_cache import BEYOND_LIMITS, Outcome, Work, attempt, work_cache_of

_SECONDS = 60
_lock = threading.Lock()
_pool: list[Executor] = []


def encoded(store: BodyStore, digest: str, work: Work) -> Outcome:
    """The outcome, from the memo if it is known."""
    work_cache = work_cache_of(store)
    if known := work_cache.known(digest, work):
        return known
    with _lock:
        if not _pool:
            _pool.append(new_pool(1))
        pool = _pool[0]
    try:
        result = pool.submit(attempt, work_cache.input(digest), work).result(_SECONDS)
    except (BrokenProcessPool, FutureTimeout, RuntimeError):
        with _lock:
            if pool in _pool:
                _pool.remove(pool)
        kill(pool)
        result = BEYOND_LIMITS
    return work_cache.keep(digest, work, result)
