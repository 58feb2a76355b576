"""Conditions: devices, links and what may be compared."""

from __future__ import annotations

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from unladen.errors import BadInput
from unladen.weigh.records.conditions import DEVICES, LINKS, UNLIMITED, Conditions, Link, device_named, link_named


class Links(unittest.TestCase):
    def test_the_usual_ones_by_their_figures(self) -> None:
        self.assertEqual(
            [link.label for link in LINKS],
            ["unlimited", "10 Mbit/s, 40 ms", "1.6 Mbit/s, 150 ms", "0.4 Mbit/s, 400 ms"],
        )
        self.assertEqual(link_named("1.6 Mbit/s, 150 ms"), Link(1_600_000, 150))
        self.assertEqual(link_named(" 400 kbit/s , 400 ms"), Link(400_000, 400))
        self.assertEqual(Link(1_600_000, 150).bytes_per_ms, 200)

    @given(st.integers(1, 1_000_000), st.integers(0, 10_000))
    def test_a_label_leads_back_to_its_link(self, tens: int, latency: int) -> None:
        link = Link(tens * 10_000, latency)
        self.assertEqual(link_named(link.label).latency, latency)
        # Labels are for people and keep six digits.
        self.assertAlmostEqual(link_named(link.label).rate / link.rate, 1, 4)

    def test_what_is_no_link_is_refused_with_its_name(self) -> None:
        for text in ("fast", "1.6", "1.6 Mbit/s", "-1 Mbit/s, 5 ms", "0 Mbit/s, 5 ms", "1 Mbit/s, 99999 ms", ""):
            with self.assertRaises(BadInput) as caught:
                link_named(text)
            self.assertEqual(caught.exception.name, text)


class Devices(unittest.TestCase):
    def test_known_ones_and_a_window_of_ones_own(self) -> None:
        tablet = device_named("tablet")
        self.assertEqual((tablet.width, tablet.height, tablet.density), (820, 1180, 2))
        own = device_named("1440x900@1.5")
        self.assertEqual((own.width, own.height, own.density, own.mobile), (1440, 900, 1.5, False))
        self.assertEqual(device_named(own.name), own)
        self.assertTrue(device_named("360x640").mobile)

    def test_windows_that_nobody_has_are_refused(self) -> None:
        for name in ("fridge", "10x10", "9999x900@1", "800x600@9", "800x600@", "x"):
            with self.assertRaises(BadInput):
                device_named(name)


class Comparable(unittest.TestCase):
    BASE = Conditions(DEVICES["phone"], runs=3)

    def test_equal_ones_have_no_differences_and_one_key(self) -> None:
        again = Conditions(DEVICES["phone"], "first", UNLIMITED, 3)
        self.assertEqual((self.BASE.differences(again), self.BASE.key), ([], again.key))

    def test_every_difference_is_named(self) -> None:
        for change, word in (
            ({"device": DEVICES["desktop"]}, "device"),
            ({"visit": "repeat"}, "visit: first and repeat"),
            ({"link": LINKS[2]}, "link: unlimited and 1.6 Mbit/s, 150 ms"),
            ({"runs": 1}, "runs: 3 and 1"),
        ):
            other = replace(self.BASE, **change)  # type: ignore[arg-type]
            self.assertIn(word, "; ".join(self.BASE.differences(other)))
            self.assertNotEqual(self.BASE.key, other.key)

    def test_what_cannot_be_is_refused(self) -> None:
        for change in ({"visit": "third"}, {"runs": 0}, {"runs": 99}):
            with self.assertRaises(BadInput):
                replace(self.BASE, **change)  # type: ignore[arg-type]
