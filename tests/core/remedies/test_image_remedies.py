"""Every way in which an image changes: in its place, under a new name, beside the old one, in several sizes, inline."""

from __future__ import annotations

import base64
import re
from dataclasses import replace
from typing import Any
from urllib.parse import unquote_to_bytes

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.plans import change as made
from tests.sites import FolderCase, page, photo
from unladen.build import build
from unladen.capture import Capture
from unladen.ledger import replacements, replacements_csv
from unladen.plan import KeepList, Plan
from unladen.remedies import Change, Delivery, ImageSettings, Journal
from unladen.remedies.images.inline import data_url
from unladen.work_cache import WorkCache

HOST = "https://site.example/"
PAGES = ("/index.html", "/deep/about.html")
ICON = photo(16, 16, 9, "PNG")
WHEEL = (
    b'<?xml version="1.0"?><!-- a comment that says much and shows nothing at all, and goes on for quite a while -->'
    b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M 1.000000 1.000000 L 8 8"/></svg>'
)
HERO = photo(900, 600, 5)
FILES = {
    "index.html": page(
        '<img src="img/a.jpg" alt=""><img src=img/hero.jpg width=300 height=200><img src="copy/hero.jpg">'
        '<img src="img/icon.png"><img src="img/wheel.svg"><img data-full="img/c.jpg" src="img/anim.gif">'
        '<table><tr><td><img src="img/a.jpg"></td></tr></table><noscript><img src="img/a.jpg"></noscript>',
        '<link rel=stylesheet href=s.css><script src="js/go.js"></script>',
    ),
    "deep/about.html": page('<p><img src="../img/a.jpg"></p><script>var big = "../img/c.jpg";</script>'),
    "s.css": b".hero { color: red; background : url('img/b.jpg') center / cover no-repeat }\n.late{color:blue}"
    b"@media print{.x{background:url(img/b.jpg)}}" + b"/* padding */" * 30,
    "js/go.js": b'var list = ["img/c.jpg", "img/none.jpg"]; var part = "c" + ".jpg";',
    "img/a.jpg": photo(900, 600, 1),
    "img/b.jpg": photo(900, 600, 2),
    "img/c.jpg": photo(900, 600, 3),
    "img/hero.jpg": HERO,
    "copy/hero.jpg": HERO,
    "img/icon.png": ICON,
    "img/wheel.svg": WHEEL,
    "img/anim.gif": b"",
}


def of(remedy: str, *targets: str, pages: tuple[str, ...] = PAGES, **params: object) -> Change[Any]:
    return made(f"{remedy}:{targets[0]}", remedy, targets, pages, {"similarity": 0.9} | params)


SIZES = {"/index.html": "(max-width: 600px) 60vw, 300px"}
ALL = (
    of("merge", "/copy/hero.jpg", into="/img/hero.jpg"),
    of("exact", "/img/b.jpg", similarity=1.0),
    of("svg", "/img/wheel.svg"),
    of("shrink", "/img/a.jpg", width=450),
    of("recompress", "/img/c.jpg"),
    of("webp", "/img/a.jpg"),
    of("webp", "/img/b.jpg"),
    of("webp", "/img/hero.jpg"),
    of("avif", "/img/a.jpg"),
    of("widths", "/img/hero.jpg", widths=[240, 480], sizes=SIZES, reserve=False),
    of("phone", "/img/b.jpg", width=450, below=600),
    of("inline", "/img/icon.png"),
)

PICTURE = '<picture style="display:contents">'


