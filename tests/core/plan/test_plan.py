"""Plans as documents, and the search for the changes to blame."""

from __future__ import annotations

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.plans import change
from unladen.check.culprit import culprits
from unladen.errors import BadInput
from unladen.plan import (
    Accept,
    Accepted,
    IgnoredRegion,
    KeepList,
    KeepNote,
    Plan,
    SetIgnoredRegions,
    SetKeepList,
    Tolerance,
    Unit,
)

LAZY = change("lazy-images:/a.html", "lazy-images", ("/1.jpg", "/2.jpg"), ("/a.html", "/b.html"))
SHRINK = change("shrink:/1.jpg", "shrink", ("/1.jpg",), ("/a.html",), {"width": 300, "similarity": 0.97})


class Plans(unittest.TestCase):
    def test_changes_run_in_the_order_of_the_phases(self) -> None:
        self.assertEqual([c.id for c in Plan("steady", (LAZY, SHRINK)).counting()], [SHRINK.id, LAZY.id])

    def test_what_is_kept_is_taken_out_of_targets_and_scope(self) -> None:
        plan = Plan("steady", (LAZY, SHRINK), KeepList(files=("/1.*",), pages=("/b*",)))
        (left,) = plan.counting()
        self.assertEqual((left.targets, left.pages), (("/2.jpg",), ("/a.html",)))

    def test_what_is_kept_from_one_remedy_is_not_kept_from_others(self) -> None:
        keep = KeepList(files=("/1.jpg",), notes=(KeepNote("files", "/1.jpg", "the owner wants it", "shrink"),))
        lazy, *rest = Plan("steady", (LAZY, SHRINK), keep).counting()
        self.assertEqual((lazy.targets, rest), (("/1.jpg", "/2.jpg"), []))

    def test_hosts_are_kept_by_pattern(self) -> None:
        far = ("https://a.maps.example/x.js", "https://maps.example.org/x.js")
        plan = Plan("steady", (change("a", "delay-scripts", far, ("/a.html",)),), KeepList(hosts=("*.maps.example",)))
        self.assertEqual(plan.counting()[0].targets, far[1:])

    def test_parts_of_changes_can_be_left_out(self) -> None:
        plan = Plan("steady", (LAZY, SHRINK))
        self.assertEqual(len(plan.units()), 3)
        self.assertEqual([unit.target for unit in plan.units("/b.html")], ["/1.jpg", "/2.jpg"])
        left = plan.without((), [Unit(LAZY.id, "/1.jpg"), Unit(SHRINK.id, "/1.jpg")])
        self.assertEqual([(c.id, c.targets) for c in left.counting()], [(LAZY.id, ("/2.jpg",))])

    def test_what_a_check_lets_pass_is_part_of_the_document(self) -> None:
        accepted = Accepted("/a.html", "", "words||html > p", "says more", "as wanted")
        tolerance = Tolerance((accepted,), (IgnoredRegion("/*", "phone", (0, 0, 9, 9)),))
        plan = Plan("steady", (LAZY,), tolerance=tolerance)
        self.assertEqual(Plan.from_json(plan.as_json()), plan)
        self.assertFalse(plan.asks_the_same_as(Plan("steady", (LAZY,))))
        bads: list[Any] = [[], {"accepted": "all"}]
        bads += [{"masks": [{"page": "/", "box": [0, 0, 1]}]}, {"masks": [{"page": 1, "box": [0, 0, 1, 1]}]}]
        for bad in bads:
            with self.assertRaisesRegex(BadInput, "tolerance"):
                Plan.from_json(plan.as_json() | {"tolerance": bad})

    def test_the_keep_list_and_masks_are_edited_or_refused(self) -> None:
        plan = SetKeepList(selectors=("#map",), notes=(KeepNote("selectors", "#map", "ours"),)).apply(
            Plan("steady", (LAZY,))
        )
        self.assertEqual(plan.keep.selectors_for("webp"), ("#map",))
        self.assertEqual(SetKeepList(selectors=()).apply(plan).keep, KeepList())  # notes of what is gone go with it
        with self.assertRaisesRegex(BadInput, "not a selector"):
            SetKeepList(selectors=("p[",)).apply(plan)
        with self.assertRaisesRegex(BadInput, "without a size"):
            SetIgnoredRegions((IgnoredRegion("/", "", (5, 5, 5, 9)),)).apply(plan)
        once = Accept(Accepted("/", "", "k")).apply(plan)
        self.assertEqual(len(Accept(Accepted("/", "", "k", why="again")).apply(once).tolerance.accepted), 1)
        self.assertEqual(Accept(Accepted("/", "", "k"), off=True).apply(once).tolerance, plan.tolerance)

    def test_what_is_off_or_out_does_not_count(self) -> None:
        aside = change("webp:/1.jpg", "webp", ("/1.jpg",), ("/a.html",))
        off = change("webp:/2.jpg", "webp", ("/2.jpg",), ("/a.html",), on=False)
        self.assertEqual(Plan("bold", (aside, off)).counting(without=["webp:/1.jpg"]), [])

    def test_the_document_comes_back(self) -> None:
        plan = Plan("bold", (LAZY, SHRINK), KeepList(("/x",), ("/y",)))
        self.assertEqual(Plan.from_json(plan.as_json()), plan)

    def test_a_document_that_is_none_is_refused_by_name(self) -> None:
        good = Plan("bold", (SHRINK,)).as_json()
        bad: list[Any] = [None, [], {}, good | {"format": "other/1"}, good | {"changes": [{"id": "x"}]}]
        bad += [good | {"changes": [good["changes"][0] | {"remedy": "magic"}]}, good | {"keep": {"files": "x"}}]
        for document in bad:
            with self.assertRaisesRegex(BadInput, "mine.json"):
                Plan.from_json(document, "mine.json")


class Culprits(unittest.TestCase):
    @given(st.sets(st.integers(0, 30), min_size=1, max_size=4), st.integers(31, 40))
    def test_finds_a_part_of_which_nothing_can_be_left_out(self, guilty: set[int], size: int) -> None:
        # Zeller and Hildebrandt 2002: the result of ddmin is 1-minimal; here the cause is a set that must be whole.
        asked: list[list[int]] = []

        def fails(part: list[int]) -> bool:
            asked.append(part)
            return guilty <= set(part)

        found = culprits(list(range(size)), fails, budget=10_000)
        self.assertEqual(set(found.guilty), guilty)
        self.assertTrue(found.minimal)
        self.assertEqual(asked[0], [])
        self.assertEqual(len(asked), len({tuple(part) for part in asked}))
        self.assertEqual(found.asked, len(asked))

    @given(st.sets(st.integers(0, 15), min_size=1))
    def test_any_one_of_several_is_enough(self, guilty: set[int]) -> None:
        found = culprits(list(range(16)), lambda part: bool(guilty & set(part))).guilty
        self.assertEqual(len(found), 1)
        self.assertLessEqual(set(found), guilty)

    def test_nobody_is_to_blame_for_what_fails_without_them(self) -> None:
        self.assertEqual(culprits(["a", "b"], lambda part: True).guilty, [])
        self.assertEqual(culprits([], lambda part: True).guilty, [])

    @given(st.sets(st.integers(0, 99), min_size=2, max_size=6), st.integers(1, 12))
    def test_a_search_that_costs_too_much_ends_with_what_it_has(self, guilty: set[int], budget: int) -> None:
        found = culprits(list(range(100)), lambda part: guilty <= set(part), budget=budget)
        self.assertLessEqual(found.asked, budget)
        self.assertLessEqual(guilty, set(found.guilty))
