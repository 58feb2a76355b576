"""Pictures behind elements: better formats beside them, narrower ones for phones, and which of them comes first."""

from __future__ import annotations

import io
import re
from typing import Any

from PIL import Image

from tests.plans import change as made
from tests.sites import FolderCase, page, photo
from unladen.build import build
from unladen.capture import Capture
from unladen.plan import Plan
from unladen.remedies import Change
from unladen.work_cache import WorkCache

HOST = "https://site.example/"
PAGES = ("/index.html",)
FILES = {
    "index.html": page(
        "<header style='background-image: url(img/a.jpg)'></header><div class=hero></div><div class=plain></div>"
        '<section data-background="img/c.jpg"></section><img src=img/d.jpg style="width:50%"><img src=img/e.jpg '
        "width=40>",
        "<link rel=stylesheet href=s.css><style>.in{background:url(img/a.jpg)}</style>",
    ),
    "s.css": b".hero{background:linear-gradient(#0008,#0008),url(img/b.jpg) center;background-size:cover;color:#fff}"
    b".plain{background:url('img/c.jpg')}",
} | {f"img/{name}.jpg": photo(900, 600, seed) for seed, name in enumerate("abcde")}


def of(remedy: str, target: str, **params: Any) -> Change[Any]:
    return made(f"{remedy}:{target}", remedy, (target,), PAGES, params)


def coded(remedy: str, target: str, **params: Any) -> Change[Any]:
    return of(remedy, target, similarity=0.93, **params)


class Backgrounds(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.found = self.capture(FILES)
        self.work_cache = WorkCache(self.folder / "memo", self.store)

    def built(self, *changes: Change[Any]) -> Capture:
        lighter, journal = build(self.found, Plan("steady", changes), self.work_cache)
        self.assertEqual(journal.notices, [])
        return lighter

    def text(self, capture: Capture, path: str = "index.html") -> str:
        return capture.body(capture.exchanges[HOST + path]).decode()

    def test_avif_stands_before_what_took_the_place_of_the_original(self) -> None:
        lighter = self.built(*(coded(remedy, f"/img/{n}.jpg") for remedy in ("webp", "avif") for n in "ab"))
        avif, webp = ('url("img/{0}.avif") type("image/avif")', 'url("img/{0}.webp") type("image/webp")')
        sheet, index = self.text(lighter, "s.css"), self.text(lighter)
        image_set = f"image-set({avif},{webp})"
        self.assertIn("url(img/b.webp) center;background:linear-gradient(#0008,#0008),", sheet)
        self.assertIn(f"{image_set.format('b')} center;background-size:cover", sheet)
        self.assertIn(f".in{{background:url(img/a.webp);background:{image_set.format('a')}}}", index)
        # In an attribute with the other sort of quotes... which here is the one that the attribute has not.
        self.assertIn(
            f"<header style='background-image: url(img/a.webp);background-image: {image_set.format('a')}'", index
        )

    def test_phones_get_the_whole_background_again_with_another_image(self) -> None:
        changes = [coded("phone", f"/img/{n}.jpg", width=300, below=600) for n in "abc"]
        changes[1] = coded("phone", "/img/b.jpg", width=300, below=600, part=[200, 0, 450, 600], avif=True)
        lighter = self.built(*changes)
        sheet, index = self.text(lighter, "s.css"), self.text(lighter)
        shape = "@media (max-width:600px) and (max-aspect-ratio:3/4)"
        above = "background:linear-gradient(#0008,#0008),"
        self.assertIn(
            f'{shape}{{.hero{{{above}url("img/b-300w.jpg") center;background-size:cover;{above}image-set(', sheet
        )
        self.assertIn('@media (max-width:600px){.plain{background-image:url("img/c-300w.jpg")}}', sheet)
        mark = re.findall(r'<header data-narrow="(\w+)"', index)[0]
        rule = f'[data-narrow={mark}]{{background-image:url("img/a-300w.jpg")!important}}'
        self.assertIn(f"<style data-unladen=narrow>@media (max-width:600px){{{rule}}}</style></head>", index)
        narrow = Image.open(io.BytesIO(lighter.body(lighter.exchanges[HOST + "img/b-300w.jpg"])))
        self.assertEqual(narrow.size, (300, 400))

    def test_what_comes_first_is_asked_for_as_browsers_will_choose(self) -> None:
        first = of("priority", "/img/b.jpg")
        plain = self.text(self.built(first))
        self.assertIn('rel=preload as=image fetchpriority=high href="img/b.jpg">', plain)
        better = self.text(self.built(coded("webp", "/img/b.jpg"), coded("avif", "/img/b.jpg"), first))
        self.assertIn('href="img/b.avif" type=image/avif>', better)
        self.assertEqual(better.count("rel=preload"), 1)
        phone = coded("phone", "/img/b.jpg", width=300, below=600)
        several = self.text(self.built(coded("webp", "/img/b.jpg"), phone, first))
        self.assertIn('href="img/b.webp" media="not all and (max-width:600px)">', several)
        self.assertIn('href="img/b-300w.webp" media="(max-width:600px)">', several)

    def test_an_attribute_that_a_script_reads_can_wait(self) -> None:
        wait = made("lazy-backgrounds:/img/c.jpg", "lazy-backgrounds", ("/img/c.jpg",), PAGES, {"wait": "near"})
        index = self.text(self.built(wait))
        self.assertRegex(index, r'<section data-late="?near"? data-background="img/c.jpg">')

    def test_a_ratio_holds_the_space_where_one_side_is_given(self) -> None:
        index = self.text(
            self.built(of("reserve", "/img/d.jpg", ratio=True), of("reserve", "/img/e.jpg", ratio=True))
        )
        self.assertIn('style="width:50%;aspect-ratio:900/600"', index)
        self.assertRegex(index, r'<img style="aspect-ratio:900/600" src=img/e.jpg width=40>')

    def test_a_part_of_a_picture_goes_through_all_that_comes_after(self) -> None:
        part = [225, 0, 450, 600]
        shrunk = coded("shrink", "/img/d.jpg", width=300, part=part)
        lighter = self.built(shrunk, coded("webp", "/img/d.jpg"))
        made_of = Image.open(io.BytesIO(lighter.body(lighter.exchanges[HOST + "img/d-300w.webp"])))
        self.assertEqual(made_of.size, (300, 400))
        original = Image.open(io.BytesIO(FILES["img/d.jpg"])).crop((225, 0, 675, 600)).resize((300, 400))
        mean, mean_now = (image.resize((1, 1)).getpixel((0, 0)) for image in (original, made_of))
        apart = abs(sum(mean) - sum(mean_now))  # type: ignore[arg-type]
        self.assertLess(apart, 9)
