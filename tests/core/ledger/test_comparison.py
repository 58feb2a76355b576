"""Comparing weigh-ins: the same pages under the same conditions, and nothing else."""

from __future__ import annotations

import csv
import io
import json
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

import jsonschema
import referencing

from tests.sites import FolderCase, page, photo, registry_package, run_cli
from unladen.errors import BadInput
from unladen.ledger import NotComparable, compare_documents
from unladen.weigh.records.conditions import DEVICES, LINKS, Conditions
from unladen.weigh.records.export import csv_of, har_of
from unladen.weigh.records.model import PageFacts, Request, Timings, Visit, WeighIn, weigh_ins_document

SCHEMAS = Path(__file__).resolve().parent.parent.parent.parent / "docs" / "schemas"
BASE = Conditions(DEVICES["phone"], runs=3)
HOST = "https://site.example/"


def weigh_in(size: int, conditions: Conditions = BASE, path: str = "/index.html", load: float = 100) -> WeighIn:
    requests = [
        Request(HOST + path[1:], "documents", 200, 500, 900, media_type="text/html", ended=9, responded=5),
        Request(
            HOST + "a.jpg",
            "images",
            200,
            size,
            size,
            initiator=HOST + path[1:],
            started=10,
            responded=15,
            ended=20,
            request_headers=[("accept", "image/*")],
            response_headers=[("content-type", "image/jpeg")],
        ),
        Request(HOST + "=evil.jpg?q=1&r", "images", 404, 0, 0, missing=True, initiator="=1+1"),
        Request(HOST + "b.jpg", "images", 200, cached=True),
    ]
    visit = Visit(requests, timings=Timings(load=load))
    return WeighIn(path, conditions, visit, PageFacts(), [visit.timings], "Chromium 1", "2026-01-02T03:04:05+00:00")


def document(*weigh_ins: WeighIn) -> dict[str, Any]:
    return json.loads(json.dumps(weigh_ins_document(list(weigh_ins))))


class Comparing(unittest.TestCase):
    def test_differences_are_after_less_before(self) -> None:
        found = compare_documents(document(weigh_in(5000)), document(weigh_in(2000, load=60)))
        jsonschema.validate(found, json.loads((SCHEMAS / "comparison-1.json").read_text()))
        (pair,) = found["pairs"]
        self.assertEqual(pair["difference"], {"requests": 0, "transferred": -3000, "decoded": -3000})
        self.assertEqual(pair["kinds"]["images"]["transferred"], -3000)
        self.assertEqual((pair["load_ms"]["before"]["median"], pair["load_ms"]["after"]["median"]), (100, 60))
        self.assertEqual((found["total"]["transferred"], found["notes"]), (-3000, []))

    def test_other_conditions_refuse_it(self) -> None:
        for change in ({"visit": "repeat"}, {"link": LINKS[2]}, {"device": replace(DEVICES["phone"], width=500)}):
            other = document(weigh_in(2000, replace(BASE, **change)))  # type: ignore[arg-type]
            with self.assertRaisesRegex(NotComparable, "/index.html on phone was weighed under other conditions"):
                compare_documents(document(weigh_in(5000)), other)
        with self.assertRaisesRegex(NotComparable, "no page and device in common"):
            compare_documents(document(weigh_in(1)), document(weigh_in(1, path="/b.html")))

    def test_another_number_of_runs_is_noted_on_its_face(self) -> None:
        found = compare_documents(
            document(weigh_in(1)), document(weigh_in(1, replace(BASE, runs=1)), weigh_in(1, path="/b"))
        )
        self.assertEqual(found["notes"], ["/index.html on phone: runs 3 and 1"])
        self.assertEqual(found["only_after"], ["/b on phone"])

    def test_what_is_no_such_document_is_refused_by_name(self) -> None:
        documents: tuple[Any, ...] = (
            {},
            [],
            {"format": "unladen/weigh-ins/1"},
            {"format": "unladen/weigh-ins/1", "weigh_ins": [{"page": 1}]},
        )
        for bad in documents:
            with self.assertRaisesRegex(BadInput, "^first"):
                compare_documents(bad, document(weigh_in(1)), ("first", "second"))


