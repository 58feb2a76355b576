"""From differences to the parts of a plan that make them."""

from __future__ import annotations

import unittest
from collections.abc import Sequence

from hypothesis import given
from hypothesis import strategies as st

from tests.plans import change
from unladen.check import ChangeResults, Standing
from unladen.check.blame import blame
from unladen.check.culprit import all_culprits
from unladen.check.evidence import Evidence
from unladen.check.outcomes import ChangeResult, Part, judged
from unladen.check.pairs import Difference
from unladen.plan import Plan, Unit

MOVED = Difference("moved", "moved", places=("html > p",))


def units(count: int) -> list[Unit]:
    return [Unit(f"change {n}", f"/{n}.jpg") for n in range(count)]


class Asked:
    """A page on which some parts, together, make a difference."""

    def __init__(self, *guilty: Sequence[Unit]) -> None:
        self.guilty = [set(some) for some in guilty]
        self.times = 0

    def __call__(self, some: Sequence[Unit]) -> list[Difference]:
        self.times += 1
        return [MOVED for guilty in self.guilty if guilty <= set(some)]


class All(unittest.TestCase):
    @given(st.sets(st.integers(0, 299), min_size=1, max_size=3), st.booleans())
    def test_all_that_fail_alone_are_found_and_of_those_that_fail_together_one(
        self, guilty: set[int], together: bool
    ) -> None:
        asked = 0

        def fails(some: list[int]) -> bool:
            nonlocal asked
            asked += 1
            return guilty <= set(some) if together else bool(guilty & set(some))

        found = all_culprits(range(300), fails, 400)
        self.assertTrue(found.minimal)
        self.assertEqual(found.asked, asked)
        self.assertEqual(set(found.guilty), guilty)
        self.assertLessEqual(asked, 300 if together else 20 * len(guilty))

    def test_a_budget_that_does_not_do_is_said(self) -> None:
        found = all_culprits(range(300), lambda some: bool({3, 150} & set(some)), 12)
        self.assertFalse(found.minimal)
        self.assertLessEqual(found.asked, 13)


class Blaming(unittest.TestCase):
    def test_where_the_evidence_points_three_looks_are_enough_among_64(self) -> None:
        everyone = units(64)
        for pointed in (
            Evidence({everyone[40]: Difference("picture", "x")}, [], [u for u in everyone if u != everyone[40]]),
            Evidence({}, [everyone[40]], [u for u in everyone if u != everyone[40]]),
            Evidence({}, everyone[39:41], [u for u in everyone if u not in everyone[39:41]]),
        ):
            ask = Asked([everyone[40]])
            found = blame(pointed, [MOVED], ask)
            self.assertEqual([guilt.unit for guilt in found.guilty], [everyone[40]])
            self.assertLessEqual(ask.times, 3)
            self.assertEqual(ask.times, found.asked)

    @given(st.integers(0, 63))
    def test_without_evidence_sixteen_are(self, number: int) -> None:
        everyone = units(64)
        ask = Asked([everyone[number]])
        found = blame(Evidence({}, [], everyone), [MOVED], ask)
        self.assertEqual([guilt.unit for guilt in found.guilty], [everyone[number]])
        self.assertLessEqual(ask.times, 16)

    def test_evidence_that_misleads_is_left_behind(self) -> None:
        everyone = units(16)
        ask = Asked([everyone[9]])
        found = blame(Evidence({everyone[1]: MOVED}, [everyone[2]], [everyone[0], *everyone[3:]]), [MOVED], ask)
        self.assertEqual([guilt.unit for guilt in found.guilty], [everyone[9]])

    def test_each_with_a_difference_of_its_own_is_blamed_for_it_at_once(self) -> None:
        everyone = units(20)
        own = {unit: Difference("picture", unit.target, places=(unit.target,)) for unit in everyone[:3]}
        ask = Asked(*([unit] for unit in own))
        found = blame(Evidence(own, [], everyone[3:]), list(own.values()), ask)
        self.assertEqual({g.unit: g.difference for g in found.guilty}, own)
        self.assertEqual(ask.times, 1)

    def test_of_several_that_share_a_difference_only_the_one_that_makes_it(self) -> None:
        everyone = units(8)
        shared = Difference("picture", "x", places=("html > img",))
        found = blame(Evidence(dict.fromkeys(everyone[:2], shared), [], everyone[2:]), [shared], Asked([everyone[1]]))
        self.assertEqual([guilt.unit for guilt in found.guilty], [everyone[1]])

    @given(st.sets(st.integers(0, 15), min_size=2, max_size=2))
    def test_of_two_that_fail_together_one_goes_and_the_other_is_named(self, pair: set[int]) -> None:
        everyone = units(16)
        both = [everyone[n] for n in sorted(pair)]
        (guilt,) = blame(Evidence({}, [], everyone), [MOVED], Asked(both)).guilty
        self.assertEqual({guilt.unit, *guilt.together}, set(both))

    @given(st.lists(st.sets(st.integers(0, 20), min_size=1, max_size=3), min_size=1, max_size=4), st.integers(1, 12))
    def test_a_search_keeps_to_its_bound_and_blames_enough(self, causes: list[set[int]], most: int) -> None:
        everyone = units(21)
        ask = Asked(*([everyone[n] for n in cause] for cause in causes))
        found = blame(Evidence({}, [], everyone), [MOVED], ask, most)
        self.assertLessEqual(ask.times, most)
        self.assertTrue(found.guilty)
        if not found.sure:  # all that is left of it goes
            self.assertTrue(ask([guilt.unit for guilt in found.guilty]))


