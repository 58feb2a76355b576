"""Edits of a plan by commands, with undo and redo, against a model."""

from __future__ import annotations

import unittest
from dataclasses import dataclass, field
from typing import Any

from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from tests.plans import change
from unladen.errors import BadInput
from unladen.plan import (
    KeepList,
    KeepRules,
    Pick,
    Plan,
    Propose,
    SetKeepList,
    SetParams,
    SetScope,
    SetSettings,
    Switch,
    TakeEffort,
)
from unladen.plan.commands import Command
from unladen.plan.history import redo_to, undo_to
from unladen.remedies import Change, Delivery, ImageSettings
from unladen.remedies.scripts.wait_for_visitor import WaitParams
from unladen.remedies.styles.trim_styles import TrimParams

PAGES = ("/a.html", "/b.html")
IDS = ("webp:/1.jpg", "webp:/2.jpg", "exact:/1.jpg")
CHANGES: tuple[Change[Any], ...] = (
    change(IDS[0], "webp", ("/1.jpg",), PAGES),
    change(IDS[1], "webp", ("/2.jpg",), PAGES, on=False),
    change(IDS[2], "exact", ("/1.jpg",), PAGES, on=False),
)


@dataclass
class Model:
    """What is wanted, in the plainest way: by id whether it is on, insisted on, and where."""

    on: dict[str, bool] = field(default_factory=lambda: {c.id: c.on for c in CHANGES})
    insist: dict[str, bool] = field(default_factory=lambda: {c.id: False for c in CHANGES})
    pages: dict[str, tuple[str, ...]] = field(default_factory=lambda: {c.id: c.pages for c in CHANGES})
    files: tuple[str, ...] = ()

    def copy(self) -> Model:
        return Model(dict(self.on), dict(self.insist), dict(self.pages), self.files)


class Editing(RuleBasedStateMachine):
    """Versions as a store keeps them, beside two plain stacks."""

    @initialize()
    def begin(self) -> None:
        self.plans = {0: Plan("steady", CHANGES)}
        self.made: list[tuple[int, int | None]] = [(0, None)]
        self.head = 0
        self.now = Model()
        self.back: list[Model] = []
        self.forth: list[Model] = []

    def edit(self, command: Command, after: Model) -> None:
        plan = command.apply(self.plans[self.head])
        if plan == self.plans[self.head]:
            assert after == self.now
            return
        version = len(self.plans)
        self.plans[version] = plan
        self.made.append((version, self.head))
        self.head = version
        self.back.append(self.now)
        self.now, self.forth = after, []

    @rule(ids=st.lists(st.sampled_from(IDS), unique=True), on=st.booleans(), insist=st.booleans())
    def switch(self, ids: list[str], on: bool, insist: bool) -> None:
        after = self.now.copy()
        for id in ids:
            after.on[id], after.insist[id] = on, on and insist
        self.edit(Switch(tuple(ids), on, insist), after)

    @rule(id=st.sampled_from(IDS))
    def pick(self, id: str) -> None:
        after = self.now.copy()
        for other in IDS:
            after.on[other] = other == id
            after.insist[other] = False
        self.edit(Pick(id, IDS), after)

    @rule(id=st.sampled_from(IDS), pages=st.lists(st.sampled_from(PAGES), unique=True, min_size=1))
    def scope(self, id: str, pages: list[str]) -> None:
        after = self.now.copy()
        after.pages[id] = tuple(pages)
        self.edit(SetScope(id, tuple(pages)), after)

    @rule(files=st.lists(st.sampled_from(["/1.jpg", "/*.png"]), unique=True))
    def keep(self, files: list[str]) -> None:
        after = self.now.copy()
        after.files = tuple(files)
        self.edit(SetKeepList(files=tuple(files)), after)

    @precondition(lambda self: self.back)
    @rule()
    def undo(self) -> None:
        to = undo_to(self.made, self.head)
        assert to is not None
        self.head = to
        self.forth.append(self.now)
        self.now = self.back.pop()

    @precondition(lambda self: self.forth)
    @rule()
    def redo(self) -> None:
        to = redo_to(self.made, self.head)
        assert to is not None
        self.head = to
        self.back.append(self.now)
        self.now = self.forth.pop()

    @rule(id=st.text(max_size=5))
    def unknown(self, id: str) -> None:
        for command in (Switch((id,), True), SetScope(id, PAGES), Pick(id, IDS)):
            try:
                command.apply(self.plans[self.head])
            except BadInput:
                continue
            raise AssertionError(f"{command} was taken")

    @invariant()
    def the_same(self) -> None:
        if not hasattr(self, "plans"):
            return
        plan = self.plans[self.head]
        assert {c.id: c.on for c in plan.changes} == self.now.on
        assert {c.id: c.insist for c in plan.changes} == self.now.insist
        assert {c.id: c.pages for c in plan.changes} == self.now.pages
        assert plan.keep.files == self.now.files
        assert (undo_to(self.made, self.head) is None) == (not self.back)
        assert (redo_to(self.made, self.head) is None) == (not self.forth)
        # Versions that stand are never changed.
        assert self.plans[0] == Plan("steady", CHANGES)
        assert Plan.from_json(plan.as_json()) == plan


