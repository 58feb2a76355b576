"""Weigh-ins of pages: several runs, the median kept, two browsers side by side."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, ThreadPoolExecutor, wait
from contextlib import ExitStack, contextmanager
from datetime import UTC, datetime
from typing import TypeVar

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.progress import Progress
from unladen.replay import ReplayServer
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import Conditions
from unladen.weigh.records.model import PageFacts, Visit, WeighIn
from unladen.weigh.visits.visit import visit

Job = TypeVar("Job")
Done = TypeVar("Done")

_WORTH_A_SECOND_BROWSER = 3  # visits; its start takes about as long as one
_TELL_EVERY = 0.3  # s


def weigh_page(
    browser: Browser, page: Exchange, conditions: Conditions, *, picture: bool = False, layout: bool = False
) -> WeighIn:
    """The weigh-in of one page; the run with the median load time is kept (the lower one of an even number).

    What does not change from run to run, such as where images stand, is asked in the first run alone.
    """
    runs: list[Visit] = []
    facts = PageFacts()
    for number in range(conditions.runs):
        first = number == 0
        more = number + 1 < conditions.runs
        run = visit(
            browser, page.url, conditions, picture=picture and first, facts=first, layout=layout and first, more=more
        )
        measured, asked = browser.run(run)
        runs.append(measured)
        facts = asked if first else facts
    order = sorted(range(len(runs)), key=lambda i: (runs[i].timings.load, i))
    kept = runs[order[(len(order) - 1) // 2]]
    path = site_path(browser.replay.capture.base_url, page.url)
    taken = datetime.now(UTC).isoformat(timespec="seconds")
    return WeighIn(path, conditions, kept, facts, [run.timings for run in runs], f"Chromium {browser.version}", taken)


def weigh_pages(
    browser: Browser,
    capture: Capture,
    pages: Sequence[Exchange],
    conditions: Sequence[Conditions],
    progress: Progress,
    *,
    stage: str = "weigh",
    pictures: bool = False,
    layouts: bool = False,
    each: Callable[[WeighIn], None] = lambda _: None,
) -> list[WeighIn]:
    """Weigh-ins of all pages under all conditions, in that order; raises `Cancelled`.

    `each` gets every one as soon as it is there, in the thread of the caller. Most of a visit is waiting, so a second
    browser with a replay server of its own takes every other one.
    """
    wanted = [(page, condition) for page in pages for condition in conditions]
    visits = sum(condition.runs * (2 if condition.visit == "repeat" else 1) for _, condition in wanted)

    def one(lane: Browser, job: tuple[Exchange, Conditions]) -> WeighIn:
        return weigh_page(lane, *job, picture=pictures, layout=layouts)

    def note(job: tuple[Exchange, Conditions]) -> str:
        return f"{site_path(capture.base_url, job[0].url)}, {job[1].device.name}"

    alone = visits < _WORTH_A_SECOND_BROWSER
    return in_lanes(browser, capture, wanted, one, progress, stage, note, each=each, alone=alone)


def in_lanes(
    browser: Browser,
    capture: Capture,
    jobs: Sequence[Job],
    one: Callable[[Browser, Job], Done],
    progress: Progress,
    stage: str,
    note: Callable[[Job], str],
    *,
    each: Callable[[Done], None] = lambda _: None,
    alone: bool = False,
) -> list[Done]:
    """The outcomes of `one` for all jobs, in their order, with a second browser unless `alone`; raises `Cancelled`.

    `each` is called with every one as soon as it is there, in the thread of the caller.
    """
    told: set[int] = set()
    found: dict[int, Done] = {}
    waiting = deque(range(len(jobs)))
    latest = ""

    def work(lane: Browser) -> None:
        nonlocal latest
        while True:
            try:
                number = waiting.popleft()
            except IndexError:
                return
            latest = note(jobs[number])
            found[number] = one(lane, jobs[number])

    lanes = [browser] if alone or len(jobs) < 2 else [browser, browser.twin()]
    with ExitStack() as served, ThreadPoolExecutor(len(lanes)) as pool:
        for lane in lanes:
            served.enter_context(lane.serving(capture))
        tasks = {pool.submit(work, lane) for lane in lanes}
        try:
            while tasks:
                progress.step(stage, len(found), len(jobs), latest)
                done, tasks = wait(tasks, _TELL_EVERY, FIRST_COMPLETED)
                for task in done:
                    task.result()
                for number in sorted(found.keys() - told):
                    told.add(number)
                    each(found[number])
        except BaseException:
            waiting.clear()
            raise
    progress.step(stage, len(jobs), len(jobs))
    return [found[number] for number in range(len(jobs))]


@contextmanager
def browser_for(capture: Capture) -> Iterator[Browser]:
    """A browser bound to a replay server of its own; raises `BrowserMissing`."""
    with ReplayServer(capture) as replay, Browser(replay) as browser:
        yield browser
