"""What counts as a difference between two looks at a page."""

from __future__ import annotations

import io
import unittest
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from tests.sites import FolderCase, photo
from unladen.check.checking import tolerated
from unladen.check.compare import compare
from unladen.check.pairs import Difference, PageCheck
from unladen.check.pictures import TILE, Other, Spot, differing
from unladen.check.probes import Observation
from unladen.check.snapshot import Snapshot
from unladen.check.snapshot_cache import SnapshotCache
from unladen.plan import Accepted, IgnoredRegion, Tolerance
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
NAMES = {"html": ["page", ""], "html > body": ["page", ""], "html > body > p": ["paragraph", "The wheel"]}
Values = dict[str, Any]


def snapshot(
    boxes: dict[str, list[float]] = BOXES,
    errors: tuple[str, ...] = ("script error: old",),
    missing: tuple[str, ...] = ("https://site.example/old.jpg",),
    instead: tuple[str, ...] = (),
    picture: Image.Image | None = None,
    closed: tuple[str, ...] = (),
    **more: Values,
) -> Snapshot:
    """A look as the probes tell of it; `more` are values of further probes by name."""
    strip = picture or paper()
    layout = {"boxes": [[place, box] for place, box in boxes.items()], "names": NAMES, "closed": list(closed)}
    shown = {
        "stills": [],
        "width": 320,
        "height": strip.height,
        "images": [],
        "density": 1.0,
        "zoom": 1.0,
        "strips": [["strip 0", strip.height]],
    }
    seen = {
        "missing": Observation({"missing": list(missing)}),
        "errors": Observation({"errors": list(errors), "warnings": []}),
        "layout": Observation(layout),
        "picture": Observation(shown | more.pop("picture_values", {}), {"strip 0": png(strip)}),
    }
    return Snapshot(True, seen | {name: Observation(values) for name, values in more.items()}, instead=instead)


LOOK = snapshot()


def happens(verb: str, *box: float, text: str = "") -> list[list[Any]]:
    """One effect on an element, as the page reports it."""
    return [[verb, list(box), text]]


def step(key: str, effect: dict[str, list[list[Any]]], **more: object) -> Values:
    """A step of a walk as its probe tells of it."""
    usual: Values = {
        "page": {},
        "names": {},
        "styles": {},
        "properties": [],
        "attempts": [],
        "invalid": [],
        "sends": [],
        "reached": 0,
        "errors": [],
    }
    told = {"key": key, "place": "html > body > p", "words": f"pressing “{key}”", "again": False, "there": True}
    return usual | told | {"effect": effect, "restless": ""} | more


