"""How much faster two cores are than one at making images smaller."""

from __future__ import annotations

import multiprocessing
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from tests.sites import photo
from unladen.capture import BodyStore
from unladen.progress import Progress
from unladen.raster.recode import Recipe
from unladen.work_cache import WorkCache

IMAGES = 16


def measure() -> tuple[str, str, bool]:
    """The same images through one worker process and through two, both started before the clock."""
    times = []
    for workers in (1, 2):
        context = multiprocessing.get_context("spawn")
        with tempfile.TemporaryDirectory() as folder, ProcessPoolExecutor(workers, mp_context=context) as pool:
            store = BodyStore(Path(folder) / "bodies")
            work_cache = WorkCache(Path(folder) / "memo", store)
            jobs = [(store.put(photo(900, 600, seed)), Recipe(0, "WEBP", 0.9)) for seed in range(IMAGES)]
            warm = [(store.put(photo(60, 40, seed)), Recipe(0, "WEBP", 0.9)) for seed in range(4)]
            work_cache.outcomes(warm, Progress(), "warm", pool)
            begin = time.perf_counter()
            work_cache.outcomes(jobs, Progress(), "survey", pool)
            times.append(time.perf_counter() - begin)
    ratio = times[0] / times[1]
    return f"{ratio:.2f} times one core", "at least 1.8", ratio >= 1.8
