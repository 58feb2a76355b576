"""The lowest quality that looks the same, in few encodes; animations and drawings."""

from __future__ import annotations

import io
import unittest

import numpy as np
import skimage.data
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from tests.sites import photo
from unladen.raster.codec import encode, reopen
from unladen.raster.probe import ImageRefused
from unladen.raster.recode import SVG, Recipe, recode
from unladen.raster.search import QUALITIES, lowest_quality
from unladen.raster.sight import Sight
from unladen.raster.similarity import similarity
from unladen.raster.svg import check_svg, minified_svg

PHOTOGRAPHS = [Image.fromarray(getattr(skimage.data, name)()) for name in ("astronaut", "coffee", "chelsea")]


def drawing(width: int = 640, height: int = 400) -> Image.Image:
    image = Image.new("RGB", (width, height), "white")
    pen = ImageDraw.Draw(image)
    for number in range(12):
        pen.rectangle((number * 50, 40 + number * 20, number * 50 + 40, 380), fill=(200, 20 * number, 60))
        pen.text((20, number * 30), f"Line {number} of a chart", fill="black")
    return image


class LowestQuality(unittest.TestCase):
    def test_the_target_holds_and_a_few_steps_lower_it_would_not(self) -> None:
        for image in PHOTOGRAPHS:
            for format in ("JPEG", "WEBP", "AVIF"):
                found = lowest_quality(Sight(image), format, 0.97)
                self.assertGreaterEqual(found.likeness, 0.97)
                self.assertAlmostEqual(found.likeness, Sight(image).likeness(reopen(found.data)), 6)
                if found.quality - 10 > QUALITIES[format][0]:
                    lower = reopen(encode(image, format, found.quality - 10))
                    self.assertLess(Sight(image).likeness(lower), 0.972)

    def test_few_encodes_are_enough(self) -> None:
        counts = [
            lowest_quality(Sight(i), f, t).encodes
            for i in PHOTOGRAPHS
            for f in ("JPEG", "WEBP")
            for t in (0.95, 0.97, 0.985)
        ]
        self.assertLessEqual(sum(counts) / len(counts), 5)
        self.assertLessEqual(max(counts), 6)

    def test_flat_art_never_goes_below_the_floor(self) -> None:
        # The mean of SSIM is blind on flat pictures: line art passes at quality 10 by it (tried).
        found = lowest_quality(Sight(drawing()), "JPEG", 0.9)
        self.assertGreaterEqual(found.quality, 50)

    def test_drawings_kept_as_jpeg_and_photographs_kept_as_png_find_their_format(self) -> None:
        out = io.BytesIO()
        drawing().save(out, "JPEG", quality=100, subsampling=0)
        self.assertLess(len(recode(out.getvalue(), Recipe(0, "WEBP", 0.97)).data), len(out.getvalue()) / 3)
        out = io.BytesIO()
        PHOTOGRAPHS[1].save(out, "PNG")
        found = recode(out.getvalue(), Recipe(0, "JPEG", 0.97))
        self.assertGreater(found.quality, 0)
        self.assertLess(len(found.data), len(out.getvalue()) / 4)
        clear = drawing().convert("RGBA")
        clear.putalpha(128)
        out = io.BytesIO()
        clear.save(out, "PNG")
        with self.assertRaisesRegex(ImageRefused, "transparent"):
            recode(out.getvalue(), Recipe(0, "JPEG", 0.97))

    @settings(max_examples=25, deadline=None)
    @given(
        st.sampled_from(["", "WEBP", "AVIF", "JPEG", "PNG"]),
        st.sampled_from([1.0, 0.985, 0.97, 0.9]),
        st.integers(0, 400),
        st.integers(1, 40),
        st.integers(1, 40),
        st.sampled_from(["JPEG", "PNG", "WEBP"]),
    )
    def test_nothing_grows_and_every_size_is_the_expected_one(
        self, format: str, target: float, width: int, w: int, h: int, source: str
    ) -> None:
        data = photo(w * 9, h * 7, w, format=source)
        try:
            found = recode(data, Recipe(width, format, target))
        except ImageRefused:
            return
        self.assertLess(len(found.data), len(data))
        with Image.open(io.BytesIO(found.data)) as image:
            wanted = width if 0 < width < w * 9 else w * 9
            self.assertEqual(image.size, (wanted, max(1, round(h * 7 * wanted / (w * 9)))))
            self.assertEqual(image.format, format or source)


def animation(format: str, frames: int = 6, **options: object) -> bytes:
    pictures = []
    for number in range(frames):
        frame = drawing(320, 200)
        ImageDraw.Draw(frame).ellipse((20 * number, 50, 20 * number + 60, 110), fill="blue")
        pictures.append(frame)
    out = io.BytesIO()
    pictures[0].save(out, format, save_all=True, append_images=pictures[1:], **options)
    return out.getvalue()


