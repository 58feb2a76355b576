"""What is told of a walk: what each step did before and does now; and what several looks at one page are worth."""

from __future__ import annotations

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.check.test_check import LOOK, happens, snapshot, step
from unladen.check.agreement import agreed
from unladen.check.compare import compare
from unladen.check.pairs import Difference
from unladen.check.probes import Observation, probes
from unladen.check.probes.spec import cannot_tell
from unladen.check.snapshot import Snapshot

NAV, P = "html > body > nav", "html > body > p"
SHOWS = {NAV: happens("shows") + happens("at", 0, 0, 320, 100)}
WALK = next(probe for probe in probes() if probe.name == "walk")
Step = dict[str, Any]


class Steps(unittest.TestCase):
    def told(self, before: list[Step], after: list[Step], again: list[Step] | None = None) -> list[Difference]:
        first, second, third = (
            Observation({"steps": steps}) for steps in (before, before if again is None else again, after)
        )
        return WALK.differences(first, second, third, cannot_tell)

    def texts(self, *steps: Any) -> list[str]:
        return [difference.text for difference in self.told(*steps)]

    def test_what_was_shown_is_shown_no_more_or_something_else_is(self) -> None:
        old = [
            step(
                "Menu",
                SHOWS | {P: happens("says", text="Open")},
                names={NAV: ["menu", "Main"], P: ["paragraph", "State"]},
            )
        ]
        self.assertEqual(self.texts(old, old), [])
        (text,) = self.texts(old, [step("Menu", {P: happens("says", text="Open")})])
        self.assertEqual(text, "after pressing “Menu”, the menu “Main” no longer shows")
        (text,) = self.texts(old, [step("Menu", SHOWS | {P: happens("says", text="Shut")}, names=old[0]["names"])])
        self.assertEqual(text, "after pressing “Menu”, the paragraph “State” differs")
        more = SHOWS | {P: happens("says", text="Open"), "html > body > b": happens("gone")}
        (text,) = self.texts(old, [step("Menu", more, names={"html > body > b": ["part", "Sign"]})])
        self.assertEqual(text, "after pressing “Menu”, the part “Sign” now disappears")

    def test_where_it_leads_what_is_sent_and_what_is_refused(self) -> None:
        usual = {"attempts": ["goes to /a.html"], "sends": ["to=x"], "invalid": ["to: typeMismatch"], "reached": 300}
        old = [step("Send", {}, **usual)]
        for name, value, words in (
            (
                "attempts",
                ["goes to /b.html"],
                "the link or form leads to ['goes to /b.html'] instead of ['goes to /a.html']",
            ),
            ("sends", [], "the form sends nothing instead of"),
            ("invalid", [], "the invalid fields are nothing instead of"),
            ("reached", 0, "the page scrolls to nothing px instead of 300 px"),
        ):
            (text,) = self.texts(old, [step("Send", {}, **usual | {name: value})])
            self.assertIn(f"after pressing “Send”, {words}", text)
            # What varies by itself is left out.
            self.assertEqual(self.texts(old, [step("Send", {}, **usual | {name: value})], [step("Send", {})]), [])

    def test_what_the_page_says_of_itself_and_where_it_stands(self) -> None:
        old = [step("Down", {}, page={"scroll": "0,400", "title": "Mill"})]
        self.assertEqual(self.texts(old, [step("Down", {}, page={"scroll": "0,401", "title": "Mill"})]), [])
        (text,) = self.texts(old, [step("Down", {}, page={"scroll": "0,0", "title": "Mill"})])
        self.assertIn("the scroll position differs", text)
        (text,) = self.texts(old, [step("Down", {}, page={"scroll": "0,400"})])
        self.assertIn("the title of the page differs", text)

    def test_errors_that_are_new_after_a_step(self) -> None:
        (found,) = self.told([step("Menu", {})], [step("Menu", {}, errors=["x is not defined"])])
        self.assertEqual((found.what, found.text), ("error", "after pressing “Menu”: x is not defined"))

    def test_a_control_that_cannot_be_used_any_more_is_told_once_and_first(self) -> None:
        old = [step("Menu", SHOWS), step("Entry", SHOWS)]
        (text,) = self.texts(old, [])
        self.assertEqual(text, "pressing “Menu” is no longer possible")
        (found,) = self.told(old, [step("Menu", {})])
        self.assertIn("has no effect now", found.text)

    def test_after_an_earlier_difference_places_and_looks_say_nothing(self) -> None:
        moved = {P: happens("moves", 0, 90, 0, 0)}
        old = [step("Menu", SHOWS), step("Tab", moved)]
        new = [step("Menu", {}), step("Tab", {P: happens("moves", 0, 20, 0, 0)})]
        self.assertEqual(len(self.told(old, new)), 1)
        self.assertEqual(len(self.told([step("Tab", moved)], [step("Tab", {P: happens("moves", 0, 20, 0, 0)})])), 1)

    WALKS = st.lists(
        st.builds(
            lambda key, said: step(key, {P: happens("says", text=str(said))} if said else {}),
            st.sampled_from("abc"),
            st.integers(0, 2),
        ),
        unique_by=lambda step: step["key"],
    )

    @given(WALKS)
    def test_like_itself_a_walk_is_the_same(self, walk: list[Step]) -> None:
        self.assertEqual(self.told(walk, walk), [])

    @given(WALKS, WALKS, WALKS)
    def test_nothing_is_told_of_a_step_that_varies_by_itself(
        self, one: list[Step], two: list[Step], now: list[Step]
    ) -> None:
        steady = {a["words"] for a in one for b in two if a["key"] == b["key"] and a["effect"] == b["effect"]}
        for found in self.told(one, now, two):
            self.assertTrue(found.step in steady or "no longer possible" in found.text)


