"""Weighing and looking at pages on workers: what a page costs, what goes over the line, and what a second worker
brings.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

RATIO = 1.4  # of two workers over one, on two cores that the scheduler and this process use too
_PAGES = 24


def _start(module: str, *arguments: str) -> tuple[subprocess.Popen[str], str]:
    root = Path(__file__).resolve().parent.parent
    command = [sys.executable, "-m", "distributed.cli." + module, "--no-dashboard", "--host", "127.0.0.1", *arguments]
    child = subprocess.Popen(command, stderr=subprocess.PIPE, text=True, env=os.environ | {"PYTHONPATH": str(root)})
    assert child.stderr is not None
    for line in child.stderr:
        if found := re.search(r"(?:Scheduler|worker) at:\s+(tcp://\S+)", line):
            threading.Thread(target=child.stderr.read, daemon=True).start()
            return child, found[1]
    raise RuntimeError(f"{module} did not start")


def measure() -> tuple[str, str, bool]:
    """Seconds a page by one worker and by two, of weighing and of a look at rest; bytes sent for each page."""
    from bench.kinds import make_site
    from unladen.capture import BodyStore, read_folder
    from unladen.check.page_checks import PageChecks
    from unladen.progress import Progress
    from unladen.weigh.records.conditions import DEVICES, Conditions
    from unladen.weigh.session import Session
    from unladen.weigh.visits.remote import digests_of
    from unladen.weigh.visits.weighing import browser_for, weigh_pages
    from unladen.work_cache import WorkCache

    children = []
    try:
        scheduler, address = _start("dask_scheduler", "--port", "0")
        children.append(scheduler)
        took: dict[int, tuple[float, float]] = {}
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name) / "site"
            folder.mkdir()
            make_site(folder, _PAGES)
            capture = read_folder(folder, BodyStore(Path(name) / "bodies"))
            pages, phone = capture.pages(), DEVICES["phone"]
            bodies = sum(len(capture.store.get(digest)) for digest in digests_of(capture))
            with browser_for(capture) as browser:
                for count in (1, 2):
                    children.append(_start("dask_worker", address, "--nthreads", "1", "--no-nanny")[0])
                    session = Session.of(browser, capture, Progress(), address)
                    conditions = [Conditions(phone, runs=1)]
                    # The first visits bring the site and start browsers.
                    weigh_pages(session, pages[: 2 * count], conditions)
                    begin = time.perf_counter()
                    weigh_pages(session, pages, conditions)
                    weighed = time.perf_counter() - begin
                    begin = time.perf_counter()
                    page_checks = PageChecks(browser, WorkCache(Path(name) / f"memo{count}", capture.store))
                    page_checks.look_elsewhere(session, [capture], pages, [phone])
                    took[count] = weighed, time.perf_counter() - begin
    finally:
        for child in children[::-1]:
            child.kill()
            child.wait()
    (weigh, snapshot), (weigh_two, look_two) = took[1], took[2]
    ratio = (weigh + snapshot) / (weigh_two + look_two)
    return (
        f"a page weighed in {weigh / _PAGES:.2f} s by one worker, {weigh_two / _PAGES:.2f} by two; looked at and "
        "walked over in "
        f"{snapshot / _PAGES:.2f} s, {look_two / _PAGES:.2f} by two: {ratio:.2f} times; "
        f"{bodies / _PAGES / 1000:.0f} kB a page sent, once",
        f"{RATIO:.1f} times by a second worker",
        ratio >= RATIO,
    )