class Parts(unittest.TestCase):
    LAZY = change("lazy-images:/a.html", "lazy-images", ("/1.jpg", "/2.jpg"), ("/a.html",))
    PLAN = Plan("steady", (LAZY,))

    def outcomes(self, *targets: str) -> ChangeResults:
        parts = tuple(Part(target, "moves") for target in targets)
        outcome = ChangeResult(self.LAZY.id, Standing.PASSED, judged=judged(self.LAZY), parts=parts)
        return ChangeResults().with_([outcome])

    def test_one_target_is_set_aside_and_the_rest_stays(self) -> None:
        out = self.outcomes("/1.jpg")
        (left,) = out.applied_to(self.PLAN).counting()
        self.assertEqual(left.targets, ("/2.jpg",))
        self.assertEqual(self.outcomes("/1.jpg", "/2.jpg").applied_to(self.PLAN).counting(), [])
        self.assertEqual(ChangeResults.from_json(out.as_json()), out)

    def test_it_holds_for_the_same_change_and_not_for_one_that_is_insisted_on(self) -> None:
        out = self.outcomes("/1.jpg")
        self.assertEqual(out.carried_forward(self.PLAN).by_change[self.LAZY.id].parts[0].target, "/1.jpg")
        self.assertEqual(out.carried_forward(self.PLAN, [self.LAZY.id]).by_change, {})
        other = change("lazy-images:/a.html", "lazy-images", ("/1.jpg",), ("/a.html",))
        self.assertEqual(out.carried_forward(Plan("steady", (other,))).by_change, {})

    def test_of_many_that_do_the_same_all_that_break_something_go_and_no_others(self) -> None:
        wraps = [Unit(f"avif {n}", f"/{n}.jpg") for n in range(6)]
        codes = [Unit(f"webp {n}", f"/{n}.jpg") for n in range(6)]
        everyone = [unit for pair in zip(wraps, codes, strict=True) for unit in pair]
        for guilty in (wraps, wraps[1:3]):
            ask = Asked(*([unit] for unit in guilty))
            found = blame(Evidence({}, everyone, []), [MOVED], ask, group=lambda unit: unit.change.split()[0])
            self.assertEqual({guilt.unit for guilt in found.guilty}, set(guilty))
            self.assertLessEqual(ask.times, 14)

    def test_where_no_group_is_to_blame_single_parts_are_searched(self) -> None:
        everyone = [Unit(f"{name} {n}", f"/{n}.jpg") for name in ("avif", "webp") for n in range(4)]
        both = [everyone[1], everyone[6]]
        ask = Asked([everyone[1]], [everyone[6]])
        found = blame(Evidence({}, [], everyone), [MOVED], ask, group=lambda unit: unit.change.split()[0])
        self.assertTrue({guilt.unit for guilt in found.guilty} <= set(both) and found.guilty)
