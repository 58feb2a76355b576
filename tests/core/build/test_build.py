"""From a plan to a lighter capture: what changes, what stays, and a journal that adds up."""

from __future__ import annotations

import io
from dataclasses import replace
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from tests.plans import change as made
from tests.sites import FolderCase, page, photo
from unladen.build import TrialCache, build
from unladen.capture import Capture
from unladen.plan import KeepList, KeepNote, Plan
from unladen.remedies import Change, Journal, Replaced
from unladen.work_cache import WorkCache

PAGES = ("/index.html", "/about.html")
PICTURE = photo(900, 600)
FILES = {
    "index.html": page(
        '<img src="img/a.jpg"><img src=img/a.jpg width=9 height=6><p style="background:url(img/b.jpg)">'
        "<a href=\"img/a.jpg\">large</a><img onload=\"this.src='img/c'+'.jpg'\">",
        "<link rel=stylesheet href=s.css>",
    ),
    "about.html": page('<picture><source srcset="img/a.jpg"><img src="img/a.jpg"></picture><img src=img/b.jpg>'),
    "s.css": b".hero{background:url('img/b.jpg')}" + b"/* padding */" * 40,
    "img/a.jpg": PICTURE,
    "img/b.jpg": photo(900, 600, 2),
    "img/c.jpg": photo(900, 600, 3),
}


def shrink(path: str, pages: tuple[str, ...] = PAGES, reserve: bool = False) -> Change[Any]:
    return made(f"shrink:{path}", "shrink", (path,), pages, {"width": 450, "similarity": 0.95, "reserve": reserve})


def webp(path: str, pages: tuple[str, ...] = PAGES) -> Change[Any]:
    return made(f"webp:{path}", "webp", (path,), pages, {"similarity": 0.95})


LAZY = made("lazy-images:/index.html", "lazy-images", ("/img/a.jpg",), ("/index.html",))
RESERVE = made("reserve:/index.html", "reserve", ("/img/a.jpg",), ("/index.html",))
ALL = (shrink("/img/a.jpg"), webp("/img/a.jpg"), shrink("/img/b.jpg"), webp("/img/b.jpg"), LAZY, RESERVE)


