"""Many jobs for browsers, two of them side by side."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Sequence
from concurrent.futures import FIRST_COMPLETED, ThreadPoolExecutor, wait
from contextlib import ExitStack
from typing import TypeVar

from unladen.capture import Capture
from unladen.progress import Progress, Relay
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.visits.remote import RemoteTask, machine_of, visits_elsewhere

Job = TypeVar("Job")
Done = TypeVar("Done")
_TELL_EVERY = 0.2  # s


def in_lanes(
    browser: Browser,
    jobs: Sequence[Job],
    one: Callable[[Browser, Job], Done],
    progress: Progress,
    stage: str,
    note: Callable[[Job], str],
    *,
    served: Capture | None = None,
    relay: Relay | None = None,
    each: Callable[[Done], None] = lambda _: None,
    alone: bool = False,
    remote_task: Callable[[Job], RemoteTask] | None = None,
) -> list[Done]:
    """The outcomes of `one` for all jobs, in their order, with a second browser unless `alone`; raises `Cancelled`.

    Both browsers have the same capture `served` all along, if it is given. Through a `relay` long jobs tell where
    they stand, and hear that they should stop. `each` is called with every outcome as soon as it is there, in the
    thread of the caller. Where `progress` has machines and the jobs are visits to `served` that can be made there,
    each an `remote_task`, they are; what no machine could do is done here.
    """
    found: dict[int, Done] = {}
    if progress.machines and remote_task is not None and served is not None:
        found = visits_elsewhere(served, jobs, remote_task, machine_of(browser), progress, stage, note, each)
    told = set(found)
    waiting = deque(number for number in range(len(jobs)) if number not in found)
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

    lanes = [browser] if alone or len(waiting) < 2 else [browser, browser.twin()]
    with ExitStack() as serving, ThreadPoolExecutor(len(lanes)) as pool:
        if served is not None:
            for lane in lanes:
                serving.enter_context(lane.serving(served))
        tasks = {pool.submit(work, lane) for lane in lanes}
        try:
            while tasks:
                if relay:
                    relay.pass_on()
                progress.step(stage, len(found), len(jobs), (relay and relay.said) or latest)
                done, tasks = wait(tasks, _TELL_EVERY, FIRST_COMPLETED)
                for task in done:
                    task.result()
                for number in sorted(found.keys() - told):
                    told.add(number)
                    each(found[number])
        except BaseException:
            waiting.clear()
            if relay:
                relay.stop()
            raise
    if relay:
        relay.pass_on()
    progress.step(stage, len(jobs), len(jobs))
    return [found[number] for number in range(len(jobs))]