class ImageRemedies(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.found = self.capture(FILES)
        self.work_cache = WorkCache(self.folder / "memo", self.store)

    def built(
        self, *changes: Change[Any], keep: KeepList | None = None, same_names: bool = False, **images: Any
    ) -> tuple[Capture, Journal]:
        delivery = Delivery(same_names=same_names)
        plan = Plan("steady", changes, keep or KeepList(), ImageSettings(**images), delivery)
        return build(self.found, plan, self.work_cache)

    def text(self, capture: Capture, path: str = "index.html") -> str:
        return capture.body(capture.exchanges[HOST + path]).decode()

    def reasons(self, journal: Journal) -> dict[str, str]:
        return {notice.name: notice.reason for notice in journal.notices}

    def test_data_attributes_and_plain_strings_follow_and_parts_of_names_do_not(self) -> None:
        lighter, _ = self.built(of("webp", "/img/c.jpg"))
        self.assertIn('data-full="img/c.webp"', self.text(lighter))
        self.assertIn('"../img/c.webp"', self.text(lighter, "deep/about.html"))
        script = self.text(lighter, "js/go.js")
        self.assertEqual(script, 'var list = ["img/c.webp", "img/none.jpg"]; var part = "c" + ".jpg";')
        self.assertIn(HOST + "img/c.jpg", lighter.exchanges)  # whoever builds the name from parts still finds it

    def test_a_picture_goes_around_where_the_page_allows(self) -> None:
        lighter, journal = self.built(of("webp", "/img/a.jpg"), fallback=True)
        index = self.text(lighter)
        around = PICTURE + '<source type="image/webp" srcset="img/a.webp"><img src="img/a.jpg" alt=""></picture>'
        self.assertIn(around, index)
        self.assertEqual(index.count(PICTURE), 2)  # a cell of a table may hold one, noscript may not
        self.assertIn("<noscript><img", index)
        self.assertIn('srcset="../img/a.webp"', self.text(lighter, "deep/about.html"))
        chains = journal.chains_of(HOST + "img/a.jpg", "/index.html")
        self.assertEqual(list(chains), [HOST + "img/a.jpg", HOST + "img/a.webp"])

    def test_styles_get_an_image_set_beside_the_old_declaration(self) -> None:
        sheet = self.text(self.built(of("webp", "/img/b.jpg"), fallback=True)[0], "s.css")
        self.assertIn("background : url('img/b.jpg') center / cover no-repeat ;background : image-set(", sheet)
        self.assertIn('url("img/b.webp") type("image/webp"),url("img/b.jpg") type("image/jpeg"))', sheet)

    def test_avif_comes_before_webp_and_both_before_the_image(self) -> None:
        index = self.text(self.built(of("webp", "/img/a.jpg"), of("avif", "/img/a.jpg"), fallback=True)[0])
        self.assertRegex(
            index,
            r'<picture style="display:contents"><source type="image/avif"[^>]*><source type="image/webp"[^>]*><img ',
        )

    def test_several_sizes_with_widths_that_the_files_have(self) -> None:
        change = of("widths", "/img/hero.jpg", widths=[240, 480], sizes=SIZES, reserve=False)
        lighter, journal = self.built(of("webp", "/img/hero.jpg"), change)
        index = self.text(lighter)
        self.assertIn('sizes="(max-width: 600px) 60vw, 300px"', index)
        srcset = re.search(r'srcset="(img/hero[^"]+)"', index)
        assert srcset is not None
        self.assertEqual(srcset[1], "img/hero-240w.webp 240w, img/hero-480w.webp 480w, img/hero.webp 900w")
        sizes = [lighter.exchanges[HOST + name].size for name in re.findall(r"img/[^ ]+", srcset[1])]
        self.assertEqual(sizes, sorted(set(sizes)))
        self.assertEqual(len(journal.chains_of(HOST + "img/hero.jpg", "/index.html")), 4)
        both = self.text(self.built(of("webp", "/img/hero.jpg"), change, fallback=True)[0])
        self.assertIn('<source type="image/webp" srcset="img/hero-240w.webp 240w, ', both)
        self.assertIn("<img src=img/hero.jpg width=300 height=200></picture>", both)

    def test_phones_get_a_background_of_their_own(self) -> None:
        sheet = self.text(self.built(of("phone", "/img/b.jpg", width=450, below=600))[0], "s.css")
        rule = '}@media (max-width:600px){.hero{background-image:url("img/b-450w.jpg")}}\n.late'
        self.assertIn(rule, sheet)
        # The rule for print is in a query of its own, and the one for phones stands within it.
        self.assertIn("@media print{.x{background:url(img/b.jpg)}@media (max-width:600px){.x{", sheet)

    def test_files_that_are_the_same_become_one(self) -> None:
        lighter, journal = self.built(ALL[0], of("webp", "/img/hero.jpg"))
        self.assertIn('<img src="img/hero.webp">', self.text(lighter))
        self.assertEqual(self.text(lighter).count("hero.webp"), 2)
        chains = journal.chains_of(HOST + "copy/hero.jpg", "/index.html")
        self.assertEqual(list(chains), [HOST + "copy/hero.jpg", HOST + "img/hero.jpg", HOST + "img/hero.webp"])
        _, journal = self.built(of("merge", "/img/a.jpg", into="/img/hero.jpg"))
        self.assertIn("not the same content", self.reasons(journal)["/img/a.jpg"])

    def test_tiny_ones_are_written_into_the_page(self) -> None:
        lighter, journal = self.built(of("inline", "/img/icon.png", "/img/a.jpg"))
        # RFC 2397 and RFC 4648: 4 characters for 3 bytes.
        text = re.search(r"data:image/png;base64,([A-Za-z0-9+/=]+)", self.text(lighter))
        assert text is not None
        self.assertEqual(base64.b64decode(text[1]), ICON)
        self.assertEqual(len(text[1]), 4 * -(-len(ICON) // 3))
        self.assertIn("too large", self.reasons(journal)["/img/a.jpg"])
        self.assertEqual(journal.spared_by(HOST + "img/icon.png", "/index.html"), "inline:/img/icon.png")

    def test_a_drawing_is_written_the_shorter_way(self) -> None:
        drawing = b"<svg xmlns='http://www.w3.org/2000/svg'><path d='M0 0h9v9'/></svg>"
        plain = data_url(drawing, "image/svg+xml")
        self.assertTrue(plain.startswith("data:image/svg+xml,%3Csvg%20xmlns=%27http://"), plain)
        self.assertEqual(unquote_to_bytes(plain.partition(",")[2]), drawing)
        packed = data_url(
            b"<<<<" * 30, "image/svg+xml"
        )  # three characters for each of these, and base64 takes 4 for 3
        self.assertEqual(base64.b64decode(packed.removeprefix("data:image/svg+xml;base64,")), b"<<<<" * 30)

    def test_same_names_change_files_and_nothing_else(self) -> None:
        lighter, journal = self.built(*ALL, same_names=True)
        self.assertEqual(set(lighter.exchanges), set(self.found.exchanges))
        for path in ("index.html", "deep/about.html", "s.css", "js/go.js"):
            self.assertEqual(self.text(lighter, path), FILES[path].decode())
        changed = replacements(self.found, lighter)
        self.assertEqual(
            {row.path for row in changed}, {f"/img/{n}" for n in ("a.jpg", "b.jpg", "c.jpg", "wheel.svg")}
        )
        self.assertTrue(all("same name" in row.what and row.after < row.before for row in changed))
        lines = replacements_csv(changed).splitlines()
        self.assertEqual(lines[0], "file,what to do,pages,bytes before,bytes after")
        self.assertIn("/index.html", lines[1])
        self.assertIn("a new name", " ".join(notice.reason for notice in journal.notices))

    def test_a_page_that_is_kept_keeps_its_files(self) -> None:
        change = of("recompress", "/img/a.jpg")
        lighter, journal = self.built(change, keep=KeepList(pages=("/deep/*",)))
        self.assertEqual(lighter.exchanges, self.found.exchanges)
        self.assertIn("outside the scope", self.reasons(journal)["/img/a.jpg"])

    def test_a_chosen_quality_is_taken_as_it_is(self) -> None:
        coarse, _ = self.built(of("webp", "/img/a.jpg", quality=40))
        fine, _ = self.built(of("webp", "/img/a.jpg", quality=90))
        sizes = [c.exchanges[HOST + "img/a.webp"].size for c in (coarse, fine)]
        self.assertLess(sizes[0] * 2, sizes[1])

    @settings(max_examples=30, deadline=None)
    @given(st.lists(st.sampled_from(ALL), unique_by=lambda change: change.id), st.booleans())
    def test_any_part_of_a_plan_gives_the_same_bytes_and_a_journal_that_adds_up(
        self, changes: list[Change[Any]], fallback: bool
    ) -> None:
        first, journal = self.built(*changes, fallback=fallback)
        again, _ = self.built(*reversed(changes), fallback=fallback)
        self.assertEqual(first.exchanges, again.exchanges)
        for exchange in self.found:
            steps = list(journal.edits_of(exchange.url))
            saved = sum(stage.before_bytes - stage.after_bytes for stage in steps)
            now = first.exchanges[exchange.url]
            self.assertEqual(saved, self.found.sent_size(exchange) - first.sent_size(now), exchange.url)
        for page_path in PAGES:
            for url in self.found.exchanges:
                for last, chain in journal.chains_of(url, page_path).items():
                    spent = sum(stage.before_bytes - stage.after_bytes for stage in chain)
                    if last in first.exchanges and chain:
                        whole = self.found.sent_size(self.found.exchanges[url]) - first.sent_size(
                            first.exchanges[last]
                        )
                        self.assertEqual(spent, whole, (url, last))

    def test_switching_all_off_gives_the_original_back(self) -> None:
        off = [replace(change, on=False) for change in ALL]
        self.assertEqual(self.built(*off)[0].exchanges, self.found.exchanges)