class Building(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.found = self.capture(FILES)
        self.work_cache = WorkCache(self.folder / "memo", self.store)

    def test_elements_on_the_keep_list_stay_as_they_are_with_all_in_them(self) -> None:
        body = "<div id=keep><p><img src=a.jpg></p></div><img src=a.jpg><img class=no src=a.jpg>"
        found = self.capture({"index.html": page(body), "a.jpg": PICTURE})
        change = made("webp:/a.jpg", "webp", ("/a.jpg",), ("/index.html",), {"similarity": 0.95})
        keep = KeepList(selectors=("#keep", ".no"), notes=(KeepNote("selectors", ".no", "", "lazy-images"),))
        lighter, journal = build(found, Plan("steady", (change,), keep), self.work_cache)
        text = lighter.body(lighter.page("/index.html")).decode()
        self.assertIn("<div id=keep><p><img src=a.jpg></p></div>", text)
        self.assertEqual(text.count("a.webp"), 2)  # the last one is kept from another remedy only
        self.assertIn("keep list", " ".join(notice.reason for notice in journal.notices))

    def built(self, *changes: Change[Any]) -> tuple[Capture, Journal]:
        return build(self.found, Plan("steady", changes), self.work_cache)

    def text(self, capture: Capture, path: str) -> str:
        return capture.body(capture.exchanges[f"https://site.example/{path}"]).decode()

    def test_no_change_changes_nothing(self) -> None:
        lighter, journal = self.built()
        self.assertEqual(lighter.exchanges, self.found.exchanges)
        self.assertEqual(journal.entries, [])

    def test_a_trial_is_the_same_to_look_at_and_knows_pictures_by_a_quick_encode(self) -> None:
        texts = made("precompress", "precompress", ("/s.css",), PAGES, {"level": 9})
        plan = Plan("steady", (*ALL, texts))
        whole, trial = (
            build(self.found, plan, self.work_cache)[0],
            build(self.found, plan, TrialCache(self.work_cache), trial=True)[0],
        )
        self.assertTrue(whole.exchanges["https://site.example/s.css"].packed)
        self.assertFalse(trial.exchanges["https://site.example/s.css"].packed)
        self.assertEqual(
            {url: exchange.digest for url, exchange in whole.exchanges.items()},
            {url: exchange.digest for url, exchange in trial.exchanges.items()},
        )
        # Of what nobody has encoded yet the file is another, with the same name and size of picture.
        fresh = plan.changed(lambda c: replace(c, on=c.remedy != "shrink"))
        quick = build(self.found, fresh, TrialCache(self.work_cache), trial=True)[0]
        searched = build(self.found, fresh, self.work_cache)[0]
        self.assertEqual(quick.exchanges.keys(), searched.exchanges.keys())
        pictures = [
            capture.body(capture.exchanges["https://site.example/img/a.webp"]) for capture in (quick, searched)
        ]
        self.assertNotEqual(*pictures)
        self.assertEqual(*(Image.open(io.BytesIO(body)).size for body in pictures))

    def test_a_smaller_file_stands_beside_the_original(self) -> None:
        lighter, journal = self.built(shrink("/img/a.jpg"))
        self.assertIn("https://site.example/img/a-450w.jpg", lighter.exchanges)
        self.assertEqual(lighter.body(lighter.exchanges["https://site.example/img/a.jpg"]), PICTURE)
        index = self.text(lighter, "index.html")
        self.assertIn('<img src="img/a-450w.jpg"><img src=img/a-450w.jpg width=9 height=6>', index)
        self.assertIn('<a href="img/a.jpg">large</a>', index)
        # A picture element states its sources itself and stays as it is.
        self.assertEqual(self.text(lighter, "about.html"), FILES["about.html"].decode())
        (pages,) = {entry.pages for entry in journal.entries if isinstance(entry, Replaced)}
        self.assertEqual(pages, frozenset(PAGES))

    def test_two_changes_of_one_picture_make_one_file_from_the_original(self) -> None:
        lighter, journal = self.built(webp("/img/a.jpg"), shrink("/img/a.jpg"))
        self.assertIn("https://site.example/img/a-450w.webp", lighter.exchanges)
        self.assertNotIn("https://site.example/img/a-450w.jpg", lighter.exchanges)
        chain = journal.chains_of("https://site.example/img/a.jpg", "/index.html")[
            "https://site.example/img/a-450w.webp"
        ]
        self.assertEqual([stage.change.partition(":")[0] for stage in chain], ["shrink", "webp"])
        assert isinstance(chain[0], Replaced) and isinstance(chain[1], Replaced)
        self.assertEqual(chain[0].after, chain[1].before)
        self.assertEqual(chain[0].after_bytes, chain[1].before_bytes)

    def test_space_is_reserved_only_where_nothing_is_said(self) -> None:
        index = self.text(self.built(RESERVE)[0], "index.html")
        self.assertIn('<img height="600" width="900" src="img/a.jpg">', index)
        self.assertIn("<img src=img/a.jpg width=9 height=6>", index)

    def test_lazy_loading_is_noted_for_the_ledger(self) -> None:
        lighter, journal = self.built(LAZY)
        self.assertEqual(self.text(lighter, "index.html").count('loading="lazy"'), 2)
        self.assertEqual(journal.spared_by("https://site.example/img/a.jpg", "/index.html"), LAZY.id)

    def test_an_image_that_changes_in_its_place_is_still_asked_for_early(self) -> None:
        self.found = self.capture(FILES | {"index.html": page("<p style='background:url(img/b.jpg)'>hero")})
        early = made("priority:/index.html", "priority", ("/img/b.jpg",), ("/index.html",))
        lighter = made("recompress:/img/b.jpg", "recompress", ("/img/b.jpg",), PAGES, {"similarity": 0.9})
        for changes in ((early,), (lighter, early)):
            index = self.text(self.built(*changes)[0], "index.html")
            self.assertRegex(index, r"<link[^>]*rel=\"?preload\"?[^>]*img/b\.jpg")

    def test_a_style_sheet_changes_only_when_all_its_pages_are_in_scope(self) -> None:
        lighter, _ = self.built(webp("/img/b.jpg", ("/about.html",)))
        self.assertEqual(self.text(lighter, "s.css"), FILES["s.css"].decode())
        self.assertIn("img/b.webp", self.text(lighter, "about.html"))
        self.assertEqual(self.text(lighter, "index.html"), FILES["index.html"].decode())
        lighter, _ = self.built(webp("/img/b.jpg", ("/index.html",)))
        self.assertIn("img/b.webp", self.text(lighter, "s.css"))

    def test_what_cannot_be_done_is_said(self) -> None:
        broken = self.store.put(b"nonsense")
        exchange = self.found.exchanges["https://site.example/img/b.jpg"]
        self.found = self.found.with_changes([replace(exchange, digest=broken, size=8)])
        _, journal = self.built(webp("/img/c.jpg"), webp("/img/b.jpg"), webp("/img/gone.jpg"))
        reasons = {notice.name: notice.reason for notice in journal.notices}
        self.assertIn("cannot be rewritten", reasons["/img/c.jpg"])
        self.assertIn("not a readable image", reasons["/img/b.jpg"])
        self.assertIn("no longer in the site", reasons["/img/gone.jpg"])

    def test_a_page_in_an_impossible_charset_stays_as_it_is(self) -> None:
        body = b"<meta charset=shift_jis>\xff\xff<img src=img/a.jpg>"
        self.found = self.capture(FILES | {"index.html": body})
        lighter, journal = self.built(LAZY)
        self.assertEqual(lighter.body(lighter.page("/index.html")), body)
        self.assertEqual([notice.name for notice in journal.notices], ["/index.html"])

    def test_a_name_that_is_taken_is_not_taken_again(self) -> None:
        self.found = self.capture(FILES | {"img/a.webp": b"something else"})
        lighter, _ = self.built(webp("/img/a.jpg"))
        self.assertEqual(lighter.body(lighter.exchanges["https://site.example/img/a.webp"]), b"something else")
        self.assertRegex(self.text(lighter, "index.html"), r'src="img/a-[0-9a-f]{8}\.webp"')

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.sampled_from(ALL), unique_by=lambda change: change.id))
    def test_any_part_of_a_plan_gives_the_same_bytes_every_time_and_adds_up(self, changes: list[Change[Any]]) -> None:
        first, journal = self.built(*changes)
        again, _ = self.built(*reversed(changes))
        self.assertEqual(first.exchanges, again.exchanges)
        for url in (exchange.url for exchange in self.found if exchange.media_type.startswith("text/")):
            saved = sum(stage.before_bytes - stage.after_bytes for stage in journal.edits_of(url))
            sizes = self.found.sent_size(self.found.exchanges[url]), first.sent_size(first.exchanges[url])
            self.assertEqual(saved, sizes[0] - sizes[1])