TestEditing = Editing.TestCase


class Scopes(unittest.TestCase):
    def test_a_pattern_picks_some_of_the_pages(self) -> None:
        pages = ("/index.html", "/journal/a.html", "/journal/b.html")
        one = change("webp:/a.jpg", "webp", ("/a.jpg",), ("/index.html",))
        for pattern, wanted in (("*", pages), ("/journal/*", pages[1:]), ("/none*", ())):
            plan = SetScope(one.id, pages, pattern).apply(Plan("steady", (one,)))
            self.assertEqual(plan.changes[0].pages, wanted)
            self.assertEqual(bool(plan.counting()), bool(wanted))


class Proposals(unittest.TestCase):
    OWN = change("avif:/2.jpg", "avif", ("/2.jpg",), PAGES, chosen=True)
    MINE = Plan(
        "steady",
        (change(IDS[0], "webp", ("/1.jpg",), PAGES, insist=True), CHANGES[2], OWN),
        KeepList(("/logo.png",)),
    )
    BOLD = Plan("bold", tuple(change(id, id.partition(":")[0], ("/" + id.partition("/")[2],), PAGES) for id in IDS))

    def test_an_effort_keeps_choices_the_keep_list_and_what_is_insisted_on(self) -> None:
        plan = TakeEffort(self.BOLD).apply(self.MINE)
        by_id = {c.id: c for c in plan.changes}
        self.assertEqual((plan.effort, plan.keep.files), ("bold", ("/logo.png",)))
        self.assertTrue(by_id[IDS[0]].insist)
        self.assertTrue(by_id[IDS[2]].on)
        # What was chosen for an image stands in the place of what is proposed for it.
        self.assertEqual(by_id[self.OWN.id], self.OWN)
        self.assertNotIn(IDS[1], by_id)

    def test_what_is_insisted_on_stays_even_where_an_effort_does_not_know_it(self) -> None:
        plan = TakeEffort(Plan("gentle", ())).apply(self.MINE)
        self.assertEqual({c.id for c in plan.changes}, {IDS[0], self.OWN.id})

    def test_a_new_proposal_keeps_what_is_on_and_off(self) -> None:
        plan = Propose(self.BOLD).apply(self.MINE)
        self.assertEqual({c.id: c.on for c in plan.changes}, {IDS[0]: True, IDS[2]: False, self.OWN.id: True})

    def test_settings_travel_with_the_plan(self) -> None:
        plan = SetSettings(ImageSettings(avif=True), Delivery(same_names=True)).apply(self.MINE)
        self.assertTrue(plan.images.avif and plan.delivery.same_names)
        self.assertEqual(plan.changes, self.MINE.changes)


class Settings(unittest.TestCase):
    """What a remedy leaves to the user is set by hand, and outlives a new proposal."""

    def plan(self, **more: Any) -> Plan:
        wait = Change("wait", "wait-for-visitor", ("/a.js",), ("/",), WaitParams(**more))
        return Plan("bold", (wait, Change("trim", "trim-styles", ("/a.css",), ("/",), TrimParams(absent=(".x",)))))

    def test_set_and_kept_where_the_change_is_proposed_anew(self) -> None:
        plan = SetParams("wait", {"until": "idle", "limit": 8}).apply(self.plan())
        plan = KeepRules("trim", (".menu-*",)).apply(plan)
        again = Propose(self.plan()).apply(plan)
        for known in (plan, again):
            params = {change.id: change.params for change in known.changes}
            self.assertEqual(params["wait"], WaitParams(until="idle", limit=8))
            self.assertEqual(params["trim"], TrimParams(absent=(".x",), keep=(".menu-*",)))

    def test_what_cannot_be_set_is_refused(self) -> None:
        for values, word in (
            ({"until": "never"}, "until"),
            ({"limit": 601}, "limit"),
            ({"limit": "8"}, "limit"),
            ({"absent": ".y"}, "absent"),
            ({"__class__": "x"}, "__class__"),
        ):
            with self.subTest(values), self.assertRaises(BadInput) as raised:
                SetParams("trim" if "absent" in values else "wait", values).apply(self.plan())
            self.assertIn(word, str(raised.exception))
