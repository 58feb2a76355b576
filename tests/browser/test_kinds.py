"""Changes for all pages of a kind, of which only some are weighed and looked at."""

from __future__ import annotations

from tests.sites import FolderCase, page, photo
from unladen.capture import Capture
from unladen.check import Check
from unladen.lighten import Lightened, lighten
from unladen.plan import Plan
from unladen.progress import Progress
from unladen.weigh.records.conditions import DEVICES, Conditions
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import browser_for, weigh_pages

STYLE = (
    b"body{margin:0;font:16px/1.5 sans-serif}.post img{width:100%;height:auto;"
    b"display:block}.lead{height:900px}.gone{color:red}"
)
SCRIPT = b"document.documentElement.dataset.ready='1'"
HEAD = '<meta name=viewport content="width=device-width"><link rel=stylesheet href=/s.css><script src=/s.js></script>'
POSTS = 4


def post(number: int, extra: str = "") -> bytes:
    body = (
        f"<article class=post><h1>Post {number}</h1><img src=/img/{number}.jpg alt=lead><div class=lead>{extra}</div>"
        f"<div class=lead></div><div class=lead></div><img src=/img/low{number}.jpg alt=low></article>"
    )
    return page(body, HEAD)


class PageGroups(FolderCase):
    def site(self, **more: bytes) -> Capture:
        files = {"index.html": page("<main><h1>Home</h1></main>", HEAD), "s.css": STYLE, "s.js": SCRIPT}
        for n in range(POSTS):
            # Of several shapes, so that the pages are not of one height.
            files[f"post/{n}.html"] = post(n)
            files[f"img/{n}.jpg"] = photo(1000, 600 + 100 * (n % 2), seed=n)
            files[f"img/low{n}.jpg"] = photo(1000, 700, seed=20 + n)
        return self.capture(files | more)

    def light(self, capture: Capture, kinds: int) -> Lightened:
        return lighten(capture, "steady", Progress(), devices=["phone"], kinds=kinds)

    def test_pages_that_nobody_weighed_get_what_their_kind_gets(self) -> None:
        capture = self.site()
        found, whole = self.light(capture, 2), self.light(capture, 0)
        self.assertEqual({w.page for w in found.before}, {"/index.html", "/post/0.html"})
        told = {notice.name: notice.reason for notice in found.notices}
        self.assertIn("represents 3 more pages", told["/post/0.html"])
        # One change for all pages of the kind, where each page would have one of its own.
        (far,) = [c for c in found.plan.changes if c.remedy == "lazy-images"]
        self.assertEqual(set(far.pages), {f"/post/{n}.html" for n in range(POSTS)})
        self.assertEqual(far.targets, tuple(f"/img/low{n}.jpg" for n in range(POSTS)))
        # What nobody looked at looks as before, and is as light as if all had been weighed.
        phone = [Conditions(DEVICES["phone"])]
        with browser_for(capture) as browser:
            check = Check(Session.of(browser, capture, Progress()), capture.pages(), [phone[0].device])
            verdict = check.run(found.plan, found.outcomes)
            self.assertEqual([pair.page for pair in verdict.pairs if not pair.passed], [])
            weights = [
                sum(
                    w.visit.transferred
                    for w in weigh_pages(Session.of(browser, side, Progress()), capture.pages(), phone)
                )
                for side in (found.capture, whole.capture, capture)
            ]
        self.assertLess(weights[0], weights[1] * 1.05)
        self.assertLess(weights[0], weights[2] * 0.3)

    def test_what_breaks_the_page_that_stands_for_others_is_not_done_to_them(self) -> None:
        # Pictures that are lazy vanish here: on all posts, of which one is looked at.
        style = STYLE + b"img[loading=lazy]{display:none!important}"
        capture = self.site(**{"s.css": style})
        found = self.light(capture, 2)
        for n in range(POSTS):
            text = found.capture.body(found.capture.page(f"/post/{n}.html")).decode()
            self.assertNotIn(" loading=", text)
        reasons = {part.reason for outcome in found.outcomes.by_change.values() for part in outcome.parts}
        self.assertIn("/post/0.html represents its page and differed with the same remedy", reasons)

    def test_a_page_with_a_style_of_its_own_keeps_its_pictures(self) -> None:
        wide = post(3).replace(b"<img src=/img/3.jpg", b'<img style="width:3000px" src=/img/3.jpg')
        capture = self.site(**{"post/3.html": wide})
        found = self.light(capture, 2)
        self.assertIn("/post/3.html", {page for c in found.plan.changes for page in c.pages})
        changed = {
            target for change in found.plan.counting() if change.remedy == "shrink" for target in change.targets
        }
        self.assertNotIn("/img/3.jpg", changed)
        self.assertIn("/img/2.jpg", changed)

    def test_a_plan_fits_all_of_a_kind(self) -> None:
        capture = self.site()
        plan: Plan = self.light(capture, 2).plan
        again = lighten(capture, plan, Progress(), devices=["phone"], kinds=2)
        self.assertIn(b"loading=", again.capture.body(again.capture.page("/post/3.html")))
