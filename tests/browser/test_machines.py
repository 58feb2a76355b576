"""Weighing, walking and checking on other machines: a real scheduler and two workers with browsers of their own."""

from __future__ import annotations

from dataclasses import replace
from typing import Any
from unittest import mock

from tests.machines import MachinesCase
from tests.sites import page, photo
from unladen.capture import Capture
from unladen.executors import MachinesMissing
from unladen.lighten import Lightened, lighten
from unladen.progress import Progress
from unladen.weigh.records.conditions import DEVICES
from unladen.weigh.records.model import WeighIn
from unladen.weigh.session import Session
from unladen.weigh.visits import remote
from unladen.weigh.visits.walk import walk_pages
from unladen.weigh.visits.weighing import browser_for

HEAD = (
    "<meta name=viewport content='width=device-width'><style>img{width:100px;height:auto;"
    "display:block}.gone{color:red}</style>"
)
PAGES = 4


class Elsewhere(MachinesCase):
    def site(self) -> Capture:
        files = {"index.html": page("<h1>Home</h1><a href=p1.html>one</a>", HEAD)}
        for number in range(1, PAGES):
            files[f"p{number}.html"] = page(
                f"<h1>{number}</h1><img src={number}.jpg alt=x><button>Press</button>", HEAD
            )
            files[f"{number}.jpg"] = photo(500, 300, number)
        return self.capture(files)

    def figures(self, weigh_ins: list[WeighIn]) -> list[Any]:
        return [
            (
                w.page,
                w.conditions.key,
                [(r.url, r.transferred, r.status) for r in w.visit.requests],
                len(w.facts.images),
            )
            for w in weigh_ins
        ]

    def told(self, found: Lightened) -> Any:
        standing = {id: outcome.standing for id, outcome in found.outcomes.by_change.items()}
        pairs = [(pair.page, pair.device, pair.passed, pair.steps) for pair in found.pairs]
        return self.figures([*found.before]), self.figures(found.after), standing, pairs, found.account.rows()

    def test_the_same_comes_out_though_a_worker_is_killed_in_the_middle(self) -> None:
        address = self.scheduler_and_workers(2)
        victim = self.children[-1]
        stages: set[str] = set()

        def report(stage: str, done: int, _total: int, _note: str) -> None:
            stages.add(stage)
            if stage == "check" and done >= 2:
                victim.kill()

        site = self.site()
        there = lighten(site, "steady", Progress(report), devices=["phone"], machines=address)
        self.assertIsNotNone(victim.wait(20))
        here_folder = self.folder / "alone"
        here_folder.mkdir()
        self.assertEqual(self.told(there), self.told(self.alone(site)))
        self.assertLessEqual({"weigh", "check", "weigh again"}, stages)
        self.assertTrue(there.account.adds_up())

    def alone(self, site: Capture) -> Lightened:
        """The same on this machine, with nothing remembered."""
        from unladen.capture import BodyStore

        store = BodyStore(self.folder / "alone" / "bodies")
        for exchange in site:
            store.put(site.body(exchange))
        return lighten(Capture.from_index(site.to_index(), store), "steady", Progress(), devices=["phone"])

    def test_walks_and_what_they_leave_in_the_store(self) -> None:
        address = self.scheduler_and_workers(1)
        site = self.site()
        devices = [DEVICES["phone"]]
        with browser_for(site) as browser:
            there = walk_pages(Session.of(browser, site, Progress(), address), site.pages(), devices, {})
            here = walk_pages(Session.of(browser, site, Progress()), site.pages(), devices, {})
        self.assertEqual([walk.to_record() for walk in there], [walk.to_record() for walk in here])
        self.assertTrue(all(walk.steps for walk in there))

    def test_a_body_travels_once_to_each_worker(self) -> None:
        address = self.scheduler_and_workers(1)
        site = self.site()

        def visits(capture: Capture, count: int) -> list[int]:
            with browser_for(capture) as browser:
                session = Session.of(browser, capture, Progress(), address)
                found = remote.visits_elsewhere(session, _sizing(count), remote.machine_of(browser))
            return [found[number] for number in range(count)]

        first = visits(site, 3)
        self.assertEqual(len(set(first)), 1)
        # Of another version of the site only the file that changed travels, and the list of its files.
        old = site.page("/p1.html")
        body = page("<p>New words")
        new = replace(old, digest=self.store.put(body), size=len(body))
        self.assertEqual(visits(site.with_changes([new]), 1), [first[0] + 2])

    def test_a_machine_that_is_not_like_this_one_is_refused(self) -> None:
        address = self.scheduler_and_workers(1)
        site = self.site()
        with self.assertRaisesRegex(MachinesMissing, "this machine has Chromium 1"):
            session = Session.of(mock.Mock(), site, Progress(), address)
            remote.visits_elsewhere(session, _sizing(1), "Chromium 1")


def _sizing(count: int) -> remote.Batch[int, int]:
    """So many questions for how many bodies a worker holds."""
    task = remote.RemoteTask(_sizes, ())
    return remote.Batch("weigh", list(range(count)), lambda _, job: job, str, lambda _: task)


def _sizes(_browser: object, capture: Capture) -> int:
    """How many bodies the worker's store holds."""
    return sum(1 for path in capture.store.root.glob("??/*"))
