"""Plans from outside: what is refused and how, the old format, and the published schemas."""

from __future__ import annotations

import contextlib
import copy
import json
import unittest
from pathlib import Path
from typing import Any

import jsonschema
from hypothesis import given
from hypothesis import strategies as st

from tests.plans import change
from unladen.errors import BadInput
from unladen.ledger import ledger_schema, read_ledger
from unladen.plan import KeepList, Plan
from unladen.plan.document import MOST_CHANGES
from unladen.plan.schema import plan_schema
from unladen.remedies import Delivery, ImageSettings, remedies

SCHEMAS = Path(__file__).resolve().parent.parent.parent.parent / "docs" / "schemas"
WIDGET = "https://gate.example/w.js"
PLACE = {"tag": "div", "attrs": {"id": "gate"}, "heights": [[360, 200]], "frames": [[360, 300, 200]]}
HELD = change(f"delay-scripts:{WIDGET}", "delay-scripts", (WIDGET,), ("/",), {"wait": "near", "places": {"/": PLACE}})
SHRINK = change("shrink:/1.jpg", "shrink", ("/1.jpg",), ("/a.html",), {"width": 300, "similarity": 0.97})
GOOD = Plan(
    "bold", (SHRINK, HELD), KeepList(("/x",)), ImageSettings(fallback=True), Delivery(same_names=True)
).as_json()


def with_param(number: int, name: str, value: Any) -> dict[str, Any]:
    document = copy.deepcopy(GOOD)
    document["changes"][number]["params"][name] = value
    return document


def with_field(name: str, value: Any) -> dict[str, Any]:
    document = copy.deepcopy(GOOD)
    document["changes"][0][name] = value
    return document


def sample(schema: dict[str, Any]) -> Any:
    """A value that a schema of parameters lets through."""
    if "enum" in schema:
        return schema["enum"][0]
    kind = schema["type"]
    if kind == "array":
        return [sample(schema["items"])] * max(1, schema["minItems"])
    if kind == "object":
        return {name: sample(schema["properties"][name]) for name in schema.get("required", ())}
    return {"integer": schema.get("maximum"), "number": 0.5, "boolean": True}.get(kind, "0" * 64)


class Refused(unittest.TestCase):
    """Each with the file, the change, the field and the reason."""

    def test_values_that_a_remedy_cannot_have(self) -> None:
        place: dict[str, Any] = {**PLACE}
        for document, field, reason in (
            (with_param(0, "width", -1), "width", "whole number"),
            (with_param(0, "width", 10**9), "width", "whole number"),
            (with_param(0, "width", "300"), "width", "whole number"),
            (with_param(0, "width", True), "width", "whole number"),
            (with_param(0, "similarity", 2), "similarity", "from 0 to 1"),
            (with_param(0, "similarity", None), "similarity", "from 0 to 1"),
            (with_param(1, "wait", "never"), "wait", "one of"),
            (with_param(1, "title", "x" * 5000), "title", "at most 200"),
            (
                with_param(1, "places", {"/": place | {"heights": [[360, "1px}</style><script>"]]}}),
                "heights",
                "number",
            ),
            (with_param(1, "places", {"/": place | {"tag": "div onload=x"}}), "tag", "characters"),
            (with_param(1, "places", {"/": place | {"tag": "p><script>"}}), "tag", "characters"),
            (with_param(1, "places", [PLACE]), "places", "table"),
            (
                with_param(1, "own", [{"digest": "../../etc/passwd", "frame": 0, "width": 1, "height": 1}]),
                "digest",
                "",
            ),
        ):
            with self.assertRaises(BadInput) as caught:
                Plan.from_json(document, "mine.json")
            told = str(caught.exception)
            id = SHRINK.id if field in ("width", "similarity") else HELD.id
            for words in ("mine.json", id, field, reason):
                self.assertIn(words, told)

    def test_shapes_that_no_plan_has(self) -> None:
        shapes: tuple[Any, ...] = (
            None,
            [],
            "plan",
            GOOD | {"format": "unladen/plan/3"},
            GOOD | {"effort": "reckless"},
            GOOD | {"changes": {}},
            GOOD | {"changes": [None]},
            GOOD | {"changes": [[]]},
            GOOD | {"changes": [{"id": 7, "remedy": "webp"}]},
            GOOD | {"keep": {"files": "x"}},
            GOOD | {"keep": []},
            GOOD | {"images": {"fallback": "yes"}},
            GOOD | {"delivery": {"same_names": 1}},
            with_field("targets", "/1.jpg"),
            with_field("targets", [1]),
            with_field("pages", None),
            with_field("on", "yes"),
            with_field("insist", 1),
            with_field("params", []),
            with_field("remedy", ["webp"]),
            with_field("id", ""),
            with_field("id", "x" * 5000),
            {"format": "unladen/plan/2"},
        )
        for document in shapes:
            with self.assertRaisesRegex(BadInput, "mine.json"):
                Plan.from_json(document, "mine.json")

    def test_an_unknown_remedy_is_named_with_its_change(self) -> None:
        with self.assertRaisesRegex(BadInput, "“magic” in the change “shrink:/1.jpg”"):
            Plan.from_json(with_field("remedy", "magic"))

    def test_the_same_id_twice(self) -> None:
        with self.assertRaisesRegex(BadInput, "two changes of the id “shrink:/1.jpg”"):
            Plan.from_json(GOOD | {"changes": [GOOD["changes"][0]] * 2})

    def test_five_thousand_changes_are_a_plan_and_too_many_are_not(self) -> None:
        def many(count: int) -> dict[str, Any]:
            return GOOD | {"changes": [GOOD["changes"][0] | {"id": f"shrink:/{n}"} for n in range(count)]}

        self.assertEqual(len(Plan.from_json(many(5000)).changes), 5000)
        with self.assertRaisesRegex(BadInput, "at most"):
            Plan.from_json(many(MOST_CHANGES + 1))

    @given(
        st.recursive(
            st.none() | st.booleans() | st.integers() | st.text(),
            lambda x: st.lists(x) | st.dictionaries(st.text(), x),
        )
    )
    def test_whatever_stands_in_a_plan_it_is_read_or_refused_and_never_fails(self, value: Any) -> None:
        for document in (GOOD | {"changes": value}, with_param(1, "places", value), with_field("params", value)):
            for name in ("unladen/plan/2", "unladen/plan/1"):
                with contextlib.suppress(BadInput):
                    Plan.from_json(document | {"format": name})


