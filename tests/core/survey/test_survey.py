"""What could go: the rules by which an image counts as too large, badly compressed, early or unreserved."""

from __future__ import annotations

from dataclasses import replace

from tests.sites import FolderCase, page, photo
from unladen.plan import EFFORTS
from unladen.progress import Progress
from unladen.remedies import FolderRule, ImageSettings
from unladen.survey import Finding, SiteFacts, survey
from unladen.survey.images.needs import needed_width
from unladen.weigh.records.conditions import DEVICES, Conditions
from unladen.weigh.records.model import PageFacts, Request, ShownImage, Visit, WeighIn
from unladen.work_cache import WorkCache

URL = "https://site.example/a.jpg"
SHOWN = ShownImage(
    URL, "img", "#a", 0, 100, 300, 200, 300, 200, 1200, 800, True, True, reserved=True, reservable=False, free=True
)


def weigh_ins(
    *images: ShownImage, devices: tuple[str, ...] = ("phone", "desktop"), page: str = "/index.html"
) -> list[WeighIn]:
    """The same images on each device."""
    found = []
    for device in devices:
        requests = [Request(image.url, "images", 200, 1000) for image in images]
        found.append(WeighIn(page, Conditions(DEVICES[device]), Visit(requests), PageFacts(list(images))))
    return found


