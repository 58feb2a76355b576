"""Requests joined with the log, backgrounds as painted, weigh-ins as records: without a browser."""

from __future__ import annotations

import json
import unittest
from dataclasses import replace
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.sites import FolderCase
from unladen.cli.command import kilobytes
from unladen.cli.weigh import weigh_in_table
from unladen.markup.titles import title_of
from unladen.replay import Served
from unladen.weigh.chromium.recorder import Seen
from unladen.weigh.page.painted import paint_background
from unladen.weigh.records.conditions import DEVICES, HEADER_BYTES, Conditions
from unladen.weigh.records.kinds import KINDS, kind_of
from unladen.weigh.records.model import PageFacts, Request, ShownImage, Timings, Visit, WeighIn, weigh_ins_document
from unladen.weigh.visits.joining import join
from unladen.weigh.visits.visit import layout_shift, timings_of

HOST = "https://site.example/"
BASE = "https://site.example/"


def seen(path: str, **facts: object) -> Seen:
    known: dict[str, object] = {
        "resource_type": "Image",
        "frame": "",
        "initiator": "",
        "initiator_type": "parser",
        "started": 1.0,
    }
    return Seen(HOST + path, **known | {"status": 200, "ended": 1.5} | facts)  # type: ignore[arg-type]


def served(path: str, body: int = 100, status: int = 200, method: str = "GET") -> Served:
    return Served(HOST + path, method, status, body, "h2", 0.0)


class Joining(unittest.TestCase):
    def test_the_same_address_twice_gets_its_answers_in_order(self) -> None:
        found = join([seen("a.jpg"), seen("a.jpg")], [served("a.jpg", 10), served("a.jpg", 20)], set())
        self.assertEqual([request.body for request in found], [10, 20])

    def test_what_the_browser_does_not_tell_is_counted_all_the_same(self) -> None:
        found = join(
            [seen("index.html", resource_type="Document")], [served("index.html"), served("worker.js", 70)], set()
        )
        self.assertEqual([(r.kind, r.body) for r in found], [("documents", 100), ("scripts", 70)])

    def test_icons_preflights_and_the_browsers_own_calls_are_left_out(self) -> None:
        log = [
            served("favicon.ico"),
            served("a.jpg", method="OPTIONS"),
            served("a.jpg"),
            Served("https://own.example/x", "GET", 404, 0, "h2", 0),
        ]
        found = join([seen("a.jpg"), seen("favicon.ico", resource_type="Other")], log, {HOST + "favicon.ico"})
        self.assertEqual([request.url for request in found], [HOST + "a.jpg"])

    def test_cached_ones_cost_nothing_and_missing_ones_their_headers(self) -> None:
        found = join([seen("a.jpg", cached=True), seen("b.jpg", status=404)], [served("b.jpg", 0, 404)], set())
        self.assertEqual([(r.transferred, r.missing) for r in found], [(0, False), (HEADER_BYTES, True)])

    def test_a_request_that_got_no_answer_is_missing_unless_the_page_took_it_back(self) -> None:
        refused = seen("a.jpg", status=0, failed="net::ERR_CONNECTION_REFUSED")
        taken_back = seen("b.jpg", status=0, failed="net::ERR_ABORTED", taken_back=True)
        self.assertEqual(
            [(r.url, r.missing) for r in join([refused, taken_back], [], set())], [(HOST + "a.jpg", True)]
        )

    @given(st.lists(st.tuples(st.sampled_from("abc"), st.integers(0, 5000)), max_size=20))
    def test_no_byte_of_the_log_is_lost_or_made_up(self, answers: list[tuple[str, int]]) -> None:
        log = [served(name, size) for name, size in answers]
        told = [seen(name) for name, _ in answers[::2]] or [seen("a", cached=True)]
        self.assertEqual(sum(request.body for request in join(told, log, set())), sum(size for _, size in answers))


class Backgrounds(unittest.TestCase):
    IMAGE = ShownImage(HOST + "a.jpg", "background", "#a", 0, 0, 300, 100, 300, 100, 600, 400, True, True)

    def painted(self, size: str) -> tuple[float, float]:
        image = replace(self.IMAGE, fit=size)
        paint_background(image)
        return round(image.paint_width, 2), round(image.paint_height, 2)

    def test_sizes_as_the_standard_paints_them(self) -> None:
        # CSS Backgrounds and Borders Level 3, 3.9; the box is 300x100, the bitmap 600x400.
        for size, expected in (
            ("cover", (300, 200)),
            ("contain", (150, 100)),
            ("50%", (150, 100)),
            ("auto 50px", (75, 50)),
            ("120px auto", (120, 80)),
            ("100% 100%", (300, 100)),
            ("auto", (600, 400)),
        ):
            self.assertEqual(self.painted(size), expected, size)