def old(id: str, remedy: str, target: str, params: dict[str, Any] | None = None, **more: Any) -> dict[str, Any]:
    """A change as version 1 had it."""
    return {"id": id, "remedy": remedy, "targets": [target], "pages": ["/a.html"], "params": params or {}, **more}


class VersionOne(unittest.TestCase):
    """As it was published in `docs/schemas/plan-1.json`."""

    OLD: dict[str, Any] = {
        "format": "unladen/plan/1",
        "effort": "steady",
        "keep": {"files": ["/logo.*"], "pages": []},
        "images": {"fallback": False, "same_names": True},
        "changes": [
            old("lazy:/a.html", "lazy", "/1.jpg"),
            old("late-act:/a.html", "late", "/2.jpg", {"wait": "act"}, set_aside="differs", on=True),
            old("hold:" + WIDGET, "hold", WIDGET, {"wait": "act", "chosen": True}, insist=True),
            old("wait:/f.mp4", "wait", "/f.mp4", on=False),
            old("endless:/g.gif", "endless", "/g.gif", {"formats": ["H264"], "width": 300, "similarity": 0.9}),
        ],
    }

    def test_it_is_read_under_the_names_of_now(self) -> None:
        jsonschema.validate(self.OLD, json.loads((SCHEMAS / "plan-1.json").read_text()))
        plan = Plan.from_json(self.OLD)
        self.assertEqual(
            [(c.id, c.remedy) for c in plan.changes],
            [
                ("lazy-images:/a.html", "lazy-images"),
                ("lazy-backgrounds-act:/a.html", "lazy-backgrounds"),
                ("delay-scripts:" + WIDGET, "delay-scripts"),
                ("lazy-films:/f.mp4", "lazy-films"),
                ("animations-as-films:/g.gif", "animations-as-films"),
            ],
        )
        self.assertEqual([c.on for c in plan.changes], [True, True, True, False, True])
        self.assertEqual([c.insist for c in plan.changes], [False, False, True, False, False])
        self.assertEqual([c.chosen for c in plan.changes], [False, False, True, False, False])
        self.assertTrue(plan.delivery.same_names)
        self.assertEqual(plan.keep.files, ("/logo.*",))
        self.assertEqual(Plan.from_json(plan.as_json()), plan)

    def test_what_is_wrong_in_it_is_refused_too(self) -> None:
        bad = copy.deepcopy(self.OLD)
        bad["changes"][4]["params"]["width"] = "<b>"
        with self.assertRaisesRegex(BadInput, "animations-as-films:/g.gif.*width"):
            Plan.from_json(bad)
        shapes: tuple[Any, ...] = (None, {}, [3], [{"id": "x"}], [{"remedy": ["lazy"], "id": "x"}])
        for changes in shapes:
            with self.assertRaises(BadInput):
                Plan.from_json(self.OLD | {"changes": changes})

    def test_an_old_ledger_is_read_too(self) -> None:
        saved = {"bytes": 5, "requests": 1}
        ledger = {
            "format": "unladen/ledger/1",
            "effort": "steady",
            "before": [],
            "after": [],
            "notices": [],
            "changes": [
                {"id": "lazy:/a.html", "remedy": "lazy", "targets": [], "on": True, "set_aside": "", "saved": saved}
            ],
            "remedies": {"lazy": saved},
            "unexplained": {"bytes": 0, "requests": 0},
            "lines": [{"change": "lazy:/a.html", "page": "/a.html", "device": "phone", **saved}],
            "checks": {"pairs": 1, "passed": 1, "set_aside": 0},
        }
        jsonschema.validate(ledger, json.loads((SCHEMAS / "ledger-1.json").read_text()))
        found = read_ledger(ledger)
        jsonschema.validate(found, ledger_schema())
        self.assertEqual(found["format"], "unladen/ledger/2")
        self.assertEqual(found["changes"][0]["remedy"], "lazy-images")
        self.assertEqual(list(found["remedies"]), ["lazy-images"])


class Schemas(unittest.TestCase):
    def test_every_remedy_with_its_usual_parameters_is_valid(self) -> None:
        for remedy in remedies():
            schema = remedy.params.schema()
            wanted = {name: sample(schema["properties"][name]) for name in schema.get("required", ())}
            plan = Plan("steady", (change("x", remedy.name, ("/a",), ("/",), wanted),))
            jsonschema.validate(plan.as_json(), plan_schema())

    def test_what_is_read_is_valid_and_what_is_refused_is_not(self) -> None:
        validator = jsonschema.Draft202012Validator(plan_schema())
        self.assertTrue(validator.is_valid(GOOD))
        for document in (
            with_param(0, "width", -1),
            with_param(0, "similarity", 2),
            with_param(1, "wait", "never"),
            with_param(1, "places", {"/": PLACE | {"tag": "p><script>"}}),
            with_field("remedy", "magic"),
            with_field("on", "yes"),
            GOOD | {"effort": "reckless"},
        ):
            self.assertFalse(validator.is_valid(document))
            with self.assertRaises(BadInput):
                Plan.from_json(document)
