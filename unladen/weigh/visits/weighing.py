"""Weigh-ins of pages: several runs, the median kept, two browsers side by side."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.replay import ReplayServer
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import Conditions
from unladen.weigh.records.model import PageFacts, Visit, WeighIn
from unladen.weigh.session import Session
from unladen.weigh.visits.lanes import in_lanes
from unladen.weigh.visits.remote import Batch, RemoteTask
from unladen.weigh.visits.visit import visit

_WORTH_A_SECOND_BROWSER = 3  # visits; its start takes about as long as one


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
    session: Session,
    pages: Sequence[Exchange],
    conditions: Sequence[Conditions],
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
    capture = session.capture
    wanted = [(page, condition) for page in pages for condition in conditions]
    visits = sum(condition.runs * (2 if condition.visit == "repeat" else 1) for _, condition in wanted)

    def one(lane: Browser, job: tuple[Exchange, Conditions]) -> WeighIn:
        return weigh_page(lane, *job, picture=pictures, layout=layouts)

    def note(job: tuple[Exchange, Conditions]) -> str:
        return f"{site_path(capture.base_url, job[0].url)}, {job[1].device.name}"

    def remote_task(job: tuple[Exchange, Conditions]) -> RemoteTask:
        return RemoteTask(_weigh_there, (job[0].url, job[1], pictures, layouts))

    alone = visits < _WORTH_A_SECOND_BROWSER
    batch = Batch(stage, wanted, one, note, remote_task)
    return in_lanes(session, batch, serves=True, each=each, alone=alone)


def _weigh_there(
    browser: Browser, capture: Capture, url: str, conditions: Conditions, picture: bool, layout: bool
) -> WeighIn:
    return weigh_page(browser, capture.exchanges[url], conditions, picture=picture, layout=layout)


def weigh_lacking(
    session: Session,
    pages: Sequence[Exchange],
    conditions: Sequence[Conditions],
    known: Mapping[tuple[str, Conditions], WeighIn],
    *,
    stage: str = "weigh",
    pictures: bool = False,
    layouts: bool = False,
    each: Callable[[WeighIn], None] = lambda _: None,
) -> list[WeighIn]:
    """Weigh-ins of all pages under all conditions, in that order, of which those that are not `known` are made now.

    Raises `Cancelled`. `each` gets those that are made.
    """
    capture, weigh_ins = session.capture, dict(known)
    lacking: dict[tuple[Conditions, ...], list[Exchange]] = {}
    for page in pages:
        path = site_path(capture.base_url, page.url)
        if missing := tuple(condition for condition in conditions if (path, condition) not in weigh_ins):
            lacking.setdefault(missing, []).append(page)
    for wanted, some in lacking.items():
        for weigh_in in weigh_pages(
            session, some, wanted, stage=stage, pictures=pictures, layouts=layouts, each=each
        ):
            weigh_ins[weigh_in.page, weigh_in.conditions] = weigh_in
    return [weigh_ins[site_path(capture.base_url, page.url), condition] for page in pages for condition in conditions]


@contextmanager
def browser_for(capture: Capture) -> Iterator[Browser]:
    """A browser bound to a replay server of its own; raises `BrowserMissing`."""
    with ReplayServer(capture) as replay, Browser(replay) as browser:
        yield browser
