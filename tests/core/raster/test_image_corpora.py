"""Every odd image there is goes through: it comes out right, or is left as it was with a reason."""

from __future__ import annotations

import io
import resource
import unittest
from pathlib import Path

from PIL import Image, ImageOps

from tests.sites import FolderCase, registry_package, registry_sdist
from unladen.capture import BodyStore
from unladen.progress import Progress
from unladen.raster.probe import ImageRefused, probe
from unladen.raster.recode import SVG, Recipe, recode
from unladen.raster.sight import Sight
from unladen.raster.similarity import similarity
from unladen.work_cache import Job, Outcome, WorkCache

EXACT, SMALLER = Recipe(), Recipe(40, "", 0.95)
# All files go through the last two; packing the largest and searching qualities take long and are done for some.
SEARCHED, WEBP = Recipe(0, "WEBP", 0.97), Recipe(160, "WEBP", quality=85)
LARGE = 60_000  # bytes
MOST_MEMORY = 1_500_000_000  # bytes of the largest worker, at a limit of 3 GB


def upright(data: bytes) -> Image.Image:
    """What a viewer shows, by Pillow alone."""
    with Image.open(io.BytesIO(data)) as image:
        turned = ImageOps.exif_transpose(image)
        return turned.convert("RGBA" if "A" in turned.getbands() or "transparency" in image.info else "RGB")


class OddFiles(FolderCase):
    def through(self, folder: Path) -> dict[Job, Outcome]:
        """All files of a folder through all recipes, in the workers that the product uses."""
        files = sorted(path for path in folder.rglob("*") if path.is_file() and path.stat().st_size < 8_000_000)
        self.assertGreater(len(files), 10)
        self.bodies = {path.name: path.read_bytes() for path in files}
        digests = {name: self.store.put(body) for name, body in self.bodies.items()}
        self.work_cache = work_cache = WorkCache(self.folder / "memo", self.store)
        jobs: list[Job] = [(digest, WEBP) for digest in digests.values()]
        jobs += [(digest, SMALLER) for digest in list(digests.values())[::4]]
        jobs += [(digests[name], EXACT) for name, body in self.bodies.items() if len(body) < LARGE]
        jobs += [(digest, SEARCHED) for digest in list(digests.values())[::12]]
        outcomes = work_cache.outcomes(jobs, Progress(), "survey")
        self.assertEqual(set(outcomes), set(jobs))
        peak = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss * 1024
        self.assertLess(peak, MOST_MEMORY)
        return {(name, job[1]): outcomes[job] for name, digest in digests.items() for job in jobs if job[0] == digest}

    def expect_right(self, found: dict[Job, Outcome], store: BodyStore) -> int:
        """Check every file that came out; returns how many did."""
        made = 0
        for (name, recipe), outcome in found.items():
            if outcome.refused:
                self.assertNotIn("Error", outcome.refused.split("(")[0], name)
                continue
            made += 1
            before, data = self.bodies[name], self.work_cache.body(outcome)
            self.assertLess(len(data), len(before), name)
            info, now = probe(before), probe(data)
            self.assertEqual((outcome.width, outcome.height), (now.width, now.height), name)
            if recipe is not WEBP and recipe is not SEARCHED:  # frames that are all the same may have become one
                self.assertEqual(now.frames > 1, info.frames > 1, name)
            assert isinstance(recipe, Recipe)
            if not recipe.width or recipe.width > info.width:
                self.assertEqual((now.width, now.height), (info.width, info.height), name)
            if info.frames == 1 and info.bits == 8 and not info.has_profile and info.mode not in ("CMYK", "F"):
                whole = upright(before)
                shown = upright(data)
                whole, shown = (
                    i.convert("RGBA") if "RGBA" in (whole.mode, shown.mode) else i for i in (whole, shown)
                )
                floor = 0.999 if recipe is EXACT else outcome.likeness - 0.05  # what was promised
                if whole.size == shown.size:
                    self.assertGreater(Sight(whole).likeness(shown), floor, name)
                    if min(whole.size) >= 64:  # another measure than the one that it was made by
                        self.assertGreater(similarity(whole, shown), 0.85, name)
        return made

    def test_pillows_own_test_images(self) -> None:
        found = self.through(registry_sdist("pillow", "13.0.0", "Tests/images"))
        self.assertGreater(self.expect_right(found, self.store), 250)
        reasons = {name: outcome.refused for (name, recipe), outcome in found.items() if recipe is WEBP}
        self.assertIn("million pixels", reasons["decompression_bomb.ico"] + reasons["decompression_bomb.gif"])
        self.assertIn("frames of different sizes", reasons["decompression_bomb_extents.gif"])
        self.assertRegex(reasons["truncated_image.png"], "damaged|cut off|broken|no image")
        self.assertRegex(reasons["pil_sample_cmyk.jpg"], "CMYK")

    def test_the_exif_of_many_camera_makers(self) -> None:
        found = self.through(registry_sdist("piexif", "1.1.3", "tests/images"))
        self.assertGreater(self.expect_right(found, self.store), 10)
        for (name, recipe), outcome in found.items():
            if recipe is EXACT and not outcome.refused and name.endswith(".jpg"):
                with Image.open(io.BytesIO(self.work_cache.body(outcome))) as image:
                    self.assertLessEqual(set(image.getexif()), {0x0112}, name)


class Drawings(unittest.TestCase):
    def test_icon_sets_come_out_smaller_and_none_fails(self) -> None:
        for package, version, folder in (
            ("bootstrap-icons", "1.11.3", "icons"),
            ("flag-icons", "7.2.3", "flags/4x3"),
        ):
            files = sorted((registry_package(package, version) / folder).glob("*.svg"))[::12]
            before = after = 0
            for path in files:
                body = path.read_bytes()
                try:
                    made = recode(body, Recipe(format=SVG)).data
                except ImageRefused as refused:
                    self.assertRegex(str(refused), "smaller|outside")
                    made = body
                before, after = before + len(body), after + len(made)
                self.assertLessEqual(len(made), len(body))
            self.assertLessEqual(after, before)
