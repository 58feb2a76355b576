"""A batch of jobs for browsers, two side by side."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Collection, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from contextlib import ExitStack
from typing import TypeVar

from unladen.progress import Relay
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.chromium.driver import driver
from unladen.weigh.session import Session
from unladen.weigh.visits.remote import Batch, machine_of, visits_elsewhere

Job = TypeVar("Job")
Done = TypeVar("Done")
_TELL_EVERY = 0.2  # s
_ENDS_WITHIN = 1.0  # s


def _end(lanes: Sequence[Browser], tasks: Collection[Future[None]]) -> None:
    """Have nobody wait for visits that are not wanted any more: a page may take minutes to hear of it."""
    for lane in lanes:
        lane.abort()
    if wait(tasks, _ENDS_WITHIN).not_done:
        driver().abort()


def in_lanes(
    session: Session,
    batch: Batch[Job, Done],
    *,
    serves: bool = False,
    relay: Relay | None = None,
    each: Callable[[Done], None] = lambda _: None,
    alone: bool = False,
) -> list[Done]:
    """The results of a batch, in the order of its jobs, with a second browser unless `alone`; raises `Cancelled`.

    `serves`: both browsers show the session's capture all along. Through a `relay` long jobs report progress and learn
    that they should stop. `each` is called with every result as soon as it is there, in the thread of the caller.
    Where the session has machines and serves, remote tasks run on them; jobs that no machine could do are done here.
    """
    browser, progress, jobs, stage = session.browser, session.progress, batch.jobs, batch.stage
    result: dict[int, Done] = {}
    if session.machines and batch.remote_task is not None and serves:
        result = visits_elsewhere(session, batch, machine_of(browser), each)
    reported = set(result)
    waiting = deque(number for number in range(len(jobs)) if number not in result)
    latest = ""

    def work(lane: Browser) -> None:
        nonlocal latest
        while True:
            try:
                number = waiting.popleft()
            except IndexError:
                return
            latest = batch.note(jobs[number])
            result[number] = batch.work(lane, jobs[number])

    lanes = [browser] if alone or len(waiting) < 2 else [browser, browser.twin()]
    for lane in lanes:
        lane.begin()
    with ExitStack() as serving, ThreadPoolExecutor(len(lanes)) as pool:
        if serves:
            for lane in lanes:
                serving.enter_context(lane.serving(session.capture))
        tasks = {pool.submit(work, lane) for lane in lanes}
        try:
            while tasks:
                if relay:
                    relay.pass_on()
                progress.step(stage, len(result), len(jobs), (relay and relay.said) or latest)
                done, tasks = wait(tasks, _TELL_EVERY, FIRST_COMPLETED)
                for task in done:
                    task.result()
                for number in sorted(result.keys() - reported):
                    reported.add(number)
                    each(result[number])
        except BaseException:
            waiting.clear()
            if relay:
                relay.stop()
            _end(lanes, tasks)
            raise
    if relay:
        relay.pass_on()
    progress.step(stage, len(jobs), len(jobs))
    return [result[number] for number in range(len(jobs))]