class CommandLine(FolderCase):
    def file(self, name: str, content: Any) -> str:
        path = self.folder / name
        path.write_text(content if isinstance(content, str) else json.dumps(content))
        return str(path)

    def test_compare_two_files(self) -> None:
        first, second = self.file("a.json", document(weigh_in(5000))), self.file("b.json", document(weigh_in(2000)))
        code, out, _ = run_cli("compare", first, second, "--json")
        self.assertEqual((code, json.loads(out)["total"]["transferred"]), (0, -3000))
        code, out, _ = run_cli("compare", first, second)
        self.assertIn("/index.html on phone", out)
        self.assertIn("-3.0 kB", out)

    def test_what_cannot_be_compared_is_one_line_on_standard_error(self) -> None:
        first = self.file("a.json", document(weigh_in(1)))
        for second, words in (
            (self.file("b.json", document(weigh_in(1, replace(BASE, visit="repeat")))), "other conditions"),
            (self.file("c.json", "{"), "c.json: is not a JSON document"),
            (str(self.folder / "none.json"), "none.json"),
        ):
            code, out, err = run_cli("compare", first, second, "--json")
            self.assertEqual((code, out, err.count("\n")), (2, "", 1))
            self.assertIn(words, err)

    def test_conditions_that_cannot_be_are_refused_before_anything_is_done(self) -> None:
        site = self.folder / "site"
        site.mkdir()
        (site / "index.html").write_bytes(page(""))
        for arguments, words in (
            (("--link", "fast"), "fast: is not a network"),
            (("--device", "fridge"), "fridge: is not a device"),
            (("--runs", "0"), "is not a number of loads"),
            (("--har", "/no/such/folder/x.har"), "its folder does not exist"),
        ):
            code, out, err = run_cli("weigh", str(site), *arguments)
            self.assertEqual((code, out), (2, ""))
            self.assertIn(words, err)


class OpenFormats(FolderCase):
    def har(self) -> dict[str, Any]:
        capture = self.capture({"index.html": page("<img src=a.jpg>"), "a.jpg": photo(60, 40)})
        return har_of(capture, [weigh_in(700), weigh_in(700, replace(BASE, device=DEVICES["desktop"]))])

    def test_a_weigh_in_passes_the_published_schema_of_har(self) -> None:
        folder = registry_package("har-schema", "2.0.0") / "lib"
        schemas = {path.name: json.loads(path.read_text()) for path in folder.glob("*.json")}
        # The package names its schemas relatively, by their file names.
        registry: referencing.Registry[Any] = referencing.Registry().with_resources(
            (name, referencing.Resource.from_contents(schema, referencing.jsonschema.DRAFT6))
            for name, schema in schemas.items()
        )
        validator = jsonschema.Draft6Validator({"$ref": "har.json"}, registry=registry)
        self.assertEqual([error.message for error in validator.iter_errors(self.har())], [])
        broken = self.har()
        del broken["log"]["entries"][0]["response"]["content"]
        self.assertTrue(list(validator.iter_errors(broken)))

    def test_every_page_and_body_is_in_it(self) -> None:
        log = self.har()["log"]
        self.assertEqual([p["id"] for p in log["pages"]], ["page_1", "page_2"])
        first = [e for e in log["entries"] if e["pageref"] == "page_1"]
        self.assertEqual(len(first), 3)  # without the one from the cache
        self.assertEqual(first[1]["response"]["content"]["encoding"], "base64")
        self.assertEqual(first[1]["timings"]["wait"] + first[1]["timings"]["receive"], first[1]["time"])
        self.assertEqual(
            first[2]["request"]["queryString"], [{"name": "q", "value": "1"}, {"name": "r", "value": ""}]
        )

    def test_requests_as_csv_hold_nothing_that_a_spreadsheet_would_run(self) -> None:
        capture = self.capture({"index.html": page("")})
        rows = list(csv.DictReader(io.StringIO(csv_of(capture, [weigh_in(700)]))))
        self.assertEqual([row["transferred"] for row in rows], ["750", "950", "250", "0"])
        self.assertEqual((rows[1]["waiting ms"], rows[1]["receiving ms"], rows[1]["brought by"]), ("5", "5", "site"))
        self.assertEqual(rows[2]["asked for by"], "'=1+1")
