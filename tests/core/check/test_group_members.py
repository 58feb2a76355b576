"""What broke the page that stands for others is not done to them, and what is known of pages that nobody weighed."""

from __future__ import annotations

from tests.plans import change
from tests.sites import FolderCase, page, photo
from unladen.capture import Capture
from unladen.check.group_members import GroupMembers, kin_notices
from unladen.check.outcomes import ChangeResult, ChangeResults, Part, Standing, judged
from unladen.check.pairs import PageCheck
from unladen.plan import Plan, Unit
from unladen.survey.inferred_facts import standing_in
from unladen.weigh.records.conditions import DEVICES, Conditions
from unladen.weigh.records.model import PageFacts, Request, ShownImage, Visit, WeighIn

KIN = {"/b.html": "/a.html"}
PAIR = PageCheck("/a.html", "phone")


class Standins(FolderCase):
    def site(self, other: str = "<img src=b.jpg>") -> Capture:
        files = {"a.html": page("<p>x</p><img src=a.jpg>"), "b.html": page(f"<p>x</p>{other}"), "c.html": page("c")}
        return self.capture(files | {"a.jpg": photo(300, 200), "b.jpg": photo(300, 300, 2)})

    def both(self) -> Plan:
        lazy = change("lazy", "lazy-images", ("/a.jpg", "/b.jpg"), ("/a.html", "/b.html"))
        return Plan("steady", (lazy,))

    def test_the_reason_found_on_the_page_that_was_looked_at_stays(self) -> None:
        plan = self.both()
        (lazy,) = plan.changes
        seen = Part("/a.jpg", "moved by 3 px", PAIR)
        out = ChangeResults().with_([ChangeResult(lazy.id, Standing.PASSED, judged=judged(lazy), parts=(seen,))])
        found = (
            GroupMembers(self.site(), KIN).also_out(plan, out, [(Unit(lazy.id, "/a.jpg"), PAIR)]).by_change[lazy.id]
        )
        self.assertEqual((found.standing, found.reason), (Standing.SET_ASIDE, "moved by 3 px"))
        self.assertEqual([part.target for part in found.parts], ["/a.jpg", "/b.jpg"])
        self.assertIn("represents its page", found.parts[1].reason)

    def test_nothing_is_said_of_what_pages_share_or_of_other_kinds(self) -> None:
        plan = self.both()
        unit = Unit(plan.changes[0].id, "/a.jpg")
        shared = self.site("<img src=a.jpg>")
        self.assertFalse(GroupMembers(shared, KIN).is_theirs("/a.jpg"))
        one = Plan("steady", (change("lazy", "lazy-images", ("/a.jpg",), ("/a.html", "/b.html")),))
        self.assertEqual(GroupMembers(shared, KIN).also_out(one, ChangeResults(), [(unit, PAIR)]).by_change, {})
        elsewhere = PageCheck("/c.html", "phone")
        self.assertEqual(
            GroupMembers(self.site(), KIN).also_out(plan, ChangeResults(), [(unit, elsewhere)]).by_change, {}
        )

    def test_what_nobody_weighed_is_said(self) -> None:
        told = [str(notice) for notice in kin_notices(self.site(), ["/a.html"], KIN)]
        self.assertIn("represents one more page of its group", told[0])
        self.assertIn("/c.html: has no representative", told[1])

    def weigh_in(self, capture: Capture) -> WeighIn:
        base = capture.base_url
        shown = ShownImage(
            base + "a.jpg", "img", "html>body>img", 0, 0, 150, 100, 150, 100, 300, 200, visible=True, first_view=True
        )
        requests = [Request(base + name, kind, 200) for name, kind in (("a.html", "documents"), ("a.jpg", "images"))]
        return WeighIn("/a.html", Conditions(DEVICES["phone"]), Visit(requests), PageFacts(images=[shown]))

    def expected(self, other: str) -> tuple[list[str], list[tuple[str, float, float]]]:
        capture = self.site(other)
        (found,) = standing_in(capture, [self.weigh_in(capture)], KIN)
        asked = [request.url.rsplit("/", 1)[-1] for request in found.visit.requests]
        images = [(i.url.rsplit("/", 1)[-1], i.paint_width, i.paint_height) for i in found.facts.images]
        return asked, images

    def test_another_picture_at_the_same_place_is_as_wide_and_of_its_own_shape(self) -> None:
        asked, images = self.expected("<img src=b.jpg>")
        self.assertEqual((asked, images), (["b.html", "b.jpg"], [("b.jpg", 150, 150)]))

    def test_where_the_markup_differs_no_size_is_claimed(self) -> None:
        for other in ("<img class=wide src=b.jpg>", "<img width=900 src=b.jpg>", "<div><img src=b.jpg></div>"):
            _, images = self.expected(other)
            self.assertEqual(images, [("b.jpg", 0, 0)], other)
