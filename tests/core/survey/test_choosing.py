"""Settings and choices for images, sizes that belong together, and widths from measured layouts."""

from __future__ import annotations

import unittest
from typing import Any

from hypothesis import example, given
from hypothesis import strategies as st

from tests.plans import change
from unladen.errors import BadInput
from unladen.plan import ChooseImages, ImageChoice, ImageScope, Plan, Propose, proposals
from unladen.raster.probe import ImageInfo
from unladen.remedies import Change, Delivery, ImageSettings
from unladen.remedies.images.webp import FormatParams
from unladen.survey.images.families import families, stem_of
from unladen.survey.images.needs import even_width
from unladen.survey.images.responsive import NARROWEST, best_widths
from unladen.survey.images.sizes import capped, chosen, lines_of, sizes_text, width_at
from unladen.weigh.page.layout import USUAL_WIDTHS

SCOPE = ImageScope(("/index.html",), ("/index.html", "/other.html"))
PLAN = Plan(
    "steady",
    (
        change("shrink:/a.jpg", "shrink", ("/a.jpg",), SCOPE.weighed, {"width": 600, "similarity": 0.97}),
        change("webp:/a.jpg", "webp", ("/a.jpg",), SCOPE.weighed, {"similarity": 0.97}, on=False),
        change("widths:/a.jpg", "widths", ("/a.jpg",), SCOPE.weighed, {"widths": [300], "sizes": {}}),
        change("exact:small", "exact", ("/b.png", "/c.png"), SCOPE.all),
        change("lazy-images:/index.html", "lazy-images", ("/a.jpg", "/b.png"), SCOPE.weighed),
    ),
)


class Choices(unittest.TestCase):
    def changed(self, **choices: ImageChoice) -> dict[str, Change[Any]]:
        wanted = {f"/{name}.{'jpg' if name == 'a' else 'png'}": choice for name, choice in choices.items()}
        return {made.id: made for made in ChooseImages(wanted, SCOPE).apply(PLAN).changes}

    def test_one_image_can_differ_from_the_rest(self) -> None:
        found = self.changed(a=ImageChoice("AVIF", 400, "true"))
        self.assertEqual(found["shrink:/a.jpg"].params.width, 400)
        self.assertEqual(found["webp:/a.jpg"].params, FormatParams(similarity=0.985, format="AVIF"))
        self.assertTrue(found["webp:/a.jpg"].chosen)
        self.assertIn("widths:/a.jpg", found)
        self.assertEqual(found["exact:small"], PLAN.changes[3])
        found = self.changed(b=ImageChoice("WEBP", quality=60))
        self.assertEqual(found["exact:small"].targets, ("/c.png",))
        self.assertEqual(found["webp:/b.png"].params.quality, 60)

    def test_left_alone_means_by_all_that_would_change_it(self) -> None:
        found = self.changed(a=ImageChoice("leave"), b=ImageChoice("leave"), c=ImageChoice("leave"))
        self.assertEqual(set(found), {"lazy-images:/index.html"})

    def test_the_same_format_stays_in_its_place(self) -> None:
        self.assertEqual(self.changed(a=ImageChoice(""))["recompress:/a.jpg"].pages, SCOPE.all)
        self.assertEqual(self.changed(c=ImageChoice("", likeness="exact"))["exact:/c.png"].targets, ("/c.png",))

    def test_a_new_proposal_keeps_what_was_decided(self) -> None:
        old = ChooseImages({"/a.jpg": ImageChoice("AVIF")}, SCOPE).apply(PLAN)
        new = Propose(PLAN).apply(old)
        by_id = {made.id: made for made in new.changes}
        self.assertTrue(by_id["webp:/a.jpg"].chosen)
        self.assertNotIn("shrink:/a.jpg", by_id)
        self.assertTrue(by_id["exact:small"].on)
        self.assertFalse(Propose(PLAN).apply(Plan("steady", ())).changes[0].on)

    def test_what_a_plan_makes_of_each_image(self) -> None:
        found = proposals(PLAN)
        self.assertEqual(set(found), {"/a.jpg", "/b.png", "/c.png"})
        a = found["/a.jpg"]
        self.assertEqual((a.format, a.width, a.similarity, a.on), ("WEBP", 600, 0.97, True))
        self.assertEqual(a.changes, ("shrink:/a.jpg", "webp:/a.jpg"))

    def test_nonsense_is_refused(self) -> None:
        for wrong in ({"format": "BMP"}, {"likeness": "nice"}, {"quality": 101}, {"width": -1}):
            with self.assertRaises(BadInput):
                ImageChoice(**wrong)  # type: ignore[arg-type]

    def test_settings_travel_with_the_plan(self) -> None:
        settings = ImageSettings(
            likeness="true", density=1.5, content_width=1200, background_width=2000, phone_width=500, fallback=True
        )
        plan = Plan("steady", (), images=settings, delivery=Delivery(same_names=True))
        document = plan.as_json()
        self.assertEqual(Plan.from_json(document), plan)
        for name, value in (("likeness", "best"), ("density", 9), ("phone_width", 5), ("avif", 1)):
            with self.subTest(name), self.assertRaisesRegex(BadInput, name):
                Plan.from_json(document | {"images": {name: value}})