class Records(unittest.TestCase):
    def weigh_in(self) -> WeighIn:
        requests = [
            Request(HOST, "documents", 200, 1000, 4000),
            Request(HOST + "a.jpg", "images", 200, 5000, 5000),
            Request(HOST + "b.jpg", "images", 404, 0, 0, missing=True),
            Request(HOST + "c.jpg", "images", 200, 700, 700, cached=True),
        ]
        runs = [Timings(load=load, content_ready=120.04) for load in (340.06, 300, 400)]
        scrolled = [Request(HOST + "d.jpg", "images", 200, 900, 900, response_headers=[("etag", "x")])]
        visit = Visit(requests, ["script error: x"], runs[0])
        facts = PageFacts([Backgrounds.IMAGE], scrolled=scrolled, picture=b"picture")
        conditions = Conditions(DEVICES["phone"], runs=3)
        return WeighIn("/", conditions, visit, facts, runs, "Chromium 1", "2026-01-02T03:04:05+00:00")

    def test_sums_and_kinds(self) -> None:
        document = self.weigh_in().as_json()
        self.assertEqual(document["transferred"], 1000 + 5000 + 3 * HEADER_BYTES)
        self.assertEqual((document["requests"], set(document["kinds"])), (3, set(KINDS)))
        self.assertEqual(
            document["kinds"]["images"], {"requests": 2, "transferred": 5000 + 2 * HEADER_BYTES, "decoded": 5700}
        )
        self.assertEqual((document["missing"], document["load_ms"]), ([HOST + "b.jpg"], 340.1))
        self.assertEqual(document["timings"]["load"], {"median": 340.1, "low": 300, "high": 400})
        # What came on scrolling is told, and in no sum.
        self.assertEqual(document["scrolled"], {"requests": 1, "transferred": 900 + HEADER_BYTES})

    def test_a_record_comes_back_but_for_its_picture(self) -> None:
        weigh_in = self.weigh_in()
        again = WeighIn.from_record(json.loads(json.dumps(weigh_in.to_record())))
        self.assertEqual(again, replace(weigh_in, facts=replace(weigh_in.facts, picture=b"")))
        self.assertEqual(weigh_ins_document([again])["weigh_ins"], [weigh_in.as_json()])

    def test_the_table_for_the_terminal_names_what_is_wrong(self) -> None:
        text = weigh_in_table([self.weigh_in()])
        self.assertIn("6.8 kB", text)
        self.assertIn("missing: https://site.example/b.jpg", text)
        self.assertIn("error: script error: x", text)
        self.assertIn("scrolled to the end: 1 more, 1.1 kB", text)
        self.assertEqual(kilobytes(1_234_567), "1,234.6 kB")

    def test_kinds_by_reason_then_by_what_came(self) -> None:
        for resource, media, kind in (
            ("Image", "text/html", "images"),
            ("Fetch", "image/png", "data"),
            ("Other", "font/woff2", "fonts"),
            ("", "video/mp4", "media"),
            ("Preflight", "text/css", "styles"),
            ("Ping", "application/x-strange", "other"),
        ):
            self.assertEqual(kind_of(resource, media), kind)


class Times(unittest.TestCase):
    def test_shifts_add_up_in_windows(self) -> None:
        # Layout Instability (W3C WICG): gaps of 1 s and lengths of 5 s end a window; the largest window counts.
        self.assertEqual(layout_shift([]), 0)
        self.assertAlmostEqual(layout_shift([(0, 0.1), (900, 0.1), (2500, 0.05)]), 0.2)
        self.assertAlmostEqual(layout_shift([(i * 900, 0.1) for i in range(8)]), 0.6)

    def test_only_long_tasks_between_paint_and_load_block(self) -> None:
        times: dict[str, Any] = {"paint": 100, "load": 1000, "ready": 500, "largest": None, "shifts": []}
        times["tasks"] = [(0, 90), (60, 80), (300, 49), (400, 150), (1200, 400)]
        found = timings_of(times)
        self.assertEqual(found.blocking, 30 + 100)
        self.assertEqual((found.largest_paint, found.load), (100, 1000))


class Titles(FolderCase):
    def test_a_site_is_called_by_its_first_pages_title(self) -> None:
        for head, title in (
            ("<title> Tide  &amp;\n Mill </title>", "Tide & Mill"),
            ("<svg><title>no</title></svg>", ""),
            ("<title></title>", ""),
        ):
            self.assertEqual(title_of(self.capture({"index.html": f"<!doctype html>{head}".encode()})), title)
