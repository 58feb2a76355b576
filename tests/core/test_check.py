"""What counts as a difference between two looks at a page."""

from __future__ import annotations

import io
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from tests.sites import FolderCase, photo
from unladen.check.compare import compare
from unladen.check.looking import Look
from unladen.check.probes import Observation
from unladen.check.shelf import LookShelf
from unladen.check.tiles import TILE, differing_tiles
from unladen.weigh.records.conditions import DEVICES


def png(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def paper(width: int = 320, height: int = 640, text_at: int = 100) -> Image.Image:
    """A page of text."""
    image = Image.new("RGB", (width, height), "white")
    draw = ImageDraw.Draw(image)
    for row in range(12):
        draw.text((20, text_at + row * 20), "The wheel turns twice a day, says the miller.", fill="black")
    return image


BOXES: dict[str, list[float]] = {
    "html": [0, 0, 320, 640],
    "html > body": [0, 0, 320, 640],
    "html > body > p": [20, 100, 280, 240],
}


def look(
    boxes: dict[str, list[float]] = BOXES,
    errors: tuple[str, ...] = ("script error: old",),
    missing: tuple[str, ...] = ("https://site.example/old.jpg",),
    broken: tuple[str, ...] = (),
    stuck: tuple[str, ...] = (),
    stills: tuple[list[float], ...] = (),
) -> Look:
    """A look as the probes tell of it."""
    return Look(
        True,
        {
            "missing": Observation({"missing": list(missing)}),
            "errors": Observation({"errors": list(errors)}),
            "images": Observation({"broken": list(broken)}),
            "elements": Observation({"boxes": [[place, box] for place, box in boxes.items()]}),
            "stills": Observation({"stuck": list(stuck)}),
            "picture": Observation({"stills": list(stills)}, {"picture": png(paper())}),
        },
    )


LOOK = look()


class Comparing(unittest.TestCase):
    def kinds(self, after: Look, again: Look = LOOK) -> list[str]:
        return [difference.what for difference in compare(LOOK, again, after)]

    def test_the_same_is_the_same(self) -> None:
        self.assertEqual(self.kinds(look()), [])

    def test_only_what_is_new_counts(self) -> None:
        after = look(errors=("script error: old", "script error: new"), missing=("https://site.example/new.jpg",))
        found = compare(LOOK, LOOK, after)
        self.assertEqual([d.what for d in found], ["missing", "error"])
        self.assertIn("new.jpg", found[0].text)
        self.assertEqual(self.kinds(look(errors=(), missing=())), [])

    def test_broken_images_dead_pages_and_lost_elements(self) -> None:
        self.assertEqual(self.kinds(look(broken=("html > body > img",))), ["broken-image"])
        self.assertEqual(self.kinds(Look(alive=False)), ["dead"])
        self.assertEqual(
            self.kinds(look({place: box for place, box in BOXES.items() if not place.endswith("p")})), ["elements"]
        )

    def test_moved_boxes_are_named_with_by_how_much(self) -> None:
        moved = BOXES | {"html > body > p": [20.0, 130.0, 280.0, 240.0]}
        (difference,) = compare(LOOK, LOOK, look(moved))
        self.assertIn("html > body > p by 0, 30 px", difference.text)
        self.assertEqual(difference.boxes, ((20, 100, 300, 340),))
        grown = BOXES | {"html > body > p": [20.0, 100.0, 280.0, 200.0]}
        self.assertIn("is 280x200 px, was 280x240", compare(LOOK, LOOK, look(grown))[0].text)

    def test_less_than_a_pixel_is_nothing(self) -> None:
        near = BOXES | {"html > body > p": [20.4, 100.9, 280.2, 239.5]}
        self.assertEqual(self.kinds(look(near)), [])

    def test_what_moves_by_itself_is_not_held_against_anybody(self) -> None:
        restless = look(BOXES | {"html > body > p": [20.0, 400.0, 280.0, 240.0]})
        after = look(BOXES | {"html > body > p": [20.0, 250.0, 280.0, 240.0]})
        self.assertEqual(self.kinds(after, again=restless), [])

    def test_a_still_that_is_stuck_already_is_nobody_s_fault(self) -> None:
        stuck = look(stuck=("The sluice",))
        self.assertEqual([d.what for d in compare(LOOK, LOOK, stuck)], ["still"])
        self.assertEqual(compare(stuck, stuck, stuck), ())

    def test_one_part_is_one_part(self) -> None:
        sign = paper()
        ImageDraw.Draw(sign).rectangle((200, 30, 216, 46), fill=(40, 70, 110))
        after = look()
        seen = dict(after.observations) | {"picture": Observation({"stills": []}, {"picture": png(sign)})}
        (difference,) = compare(LOOK, LOOK, Look(True, seen))
        self.assertTrue(difference.text.startswith("1 part of the picture differs"), difference.text)


class Pictures(unittest.TestCase):
    def tiles(self, after: Image.Image, before: Image.Image | None = None, again: Image.Image | None = None) -> int:
        first = before or paper()
        return len(differing_tiles(first, again or first, after)[0])

    def test_text_that_moved_by_two_pixels_is_seen(self) -> None:
        self.assertGreater(self.tiles(paper(text_at=102)), 5)

    def test_lossy_coding_at_the_qualities_used_is_not(self) -> None:
        picture = Image.open(io.BytesIO(photo(640, 480))).convert("RGB")
        coded = io.BytesIO()
        picture.save(coded, "WEBP", quality=60)
        self.assertEqual(self.tiles(Image.open(coded).convert("RGB"), picture), 0)

    def test_a_small_sign_that_is_gone_is_seen(self) -> None:
        with_sign = paper()
        ImageDraw.Draw(with_sign).rectangle((200, 30, 216, 46), fill=(40, 70, 110))
        found, level = differing_tiles(with_sign, with_sign, paper())
        self.assertEqual(found, [(192, 32, 224, 64)])
        self.assertGreater(level, 14)

    def test_a_longer_page_differs_where_only_one_has_content(self) -> None:
        found, _ = differing_tiles(paper(), paper(), paper(height=704))
        self.assertTrue(all(top >= 640 for _, top, _, _ in found))
        self.assertEqual(len(found), 2 * 320 // TILE)

    def test_restless_parts_are_masked(self) -> None:
        again = paper()
        ImageDraw.Draw(again).rectangle((0, 400, 320, 500), fill=(200, 40, 40))
        after = paper()
        ImageDraw.Draw(after).rectangle((0, 400, 320, 500), fill=(40, 40, 200))
        self.assertEqual(self.tiles(after, again=again), 0)
        ImageDraw.Draw(after).rectangle((0, 0, 60, 60), fill=(40, 40, 200))
        self.assertGreater(self.tiles(after, again=again), 0)

    @settings(max_examples=30, deadline=None)
    @given(st.integers(1, 130), st.integers(1, 130), st.integers(0, 99))
    def test_any_size_can_be_compared_and_is_like_itself(self, width: int, height: int, seed: int) -> None:
        pixels = np.random.RandomState(seed).randint(0, 256, (height, width, 3), dtype=np.uint8)
        image = Image.fromarray(pixels)
        self.assertEqual(differing_tiles(image, image, image), ([], 0.0))


class Shelf(FolderCase):
    def test_looks_come_back_for_the_same_site_page_device_and_browser_only(self) -> None:
        capture = self.capture({"index.html": b"<p>x"})
        other = self.capture({"index.html": b"<p>y"})
        shelf = LookShelf(self.folder / "looks", self.store, "1.0")
        phone, desktop = DEVICES["phone"], DEVICES["desktop"]
        url = "https://site.example/index.html"
        self.assertIsNone(shelf.find(capture, url, phone))
        with_stills = look(stuck=("The sluice",), stills=([1, 2, 3, 4],))
        shelf.keep(other, url, phone, (with_stills, LOOK))
        self.assertEqual(shelf.find(other, url, phone), (with_stills, LOOK))  # whole, stills too
        shelf.forget(other, url, phone)
        shelf.keep(capture, url, phone, (LOOK, LOOK))
        self.assertEqual(shelf.find(capture, url, phone), (LOOK, LOOK))
        self.assertIsNone(shelf.find(capture, url, desktop))
        self.assertIsNone(shelf.find(other, url, phone))
        self.assertIsNone(LookShelf(self.folder / "looks", self.store, "1.1").find(capture, url, phone))
        shelf.keep(other, url, phone, (LOOK, Look(alive=False)))
        self.assertIsNone(shelf.find(other, url, phone))
        next(iter((self.folder / "looks").glob("*.json"))).write_text("cut off")
        self.assertIsNone(shelf.find(capture, url, phone))