class Families(unittest.TestCase):
    def test_names_that_state_a_size(self) -> None:
        for name in ("a-300x200.jpg", "a_800w.jpg", "a-1024.jpg", "a@2x.jpg", "a-scaled.jpg", "a-150x150-thumb.JPG"):
            self.assertEqual(stem_of(f"/img/{name}"), "/img/a.jpg", name)
        for name in ("a-b.jpg", "route66.jpg", "a-1.jpg"):
            self.assertEqual(stem_of(f"/img/{name}"), f"/img/{name}")

    def test_a_crop_is_a_picture_of_its_own(self) -> None:
        # Common practice: a library of 507 pictures with 16 sizes each holds more than 4,000 files to treat.
        found = families(
            [("/a.jpg", 1500, 1000), ("/a-300x200.jpg", 300, 200), ("/a-150x150.jpg", 150, 150), ("/b.jpg", 9, 9)]
        )
        self.assertEqual(found, {"/a.jpg": "/a.jpg", "/a-300x200.jpg": "/a.jpg"})


class Sizes(unittest.TestCase):
    def lines(self, layout, *points: int):  # type: ignore[no-untyped-def]
        windows = sorted({*USUAL_WIDTHS, *points, *(point - 1 for point in points)})
        return lines_of([(window, layout(window)) for window in windows])

    def test_layouts_as_they_are_made(self) -> None:
        def columns(w: int) -> float:  # a grid that changes at four widths, as common frameworks have
            return w - 30 if w < 576 else 510 if w < 768 else 330 if w < 992 else 450 if w < 1200 else 540

        for layout, points, expected in (
            (lambda w: w, (), "100vw"),
            (lambda w: 300, (), "300px"),
            (lambda w: min(w, 600), (), "(max-width: 600px) 100vw, 600px"),
            (lambda w: min(w - 30, 1110), (), "(max-width: 1140px) calc(100vw - 30px), 1110px"),
            (lambda w: w if w < 700 else w / 2, (700,), "(max-width: 699px) 100vw, 50vw"),
            (
                columns,
                (576, 768, 992, 1200),
                "(max-width: 575px) calc(100vw - 30px), (max-width: 767px) 510px, (max-width: 991px) 330px, "
                "(max-width: 1199px) 450px, 540px",
            ),
        ):
            lines = self.lines(layout, *points)
            self.assertEqual(sizes_text(lines), expected)
            for window in range(320, 2561):
                self.assertLess(abs(width_at(lines, window) - layout(window)), 1)

    @given(st.integers(100, 2000), st.integers(0, 60), st.floats(0.2, 1))
    def test_no_window_gets_a_file_too_narrow(self, most: int, gutter: int, share: float) -> None:
        lines = self.lines(lambda w: min((w - gutter) * share, most))
        for window in range(320, 2561, 7):
            self.assertGreaterEqual(width_at(lines, window) * 1.09 + 1, min((window - gutter) * share, most))

    def test_where_it_is_hidden_nothing_is_asked(self) -> None:
        self.assertEqual(sizes_text(lines_of([(320, 0.0), (412, 0.0), (768, 300.0), (1280, 300.0)])), "300px")
        self.assertEqual(lines_of([(320, 0.0)]), [])

    def test_phones_are_asked_for_less(self) -> None:
        lines = capped(lines_of([(w, float(min(w, 900))) for w in USUAL_WIDTHS]), 0.6)
        self.assertEqual(sizes_text(lines), "(max-width: 600px) 60vw, (max-width: 900px) 100vw, 900px")

    def test_the_file_that_a_browser_takes(self) -> None:
        self.assertEqual(chosen([650, 1000, 1500], 360, 2), 1000)
        self.assertEqual(chosen([650, 1000, 1500], 325, 2), 650)
        self.assertEqual(chosen([650, 1000, 1500], 900, 2), 1500)
        self.assertEqual(chosen([650, 1000, 1500], 1000, 1), 1000)

    def test_widths_are_those_that_visitors_ask_for(self) -> None:
        self.assertEqual(best_widths([(650, 60), (640, 40)], 660), [])
        self.assertEqual(best_widths([(650, 60), (1400, 40)], 2560), [650, 1400])
        # A file for those who are hardly there is not worth it.
        self.assertEqual(best_widths([(690, 99.5), (700, 0.5)], 2560), [700])
        self.assertEqual(best_widths([(2000, 100)], 1500), [])

    @example([(100.0, 1.0)], 199)  # an even step would be narrower than any file that is made
    @example([(100.0, 1.0)], 110)
    @given(
        st.lists(st.tuples(st.floats(100, 3000), st.floats(0.1, 100)), min_size=1, max_size=8), st.integers(100, 3000)
    )
    def test_few_widths_never_cost_more_than_fewer_or_even_steps(
        self, asked_for: list[tuple[float, float]], full: int
    ) -> None:
        found = best_widths(asked_for, full)
        self.assertLessEqual(len(found), 4)
        self.assertTrue(all(NARROWEST <= width < full for width in found))

        def cost(widths: list[int]) -> float:
            files = [*widths, full]
            return sum(weight * min((w for w in files if w >= px), default=full) ** 1.6 for px, weight in asked_for)

        self.assertLessEqual(cost(found), cost([]))
        even = [max(NARROWEST, round(full * (number + 1) / (len(found) + 1))) for number in range(len(found))]
        self.assertLessEqual(cost(found), cost(even) * 1.000001)

    @given(st.integers(651, 3000), st.integers(20, 3000), st.integers(560, 650))
    def test_no_file_for_phones_is_wider_than_phones_get(self, width: int, height: int, wanted: int) -> None:
        info = ImageInfo("JPEG", width, height, "RGB", 1, 8, False)
        self.assertLessEqual(even_width(info, wanted, ImageSettings()), ImageSettings().phone_width)

    @given(st.integers(20, 6000), st.integers(20, 6000), st.integers(1, 6000))
    def test_a_smaller_file_keeps_its_shape(self, width: int, height: int, wanted: int) -> None:
        info = ImageInfo("JPEG", width, height, "RGB", 1, 8, False)
        found = even_width(info, wanted, ImageSettings())
        self.assertLessEqual(found, width)
        self.assertGreaterEqual(found, min(wanted, width) * 0.94 - 1)
        self.assertLessEqual(off_by(info, found), off_by(info, min(wanted, width)) + 1e-9)


def off_by(info: ImageInfo, width: int) -> float:
    """By which share a whole number of rows misses the shape."""
    height = info.height * width / info.width
    return abs(round(height) - height) / height
