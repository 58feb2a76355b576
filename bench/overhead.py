"""How much longer a job on images takes than the encodes in it alone, on the same two cores."""

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
from unladen.work_cache import WorkCache, attempt

IMAGES = 60
LIMIT = 1.3


def measure() -> tuple[str, str, bool]:
    """The encodes alone are mapped over a pool that is up already; the job starts its own, stores and remembers."""
    recipe = Recipe(0, "WEBP", 0.95)
    bodies = [photo(900, 600, seed, grain=5) for seed in range(IMAGES)]
    context = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(2, mp_context=context) as pool:
        list(pool.map(attempt, bodies[:4], [recipe] * 4))
        begin = time.perf_counter()
        list(pool.map(attempt, bodies, [recipe] * IMAGES))
        alone = time.perf_counter() - begin
    with tempfile.TemporaryDirectory() as folder:
        store = BodyStore(Path(folder) / "bodies")
        begin = time.perf_counter()
        jobs = [(store.put(body), recipe) for body in bodies]
        WorkCache(Path(folder) / "memo", store).outcomes(jobs, Progress(), "survey")
        whole = time.perf_counter() - begin
    ratio = whole / alone
    return f"{ratio:.2f} times the encodes alone, {IMAGES} images", f"at most {LIMIT}", ratio <= LIMIT