class Comparing(unittest.TestCase):
    def kinds(self, after: Snapshot, again: Snapshot = LOOK, before: Snapshot = LOOK) -> list[str]:
        return [difference.what for difference in compare(before, again, after)]

    def test_the_same_is_the_same(self) -> None:
        self.assertEqual(self.kinds(snapshot()), [])

    def test_only_what_is_new_counts(self) -> None:
        after = snapshot(errors=("script error: old", "script error: new"), missing=("https://site.example/new.jpg",))
        found = compare(LOOK, LOOK, after)
        self.assertEqual([d.what for d in found], ["missing", "error"])
        self.assertIn("new.jpg", found[0].text)
        self.assertEqual(self.kinds(snapshot(errors=(), missing=())), [])

    def test_dead_pages_and_lost_elements(self) -> None:
        self.assertEqual(self.kinds(Snapshot(alive=False)), ["dead"])
        less = {place: box for place, box in BOXES.items() if not place.endswith("p")}
        self.assertEqual(self.kinds(snapshot(less)), ["gone"])
        (hidden,) = compare(LOOK, LOOK, snapshot(less, closed=("html > body > p",)))
        self.assertEqual(hidden.text, "the paragraph “The wheel” is no longer visible")

    def test_moved_boxes_are_named_with_by_how_much(self) -> None:
        moved = BOXES | {"html > body > p": [20.0, 130.0, 280.0, 240.0]}
        (difference,) = compare(LOOK, LOOK, snapshot(moved))
        self.assertEqual(difference.text, "the paragraph “The wheel” moved by 0, 30 px")
        self.assertEqual(difference.boxes, ((20, 100, 300, 340),))
        grown = BOXES | {"html > body > p": [20.0, 100.0, 280.0, 200.0]}
        self.assertIn("is 280x200 px, was 280x240", compare(LOOK, LOOK, snapshot(grown))[0].text)

    def test_less_than_a_pixel_is_nothing(self) -> None:
        near = BOXES | {"html > body > p": [20.4, 100.9, 280.2, 239.5]}
        self.assertEqual(self.kinds(snapshot(near)), [])

    def test_what_moves_by_itself_is_not_held_against_anybody(self) -> None:
        restless = snapshot(BOXES | {"html > body > p": [20.0, 400.0, 280.0, 240.0]})
        after = snapshot(BOXES | {"html > body > p": [20.0, 250.0, 280.0, 240.0]})
        self.assertEqual(self.kinds(after, again=restless), [])

    def test_what_something_stands_in_for_is_told_of_by_others(self) -> None:
        frame = "html > body > iframe"
        before = snapshot(words={"words": {f"{frame} >>> html > body": "In the frame", "html > body > p": "Here"}})
        after = snapshot(words={"words": {"html > body > p": "Here"}}, instead=(frame,))
        self.assertEqual(self.kinds(after, before, before), [])
        self.assertEqual(
            self.kinds(snapshot(words={"words": {"html > body > p": "Here"}}), before, before), ["words"]
        )

    def test_a_control_under_another_layer_is_covered(self) -> None:
        before, after = (snapshot(hits={"hits": {"html > body > p": above}}) for above in ("", "html > body"))
        (found,) = compare(before, before, after)
        self.assertEqual((found.what, found.text[:14]), ("covered", "the paragraph "))
        self.assertEqual(self.kinds(before, after, after), [])

    def test_a_step_that_does_nothing_any_more_is_told_with_what_it_did(self) -> None:
        opened = {"html > body > nav": happens("shows") + happens("at", 0, 0, 320, 100)}
        named = {"names": {"html > body > nav": ["menu", "Main"]}}
        before = snapshot(walk={"steps": [step("Menu", opened, **named)]})
        (found,) = compare(before, before, snapshot(walk={"steps": [step("Menu", {})]}))
        self.assertEqual(found.text, "pressing “Menu” has no effect now; before, it showed the menu “Main”")
        self.assertEqual(found.step, "pressing “Menu”")
        near = {"html > body > nav": happens("shows") + happens("at", 0, 1, 320, 101)}
        self.assertEqual(self.kinds(snapshot(walk={"steps": [step("Menu", near)]}), before, before), [])

    def test_what_a_step_touches_on_both_pages_is_compared_in_all_its_styles(self) -> None:
        def touched(marks: dict[str, str]) -> Snapshot:
            walk = {"styles": marks, "properties": ["color", "letter-spacing"]}
            return snapshot(walk={"steps": [step("Order", {"html > body > p": happens("says", text="x")}, **walk)]})

        before = touched({"html > body > p": "aa", "html > body": "zz"})
        (found,) = compare(before, before, touched({"html > body > p": "ab"}))
        self.assertIn("differ: letter-spacing", found.text)
        self.assertEqual(self.kinds(touched({}), before, before), [])  # a script of ours touches other elements
        self.assertEqual(
            self.kinds(touched({"html > body > p": "xy"}), before, touched({"html > body > p": "cd"})), []
        )

    def test_a_number_that_a_page_says_is_not_rounded(self) -> None:
        told, other, fresh, moved = (
            snapshot(walk={"steps": [step("Order", {"html > body > p": effect})]})
            for effect in (
                happens("says", text="10 coins"),
                happens("says", text="12 coins"),
                happens("new", 0, 0, 90, 20, text="shown 10"),
                happens("new", 0, 1, 90, 20, text="shown 10"),
            )
        )
        self.assertEqual(self.kinds(other, told, told), ["walk"])
        self.assertEqual(self.kinds(moved, fresh, fresh), [])

    def test_a_step_that_varies_by_itself_or_never_ended_is_no_evidence(self) -> None:
        one, two, three = (
            snapshot(walk={"steps": [step("Dice", {"html > body > p": happens("says", text=n)})]}) for n in "123"
        )
        self.assertEqual(self.kinds(three, two, one), [])
        busy = snapshot(walk={"steps": [step("Dice", {}, restless="a script keeps drawing")]})
        self.assertEqual(self.kinds(three, busy, busy), [])

    def test_styles_that_differ_are_told_together_and_with_the_moment(self) -> None:
        def styled(colour: str, hover: dict[str, Any]) -> Snapshot:
            rows = {"names": ["color", "float"], "rows": [[colour, "none"]], "of": {"html > body > p": 0}}
            return snapshot(styles=rows | {"moves": {}, "in": {"hover": hover}})

        before = styled("red", {"html > body > p": {"color": "blue"}})
        (base,) = compare(before, before, styled("green", {"html > body > p": {"color": "blue"}}))
        self.assertEqual(base.text, "the paragraph “The wheel” looks different: color")
        (hover,) = compare(before, before, styled("red", {}))
        self.assertEqual(hover.text, "the paragraph “The wheel” looks different when pointed at: color")

    def test_globals_may_grow_and_not_shrink(self) -> None:
        def made(said: str) -> Snapshot:
            return snapshot(scripts={"globals": {"Mill": said}, "listeners": {}})

        before = made("object: open tides")
        self.assertEqual(self.kinds(made("object: open shut tides"), before, before), [])
        self.assertEqual(self.kinds(made("object: tides"), before, before), ["scripts"])
        self.assertEqual(self.kinds(snapshot(scripts={"globals": {}, "listeners": {}}), before, before), ["scripts"])

    def test_what_is_read_out_is_compared_in_order(self) -> None:
        def read(*tree: str) -> Snapshot:
            return snapshot(
                meaning={"page": {}, "labels": {}, "parts": [], "ids": [], "order": [], "tree": list(tree)}
            )

        before = read("heading “Tides”", "link “Home”")
        (found,) = compare(before, before, read("heading “Tides”", "link “”"))
        self.assertIn("link “Home” is gone", found.text)

    def test_a_still_that_is_stuck_already_is_nobody_s_fault(self) -> None:
        stuck, loose = snapshot(stills={"stuck": ["The sluice"]}), snapshot(stills={"stuck": []})
        self.assertEqual(self.kinds(stuck, loose, loose), ["still"])
        self.assertEqual(self.kinds(stuck, stuck, stuck), [])