class Animations(unittest.TestCase):
    def test_frames_times_and_repeats_stay(self) -> None:
        durations = [40, 100, 250, 60, 80, 500]
        for loops, expected in ((0, 0), (3, 4)):  # a GIF counts repeats after the first time
            data = animation("GIF", duration=durations, loop=loops)
            found = recode(data, Recipe(0, "WEBP", 0.95))
            self.assertLess(len(found.data), len(data))
            with Image.open(io.BytesIO(found.data)) as image:
                self.assertEqual(image.n_frames, 6)  # type: ignore[attr-defined]
                self.assertEqual(image.info["loop"], expected)
                image.seek(2)
                image.load()
                self.assertEqual(image.info["duration"], 250)
                with Image.open(io.BytesIO(data)) as source:
                    source.seek(2)
                    self.assertGreater(similarity(source.convert("RGB"), image.convert("RGB")), 0.95)

    def test_one_that_plays_once_plays_once(self) -> None:
        with Image.open(io.BytesIO(recode(animation("GIF", duration=100), Recipe(0, "WEBP", 0.95)).data)) as image:
            self.assertEqual(image.info["loop"], 1)

    def test_an_animation_is_not_made_a_still(self) -> None:
        with self.assertRaisesRegex(ImageRefused, "animation of 6 frames"):
            recode(animation("GIF", duration=100), Recipe(0, "AVIF", 0.95))
        still = recode(animation("GIF", duration=100), Recipe(48, "WEBP", quality=70, always=True))
        self.assertEqual((still.width, still.height), (48, 30))


WORDY = b"""<?xml version="1.0" encoding="UTF-8"?>
<!-- Made with an editor -->
<svg xmlns="http://www.w3.org/2000/svg" xmlns:ed="http://editor.example/ns" width="48" height="24" viewBox="0 0 48 24">
  <metadata>Ada, 2026</metadata>
  <title>A wheel</title>
  <g id="wheel" class="turning">
    <path d="M 10.000000,10.000000 L 20.000000,10.000000 L 20.000000,20.000000 Z" style="fill:#ff0000;fill-opacity:1"/>
  </g>
</svg>"""


class Drawings(unittest.TestCase):
    def test_text_goes_and_names_stay(self) -> None:
        found = minified_svg(WORDY)
        self.assertLess(len(found), len(WORDY) * 0.75)
        self.assertNotIn(b"editor", found)
        for kept in (b'id="wheel"', b'class="turning"', b"<title>A wheel</title>", b"Ada, 2026"):
            self.assertIn(kept, found)
        self.assertEqual(check_svg(found), (48, 24))

    def test_what_could_do_harm_is_left_with_the_reason(self) -> None:
        start = b'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">'
        entity = b'<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>' + start + b"<text>&b;</text></svg>"
        for body, reason in (
            (start + b"<script>alert(1)</script></svg>", "<script>"),
            (start + b'<g onload="x()"/></svg>', "runs scripts"),
            (start + b'<image xlink:href="http://other.example/x.png"/></svg>', "outside"),
            (start + b'<image href="file:///etc/passwd"/></svg>', "outside"),
            (start + b'<rect fill="url(http://other.example/#a)"/></svg>', "outside"),
            (start + b"<style>@import 'x.css'</style></svg>", "outside"),
            (start + b"<foreignObject><p/></foreignObject></svg>", "foreignObject"),
            (entity, "entities"),
            (start + b"<g>", "not a readable SVG"),
            (b"<html/>", "not an SVG"),
            (b"", "empty"),
            (start + b"<g/>" * 60_000 + b"</svg>", "elements"),
            (b" " * 2_000_001 + WORDY, "more than 2 MB"),
        ):
            with self.subTest(reason), self.assertRaisesRegex(ImageRefused, reason):
                recode(body, Recipe(format=SVG))

    def test_huge_dimensions_cost_nothing(self) -> None:
        huge = WORDY.replace(b'width="48"', b'width="99999999"')
        self.assertEqual(check_svg(minified_svg(huge)), (10**6, 24))
        with self.assertRaisesRegex(ImageRefused, "could not be minified"):
            minified_svg(WORDY.replace(b'width="48"', b'width="1e300"'))


class Pixels(unittest.TestCase):
    def test_alpha_is_judged_on_light_and_on_dark(self) -> None:
        clear = np.zeros((64, 64, 4), dtype=np.uint8)
        clear[..., 3] = np.arange(64) * 4
        first, second = Image.fromarray(clear), Image.fromarray(clear)
        ImageDraw.Draw(second).rectangle((20, 20, 40, 40), fill=(0, 0, 0, 0))  # seen on light only
        self.assertLess(similarity(first, second), 0.95)
