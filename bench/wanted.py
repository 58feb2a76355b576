"""What looking at embeds adds to a weigh-in, and how long our own script keeps a page busy."""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path
from typing import Any
from unittest.mock import patch

from bench.sites import demo_site
from unladen.remedies.loader import LOADER
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import DEVICES, Conditions
from unladen.weigh.visits import visit
from unladen.weigh.visits.weighing import browser_for, weigh_page

ROUNDS, LOADS = 5, 15
_RUNS = 3  # of a weigh-in, as the application takes them
SHARE, BUSY = 0.10, 5.0  # of a weigh-in; ms
# Far more to watch over than a real page has.
_WATCHED = "<script type=text/held data-hold=act></script>" * 20 + "<p data-late=near>x</p>" * 100
_PAGE = (
    "<!doctype html><script>let t=performance.now(),sum=0,at=0;addEventListener('DOMContentLoaded',()=>"
    "at=performance.now(),true)"
    f"</script><script>{LOADER}</script><script>sum=performance.now()-t;document.addEventListener('DOMContentLoaded',"
    f"()=>sum+=performance.now()-at)</script>{_WATCHED}"
)


def measure() -> tuple[str, str, bool]:
    """The share of a weigh-in of the demo's home page that is spent on its embeds; ms of script on a full page."""
    share = statistics.median(_share())
    busy = statistics.median(_busy())
    told = (
        f"embeds take {share:.1%} of a weigh-in of {_RUNS} runs; our script of {len(LOADER)} bytes takes "
        f"{busy:.1f} ms"
    )
    return told, f"under {SHARE:.0%} and under {BUSY:.0f} ms", share < SHARE and busy < BUSY


def _share() -> list[float]:
    found, spent = [], 0.0
    real = visit.find_embeds

    async def timed(*arguments: Any) -> Any:
        nonlocal spent
        begin = time.perf_counter()
        try:
            return await real(*arguments)
        finally:
            spent += time.perf_counter() - begin

    with tempfile.TemporaryDirectory() as folder, patch.object(visit, "find_embeds", timed):
        capture = demo_site(Path(folder))
        with browser_for(capture) as browser:
            for _ in range(ROUNDS):
                spent, begin = 0.0, time.perf_counter()
                weigh_page(browser, capture.page("/index.html"), Conditions(DEVICES["phone"], runs=_RUNS))
                found.append(spent / (time.perf_counter() - begin))
    return found


def _busy() -> list[float]:
    with tempfile.TemporaryDirectory() as folder, browser_for(demo_site(Path(folder))) as browser:
        return [browser.run(_load(browser)) for _ in range(LOADS)]


async def _load(browser: Browser) -> float:
    context, page = await browser.open(DEVICES["phone"])
    await page.set_content(_PAGE)
    busy = float(await page.evaluate("sum"))
    await context.close()
    return busy
