"""How far apart two pictures look, and what encoders make of colours; parts of pictures that cover frames."""

from __future__ import annotations

import io
import unittest

import flip_evaluator
import numpy as np
import skimage.color
import skimage.data
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from unladen.raster import sight as looking
from unladen.raster.codec import encode, reopen
from unladen.raster.colour import is_grey, unbiased
from unladen.raster.probe import ImageInfo
from unladen.raster.search import lowest_quality
from unladen.raster.sight import Sight, usual_density
from unladen.survey.images.needs import keeps_shape
from unladen.survey.images.parts import _cut
from unladen.weigh.records.model import Frame

# A part of each is enough, since the outside metric takes a second for every half a million pixels.
PHOTOGRAPHS = [
    Image.fromarray(getattr(skimage.data, name)()).crop((80, 60, 360, 260))
    for name in ("astronaut", "coffee", "chelsea")
]


def flip(first: Image.Image, second: Image.Image, density: float = 1) -> float:
    """The mean of FLIP (Andersson and others, HPG 2020) at 67 px per degree times the density; its own package."""
    pixels = [np.asarray(image.convert("RGB"), dtype=np.float32) / 255 for image in (first, second)]
    found = flip_evaluator.evaluate(
        *pixels, "LDR", inputsRGB=True, applyMagma=False, parameters={"ppd": 67.0 * density}
    )
    return float(np.mean(found[0]))


class Seen(unittest.TestCase):
    def test_colours_are_those_of_the_standard(self) -> None:
        # Outside reference: skimage.color.rgb2lab for the white D65, two degrees.
        pixels = np.random.RandomState(1).randint(0, 256, (30, 30, 3), dtype=np.uint8)
        ours = looking._lab(looking._light_of(pixels))
        self.assertLess(float(np.abs(ours - skimage.color.rgb2lab(pixels)).max()), 0.05)

    @settings(max_examples=25, deadline=None)
    @given(st.integers(0, 2**31), st.integers(1, 60), st.integers(1, 60), st.sampled_from(["RGB", "RGBA"]))
    def test_a_picture_is_most_like_itself(self, seed: int, width: int, height: int, mode: str) -> None:
        shape = (height, width, len(mode))
        image = Image.fromarray(np.random.RandomState(seed).randint(0, 256, shape, dtype=np.uint8))
        self.assertAlmostEqual(Sight(image).likeness(image), 1.0, places=5)
        changed = np.asarray(image).copy()
        changed[..., :3] = np.where(changed[..., :3] > 127, 0, 255)
        changed[..., 3:] = 255
        self.assertLess(Sight(image).likeness(Image.fromarray(changed)), 0.9)

    def test_more_pixels_for_each_css_pixel_and_a_veil_hide_more(self) -> None:
        for image in PHOTOGRAPHS:
            coded = reopen(encode(image, "WEBP", 60))
            found = [Sight(image, density).likeness(coded) for density in (1, 2, 3)]
            self.assertEqual(found, sorted(found))
            self.assertGreater(flip(image, coded), flip(image, coded, 2))  # as the outside metric has it
            veiled = [Sight(image, 1, (0, 0, 0, cover)).likeness(coded) for cover in (10, 60, 90)]
            self.assertEqual(veiled, sorted(veiled))
            self.assertGreater(veiled[2], found[0])
        self.assertEqual([usual_density(d) for d in (0.3, 1.4, 1.99, 2.6, 9)], [1.0, 1.0, 2.0, 2.0, 3.0])

    def test_a_small_part_that_is_worse_is_not_lost_in_the_mean(self) -> None:
        large = Image.fromarray(skimage.data.astronaut()).resize((1024, 1024))
        worse = large.copy()
        face = (400, 100, 500, 200)  # less than a hundredth of it
        worse.paste(large.crop(face).resize((2, 2)).resize((100, 100)), face)
        self.assertLess(Sight(large).likeness(worse), 0.95)

    def test_bands_in_a_sky_count(self) -> None:
        slope = np.linspace(150, 190, 600)[:, None, None] * np.ones((1, 600, 3)) * [0.6, 0.8, 1]
        smooth = Image.fromarray(np.floor(slope + np.random.RandomState(0).rand(600, 600, 1)).astype(np.uint8))
        bands = Image.fromarray((np.round(slope / 6) * 6).astype(np.uint8))
        self.assertLess(Sight(smooth).likeness(bands), 0.97)

    def test_the_outside_metric_agrees_that_the_words_stand_in_order(self) -> None:
        for image in PHOTOGRAPHS:
            for format in ("WEBP", "AVIF"):
                found = [
                    flip(image, reopen(lowest_quality(Sight(image), format, t).data)) for t in (0.985, 0.97, 0.95)
                ]
                self.assertEqual(found, sorted(found))
                self.assertLess(found[1], 0.1)


