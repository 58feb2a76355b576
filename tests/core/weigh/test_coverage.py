"""From what a browser says of use to bytes used."""

from __future__ import annotations

import unittest
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from tests.sites import FolderCase, page
from unladen.markup.css import css_blocks
from unladen.markup.spans import union
from unladen.survey.code.usage import use_of_files
from unladen.weigh.page.coverage import FileUse, script_use, style_use, used_bytes
from unladen.weigh.records.conditions import DEVICES
from unladen.weigh.visits.walk import Walk


def script(*ranges: tuple[int, int, int]) -> list[tuple[int, int]]:
    rows = [{"startOffset": a, "endOffset": b, "count": c} for a, b, c in ranges]
    return script_use({"url": "https://a.example/a.js", "functions": [{"ranges": rows}]}).used


def style(text: str, *used: str) -> str:
    """What of a style sheet counts as used when the browser names these rules."""
    spans = [(text.index(rule), text.index(rule) + len(rule)) for rule in used]
    found = style_use("https://a.example/a.css", text, spans)
    return "".join(text[start:end] for start, end in found.used)


class Scripts(unittest.TestCase):
    def test_the_innermost_range_decides(self) -> None:
        self.assertEqual(script((0, 100, 1), (20, 60, 0), (30, 40, 2)), [(0, 20), (30, 40), (60, 100)])
        self.assertEqual(script((0, 100, 0), (50, 100, 1)), [(50, 100)])
        self.assertEqual(script((0, 10, 1), (10, 20, 0), (20, 30, 1)), [(0, 10), (20, 30)])
        self.assertEqual(script(), [])

    @given(
        st.recursive(st.just([]), lambda inner: st.lists(st.tuples(st.booleans(), inner), max_size=3), max_leaves=12)
    )
    def test_nested_ranges_paint_each_place_once(self, tree: list) -> None:  # type: ignore[type-arg]
        ranges: list[tuple[int, int, int]] = []
        painted: dict[int, bool] = {}

        def lay(nodes: list, place: int, counts: bool) -> int:  # type: ignore[type-arg]
            for on, inner in nodes:
                start = place
                painted[place] = on
                place = lay(inner, place + 1, on)
                painted[place] = on
                place += 1
                ranges.append((start, place, int(on)))
                painted[place] = counts
                place += 1
            return place

        end = lay(tree, 1, True)
        ranges.append((0, end + 1, 1))
        used = script(*ranges)
        places = {place for start, stop in used for place in range(start, stop)}
        for place, on in painted.items():
            self.assertEqual(place in places, on, (place, ranges))


class Styles(unittest.TestCase):
    def test_rules_that_a_browser_never_reports_are_not_called_unused(self) -> None:
        text = "@charset 'utf-8';@font-face{src:url(a)}@keyframes k{to{top:0}}.a{x:y}.b{x:y}"
        self.assertEqual(style(text, ".a{x:y}"), text.replace(".b{x:y}", ""))

    def test_a_group_counts_where_something_in_it_is_used(self) -> None:
        text = "@media (min-width:1px){.a{x:y}.b{x:y}}@media print{.c{x:y}}"
        self.assertEqual(style(text, ".a{x:y}"), "@media (min-width:1px){.a{x:y}}")

    def test_blocks_with_their_places(self) -> None:
        text = "/* { */ @import 'a;b'; .a{content:'}'} @media x{ .b{} }"
        found = [(b.at, text[b.start : b.end], b.depth) for b in css_blocks(text)]
        self.assertEqual(
            found,
            [
                ("@import", "@import 'a;b';", 0),
                ("", ".a{content:'}'}", 0),
                ("", ".b{}", 1),
                ("@media", "@media x{ .b{} }", 0),
            ],
        )

    @given(st.text("{}@a;:'\"\\/* \n", max_size=60))
    def test_no_text_is_too_broken_to_be_read(self, text: str) -> None:
        for block in css_blocks(text):
            self.assertTrue(0 <= block.start <= block.open < block.end <= len(text))
        self.assertLessEqual(style_use("", text, [(0, len(text))]).used_length, len(text))


class Bytes(FolderCase):
    @given(st.lists(st.tuples(st.integers(0, 50), st.integers(0, 50)).map(lambda p: (min(p), max(p))), max_size=8))
    def test_spans_are_joined_without_loss(self, spans: list[tuple[int, int]]) -> None:
        merged = union(spans)
        self.assertEqual({i for a, b in merged for i in range(a, b)}, {i for a, b in spans for i in range(a, b)})
        self.assertTrue(all(a[1] < b[0] for a, b in pairwise(merged)))

    def test_letters_count_as_the_bytes_that_they_are(self) -> None:
        text = "aé😀b"  # 1, 2, 4 and 1 bytes; the emoji is two units long
        for span, size in (((0, 1), 1), ((1, 2), 2), ((2, 4), 4), ((4, 5), 1), ((0, 5), 8)):
            self.assertEqual(used_bytes(text, FileUse("", "styles", 5, [span])), size)

    def test_use_is_joined_over_pages_and_devices(self) -> None:
        capture = self.capture({"index.html": page(""), "a.css": b"0123456789" * 100})
        url = "https://site.example/a.css"
        walks = [
            Walk(name, DEVICES[device], files=[FileUse(url, "styles", 1000, spans)])
            for name, device, spans in (
                ("/index.html", "phone", [(0, 100)]),
                ("/index.html", "desktop", [(50, 150)]),
                ("/b.html", "phone", [(900, 1000)]),
            )
        ]
        (found,) = use_of_files(capture, walks)
        self.assertEqual((found.size, found.used, found.pages), (1000, 250, {"/index.html": 150, "/b.html": 100}))
        self.assertEqual(found.transferred_unused, round(capture.sent_size(capture.exchanges[url]) * 0.75))
        self.assertEqual([Walk.from_record(walk.to_record()) for walk in walks], walks)
