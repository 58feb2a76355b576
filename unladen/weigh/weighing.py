"""Weigh-ins of pages: several runs, the median kept."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.progress import Progress
from unladen.replay import ReplayServer
from unladen.weigh.browser import Browser
from unladen.weigh.conditions import Conditions
from unladen.weigh.model import Visit, WeighIn
from unladen.weigh.visit import visit


def weigh_page(browser: Browser, page: Exchange, conditions: Conditions, *, picture: bool = False) -> WeighIn:
    """The weigh-in of one page; the run with the median load time is kept (the lower one of an even number)."""
    runs: list[Visit] = []
    for number in range(max(1, conditions.runs)):
        runs.append(browser.run(visit(browser, page.url, conditions, picture=picture and number == 0)))
    times = [run.load_ms for run in runs]
    order = sorted(range(len(runs)), key=lambda i: (times[i], i))
    kept = runs[order[(len(order) - 1) // 2]]
    kept.picture = runs[0].picture
    path = site_path(browser.replay.capture.base_url, page.url)
    return WeighIn(path, conditions, kept, times, f"Chromium {browser.version}")


def weigh_pages(
    browser: Browser,
    capture: Capture,
    pages: Sequence[Exchange],
    conditions: Sequence[Conditions],
    progress: Progress,
    *,
    stage: str = "weigh",
    pictures: bool = False,
) -> list[WeighIn]:
    """Weigh-ins of all pages under all conditions, in that order; raises `Cancelled`."""
    browser.replay.capture = capture
    weigh_ins: list[WeighIn] = []
    total = len(pages) * len(conditions)
    for page in pages:
        for condition in conditions:
            note = f"{site_path(capture.base_url, page.url)}, {condition.device.name}"
            progress.step(stage, len(weigh_ins), total, note)
            weigh_ins.append(weigh_page(browser, page, condition, picture=pictures))
    progress.step(stage, total, total)
    return weigh_ins


@contextmanager
def browser_for(capture: Capture) -> Iterator[Browser]:
    """A browser bound to a replay server of its own; raises `BrowserMissing`."""
    with ReplayServer(capture) as replay, Browser(replay) as browser:
        yield browser