class Colours(unittest.TestCase):
    def test_avif_gives_colours_back_as_they_went_in(self) -> None:
        # Neither so dark nor so light that something would be cut off at the ends.
        colours = np.random.RandomState(1).randint(60, 196, (40, 40, 3), dtype=np.uint8)
        image = Image.fromarray(colours.repeat(8, axis=0).repeat(8, axis=1))
        plain = io.BytesIO()
        image.save(plain, "AVIF", quality=95, subsampling="4:4:4")
        before, after = (self.shift(image, data) for data in (plain.getvalue(), encode(image, "AVIF", 95)))
        # Without it all colours lean to green: if this fails, the library rounds now, and `unbiased` can go.
        self.assertGreater(before, 0.7)
        self.assertLess(after, 0.3)

    def shift(self, image: Image.Image, data: bytes) -> float:
        """By how many levels green moves against red and blue, in the mean."""
        moved = (np.asarray(reopen(data), dtype=float) - np.asarray(image)).mean(axis=(0, 1))
        return float(abs(moved[1] - (moved[0] + moved[2]) / 2))

    @settings(max_examples=30, deadline=None)
    @given(st.integers(0, 2**31))
    def test_what_is_lifted_moves_by_one_level_and_what_is_cut_off_is_rounded(self, seed: int) -> None:
        pixels = np.random.RandomState(seed).randint(1, 255, (16, 16, 3), dtype=np.uint8)
        moved = np.asarray(unbiased(Image.fromarray(pixels))).astype(int)
        self.assertLessEqual(int(np.abs(moved - pixels).max()), 1)
        for factors in ((-43, -85, 128), (128, -107, -21)):
            true = pixels.astype(int) @ factors / 256
            cut = np.floor(moved @ factors / 256)
            self.assertLessEqual(float(np.abs(cut - true).max()), 0.67)
            self.assertLess(abs(float((cut - true).mean())), 0.12)

    def test_grey_has_one_plane(self) -> None:
        grey = PHOTOGRAPHS[0].convert("L").convert("RGB")
        self.assertTrue(is_grey(grey))
        self.assertEqual(unbiased(grey).mode, "L")
        self.assertLess(
            float(np.abs(np.asarray(reopen(encode(grey, "AVIF", 90)), float) - np.asarray(grey)).mean()), 2
        )


class Parts(unittest.TestCase):
    @settings(max_examples=200, deadline=None)
    @given(
        st.integers(200, 3000),
        st.integers(200, 3000),
        st.floats(0.2, 4),
        st.floats(1, 3),
        st.sampled_from([0, 0.5, 1]),
    )
    def test_a_part_lies_in_every_frame_just_as_the_whole_does(
        self, width: int, height: int, low: float, spread: float, position: float
    ) -> None:
        """CSS Backgrounds 3, 3.6 and 3.9: scaled to cover, the position is the share of what hangs over."""
        info = ImageInfo("JPEG", width, height, "RGB", 1, 8, False)
        frame = Frame(low, low * spread, low, 1.0, position, position)
        part = _cut(info, frame, frame.low, frame.high)
        if not part:
            return
        self.assertLess(part[2] * part[3], width * height)
        for shape in (low, low * (1 + spread) / 2, low * spread):
            whole = covering((0, 0, width, height), shape, position)
            cut = covering(part, shape, position)
            for a, b in zip(whole, cut, strict=True):
                self.assertAlmostEqual(a, b, delta=0.51)  # px of the file, half a one by rounding

    @given(st.integers(20, 4000), st.integers(20, 4000), st.integers(10, 4000), st.floats(10, 3000))
    def test_a_box_keeps_its_height_to_a_twentieth_of_a_pixel(
        self, width: int, height: int, to: int, tall: float
    ) -> None:
        info = ImageInfo("JPEG", width, height, "RGB", 1, 8, False)
        if to <= width and keeps_shape(info, to, tall):
            rows = max(1, round(height * to / width))
            self.assertLess(abs(tall * (rows / to) / (height / width) - tall), 0.0501)


def covering(part: tuple[int, ...], shape: float, position: float) -> tuple[float, float, float, float]:
    """Which part of the file (left, top, width, height in px) a frame of a shape shows of a part that covers it."""
    left, top, width, height = part
    if width / height > shape:
        seen = height * shape
        return (left + position * (width - seen), top, seen, height)
    seen = width / shape
    return (left, top + position * (height - seen), width, seen)
