"""What a weigh-in costs over a bare load of the same page in the same browser."""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

from bench.sites import demo_site
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import DEVICES, Conditions
from unladen.weigh.visits.visit import QUIET
from unladen.weigh.visits.weighing import browser_for, weigh_page

ROUNDS = 5


def measure() -> tuple[str, str, bool]:
    """Both in turn, several times; the medians' ratio."""
    bare, full = [], []
    with tempfile.TemporaryDirectory() as folder:
        capture = demo_site(Path(folder))
        page = capture.page("/index.html")
        conditions = Conditions(DEVICES["desktop"])
        with browser_for(capture) as browser:
            weigh_page(browser, page, conditions)
            for _ in range(ROUNDS):
                begin = time.perf_counter()
                browser.run(bare_load(browser, page.url))
                bare.append(time.perf_counter() - begin)
                begin = time.perf_counter()
                weigh_page(browser, page, conditions)
                full.append(time.perf_counter() - begin)
    ratio = statistics.median(full) / statistics.median(bare)
    return f"{ratio:.2f} times a bare load of {statistics.median(bare):.2f} s", "at most 2", ratio <= 2


async def bare_load(browser: Browser, url: str) -> None:
    """A fresh context, the load event and the same quiet time, and nothing else."""
    context, page = await browser.open(DEVICES["desktop"])
    await page.goto(url, wait_until="load")
    await page.wait_for_timeout(QUIET * 1000)
    await context.close()
