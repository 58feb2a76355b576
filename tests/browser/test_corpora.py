"""Real pages from the registry: lighter by what the ledger says, with nothing new missing and nothing moved."""

from __future__ import annotations

from pathlib import Path

from tests.browser.cases import BrowserCase
from tests.sites import registry_package
from unladen.capture import read_site, read_zip, write_zip
from unladen.lighten import Lightened, lighten
from unladen.progress import Progress
from unladen.weigh.records.conditions import USUAL_DEVICES
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import browser_for, weigh_pages


class RealPages(BrowserCase):
    def prove(self, folder: Path, effort: str = "steady", pages: tuple[str, ...] = ("/index.html",)) -> Lightened:
        result = lighten(read_site(folder, self.store), effort, Progress(), pages=pages, devices=USUAL_DEVICES)
        self.assertTrue(result.account.adds_up(), result.account)
        self.assertEqual([pair.differences for pair in result.pairs if not pair.passed], [])
        for before, after in zip(result.before, result.after, strict=True):
            self.assertLessEqual(set(after.as_json()["missing"]), set(before.as_json()["missing"]))
            self.assertLessEqual(set(after.visit.errors), set(before.visit.errors))
        write_zip(result.capture, self.folder / "out.zip")
        again = read_zip(self.folder / "out.zip", self.store)
        with browser_for(again) as browser:
            conditions = list(dict.fromkeys(weigh_in.conditions for weigh_in in result.before))
            weighed = weigh_pages(
                Session.of(browser, again, Progress()), [again.page(path) for path in pages], conditions
            )
        self.assertEqual(sum(w.visit.transferred for w in weighed), result.account.after.bytes)
        return result

    def lighter_by(self, result: Lightened) -> float:
        return 1 - result.account.after.bytes / result.account.before.bytes

    def test_a_landing_page_with_a_css_background(self) -> None:
        result = self.prove(registry_package("startbootstrap-creative", "7.0.7") / "dist")
        self.assertGreater(self.lighter_by(result), 0.5)
        self.assertGreater(result.account.saved_by("webp:/assets/img/bg-masthead.jpg").bytes, 0)

    def test_photographs_in_a_slider_with_hidden_slides(self) -> None:
        result = self.prove(registry_package("lightslider", "1.1.6") / "demo")
        self.assertGreater(self.lighter_by(result), 0.5)

    def test_one_oversized_portrait(self) -> None:
        result = self.prove(registry_package("startbootstrap-resume", "7.0.6") / "dist", "bold")
        self.assertGreater(result.account.saved_by("shrink:/assets/img/profile.jpg").bytes, 0)
        self.assertGreater(self.lighter_by(result), 0.5)

    def test_a_page_that_is_light_already_does_not_get_worse(self) -> None:
        folder = registry_package("html5-boilerplate", "9.0.1") / "dist"
        result = self.prove(folder, "bold")
        self.assertLessEqual(result.account.after.bytes, result.account.before.bytes)
        self.assertLessEqual(result.account.after.requests, result.account.before.requests)
        # Only its texts are written shorter, and a tiny one stands in the page; nothing is put off, and no file is
        # another or new.
        self.assertLessEqual(
            {c.remedy for c in result.plan.counting()},
            {"trim-styles", "minify-styles", "tidy-markup", "precompress", "inline-code"},
        )
        self.assertEqual(set(result.capture.exchanges), set(read_site(folder, self.store).exchanges))