class Looks(unittest.TestCase):
    """Several looks at a page as found and as it would be."""

    MOVED = snapshot({"html": [0, 0, 320, 640], "html > body": [0, 0, 320, 640], P: [20, 400, 280, 240]})
    OTHER = snapshot({"html": [0, 0, 320, 640], "html > body": [0, 0, 320, 640], P: [20, 250, 280, 240]})

    def kinds(self, old: list[Snapshot], new: list[Snapshot]) -> list[str]:
        return [difference.what for difference in agreed(old, new).differences]

    def test_what_all_looks_agree_on_is_a_difference(self) -> None:
        self.assertEqual(self.kinds([LOOK], [self.MOVED]), ["moved"])
        self.assertEqual(self.kinds([LOOK] * 3, [self.MOVED] * 2), ["moved"])

    def test_what_one_look_at_either_does_not_show_is_none(self) -> None:
        self.assertEqual(self.kinds([LOOK, LOOK, self.OTHER], [self.MOVED] * 2), [])
        self.assertEqual(self.kinds([LOOK, self.OTHER, LOOK], [self.MOVED] * 2), [])
        self.assertEqual(self.kinds([LOOK] * 3, [self.MOVED, LOOK]), [])

    def test_a_page_that_does_not_load_or_rest_cannot_be_compared(self) -> None:
        dead = agreed([Snapshot(alive=False)], [LOOK])
        self.assertIn("does not load", dead.cannot)
        for old, new in (([self.restless()], [LOOK]), ([LOOK], [self.restless()])):
            found = agreed(old, new)
            self.assertEqual((found.differences, found.cannot[:23]), ((), "the page keeps changing"))

    def restless(self) -> Snapshot:
        return Snapshot(True, LOOK.observations, "the page keeps changing")

    def test_a_page_that_died_of_a_change_is_a_difference(self) -> None:
        self.assertEqual(self.kinds([LOOK], [Snapshot(alive=False)]), ["dead"])
        self.assertEqual(compare(Snapshot(alive=False), Snapshot(alive=False), Snapshot(alive=False)), ())
