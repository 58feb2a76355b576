"""What a plan would bring, from what is known already."""

from __future__ import annotations

import unittest
from typing import Any

from unladen.ledger import Saving, Worth, estimate, worth

BEFORE = Saving(10_000, 20)


def change(id: str, on: bool = True, remedy: str = "webp") -> dict[str, Any]:
    return {"id": id, "on": on, "remedy": remedy}


def excess(*changes: str, bytes: int = 100, visit: str = "first") -> dict[str, Any]:
    return {"changes": list(changes), "pages": ["/a", "/b"], "bytes": bytes, "requests": 1, "visit": visit}


class Estimates(unittest.TestCase):
    VISITS = {"/a": 2, "/b": 1, "/c": 9}

    def test_what_a_run_measured_counts_as_measured_and_the_rest_as_its_excess_says(self) -> None:
        known = {"one": Saving(500, 2)}
        found = estimate([change("one"), change("two")], [excess("one"), excess("two")], self.VISITS, known, BEFORE)
        self.assertEqual((found.after, found.sure), (Saving(10_000 - 500 - 300, 20 - 2 - 3), False))
        self.assertEqual(found.remedies["webp"], (Saving(800, 5), False))
        measured = estimate([change("one")], [excess("one")], self.VISITS, known, BEFORE)
        self.assertEqual((measured.after, measured.sure), (Saving(9_500, 18), True))

    def test_of_several_cures_the_first_that_is_wanted_counts_and_what_is_off_does_not(self) -> None:
        several = [excess("one", "two")]
        for states, wanted in (((True, True), 300), ((False, True), 300), ((False, False), 0)):
            changes = [change(id, on) for id, on in zip(("one", "two"), states, strict=True)]
            self.assertEqual(estimate(changes, several, self.VISITS, {}, BEFORE).after.bytes, 10_000 - wanted)

    def test_what_each_change_is_worth_wanted_or_not(self) -> None:
        rows = [excess("one", "two"), excess("two", bytes=10), excess("three", visit="repeat")]
        found = worth(rows, self.VISITS, {"one": Saving(500, 2), "two": Saving(), "other": Saving()})
        self.assertEqual(found["one"], Worth(500, 2, sure=True))
        # Set aside in a run it saved nothing there; by its excess it would, once on each weigh-in of its pages.
        self.assertEqual(found["two"], Worth(330, 6, sure=False))
        self.assertEqual(found["other"], Worth(0, 0, sure=True))
        self.assertNotIn("three", found)

    def test_repeat_visits_are_another_account_and_nothing_weighs_less_than_nothing(self) -> None:
        found = estimate([change("one")], [excess("one", visit="repeat")], self.VISITS, {}, BEFORE)
        self.assertEqual(found.after, BEFORE)
        much = estimate([change("one")], [excess("one", bytes=99_999)], self.VISITS, {}, BEFORE)
        self.assertEqual(much.after.bytes, 0)