class SurveyCase(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.site = self.capture(
            {
                "index.html": page("<img id=a src=a.jpg>"),
                "a.jpg": photo(1200, 800, grain=5),
                "b.jpg": photo(1200, 800, 2),
                "c.svg": b"<svg/>",
            }
        )

    def evidence(self, *images: ShownImage, devices: tuple[str, ...] = ("phone", "desktop")) -> SiteFacts:
        return SiteFacts(self.site, weigh_ins(*images, devices=devices))

    def width(
        self, *images: ShownImage, effort: str = "steady", devices: tuple[str, ...] = ("phone", "desktop")
    ) -> tuple[int, str]:
        use = self.evidence(*images, devices=devices).images[URL]
        return needed_width(use, EFFORTS[effort], ImageSettings())

    def find(self, *images: ShownImage, effort: str = "steady") -> dict[str, Finding]:
        work_cache = WorkCache(self.folder / "memo", self.store)
        found = survey(self.evidence(*images), EFFORTS[effort], work_cache, Progress())
        return {excess.id: excess for excess in found.excess}


class NeededWidths(SurveyCase):
    def test_twice_the_shown_width_for_sharp_screens(self) -> None:
        self.assertEqual(self.width(SHOWN), (600, ""))

    def test_bold_keeps_what_the_weighed_devices_can_show(self) -> None:
        self.assertEqual(self.width(SHOWN, effort="bold"), (600, ""))
        self.assertEqual(self.width(SHOWN, effort="bold", devices=("desktop",)), (300, ""))

    def test_the_largest_of_all_showings_counts(self) -> None:
        self.assertEqual(self.width(SHOWN, replace(SHOWN, selector="#b", paint_width=410.2))[0], 821)

    def test_a_picture_as_wide_as_its_window_grows_with_larger_ones(self) -> None:
        wide = replace(SHOWN, paint_width=1280, width=1280)
        self.assertEqual(self.width(wide, effort="bold", devices=("desktop",))[0], 1920)
        self.assertEqual(self.width(wide, devices=("desktop",))[0], 2560)

    def test_what_hides_on_one_device_is_known_from_the_other(self) -> None:
        use = SiteFacts(
            self.site,
            [*weigh_ins(replace(SHOWN, paint_width=0), devices=("phone",)), *weigh_ins(SHOWN, devices=("desktop",))],
        ).images[URL]
        self.assertEqual(needed_width(use, EFFORTS["steady"], ImageSettings()), (600, ""))

    def test_a_tablet_on_which_nobody_weighed_counts_by_the_windows_that_were_measured(self) -> None:
        use = self.evidence(SHOWN).images[URL]

        def width(effort: str, *widths: tuple[int, float]) -> int:
            return needed_width(use, EFFORTS[effort], ImageSettings(), lambda _: widths)[0]

        self.assertEqual(width("bold", (412, 380), (768, 700), (1280, 300)), 700)
        self.assertEqual(width("steady", (412, 380), (768, 700), (1280, 300)), 1400)
        self.assertEqual(width("steady", (768, 900)), ImageSettings().content_width)
        self.assertEqual(width("steady", (1920, 900), (412, 500)), 600)

    def test_reasons_to_leave_the_size_alone(self) -> None:
        for change, words in (
            ({"paint_width": 0}, "not shown at any size"),
            ({"by_srcset": True}, "several sizes"),
            ({"scalable": False}, "depends on its own size"),
            ({"natural_width": 0}, "could not be decoded"),
            ({"free": False}, "gives its box its size"),
        ):
            width, reason = self.width(replace(SHOWN, **change))  # type: ignore[arg-type]
            self.assertEqual(width, 0)
            self.assertIn(words, reason)

    def test_a_box_that_owes_its_size_to_the_image_gets_attributes(self) -> None:
        bound = replace(SHOWN, free=False, reservable=True, reserved=False)
        self.assertEqual(self.width(bound), (600, ""))
        self.assertTrue(self.find(bound)["shrink:/a.jpg"].changes[0].params.reserve)
        self.assertFalse(self.find(SHOWN)["shrink:/a.jpg"].changes[0].params.reserve)

    def test_folders_are_treated_in_their_own_way(self) -> None:
        def proposed(*rules: tuple[str, str]) -> set[str]:
            folders = tuple(FolderRule(folder=folder, likeness=word) for folder, word in rules)
            work_cache = WorkCache(self.folder / "memo", self.store)
            settings = ImageSettings(folders=folders, avif=False)
            found = survey(self.evidence(SHOWN), EFFORTS["steady"], work_cache, Progress(), settings)
            self.notices = {notice.name: notice.reason for notice in found.notices}
            return {f"{c.remedy} {getattr(c.params, 'similarity', 1.0)}" for e in found.excess for c in e.changes}

        self.assertEqual(proposed(), {"shrink 0.97", "webp 0.97"})
        self.assertEqual(proposed(("/", "true"), ("/other/", "leave")), {"shrink 0.985", "webp 0.985"})
        self.assertEqual(proposed(("/", "leave")), set())
        self.assertIn("are left as they are", self.notices["/a.jpg"])
        self.assertEqual(proposed(("/", "leave"), ("/a", "fair")), {"shrink 0.95", "webp 0.95"})  # the innermost


class Lists(SurveyCase):
    def test_one_picture_is_never_counted_twice(self) -> None:
        low = replace(SHOWN, y=5000, first_view=False)
        found = self.find(low)
        self.assertEqual(set(found), {"shrink:/a.jpg", "webp:/a.jpg", "avif:/a.jpg", "lazy-images:/index.html"})
        size = self.site.exchanges[URL].size
        self.assertEqual(sum(excess.bytes for excess in found.values()), size)
        self.assertEqual(found["webp:/a.jpg"].of_bytes, size - found["shrink:/a.jpg"].bytes)
        self.assertEqual(found["lazy-images:/index.html"].requests, 1)

    def test_the_largest_comes_first_and_figures_tell_how_they_came_about(self) -> None:
        work_cache = WorkCache(self.folder / "memo", self.store)
        low = self.evidence(replace(SHOWN, y=5000, first_view=False))
        surveyed = survey(low, EFFORTS["steady"], work_cache, Progress())
        found, plan = surveyed.excess, surveyed.plan
        self.assertEqual(found, sorted(found, key=lambda e: -e.bytes))
        self.assertEqual({e.excess: e.tried for e in found}, {
            "larger-than-shown": True, "badly-compressed": True, "loaded-early": False,
        })  # fmt: skip
        self.assertEqual([c.id for c in plan.changes], [e.changes[0].id for e in found])

    def test_gentle_neither_resizes_nor_loses_a_pixel(self) -> None:
        found = self.find(SHOWN, effort="gentle")
        self.assertEqual(set(found), {"exact:/a.jpg"})

    def test_early_means_far_below_on_every_device_and_a_gain_on_one(self) -> None:
        def early(**change: object) -> bool:
            low = replace(SHOWN, y=5000, first_view=False)
            return "lazy-images:/index.html" in self.find(replace(low, **change))  # type: ignore[arg-type]

        self.assertTrue(early())
        self.assertFalse(early(y=900))  # near the first view
        self.assertFalse(early(y=1500))  # the browser would load it all the same
        self.assertFalse(early(loading="lazy"))
        self.assertFalse(early(visible=False))
        self.assertFalse(early(via="background"))
        self.assertFalse(early(reserved=False, reservable=False, free=True))
        self.assertTrue(early(reserved=False, reservable=True, free=True))

    def test_a_picture_that_is_also_in_the_first_view_is_not_early(self) -> None:
        low = replace(SHOWN, y=5000, first_view=False, selector="#low")
        self.assertNotIn("lazy-images:/index.html", self.find(SHOWN, low))

    def test_unreserved_space_is_named_with_no_bytes(self) -> None:
        loose = replace(SHOWN, reserved=False, reservable=True, free=True)
        excess = self.find(loose)["reserve:/index.html"]
        self.assertEqual((excess.bytes, excess.changes[0].targets), (0, ("/a.jpg",)))
        self.assertNotIn("reserve:/index.html", self.find(replace(loose, reservable=False)))

    def test_what_is_no_picture_of_pixels_is_passed_over(self) -> None:
        self.assertEqual(self.find(replace(SHOWN, url="https://site.example/c.svg")), {})
        self.assertEqual(self.find(replace(SHOWN, url="https://elsewhere.example/a.jpg")), {})
