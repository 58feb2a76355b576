"""Two plans beside each other, a plan held against a site, and presets made of plans."""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.plans import change
from tests.sites import FolderCase, page, photo
from unladen.errors import BadInput
from unladen.plan import EFFORTS, Accepted, IgnoredRegion, KeepList, KeepNote, Plan, Tolerance
from unladen.plan.fit import fit
from unladen.plan.merge import apart, merged
from unladen.plan.presets import FORMAT, Preset
from unladen.remedies import Change, Delivery, ImageSettings, remedies


def wanted_of(id: str, remedy: str = "webp") -> Change[Any]:
    """A change that is wanted."""
    return change(id, remedy, ("/a.jpg",), ("/index.html",), {}, on=True)


A, B = wanted_of("webp:/a.jpg"), wanted_of("webp:/b.jpg")


def plan(*changes: Change[Any], **more: Any) -> Plan:
    return Plan("steady", tuple(changes), **more)


@st.composite
def plans(draw: st.DrawFn) -> Plan:
    """Plans of a few changes that differ in all that a change can differ in."""
    found = []
    for name in draw(st.lists(st.sampled_from("abcdef"), unique=True)):
        targets = tuple(draw(st.lists(st.sampled_from(["/x.jpg", "/y.jpg"]), unique=True, min_size=1)))
        pages = tuple(draw(st.lists(st.sampled_from(["/index.html", "/b.html"]), unique=True)))
        found.append(
            replace(
                wanted_of(f"webp:{name}"),
                targets=targets,
                pages=pages,
                on=draw(st.booleans()),
                insist=draw(st.booleans()),
            )
        )
    keep = KeepList(files=tuple(draw(st.lists(st.sampled_from(["/k.jpg", "/l.jpg"]), unique=True))))
    return Plan(draw(st.sampled_from(list(EFFORTS))), tuple(found), keep=keep)


class Beside(unittest.TestCase):
    def test_the_same_plan_differs_in_nothing(self) -> None:
        self.assertEqual(apart(plan(A, B), plan(A, B)), [])

    def test_what_either_wants_is_said_in_words(self) -> None:
        for here, there, words in (
            (plan(A), plan(replace(A, on=False)), ("on", "off", True)),
            (plan(A), plan(replace(A, insist=True)), ("on", "on, override", True)),
            (plan(), plan(A), ("not in it", "on", False)),
            (plan(A), plan(), ("on", "not in it", False)),
            (
                plan(A),
                plan(replace(A, pages=("/x.html",), targets=("/1.jpg", "/2.jpg"))),
                (f"on, for {A.targets[0]}, on {A.pages[0]}", "on, for 2 files, on /x.html", True),
            ),
        ):
            (found,) = apart(here, there)
            self.assertEqual((found.here, found.there, found.conflict), words)
            self.assertEqual(found.key, "change:webp:/a.jpg")

    def test_changes_that_neither_wants_make_no_difference(self) -> None:
        off = replace(A, on=False)
        self.assertEqual(apart(plan(off), plan()), [])
        self.assertEqual(apart(plan(off), plan(replace(off, targets=("/other.jpg",)))), [])

    def test_what_holds_for_the_whole_comes_first(self) -> None:
        other = Plan(
            "bold",
            (A,),
            keep=KeepList(files=("/k.jpg",)),
            images=ImageSettings(avif=False, content_width=900),
            delivery=Delivery(same_names=True),
            tolerance=Tolerance((Accepted("/", "", "k"),), (IgnoredRegion("/", "", (0, 0, 9, 9)),)),
        )
        found = {each.key: (each.here, each.there) for each in apart(plan(), other)}
        self.assertEqual(list(found)[:5], ["effort", "images", "delivery", "keep", "tolerance"])
        self.assertEqual(found["effort"], ("steady", "bold"))
        self.assertEqual(found["images"], ("content width 1500, avif yes", "content width 900, avif no"))
        self.assertEqual(found["keep"], ("0 entries", "1 entry"))
        self.assertEqual(found["tolerance"][1], "1 difference accepted, 1 region left out")

    @given(plans(), plans())
    def test_taking_nothing_changes_nothing_and_taking_all_wants_the_same(self, here: Plan, there: Plan) -> None:
        self.assertEqual(merged(here, there, ()), here)
        whole = merged(here, there, [each.key for each in apart(here, there)])
        wanted = [sorted((c for c in p.changes if c.on), key=lambda c: c.id) for p in (whole, there)]
        self.assertEqual(*wanted)
        self.assertEqual(whole.effort, there.effort)
        # What is kept by either is kept.
        self.assertEqual(set(whole.keep.files), set(here.keep.files) | set(there.keep.files))

    @given(plans(), plans(), st.data())
    def test_what_is_taken_is_apart_no_more_and_the_rest_still_is(
        self, here: Plan, there: Plan, data: st.DataObject
    ) -> None:
        found = apart(here, there)
        keys = [each.key for each in found]
        take = data.draw(st.lists(st.sampled_from(keys), unique=True)) if keys else []
        left = [each.key for each in apart(merged(here, there, take), there)]
        self.assertEqual({key for key in left if key != "keep"}, set(keys) - set(take) - {"keep"})

    def test_notes_and_entries_of_both_keep_lists_stay(self) -> None:
        ours = KeepList(files=("/a",), notes=(KeepNote("files", "/a", "mine"),))
        theirs = KeepList(
            files=("/a", "/b"), notes=(KeepNote("files", "/a", "theirs"), KeepNote("files", "/b", "as well"))
        )
        keep = merged(plan(keep=ours), plan(keep=theirs), ["keep"]).keep
        self.assertEqual(keep.files, ("/a", "/b"))
        self.assertEqual([note.why for note in keep.notes], ["mine", "as well"])


