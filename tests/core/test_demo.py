"""The made-up site: the same bytes every time, with the faults that it is there to show."""

from __future__ import annotations

import hashlib
import io
import unittest

from PIL import Image

from demo import pages
from demo.generate import files
from demo.pictures import jpeg, landscape
from unladen.markup.references import html_references


class Demo(unittest.TestCase):
    def test_pictures_are_the_same_every_time_and_look_like_photographs(self) -> None:
        first, second = (jpeg(landscape(300, 200, 5, mill=True), camera=True) for _ in range(2))
        self.assertEqual(hashlib.sha256(first).digest(), hashlib.sha256(second).digest())
        self.assertGreater(len(first), 300 * 200 * 0.25)
        self.assertEqual(Image.open(io.BytesIO(first)).getexif()[0x010F], "Sallow & Reed")

    def test_every_file_that_a_page_names_is_made(self) -> None:
        made = {path for path, _ in files()}
        for name, text in (
            ("index.html", pages.home()),
            ("visit.html", pages.visit()),
            ("journal.html", pages.journal()),
        ):
            for reference in html_references(text, f"https://site.example/{name}"):
                self.assertIn(reference.url.removeprefix("https://site.example/"), made)
