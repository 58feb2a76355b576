"""Plans as documents, and the search for the changes to blame."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from unladen.check.culprit import culprits
from unladen.errors import BadInput
from unladen.plan import Change, Keep, Plan

LAZY = Change("lazy:/a.html", "lazy", ("/1.jpg", "/2.jpg"), ("/a.html", "/b.html"))
SHRINK = Change("shrink:/1.jpg", "shrink", ("/1.jpg",), ("/a.html",), {"width": 300, "similarity": 0.97})


class Plans(unittest.TestCase):
    def test_changes_run_in_the_order_of_the_phases(self) -> None:
        self.assertEqual([c.id for c in Plan("steady", (LAZY, SHRINK)).counting()], [SHRINK.id, LAZY.id])

    def test_what_is_kept_is_taken_out_of_targets_and_scope(self) -> None:
        plan = Plan("steady", (LAZY, SHRINK), Keep(files=("/1.*",), pages=("/b*",)))
        (left,) = plan.counting()
        self.assertEqual((left.targets, left.pages), (("/2.jpg",), ("/a.html",)))

    def test_off_and_set_aside_do_not_count(self) -> None:
        aside = Change("webp:/1.jpg", "webp", ("/1.jpg",), ("/a.html",), {}, True, "differs")
        off = Change("webp:/2.jpg", "webp", ("/2.jpg",), ("/a.html",), {}, False)
        self.assertEqual(Plan("bold", (aside, off)).counting(), [])

    def test_the_document_comes_back(self) -> None:
        plan = Plan("bold", (LAZY, SHRINK), Keep(("/x",), ("/y",)))
        self.assertEqual(Plan.from_json(plan.as_json()), plan)

    def test_a_document_that_is_none_is_refused_by_name(self) -> None:
        good = Plan("bold", (SHRINK,)).as_json()
        bad = [None, [], {}, good | {"format": "other/1"}, good | {"changes": [{"id": "x"}]}]
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

        self.assertEqual(set(culprits(list(range(size)), fails)), guilty)
        self.assertEqual(len(asked), len({tuple(part) for part in asked}))

    @given(st.sets(st.integers(0, 15), min_size=1))
    def test_any_one_of_several_is_enough(self, guilty: set[int]) -> None:
        found = culprits(list(range(16)), lambda part: bool(guilty & set(part)))
        self.assertEqual(len(found), 1)
        self.assertLessEqual(set(found), guilty)