class Fits(FolderCase):
    def test_what_is_not_there_is_named_and_the_rest_stays(self) -> None:
        capture = self.capture({"index.html": page("<img src=a.jpg>"), "a.jpg": photo(9, 9)})
        whole = replace(A, id="whole", targets=("/a.jpg",), pages=("/index.html",))
        partly = replace(whole, id="partly", targets=("/a.jpg", "/gone.jpg"), pages=("/index.html", "/b.html"))
        gone = replace(whole, id="gone", targets=("https://far.example/x.js",))
        off = replace(whole, id="off", targets=("/never.jpg",), on=False)
        broken = replace(whole, id="broken", targets=("http://[::1/x.jpg",))  # no address at all
        found = fit(plan(whole, partly, gone, off, broken), capture)
        self.assertEqual((found.whole, found.gone), (("whole",), ("gone", "broken")))
        self.assertEqual(found.partly, {"partly": ("/gone.jpg", "/b.html")})
        kept = {c.id: (c.targets, c.pages, c.on) for c in found.plan.changes}
        self.assertEqual(kept["partly"], (("/a.jpg",), ("/index.html",), True))
        self.assertFalse(kept["gone"][2])
        self.assertEqual(kept["off"][0], ("/never.jpg",))
        self.assertEqual(
            {n.name for n in found.notices()},
            {"/gone.jpg", "/b.html", "https://far.example/x.js", "http://[::1/x.jpg"},
        )


class Presets(unittest.TestCase):
    def test_of_a_plan_a_preset_keeps_the_effort_the_settings_and_what_it_does_without(self) -> None:
        lazy = replace(wanted_of("lazy:/a.jpg", "lazy-images"), on=False)
        preset = Preset.of(plan(A, replace(B, on=False), lazy, images=ImageSettings(avif=True)))
        self.assertEqual((preset.effort, preset.without, preset.images.avif), ("steady", ("lazy-images",), True))
        made = preset.applied_to(plan(A, replace(lazy, on=True)))
        self.assertEqual([c.on for c in made.changes], [True, False])

    def test_a_plan_that_wants_nothing_says_nothing_of_remedies(self) -> None:
        self.assertEqual(Preset.of(plan(replace(A, on=False))).without, ())

    @given(
        st.sampled_from(list(EFFORTS)),
        st.booleans(),
        st.lists(st.sampled_from([r.name for r in remedies()]), unique=True),
    )
    def test_written_and_read_it_is_the_same(self, effort: str, avif: bool, without: list[str]) -> None:
        order = [r.name for r in remedies()]
        preset = Preset(
            effort, ImageSettings(avif=avif), Delivery(same_names=avif), tuple(sorted(without, key=order.index))
        )
        self.assertEqual(Preset.from_json(preset.as_json()), preset)

    def test_nonsense_is_refused_with_the_reason(self) -> None:
        good = {"format": FORMAT, "effort": "bold"}
        for data, words in (
            (None, "not a preset"),
            ({"format": "other/1"}, "not a preset"),
            (good | {"effort": "reckless"}, "other than gentle, steady, bold"),
            (good | {"without": 3}, "no list"),
            (good | {"images": {"density": 9}}, "density"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                Preset.from_json(data)
        self.assertEqual(Preset.from_json(good | {"without": ["long gone", "webp"]}).without, ("webp",))
