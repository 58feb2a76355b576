"""Plans as documents, and the search for the changes to blame."""

from __future__ import annotations

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.plans import change
from unladen.check.culprit import culprits
from unladen.errors import BadInput
from unladen.plan import Keep, Plan

LAZY = change("lazy-images:/a.html", "lazy-images", ("/1.jpg", "/2.jpg"), ("/a.html", "/b.html"))
SHRINK = change("shrink:/1.jpg", "shrink", ("/1.jpg",), ("/a.html",), {"width": 300, "similarity": 0.97})


class Plans(unittest.TestCase):
    def test_changes_run_in_the_order_of_the_phases(self) -> None:
        self.assertEqual([c.id for c in Plan("steady", (LAZY, SHRINK)).counting()], [SHRINK.id, LAZY.id])

    def test_what_is_kept_is_taken_out_of_targets_and_scope(self) -> None:
        plan = Plan("steady", (LAZY, SHRINK), Keep(files=("/1.*",), pages=("/b*",)))
        (left,) = plan.counting()
        self.assertEqual((left.targets, left.pages), (("/2.jpg",), ("/a.html",)))

    def test_what_is_off_or_out_does_not_count(self) -> None:
        aside = change("webp:/1.jpg", "webp", ("/1.jpg",), ("/a.html",))
        off = change("webp:/2.jpg", "webp", ("/2.jpg",), ("/a.html",), on=False)
        self.assertEqual(Plan("bold", (aside, off)).counting(without=["webp:/1.jpg"]), [])

    def test_the_document_comes_back(self) -> None:
        plan = Plan("bold", (LAZY, SHRINK), Keep(("/x",), ("/y",)))
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
