"""Pages that ask for, say or make more than any real page does: the visit ends, and the rest goes on."""

from __future__ import annotations

import os

from tests.browser.cases import DESKTOP, BrowserCase
from tests.sites import page, photo
from unladen.check.snapshot import SnapshotTaker
from unladen.errors import Cancelled
from unladen.progress import Progress
from unladen.weigh.chromium.processes import pages_below
from unladen.weigh.chromium.recorder import MOST_REQUESTS
from unladen.weigh.records.conditions import DEVICES
from unladen.weigh.session import Session
from unladen.weigh.visits.walk import WalkOrders, walk_pages
from unladen.weigh.visits.weighing import browser_for, weigh_pages

OFTEN = "<h1>Flood</h1><script>let n = 0; setInterval(() => { for (let i = 0; i < %d; i++) { %s } }, %d);</script>"
FLOODS = {
    "asked for more than 3,000 files": OFTEN % (200, "new Image().src = `a.jpg?${n++}`", 10),
    "made more than 500 frames": OFTEN % (20, "document.body.append(document.createElement('iframe'))", 10),
    "more than 5,000 lines to the console": OFTEN % (500, "console.warn('x'.repeat(200))", 5),
}
GOOD = page("<img src=a.jpg width=60 height=40>")
WEBSITE = {"good.html": GOOD, "a.jpg": photo(60, 40)}


class Floods(BrowserCase):
    def test_a_visit_ends_with_what_was_measured_and_the_next_page_is_weighed(self) -> None:
        for words, body in list(FLOODS.items())[:2]:
            with self.subTest(words):
                capture = self.capture({"index.html": page(body), **WEBSITE})
                with browser_for(capture) as browser:
                    pages = [capture.page(path) for path in ("/index.html", "/good.html")]
                    bad, good = weigh_pages(Session.of(browser, capture, Progress()), pages, [DESKTOP])
                self.assertIn(f"{words}; the visit ended there", " ".join(bad.visit.errors))
                self.assertEqual(bad.visit.requests[0].status, 200)
                self.assertLessEqual(len(bad.visit.requests), 2 * MOST_REQUESTS)
                self.assertEqual((good.visit.errors, len(good.visit.requests)), ([], 2))

    def test_a_walk_ends_too_and_the_next_page_is_walked(self) -> None:
        body = next(iter(FLOODS.values()))
        capture = self.capture({"index.html": page(body), **WEBSITE})
        with browser_for(capture) as browser:
            pages = [capture.page(path) for path in ("/index.html", "/good.html")]
            orders: dict[str, WalkOrders] = {}
            bad, good = walk_pages(Session.of(browser, capture, Progress()), pages, [DEVICES["phone"]], orders)
        self.assertIn("asked for more than 3,000 files", " ".join(bad.errors))
        self.assertEqual(good.errors, [])

    def test_a_look_at_such_a_page_says_nothing_and_the_page_beside_it_is_seen(self) -> None:
        body = next(iter(FLOODS.values()))
        capture = self.capture({"index.html": page(body), **WEBSITE})
        places = [(f"https://site.example/{path}", DEVICES["phone"]) for path in ("index.html", "good.html")]
        bad, good = SnapshotTaker(self.looker()).look_all(capture, places, quick=True)
        self.assertFalse(bad.alive)
        self.assertTrue(good.alive)

    def test_a_heavy_page_is_no_flood(self) -> None:
        images = "".join(f"<img src='a.jpg?{n}' width=6 height=4>" for n in range(900))
        said = "<script>for (let i = 0; i < 900; i++) console.warn(i)</script>"
        found = self.weigh({"index.html": page(images + said), **WEBSITE})
        self.assertEqual((found.visit.errors, len(found.visit.requests)), ([], 901))

    def test_who_cancels_does_not_wait_for_a_page_that_answers_nobody(self) -> None:
        for body in (*FLOODS.values(), "<script>setTimeout(() => { while (true); }, 50)</script>"):
            with self.subTest(body[:90]):
                capture = self.capture({"index.html": page(body), **WEBSITE})
                asked = 0

                def cancelled() -> bool:
                    nonlocal asked
                    asked += 1
                    return asked > 8  # in the middle of the first visit

                with browser_for(capture) as browser:
                    session = Session.of(browser, capture, Progress(cancelled=cancelled))
                    with self.assertRaises(Cancelled):
                        weigh_pages(session, [capture.page("/index.html")], [DESKTOP])
                    self.assertEqual(list(pages_below(os.getpid())), [])
                    # The same browser is there again for whoever goes on.
                    good = weigh_pages(
                        Session.of(browser, capture, Progress()), [capture.page("/good.html")], [DESKTOP]
                    )
                self.assertEqual((good[0].visit.errors, len(good[0].visit.requests)), ([], 2))
