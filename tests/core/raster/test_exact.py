"""Files packed better with every pixel as it was; what is only told goes, what is shown stays."""

from __future__ import annotations

import contextlib
import io
import struct
import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageCms

from tests.sites import photo
from unladen.raster.metadata import is_marked, marked, metadata_bytes, parts, stripped
from unladen.raster.probe import ImageRefused
from unladen.raster.recode import Recipe, jpeg_quality, recode

ORIENTATION, COPYRIGHT, ARTIST, MAKER = 0x0112, 0x8298, 0x013B, 0x010F


def told(format: str = "JPEG", orientation: int = 6, profile: bytes = b"") -> bytes:
    """A picture with all that a camera tells."""
    exif = Image.Exif()
    exif[ORIENTATION], exif[COPYRIGHT], exif[ARTIST], exif[MAKER] = orientation, "© Ada", "Ada", "Acme" * 300
    options: dict[str, Any] = {"exif": exif.tobytes()} | ({"icc_profile": profile} if profile else {})
    image = Image.open(io.BytesIO(photo(240, 160, format="PNG")))
    out = io.BytesIO()
    if format == "JPEG":
        options |= {"quality": 90, "comment": b"made with care"}
    if format == "WEBP":
        options |= {"lossless": True, "xmp": b"<x:xmpmeta/>" * 50}
    image.save(out, format, **options)  # type: ignore[arg-type]
    return out.getvalue()


def shown(data: bytes) -> tuple[np.ndarray[Any, Any], int, Any]:
    """Pixels, orientation and profile: what a browser goes by."""
    with Image.open(io.BytesIO(data)) as image:
        return np.asarray(image.convert("RGBA")), image.getexif().get(ORIENTATION, 1), image.info.get("icc_profile")


class Metadata(unittest.TestCase):
    def test_what_is_told_goes_and_what_is_shown_stays(self) -> None:
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        for format in ("JPEG", "PNG", "WEBP"):
            with self.subTest(format):
                data = told(format, profile=profile)
                self.assertGreater(metadata_bytes(data), 1200)
                plain = stripped(data)
                self.assertLess(metadata_bytes(plain), 100)
                for before, after in zip(shown(data), shown(plain), strict=True):
                    self.assertTrue(np.array_equal(before, after))
                with Image.open(io.BytesIO(plain)) as image:
                    self.assertEqual(set(image.getexif()), {ORIENTATION})

    def test_the_owner_stays_if_asked(self) -> None:
        for format in ("JPEG", "PNG", "WEBP"):
            with self.subTest(format), Image.open(io.BytesIO(stripped(told(format), copyright=True))) as image:
                self.assertEqual(set(image.getexif()), {ORIENTATION, COPYRIGHT, ARTIST})
        lossy = recode(told(), Recipe(0, "WEBP", 0.9, copyright=True)).data
        with Image.open(io.BytesIO(lossy)) as image:
            self.assertEqual(set(image.getexif()), {COPYRIGHT, ARTIST})  # its pixels are upright

    @settings(max_examples=60, deadline=None)
    @given(st.binary(max_size=300), st.sampled_from(["JPEG", "PNG", "WEBP"]), st.integers(0, 10_000))
    def test_no_damage_makes_it_fail_otherwise_than_by_a_refusal(self, noise: bytes, format: str, at: int) -> None:
        data = told(format)
        at %= len(data)
        broken = data[:at] + noise + data[at + len(noise) :]
        self.assertEqual(
            sum(part.end - part.start for part in parts(broken) if part.metadata), metadata_bytes(broken)
        )
        with contextlib.suppress(ImageRefused):
            stripped(broken)

    def test_a_webp_file_is_one_by_its_standard(self) -> None:
        # RFC 9649, section 2.4: "RIFF", the size of what follows, "WEBP"; 2.7: flags of VP8X, chunks of even length.
        for data in (stripped(told("WEBP")), recode(photo(300, 200), Recipe(0, "WEBP", 0.9)).data):
            riff, size, webp = struct.unpack_from("<4sI4s", data)
            self.assertEqual((riff, size, webp), (b"RIFF", len(data) - 8, b"WEBP"))
            names = [part.name for part in parts(data)]
            self.assertIn(names[0], (b"VP8 ", b"VP8L", b"VP8X"))
            self.assertEqual(parts(data)[-1].end, len(data))
            if names[0] == b"VP8X":
                self.assertEqual(bool(data[20] & 0x08), b"EXIF" in names)
                self.assertEqual(bool(data[20] & 0x04), b"XMP " in names)


class Exactly(unittest.TestCase):
    def test_each_format_gets_smaller_and_keeps_its_pixels(self) -> None:
        for format in ("JPEG", "PNG", "WEBP"):
            with self.subTest(format):
                data = told(format)
                found = recode(data, Recipe())
                self.assertLess(len(found.data), len(data) - 1200)
                self.assertEqual((found.quality, found.likeness), (0, 1.0))
                for before, after in zip(shown(data), shown(found.data), strict=True):
                    self.assertTrue(np.array_equal(before, after))

    def test_a_second_pass_changes_nothing(self) -> None:
        for format in ("JPEG", "PNG", "WEBP"):
            once = recode(told(format), Recipe()).data
            with self.assertRaisesRegex(ImageRefused, "smaller"):
                recode(once, Recipe())

    def test_sixteen_bits_stay_sixteen(self) -> None:
        deep = Image.fromarray((np.arange(90_000, dtype=np.uint32) * 7 % 65_536).astype(np.uint16).reshape(300, 300))
        out = io.BytesIO()
        deep.save(out, "PNG", compress_level=1)
        again = Image.open(io.BytesIO(recode(out.getvalue(), Recipe()).data))
        self.assertTrue(np.array_equal(np.asarray(again), np.asarray(deep)))


class NoSecondLoss(unittest.TestCase):
    def test_what_a_change_made_is_not_an_original(self) -> None:
        once = recode(photo(900, 600, quality=97), Recipe(0, "JPEG", 0.9)).data
        self.assertTrue(is_marked(once))
        for format in ("JPEG", "WEBP"):
            with self.assertRaisesRegex(ImageRefused, "compressed before"):
                recode(once, Recipe(0, format, 0.9))
        self.assertTrue(is_marked(stripped(once)))
        self.assertEqual(marked(b"\xff\xd8\xff\xd9")[2:4], b"\xff\xfe")

    def test_what_is_coarse_already_stays(self) -> None:
        with self.assertRaisesRegex(ImageRefused, "quality 5"):
            recode(photo(900, 600, quality=55), Recipe(0, "WEBP", 0.9))
        with self.assertRaisesRegex(ImageRefused, "WEBP already"):
            recode(photo(900, 600, format="WEBP"), Recipe(0, "WEBP", 0.9))

    def test_the_quality_is_read_from_the_tables(self) -> None:
        # The encoder scales the tables of ITU-T T.81, annex K, by its quality setting; reference: Pillow's own setting.
        for quality in (25, 35, 50, 60, 75, 85, 95):
            self.assertLessEqual(abs(jpeg_quality(photo(64, 48, quality=quality)) - quality), 1)
