"""Pictures: what is believed of them, how alike they are, and what comes out."""

from __future__ import annotations

import io
import struct
import subprocess
import tempfile
import unittest
import zlib

import numpy as np
import skimage.data
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageCms
from skimage.metrics import structural_similarity

from tests.sites import FolderCase, photo
from unladen.progress import Progress
from unladen.raster.codec import decode
from unladen.raster.probe import ImageRefused, probe
from unladen.raster.recode import Recipe, recode
from unladen.raster.similarity import similarity, ssim_map
from unladen.work_cache import WorkCache


def as_file(image: Image.Image, format: str, **options: object) -> bytes:
    out = io.BytesIO()
    image.save(out, format, **options)  # type: ignore[arg-type]
    return out.getvalue()


def huge_png(side: int) -> bytes:
    """A PNG of side x side pixels in a few kB."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", side, side, 1, 0, 0, 0, 0)
    body = zlib.compress(bytes((side // 8 + 1) * side), 9)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", body) + chunk(b"IEND", b"")


class Similarity(unittest.TestCase):
    def test_equals_scikit_image(self) -> None:
        # Outside reference: skimage.metrics.structural_similarity with its default 7x7 window.
        first = np.asarray(Image.fromarray(skimage.data.coffee()).convert("L"), dtype=np.float32)
        for quality in (20, 60, 95):
            coded = Image.open(io.BytesIO(as_file(Image.fromarray(first.astype(np.uint8)), "JPEG", quality=quality)))
            second = np.asarray(coded, dtype=np.float32)
            ours = float(ssim_map(first, second)[0].mean())
            self.assertAlmostEqual(ours, structural_similarity(first, second, data_range=255), places=4)

    @settings(max_examples=25, deadline=None)
    @given(st.integers(0, 2**31), st.integers(8, 60), st.integers(8, 60))
    def test_a_picture_is_most_like_itself(self, seed: int, width: int, height: int) -> None:
        pixels = np.random.RandomState(seed).randint(0, 256, (height, width, 3), dtype=np.uint8)
        image, other = Image.fromarray(pixels), Image.fromarray(255 - pixels)
        self.assertAlmostEqual(similarity(image, image), 1.0, places=3)
        self.assertLess(similarity(image, other), 0.9)

    def test_flat_art_does_not_hide_its_few_lines(self) -> None:
        # The plain mean is blind here: most windows are flat and equal.
        drawing = Image.new("L", (400, 400), 255)
        pixels = np.asarray(drawing).copy()
        pixels[40:44, 20:380] = 0
        drawing = Image.fromarray(pixels).convert("RGB")
        blurred = drawing.resize((100, 100), Image.Resampling.BOX).resize((400, 400))
        self.assertLess(similarity(drawing, blurred), 0.9)

    def test_what_is_transparent_counts_on_both_grounds(self) -> None:
        mark = Image.new("RGBA", (60, 60), (255, 255, 255, 0))
        mark.paste((255, 255, 255, 255), (20, 20, 40, 40))
        gone = Image.new("RGBA", (60, 60), (255, 255, 255, 0))
        self.assertLess(similarity(mark, gone), 0.95)


class Recoding(unittest.TestCase):
    def test_the_lowest_quality_that_holds_the_target(self) -> None:
        data = as_file(Image.fromarray(skimage.data.astronaut()), "JPEG", quality=95)
        for target in (0.95, 0.97):
            found = recode(data, Recipe(0, "WEBP", target))
            self.assertGreaterEqual(found.likeness, target)
            self.assertLess(len(found.data), len(data) / 2)

    def test_a_smaller_width_keeps_the_shape(self) -> None:
        found = recode(photo(1300, 900), Recipe(650, "", 0.97))
        self.assertEqual((found.format, found.width, found.height), ("JPEG", 650, 450))

    def test_every_pixel_as_it_was(self) -> None:
        image = Image.fromarray(skimage.data.page()).convert("RGB")
        found = recode(as_file(image, "PNG"), Recipe(0, "WEBP", 1.0))
        again = Image.open(io.BytesIO(found.data)).convert("RGB")
        self.assertEqual(again.tobytes(), image.tobytes())
        with self.assertRaisesRegex(ImageRefused, "JPEG"):
            recode(photo(200, 200), Recipe(0, "WEBP", 1.0))

    def test_the_container_is_what_the_standard_says(self) -> None:
        # RFC 9649: "RIFF", size of what follows, "WEBP", then VP8 , VP8L or VP8X.
        data = recode(photo(400, 300), Recipe(0, "WEBP", 0.95)).data
        self.assertEqual((data[:4], data[8:12]), (b"RIFF", b"WEBP"))
        self.assertEqual(struct.unpack("<I", data[4:8])[0], len(data) - 8)
        self.assertIn(data[12:16], (b"VP8 ", b"VP8L", b"VP8X"))

    @settings(max_examples=20, deadline=None)
    @given(
        st.integers(1, 90),
        st.integers(1, 90),
        st.sampled_from(["JPEG", "PNG", "WEBP"]),
        st.booleans(),
        st.integers(0, 999),
    )
    def test_no_file_ever_grows_and_a_second_pass_finds_nothing(
        self, width: int, height: int, format: str, exact: bool, seed: int
    ) -> None:
        data = photo(width, height, seed, format)
        recipe = Recipe(0, "WEBP", 1.0 if exact else 0.95)
        try:
            found = recode(data, recipe)
        except ImageRefused:
            return
        self.assertLess(len(found.data), len(data))
        self.assertEqual((found.width, found.height), (width, height))

    def test_practice_values(self) -> None:
        # Common practice, no source: a 2560x800 background as JPEG at 1024x320 is about a third of its bytes or less.
        data = photo(2560, 800)
        self.assertLess(len(recode(data, Recipe(1024, "", 0.97)).data), len(data) / 3)


class OddImages(unittest.TestCase):
    def refused(self, data: bytes, reason: str) -> None:
        with self.assertRaisesRegex(ImageRefused, reason):
            recode(data, Recipe(0, "WEBP", 0.97))

    def test_what_is_left_alone_says_why(self) -> None:
        cmyk = Image.fromarray(skimage.data.coffee()).convert("CMYK")
        self.refused(as_file(cmyk, "JPEG"), "CMYK")
        self.refused(as_file(Image.fromarray(np.arange(10_000, dtype=np.uint16).reshape(100, 100)), "PNG"), "16 bits")
        frames = [Image.new("RGB", (40, 40), (n * 60, 0, 0)) for n in range(3)]
        self.refused(as_file(frames[0], "WEBP", save_all=True, append_images=frames[1:]), "animation of 3")
        self.refused(as_file(frames[0], "PNG", save_all=True, append_images=frames[1:]), "not become smaller")
        self.refused(photo(300, 200)[:4000], "damaged or cut off")
        self.refused(b"", "empty")
        self.refused(b"<html>not a picture</html>", "not a readable image")
        # The first bytes of files that cameras and editors write (their specifications, from memory).
        self.refused(b"\0\0\0\x18ftypheic" + bytes(99), "a HEIC picture, which stays unchanged")
        self.refused(b"\xff\x0a" + bytes(99), "a JPEG XL picture")
        self.refused(b"8BPS\0\1" + bytes(99), "of an editor")
        self.refused(b'<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg"/>', "an SVG drawing, although")
        bright = b"\xff\xe1\0\x25http://ns.adobe.com/xap/1.0/\0hdrgm:ok"
        data = photo(300, 200)
        self.refused(data[:2] + bright + data[2:], "bright screens")

    def test_four_hundred_megapixels_in_a_few_kilobytes(self) -> None:
        bomb = huge_png(20_000)
        self.assertLess(len(bomb), 60_000)
        self.refused(bomb, "400 million pixels")
        line = bytearray(huge_png(40_000))
        line[16:24] = struct.pack(">II", 40_000, 1)
        line[29:33] = struct.pack(">I", zlib.crc32(line[12:29]))
        self.refused(bytes(line), "is 40,000 x 1 px; at most 30,000 px a side")

    def test_the_name_does_not_matter_but_the_content(self) -> None:
        self.assertEqual(probe(photo(64, 48, format="PNG")).format, "PNG")

    def test_orientation_is_applied(self) -> None:
        image = Image.fromarray(skimage.data.astronaut()).crop((0, 0, 400, 200))
        exif = Image.Exif()
        exif[0x0112] = 6
        data = as_file(image, "JPEG", quality=95, exif=exif.tobytes())
        self.assertEqual((probe(data).width, probe(data).height), (200, 400))
        out = Image.open(io.BytesIO(recode(data, Recipe(0, "WEBP", 0.95)).data))
        self.assertEqual(out.size, (200, 400))
        self.assertGreater(similarity(image.rotate(-90, expand=True), out.convert("RGB")), 0.9)
        self.assertIsNone(out.getexif().get(0x0112))

    def test_a_broken_colour_profile_is_taken_as_srgb(self) -> None:
        image = Image.fromarray(skimage.data.coffee())
        plain = decode(as_file(image, "PNG"))
        self.assertEqual(decode(as_file(image, "PNG", icc_profile=b"nonsense")).tobytes(), plain.tobytes())
        srgb = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        close = np.abs(
            np.asarray(decode(as_file(image, "PNG", icc_profile=srgb))).astype(int) - np.asarray(plain).astype(int)
        )
        self.assertLessEqual(int(close.max()), 2)

    def test_colours_beyond_srgb_stay_and_others_lose_their_profile(self) -> None:
        # Display P3 by its colorants for D50 (from memory), written over those of the profile that Pillow makes for
        # sRGB.
        profile = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
        for tag, values in (
            (b"rXYZ", (0.51512, 0.2412, -0.00105)),
            (b"gXYZ", (0.29198, 0.69225, 0.04189)),
            (b"bXYZ", (0.1571, 0.06657, 0.78407)),
        ):
            at = struct.unpack(">I", profile[profile.index(tag) + 4 : profile.index(tag) + 8])[0]
            profile[at + 8 : at + 20] = struct.pack(">3i", *(round(v * 65536) for v in values))
        dull = Image.fromarray(skimage.data.coffee()).point(lambda v: 90 + v // 4)
        vivid = dull.copy()
        vivid.paste((255, 0, 0), (100, 100, 200, 200))
        for image, kept in ((dull, False), (vivid, True)):
            data = as_file(image, "JPEG", quality=95, icc_profile=bytes(profile))
            for format in ("WEBP", "AVIF", "JPEG"):
                found = Image.open(io.BytesIO(recode(data, Recipe(0, format, 0.95)).data))
                self.assertEqual("icc_profile" in found.info, kept, format)

    def test_png_gets_a_palette_where_that_looks_the_same(self) -> None:
        ground = np.full((240, 320, 3), 250, dtype=np.uint8)
        ground[40:200, 40:280] = (np.arange(240)[None, :, None] * [0.5, 0.2, 0.1] + 40).astype(np.uint8)
        data = as_file(Image.fromarray(ground), "PNG", compress_level=1)
        found = recode(data, Recipe(0, "PNG", 0.95))
        self.assertGreaterEqual(found.likeness, 0.95)
        noisy = as_file(Image.fromarray(np.random.RandomState(3).randint(0, 256, (99, 99, 3), dtype=np.uint8)), "PNG")
        with self.assertRaises(ImageRefused):
            recode(noisy, Recipe(0, "PNG", 0.985))

    def test_another_program_reads_what_is_written(self) -> None:
        """Outside reference: Debian's ImageMagick, which has decoders of its own."""
        colour = Image.fromarray(skimage.data.astronaut()).crop((0, 0, 160, 120))
        clear = Image.fromarray(skimage.data.logo()).resize((160, 160))
        for source in (colour, colour.convert("L"), clear):
            for recipe in (
                Recipe(0, "WEBP", 0.97, always=True),
                Recipe(0, "WEBP", 1.0, always=True),
                Recipe(90, "AVIF", 0.95, always=True),
                Recipe(0, "PNG", 0.95, always=True),
                Recipe(0, "JPEG", 0.97, always=True, part=(10, 20, 100, 80)),
            ):
                made = recode(as_file(source, "PNG"), recipe)
                with tempfile.NamedTemporaryFile(suffix="." + made.format.lower()) as file:
                    file.write(made.data)
                    file.flush()
                    command = ["identify", "-format", "%w %h", file.name]
                    told = subprocess.run(command, check=True, capture_output=True, text=True).stdout
                    self.assertEqual(told, f"{made.width} {made.height}", recipe)
                    read = subprocess.run(
                        ["convert", file.name, "-depth", "8", "rgba:-"], check=True, capture_output=True
                    )
                theirs = np.frombuffer(read.stdout, dtype=np.uint8).reshape(made.height, made.width, 4).astype(int)
                ours = np.asarray(Image.open(io.BytesIO(made.data)).convert("RGBA")).astype(int)
                shows = ours[..., 3:] > 0
                self.assertLess(float(np.abs((theirs - ours) * shows).mean()), 4, recipe)


class Remembering(FolderCase):
    def test_costly_work_is_done_once_and_refusals_are_remembered_too(self) -> None:
        work_cache = WorkCache(self.folder / "memo", self.store)
        good, bad = self.store.put(photo(300, 200)), self.store.put(b"nonsense")
        jobs = [(good, Recipe(0, "WEBP", 0.95)), (bad, Recipe(0, "WEBP", 0.95)), (good, Recipe(150, "", 0.95))]
        seen: list[tuple[int, int]] = []
        progress = Progress(lambda _stage, done, total, _note: seen.append((done, total)))
        first = work_cache.outcomes(jobs, progress, "survey")
        self.assertEqual(seen[-1], (3, 3))
        self.assertIn("not a readable image", first[jobs[1]].refused)
        hits = work_cache.hits
        self.assertEqual(work_cache.outcomes(jobs, Progress(), "survey"), first)
        self.assertEqual(work_cache.hits, hits + 3)
        work_cache.made.drop(first[jobs[0]].digest)
        self.assertIsNone(work_cache.known(*jobs[0]))