class Pictures(unittest.TestCase):
    def page_checks(
        self,
        after: Image.Image,
        before: Image.Image | None = None,
        again: Image.Image | None = None,
        others: Sequence[tuple[float, float, float, float]] = (),
        likeness: float | None = None,
    ) -> list[Spot]:
        return differing(before or paper(), again, after, [Other(place, likeness) for place in others])

    def test_text_that_moved_by_two_pixels_is_seen_and_by_one_is_not(self) -> None:
        self.assertGreater(len(self.page_checks(paper(text_at=102))), 5)
        self.assertEqual(self.page_checks(paper(text_at=101)), [])

    def test_a_single_letter_and_a_thin_line_are_seen(self) -> None:
        sign = paper()
        ImageDraw.Draw(sign).text((200, 500), "i", fill="black")
        self.assertEqual(len(self.page_checks(sign)), 1)
        line = paper()
        ImageDraw.Draw(line).line((0, 600, 320, 600), fill="black")
        self.assertEqual(len(self.page_checks(line)), 320 // TILE)

    def test_another_file_in_its_place_is_judged_by_what_is_seen(self) -> None:
        picture = Image.open(io.BytesIO(photo(320, 240))).convert("RGB")
        place = (0.0, 0.0, 320.0, 240.0)

        def coded(quality: int) -> Image.Image:
            out = io.BytesIO()
            picture.save(out, "WEBP", quality=quality)
            return Image.open(out).convert("RGB")

        self.assertEqual(self.page_checks(coded(80), picture, others=[place]), [])
        self.assertNotEqual(self.page_checks(coded(80), picture), [])  # by pixels it is another
        self.assertNotEqual(self.page_checks(coded(1), picture, others=[place]), [])
        self.assertNotEqual(self.page_checks(picture.convert("L").convert("RGB"), picture, others=[place]), [])

    def test_words_lost_over_such_a_place_are_seen(self) -> None:
        picture = Image.open(io.BytesIO(photo(320, 240, grain=2))).convert("RGB")
        with_words = picture.copy()
        ImageDraw.Draw(with_words).text((90, 90), "Turning since 1620", fill="white", font_size=24)
        self.assertNotEqual(self.page_checks(picture, with_words, others=[(0, 0, 320, 240)]), [])

    def test_a_longer_page_differs_where_only_one_has_content(self) -> None:
        (spot,) = self.page_checks(paper(height=704))
        self.assertEqual(spot.box, (0, 640, 320, 704))

    def test_restless_parts_are_masked(self) -> None:
        again = paper()
        ImageDraw.Draw(again).rectangle((0, 400, 320, 500), fill=(200, 40, 40))
        after = paper()
        ImageDraw.Draw(after).rectangle((0, 400, 320, 500), fill=(40, 40, 200))
        self.assertEqual(self.page_checks(after, again=again), [])
        ImageDraw.Draw(after).rectangle((0, 0, 60, 60), fill=(40, 40, 200))
        self.assertNotEqual(self.page_checks(after, again=again), [])

    @settings(max_examples=30, deadline=None)
    @given(st.integers(1, 130), st.integers(1, 130), st.integers(0, 99))
    def test_any_size_can_be_compared_and_is_like_itself(self, width: int, height: int, seed: int) -> None:
        pixels = np.random.RandomState(seed).randint(0, 256, (height, width, 3), dtype=np.uint8)
        image = Image.fromarray(pixels)
        for likeness in (None, 1.0):
            self.assertEqual(differing(image, image, image, [Other((0, 0, width, height), likeness)]), [])


class Shelf(FolderCase):
    URL = "https://site.example/index.html"

    def test_looks_hold_as_long_as_what_was_read_is_the_same(self) -> None:
        phone, desktop = DEVICES["phone"], DEVICES["desktop"]
        files = {"index.html": b"<p>x", "a.jpg": b"1", "other.html": b"<p>y"}
        capture = self.capture(files)
        shelf = SnapshotCache(self.folder / "looks", "1.0")
        self.assertEqual(shelf.find(capture, self.URL, phone, 9), [])
        reads = {
            url: capture.content(url) for url in (self.URL, "https://site.example/a.jpg", "https://site.example/no")
        }
        kept = replace(snapshot(stills={"stuck": ["The sluice"]}), reads=reads, instead=("html > x",))
        self.assertTrue(shelf.keep(self.URL, phone, kept))
        elsewhere = self.capture(files | {"other.html": b"<p>z"})
        self.assertEqual(shelf.find(elsewhere, self.URL, phone, 9), [kept])  # whole, and as it was
        for changed in ({"a.jpg": b"2"}, {"no": b"there now"}, {"index.html": b"<p>!"}):
            self.assertEqual(shelf.find(self.capture(files | changed), self.URL, phone, 9), [])
        self.assertEqual(shelf.find(capture, self.URL, desktop, 9), [])
        self.assertEqual(SnapshotCache(self.folder / "looks", "1.1").find(capture, self.URL, phone, 9), [])
        shelf.keep(self.URL, phone, kept)
        self.assertEqual([len(shelf.find(capture, self.URL, phone, most)) for most in (1, 2, 9)], [1, 2, 2])

    def test_what_is_not_worth_keeping_is_not_kept_and_quick_looks_do_for_quick_checks_only(self) -> None:
        capture, phone = self.capture({"index.html": b"<p>x"}), DEVICES["phone"]
        shelf = SnapshotCache(self.folder / "looks", "1.0")
        self.assertFalse(shelf.keep(self.URL, phone, Snapshot(alive=False)))
        self.assertFalse(shelf.keep(self.URL, phone, replace(LOOK, restless="a timer is about to run")))
        shelf.keep(self.URL, phone, replace(LOOK, whole=False))
        self.assertEqual(len(shelf.find(capture, self.URL, phone, 9, enough=["layout"])), 1)
        self.assertEqual(shelf.find(capture, self.URL, phone, 9), [])
        next(iter((self.folder / "looks").rglob("*.json"))).write_text("cut off")
        self.assertEqual(shelf.find(capture, self.URL, phone, 9, enough=["layout"]), [])

    def test_pictures_of_the_looks_used_last_stay(self) -> None:
        capture = self.capture({f"{n}.html": b"<p>x" for n in range(8)})
        pictures = self.folder / "looks" / "pictures"
        shelf = SnapshotCache(self.folder / "looks", "1.0", room=20_000)
        urls = [f"https://site.example/{n}.html" for n in range(8)]
        for n, url in enumerate(urls):
            body = bytes([n]) * 5000
            seen = {**LOOK.observations, "picture": Observation({"width": 1}, {"0": body})}
            shelf.keep(url, DEVICES["phone"], replace(LOOK, observations=seen, reads={url: capture.content(url)}))
        self.assertLessEqual(sum(file.stat().st_size for file in pictures.rglob("*") if file.is_file()), 20_000)
        self.assertEqual(shelf.find(capture, urls[0], DEVICES["phone"], 1), [])
        (latest,) = shelf.find(capture, urls[7], DEVICES["phone"], 1)
        self.assertEqual(latest.observations["picture"].bodies, {"0": bytes([7]) * 5000})


class Tolerating(unittest.TestCase):
    PAIR = PageCheck(
        "/a.html", "phone", (Difference("picture", "x", ((0, 0, 32, 32), (64, 64, 96, 96))), Difference("words", "y"))
    )

    def left(self, tolerance: Tolerance) -> list[Difference]:
        return list(tolerated(self.PAIR.differences, tolerance, self.PAIR.page, self.PAIR.device))

    def test_what_lies_in_a_mask_is_left_out_and_the_rest_is_not(self) -> None:
        first, second = self.PAIR.differences
        mask = IgnoredRegion("/a*", "", (0, 0, 40, 40))
        self.assertEqual(self.left(Tolerance(masks=(mask,))), [replace(first, boxes=((64, 64, 96, 96),)), second])
        self.assertEqual(self.left(Tolerance(masks=(replace(mask, box=(0, 0, 99, 99)),))), [second])
        self.assertEqual(self.left(Tolerance(masks=(replace(mask, device="desktop"),))), [first, second])

    def test_what_somebody_accepted_passes_on_that_page_and_device(self) -> None:
        first, second = self.PAIR.differences
        accepted = Accepted("/a.html", "phone", second.key, "y", "as wanted")
        self.assertEqual(self.left(Tolerance((accepted,))), [first])
        self.assertEqual(self.left(Tolerance((replace(accepted, device=""),))), [first])
        self.assertEqual(self.left(Tolerance((replace(accepted, page="/b.html"),))), [first, second])
