"""What no weigh-in loads: icons of tabs and home screens, documents behind links. And strips that styles could draw."""

from __future__ import annotations

import io
import re
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image

from tests.core.survey.test_survey import SHOWN, weigh_ins
from tests.sites import FolderCase, page, photo
from unladen.build import build
from unladen.plan import EFFORTS, Plan
from unladen.progress import Progress
from unladen.raster.probe import probe
from unladen.survey import Finding, SiteFacts, survey
from unladen.survey.images.beyond import pictures_in
from unladen.survey.images.strips import gradient
from unladen.work_cache import WorkCache


def pdf_of(*pictures: bytes) -> bytes:
    """A PDF file of a picture a page; Pillow writes it."""
    first, *others = [Image.open(io.BytesIO(body)) for body in pictures]
    out = io.BytesIO()
    first.save(out, "PDF", save_all=True, append_images=others, quality=95)
    return out.getvalue()


def strip(*colours: tuple[int, int, int, int], size: int = 60) -> bytes:
    """A strip as high as `size`, whose rows go from one colour to the next."""
    at = np.linspace(0, len(colours) - 1, size)
    rows = np.stack([np.interp(at, range(len(colours)), [c[i] for c in colours]) for i in range(4)], axis=1)
    out = io.BytesIO()
    Image.fromarray(np.repeat(rows.round().astype("uint8")[:, None], 8, axis=1), "RGBA").save(out, "PNG")
    return out.getvalue()


PHOTOS = [photo(1200, 900, seed, quality=95) for seed in (1, 2)]
FILES = {
    "index.html": page(
        "<a href=menu.pdf>Menu</a><a href=words.pdf>Words</a><a href=gone.pdf>x</a><p id=bar>x</p>",
        "<link rel='shortcut icon' href=tab.png><link rel=icon sizes=192x192 href=large.png>"
        "<link rel=apple-touch-icon href=home.png><link rel=icon href=small.png><style>"
        "#bar{background:url(bar.png)}</style>",
    ),
    "other.html": page("x", "<link rel=icon href=tab.png>"),
    "tab.png": photo(512, 512, 1, "PNG"),
    "large.png": photo(512, 512, 2, "PNG"),
    "home.png": photo(512, 512, 3, "PNG"),
    "small.png": photo(16, 16, 4, "PNG"),
    "bar.png": strip((255, 255, 255, 255), (20, 40, 60, 255)),
    "menu.pdf": pdf_of(*PHOTOS),
    "words.pdf": b"%PDF-1.4\n1 0 obj\n<< /Length 400000 >>\nstream\n" + b"x" * 400_000 + b"\nendstream\nendobj\n",
}


class Beyond(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.site = self.capture(FILES)
        self.work_cache = WorkCache(self.folder / "memo", self.store)
        evidence = SiteFacts(self.site, weigh_ins())
        self.found = {e.id: e for e in survey(evidence, EFFORTS["steady"], self.work_cache, Progress()).excess}

    def test_icons_are_no_larger_than_they_are_shown(self) -> None:
        icons = [excess for id, excess in self.found.items() if id.startswith("site-icons")]
        self.assertEqual(sorted(e.targets for e in icons), [("/home.png",), ("/large.png",), ("/tab.png",)])
        self.assertTrue(all(e.bytes == 0 and e.change and e.change.on for e in icons))
        plan = Plan("steady", tuple(change for e in icons for change in e.changes))
        lighter, journal = build(self.site, plan, self.work_cache)
        widths = {
            name: probe(self.body(lighter, name)).width for name in ("tab.png", "large.png", "home.png", "small.png")
        }
        self.assertEqual(widths, {"tab.png": 64, "large.png": 192, "home.png": 180, "small.png": 16})
        self.assertEqual(self.body(lighter, "index.html"), self.body(self.site, "index.html"))
        self.assertEqual(journal.notices, [])

    def body(self, capture: object, name: str) -> bytes:
        return capture.body(capture.exchanges[f"https://site.example/{name}"])  # type: ignore[attr-defined, no-any-return]

    def test_documents_that_are_mostly_pictures_are_named(self) -> None:
        named = [excess for excess in self.found.values() if excess.excess == "document"]
        self.assertEqual([excess.targets for excess in named], [("/menu.pdf",)])
        self.assertIn("2 pictures", named[0].title)
        self.assertFalse(named[0].changes)

    def test_pictures_of_a_document_that_another_program_wrote(self) -> None:
        count, size = pictures_in(FILES["menu.pdf"])
        jpegs = len(re.findall(rb"\xff\xd8\xff", FILES["menu.pdf"]))
        self.assertEqual(count, jpegs)
        self.assertGreater(size, 0.9 * len(FILES["menu.pdf"]))
        self.assertEqual(pictures_in(b"/Subtype /Image" * 50_000), (0, 0))


class Strips(FolderCase):
    def strips(self, *bodies: bytes) -> list[Finding]:
        site = self.capture({"index.html": page("x")} | {f"{i}.png": body for i, body in enumerate(bodies)})
        shown = [replace(SHOWN, url=f"https://site.example/{i}.png", via="background") for i in range(len(bodies))]
        found = survey(
            SiteFacts(site, weigh_ins(*shown)),
            EFFORTS["steady"],
            WorkCache(self.folder / "m", self.store),
            Progress(),
        )
        return [excess for excess in found.excess if excess.excess == "picture-strip"]

    def test_a_strip_that_is_a_gradient_is_told_with_the_line_that_draws_it(self) -> None:
        (excess,) = self.strips(strip((255, 255, 255, 255), (20, 40, 60, 128)), photo(30, 30, 1, "PNG"))
        self.assertIn("linear-gradient(to bottom, #ffffff, #14283c80)", excess.advice)

    def test_flat_and_noisy_ones_are_none(self) -> None:
        flat = np.full((20, 8, 4), 200.0)
        self.assertEqual(gradient(flat), "")
        self.assertEqual(gradient(np.random.default_rng(1).uniform(0, 255, (20, 8, 4))), "")
        self.assertEqual(gradient(np.zeros((1, 1, 4))), "")

    @given(st.lists(st.tuples(*[st.integers(0, 255)] * 4), min_size=2, max_size=4), st.integers(8, 80), st.booleans())
    def test_what_is_told_draws_the_strip(self, colours: list[tuple[int, ...]], size: int, across: bool) -> None:
        at = np.linspace(0, len(colours) - 1, size)
        rows = np.stack(
            [np.interp(at, range(len(colours)), [c[i] for c in colours]) for i in range(4)], axis=1
        ).round()
        pixels = np.repeat(rows[:, None], 5, axis=1)
        told = gradient(pixels.transpose(1, 0, 2) if across else pixels)
        self.assertEqual(bool(told), np.ptp(rows, axis=0).max() > 1.5)
        if told:
            self.assertIn("to right" if across else "to bottom", told)
            self.assertLessEqual(np.abs(_drawn(told, size) - rows).max(), 2)


def _drawn(told: str, size: int) -> NDArray[np.float64]:
    """The colours of a gradient's pixels, read from its CSS."""
    stops = re.findall(r"#([0-9a-f]{6,8})(?: ([\d.]+)%)?", told)
    places = [float(share) / 100 if share else float(i > 0) for i, (_, share) in enumerate(stops)]
    values = [[int(colour[i : i + 2] or "ff", 16) for i in (0, 2, 4, 6)] for colour, _ in stops]
    at = np.linspace(0, 1, size)
    return np.stack([np.interp(at, places, [value[i] for value in values]) for i in range(4)], axis=1)
