"""How long a build takes after one change of a plan was switched off, for a site of 100 files."""

from __future__ import annotations

import statistics
import tempfile
import time
from dataclasses import replace
from pathlib import Path

from bench.sites import many_files
from tests.plans import change as made
from unladen.build import build
from unladen.plan import Plan
from unladen.work_cache import WorkCache

LIMIT = 0.5  # s


def measure() -> tuple[str, str, bool]:
    """The median over switching off each of several changes."""
    with tempfile.TemporaryDirectory() as folder:
        capture = many_files(Path(folder))
        work_cache = WorkCache(Path(folder) / "memo", capture.store)
        pages = tuple("/" + page.path for page in capture.pages())
        images = ["/" + e.path for e in capture if e.media_type == "image/jpeg"]
        changes = [made(f"shrink:{p}", "shrink", (p,), pages, {"width": 400, "similarity": 0.9}) for p in images]
        changes += [made(f"webp:{p}", "webp", (p,), pages, {"similarity": 0.9}) for p in images]
        changes += [made(f"lazy-images:{p}", "lazy-images", tuple(images), (p,)) for p in pages]
        plan = Plan("steady", tuple(changes))
        build(capture, plan, work_cache)
        times = []
        for change in changes[:5] + changes[-5:]:
            begin = time.perf_counter()
            without = plan.changed(lambda c, off=change: replace(c, on=c.id != off.id))  # type: ignore[misc]
            build(capture, without, work_cache)
            times.append(time.perf_counter() - begin)
        middle = statistics.median(times)
    return f"{middle:.2f} s for {len(capture)} files and {len(changes)} changes", f"under {LIMIT} s", middle < LIMIT
