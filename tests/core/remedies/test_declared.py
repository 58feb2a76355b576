"""What remedies, surveyors and probes say of themselves fits together; their parameters are what they declare."""

from __future__ import annotations

import json
import unittest
from dataclasses import dataclass, replace
from typing import Any

import jsonschema
from hypothesis import given
from hypothesis import strategies as st

from tests.plans import change
from unladen.check.probes import probes
from unladen.plan import EFFORTS
from unladen.remedies import Delivery, fields, remedies, remedy_named
from unladen.remedies.fields import FieldRefused, Record
from unladen.remedies.spec import EFFORTS as EFFORT_NAMES
from unladen.remedies.spec import PHASES
from unladen.survey.findings import Finding, PlaceFacts
from unladen.survey.proposing import _possible
from unladen.survey.spec import Context
from unladen.survey.surveyors import fact_types, surveyors


class Registries(unittest.TestCase):
    def test_remedies_stand_in_the_order_of_the_phases(self) -> None:
        order = [PHASES.index(remedy.phase) for remedy in remedies()]
        self.assertEqual(order, sorted(order))

    def test_no_two_have_one_name_now_or_before(self) -> None:
        names = [name for remedy in remedies() for name in (remedy.name, remedy.formerly) if name]
        for each in (names, [s.name for s in surveyors()], [p.name for p in probes()]):
            self.assertEqual(len(each), len(set(each)))
        about = [facts.__dataclass_fields__["about"].default for facts in fact_types()]
        self.assertEqual(len(about), len(set(about)))

    def test_every_remedy_can_be_told_and_is_proposed_by_an_effort(self) -> None:
        self.assertEqual(EFFORT_NAMES, tuple(EFFORTS))
        for remedy in remedies():
            self.assertTrue(remedy.title and remedy.what and remedy.detail, remedy.name)
            self.assertTrue(remedy.reached_by("bold"))
            self.assertIn(remedy.least_effort, EFFORTS)

    def test_a_surveyor_has_what_it_needs_before_it_and_proposes_what_there_is(self) -> None:
        before: set[str] = set()
        for surveyor in surveyors():
            self.assertLessEqual(set(surveyor.needs), before, surveyor.name)
            before.add(surveyor.name)
            for name in surveyor.remedies:
                self.assertEqual(remedy_named(name).name, name)

    def test_same_names_leave_only_what_changes_in_its_place(self) -> None:
        left = {remedy.name for remedy in remedies() if remedy.allowed_by(Delivery(same_names=True))}
        self.assertTrue(left)
        for remedy in remedies():
            self.assertEqual(remedy.name in left, not (remedy.may_edit_pages or remedy.needs_new_names))


class Cures(unittest.TestCase):
    """An excess with several changes to choose from."""

    SEVERAL = Finding(
        "x", "weight", "images", "A", "", ("/",), 9, 9, 0, True, PlaceFacts(),
        (change("webp:/a.jpg", "webp", ("/a.jpg",), ("/",)), change("exact:/a.jpg", "exact", ("/a.jpg",), ("/",))),
    )  # fmt: skip

    def possible(self, effort: str, delivery: Delivery) -> list[tuple[str, bool]]:
        # Only what is wanted matters here, and nothing of the evidence.
        context = Context(None, EFFORTS[effort], None, delivery, None, None)  # type: ignore[arg-type]
        found = _possible(self.SEVERAL, context)
        return [(c.id, c.on) for c in found.changes] if found else []

    def test_one_of_them_is_proposed(self) -> None:
        self.assertEqual(self.possible("steady", Delivery()), [("webp:/a.jpg", True), ("exact:/a.jpg", False)])

    def test_one_that_cannot_be_delivered_gives_way_to_the_next(self) -> None:
        self.assertEqual(self.possible("steady", Delivery(same_names=True)), [("exact:/a.jpg", True)])

    def test_what_stays_off_of_itself_is_not_proposed(self) -> None:
        first, second = self.SEVERAL.changes
        quiet = replace(self.SEVERAL, changes=(replace(first, on=False), second))
        context = Context(None, EFFORTS["bold"], None, Delivery(), None, None)  # type: ignore[arg-type]
        found = _possible(quiet, context)
        assert found is not None
        self.assertEqual([c.on for c in found.changes], [False, True])


@dataclass(frozen=True, slots=True, kw_only=True)
class Inner(Record):
    name: str = fields.text(5, r"[a-z]+")


@dataclass(frozen=True, slots=True, kw_only=True)
class Sample(Record):
    """One of each sort of field."""

    size: int = fields.whole(1, 9)
    part: float = fields.share(0.5)
    on: bool = fields.flag()
    way: str = fields.word("left", "right", default="left")
    said: str = fields.text(8, default="")
    ways: tuple[str, ...] = fields.words("left", "right", default=("left",))
    sizes: tuple[int, ...] = fields.wholes(0, 9, default=())
    pairs: tuple[tuple[int, int], ...] = fields.rows(2, 0, 9)
    notes: dict[str, str] = fields.texts(most=4)
    inner: tuple[Inner, ...] = fields.records(Inner)
    table: dict[str, Inner] = fields.record_table(Inner)


ANYTHING = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-2, 11)
    | st.floats(0, 2)
    | st.sampled_from(["left", "abc", "A", "x" * 9]),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from(["name", "k"]), inner, max_size=2),
    max_leaves=5,
)


class Fields(unittest.TestCase):
    @given(st.dictionaries(st.sampled_from(list(Sample.__dataclass_fields__)), ANYTHING))
    def test_what_is_read_is_what_the_schema_lets_through_and_comes_back(self, data: dict[str, Any]) -> None:
        # A whole number written as 1.0 is one to JSON Schema, and none to us.
        valid = jsonschema.Draft202012Validator(Sample.schema()).is_valid(data)
        try:
            found = Sample.from_json(data)
        except FieldRefused as refused:
            self.assertFalse(valid and "whole number" not in str(refused), (data, refused))
            return
        self.assertTrue(valid, data)
        self.assertEqual(Sample.from_json(json.loads(json.dumps(found.as_json()))), found)

    def test_code_is_held_to_it_too(self) -> None:
        with self.assertRaisesRegex(FieldRefused, "size"):
            Sample(size=10)
        with self.assertRaisesRegex(FieldRefused, "size is missing"):
            Sample.from_json({})

    def test_the_place_within_is_named(self) -> None:
        for data, place in (
            ({"size": 1, "pairs": [[1, 2], [1, 99]]}, "pairs.1.1"),
            ({"size": 1, "inner": [{"name": "ok"}, {"name": "<b>"}]}, "inner.1.name"),
            ({"size": 1, "table": {"k": {}}}, "table.k.name"),
        ):
            with self.assertRaises(FieldRefused) as caught:
                Sample.from_json(data)
            self.assertEqual(caught.exception.place, place)
