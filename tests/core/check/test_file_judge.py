"""Image files judged by themselves, at the size at which they are shown."""

from __future__ import annotations

import io
import unittest
from pathlib import Path

import skimage
from PIL import Image, ImageFilter, ImageOps

from tests.sites import FolderCase, photo
from unladen.check.file_judge import FileJudge, Question
from unladen.check.pictures import Other, differing
from unladen.raster.probe import ImageInfo, ImageRefused
from unladen.raster.recode import Recipe, recode
from unladen.raster.shown import LEAST_LIKENESS, showing
from unladen.work_cache import WorkCache

PORTRAIT = photo(400, 400, 7, grain=3)
ASTRONAUT = Path(skimage.__file__).parent / "data" / "astronaut.png"  # a real portrait, of PyPI scikit-image


def saved(image: Image.Image, format: str = "WEBP", quality: int = 90) -> bytes:
    out = io.BytesIO()
    image.save(out, format, quality=quality)
    return out.getvalue()


class Judging(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.judge = FileJudge(WorkCache(self.folder / "memo", self.store))

    def likeness(self, other: bytes, box: int = 36, density: float = 1.0, first: bytes = PORTRAIT) -> float | None:
        question = Question(self.store.put(first), self.store.put(other), (box, box), density)
        return self.judge.likenesses([question])[0]

    def test_what_steady_makes_of_a_portrait_is_alike_at_any_size(self) -> None:
        portrait = saved(Image.open(ASTRONAUT).convert("RGB").crop((100, 0, 400, 300)), "JPEG")
        judged = 0
        for box, kept in ((20, 1), (36, 2), (48, 2), (160, 1)):
            for format in ("WEBP", "AVIF", "JPEG"):
                try:
                    made = recode(portrait, Recipe(box * kept, format, 0.97, density=kept)).data
                except ImageRefused:
                    continue  # no quality of it would do
                judged += 1
                for density in (1, 2, 3):
                    found = self.likeness(made, box, density, portrait)
                    assert found is not None
                    self.assertGreater(found, LEAST_LIKENESS, (box, format, density))
        self.assertGreater(judged, 8)

    def test_another_picture_or_one_that_was_spoilt_is_not(self) -> None:
        image = Image.open(io.BytesIO(PORTRAIT)).convert("RGB")
        spoilt = {
            "another": Image.open(io.BytesIO(photo(400, 400, 9, grain=3))),
            "mirrored": ImageOps.mirror(image),
            "turned": image.rotate(90),
            "grey": image.convert("L").convert("RGB"),
            "blurred": image.filter(ImageFilter.GaussianBlur(40)),
            "zoomed": image.crop((80, 80, 320, 320)).resize((400, 400)),
        }
        for name, other in spoilt.items():
            for box in (20, 36, 200):
                with self.subTest(name, box=box):
                    found = self.likeness(saved(other), box)
                    assert found is not None
                    self.assertLess(found, LEAST_LIKENESS)

    def test_what_shines_through_counts(self) -> None:
        clear = Image.new("RGBA", (200, 200), (180, 60, 40, 0))
        clear.paste((180, 60, 40, 255), (50, 50, 150, 150))
        found = self.likeness(saved(clear.convert("RGB"), "PNG"), 64, first=saved(clear, "PNG"))
        assert found is not None
        self.assertLess(found, LEAST_LIKENESS)

    def test_parts_drawings_and_broken_files_are_for_others_to_judge(self) -> None:
        image = Image.open(io.BytesIO(PORTRAIT)).convert("RGB")
        for other in (
            saved(image.crop((0, 0, 400, 200))),
            b"<svg xmlns='http://www.w3.org/2000/svg'/>",
            PORTRAIT[:300],
            b"",
        ):
            self.assertIsNone(self.likeness(other))

    def test_sizes_at_which_files_are_compared(self) -> None:
        def size(first: int, second: int, box: float, density: float) -> tuple[int, float] | None:
            one, other = (ImageInfo("JPEG", width, width, "RGB", 1, 8, False) for width in (first, second))
            found = showing(one, other, (box, box), density)
            return (found.size[0], found.density) if found else None

        self.assertEqual(size(400, 72, 36, 2), (72, 2.0))
        self.assertEqual(size(400, 72, 36, 1), (36, 1.0))
        self.assertEqual(size(400, 72, 36, 3), (72, 2.0))  # the smaller file has no more
        self.assertEqual(size(400, 20, 36, 2), (36, 1.0))  # too small: judged at one px for each CSS px
        self.assertEqual(size(100, 80, 400, 1), (100, 1.0))


class InPlace(unittest.TestCase):
    """A screenshot of a place whose file is known to be alike: there, upright, of its colours, not covered."""

    def page_checks(self, shown: Image.Image, box: int = 36) -> list[str]:
        portrait = Image.open(io.BytesIO(PORTRAIT)).convert("RGB").resize((box, box), Image.Resampling.LANCZOS)
        pages = []
        for inside in (portrait, shown.resize((box, box), Image.Resampling.BOX)):
            pages.append(Image.new("RGB", (120, 120), "white"))
            pages[-1].paste(inside, (40, 40))
        place = Other((40, 40, 40 + box, 40 + box), 1.0)
        return [spot.why for spot in differing(pages[0], None, pages[1], [place])]

    def test_another_way_of_reducing_is_no_difference(self) -> None:
        portrait = Image.open(io.BytesIO(PORTRAIT)).convert("RGB")
        for width in (40, 72, 108, 400):
            self.assertEqual(self.page_checks(portrait.resize((width, width), Image.Resampling.BILINEAR)), [])

    def test_what_is_blank_covered_mirrored_or_half_there_is(self) -> None:
        portrait = Image.open(io.BytesIO(PORTRAIT)).convert("RGB")
        half = portrait.copy()
        half.paste("white", (0, 200, 400, 400))
        for shown in (
            Image.new("RGB", (40, 40), "white"),
            ImageOps.mirror(portrait),
            half,
            ImageOps.invert(portrait),
        ):
            self.assertEqual(self.page_checks(shown), ["looks different"])

    def test_files_that_are_not_alike_differ_whatever_shows(self) -> None:
        image = Image.open(io.BytesIO(PORTRAIT)).convert("RGB")
        (spot,) = differing(image, None, image, [Other((0, 0, 400, 400), 0.4)])
        self.assertEqual(spot.why, "is only 0.40 alike")
