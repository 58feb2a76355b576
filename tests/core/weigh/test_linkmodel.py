"""The modelled time against worked values of the standards and of practice."""

from __future__ import annotations

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from unladen.weigh.link.model import INITIAL_WINDOW, modelled
from unladen.weigh.records.conditions import HEADER_BYTES, LINKS, Link
from unladen.weigh.records.model import Request

PAGE = "https://site.example/"
WIDE = Link(10_000_000_000, 100)  # so wide that only round trips count
SLOW = Link(1_600_000, 560)  # a slow phone link of practice


def sent(path: str, size: int, kind: str = "images", parent: str = PAGE, **facts: object) -> Request:
    """A request of so many bytes on the wire."""
    known: dict[str, object] = {"initiator_type": "parser", "protocol": "h2", "priority": "Low", "named_at": 0.5}
    return Request(
        PAGE + path,
        kind,
        200,
        size - HEADER_BYTES,
        initiator=parent,
        **known | facts,  # type: ignore[arg-type]
    )


def load(requests: list[Request], link: Link = WIDE, **options: bool) -> float:
    return modelled(requests, link, **options).load


def page(size: int) -> Request:
    return sent("", size, "documents", parent="", named_at=0.0)


class RoundTrips(unittest.TestCase):
    def test_handshakes_before_the_first_byte(self) -> None:
        # TCP one round trip, TLS 1.3 one more (RFC 8446), then question and answer.
        self.assertAlmostEqual(load([page(1000)]), 300, 1)
        plain = page(1000)
        plain.url = "http://site.example/"
        self.assertAlmostEqual(load([plain]), 200, 1)
        self.assertAlmostEqual(load([page(1000)], handshakes=False), 100, 1)

    def test_slow_start_in_flights(self) -> None:
        # RFC 6928: 14,600 bytes in the first flight; RFC 5681: doubling, so 43,800 after two, 102,200 after three.
        self.assertEqual(INITIAL_WINDOW, 14_600)
        for size, flights in ((14_600, 1), (14_601, 2), (43_800, 2), (43_801, 3), (102_200, 3), (102_201, 4)):
            self.assertAlmostEqual(load([page(size)]), 200 + 100 * flights, 0, msg=str(size))
        self.assertAlmostEqual(load([page(102_201)], slow_start=False), 300, 0)

    def test_a_second_host_has_handshakes_of_its_own(self) -> None:
        near, far = sent("a.jpg", 1000), sent("b.jpg", 1000)
        far.url = "https://other.example/b.jpg"
        self.assertAlmostEqual(load([page(1000), near]), 400, 0)
        self.assertAlmostEqual(load([page(1000), far]), 600, 0)

    def test_http1_uses_six_connections_a_host(self) -> None:
        files = [sent(f"{n}.jpg", 1000, protocol="http/1.1") for n in range(13)]
        quick = [sent(f"{n}.jpg", 1000) for n in range(13)]
        self.assertAlmostEqual(load([page(1000), *files], handshakes=False), 400, 0)
        self.assertAlmostEqual(load([page(1000), *quick], handshakes=False), 200, 0)


class Dependencies(unittest.TestCase):
    def test_a_chain_waits_for_each_link(self) -> None:
        sheet = sent("a.css", 1000, "styles", priority="VeryHigh")
        font = sent("a.woff2", 1000, "fonts", PAGE + "a.css")
        self.assertAlmostEqual(load([page(1000), sheet, font], handshakes=False), 300, 0)

    def test_scripts_run_after_the_style_sheets_before_them(self) -> None:
        sheet = sent("a.css", 100_000, "styles", priority="VeryHigh")
        script = sent("a.js", 1000, "scripts", priority="High")
        late = sent("b.jpg", 1000, "images", PAGE + "a.js", initiator_type="script")
        ends = modelled([page(1000), sheet, script, late], LINKS[2], handshakes=False, slow_start=False).ends
        self.assertGreater(ends[1], ends[2])
        self.assertAlmostEqual(ends[3] - ends[1], 150 + 1000 / 200, 0)

    def test_what_is_named_early_in_a_document_comes_early(self) -> None:
        first, last = (
            modelled([page(60_000), sent("a.jpg", 500, named_at=at)], LINKS[3]).ends[1] for at in (0.01, 0.99)
        )
        self.assertGreater(last - first, 500)

    def test_data_that_scripts_fetch_does_not_hold_the_load_event(self) -> None:
        fetched = sent("a.json", 400_000, "data", initiator_type="script")
        self.assertLess(load([page(1000), fetched], LINKS[2]), 1000)


class Practice(unittest.TestCase):
    # Common practice, no source: the figures of a slow phone link, about 1.6 Mbit/s and 560 ms.
    def test_a_small_icon_is_nearly_all_waiting(self) -> None:
        self.assertAlmostEqual(load([page(1200)], SLOW, handshakes=False), 566, 0)

    def test_a_page_of_1_8_megabytes(self) -> None:
        files = [sent(f"{n}.jpg", 178_000, named_at=n / 10) for n in range(10)]
        self.assertTrue(11_000 < load([page(20_000), *files], SLOW) < 14_000)

    def test_bandwidth_alone_sets_the_pace_of_a_long_transfer(self) -> None:
        # As a browser throttles: two round trips and bytes over throughput.
        files = [sent(f"{n}.jpg", 100_000) for n in range(10)]
        time = load([page(10_000), *files], LINKS[2], handshakes=False, slow_start=False)
        self.assertAlmostEqual(time, 2 * 150 + 1_010_000 / 200, delta=60)


class Always(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.tuples(st.integers(300, 300_000), st.floats(0, 1), st.booleans()), max_size=12),
        st.sampled_from(LINKS[1:]),
    )
    def test_the_same_every_time_never_faster_than_the_link_and_all_ends_come(
        self, files: list[tuple[int, float, bool]], link: Link
    ) -> None:
        requests = [page(5_000)]
        for n, (size, at, by_script) in enumerate(files):
            kind, way = ("scripts", "script") if by_script else ("images", "parser")
            requests.append(
                sent(str(n), size, kind, requests[-1].url if by_script else PAGE, named_at=at, initiator_type=way)
            )
        found = modelled(requests, link)
        self.assertEqual(found, modelled(requests, link))
        self.assertGreaterEqual(found.load * 1.000001, sum(r.transferred for r in requests) / link.bytes_per_ms)
        self.assertTrue(all(end > 0 for end in found.ends))

    def test_nothing_asked_for_takes_no_time(self) -> None:
        self.assertEqual(load([]), 0)
        self.assertEqual(load([sent("", 500, "documents", cached=True)]), 0)
