"""What each probe holds against a page: values as its observation gives them, and what is told of a difference."""

from __future__ import annotations

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from unladen.check.difference_types import KINDS
from unladen.check.pairs import Difference
from unladen.check.probes import Observation, Probe, all_probes
from unladen.check.probes.spec import cannot_tell
from unladen.check.probes.tables import changed_entries

P, LINK, FORM = "html > body > p", "html > body > a", "html > body > form"


def probe(name: str) -> Probe:
    return next(each for each in all_probes() if each.name == name)


class ProbeCase(unittest.TestCase):
    name = ""
    usual: dict[str, Any] = {}

    def told(
        self, before: dict[str, Any], after: dict[str, Any], again: dict[str, Any] | None = None
    ) -> list[Difference]:
        """The differences between values, each beside what this probe usually sees."""
        first, second, third = (
            Observation(self.usual | values) for values in (before, before if again is None else again, after)
        )
        found = probe(self.name).differences(first, second, third, cannot_tell)
        for difference in found:
            self.assertIn(difference.what, KINDS)
        return found

    def texts(self, *values: Any) -> list[str]:
        return [difference.text for difference in self.told(*values)]


class Words(ProbeCase):
    name = "words"
    usual = {"words": {}, "made": {}, "without": [], "pictures": 0}

    def test_gone_new_and_other_words(self) -> None:
        old = {"words": {P: "The mill", f"{LINK} @title": "To the mill", f"{P} @value": "3"}}
        self.assertEqual(self.texts(old, old), [])
        new = {"words": {P: "The wheel", f"{P} @value": "3", "html > body > b": "New"}}
        self.assertEqual(
            self.texts(old, new),
            [
                "the text of {place} says “The wheel” instead of “The mill”",
                "the hint of {place} is gone: “To the mill”",
                "the text of {place} is new: “New”",
            ],
        )
        self.assertEqual([d.places for d in self.told(old, new)], [(P,), (LINK,), ("html > body > b",)])

    def test_what_the_page_varies_by_itself_is_left_out(self) -> None:
        self.assertEqual(self.texts({"words": {P: "1"}}, {"words": {P: "3"}}, {"words": {P: "2"}}), [])

    def test_generated_words_and_those_for_browsers_without_scripts(self) -> None:
        old = {"made": {f"{P}::before": '"§"'}, "without": ["No scripts"], "pictures": 2}
        self.assertEqual(self.texts(old, old | {"made": {}}), ['what the styles write at {place} is gone: “"§"”'])
        self.assertEqual(
            self.texts(old, old | {"without": []}), ["what is there for browsers without scripts has changed"]
        )
        self.assertEqual(len(self.texts(old, old | {"pictures": 1})), 1)
        self.assertEqual(self.texts(old, old | {"pictures": 3}), [])


class Ways(ProbeCase):
    name = "ways"
    usual = {"ways": {}, "forms": {}, "lost": []}

    def test_links_forms_fields_and_frames(self) -> None:
        old = {
            "ways": {LINK: "/a.html", f"{P} @field": "name=to; type=email", f"{FORM} @shows": "https://far.example/"},
            "forms": {FORM: "/send post"},
        }
        for name, place, value, words in (
            ("ways", LINK, "/b.html", "{place} leads elsewhere: to “/b.html”, not “/a.html”"),
            ("ways", f"{P} @field", "name=to; type=text", "{place} takes other values"),
            ("ways", f"{FORM} @shows", "about:blank", "{place} shows something else"),
            ("forms", FORM, "/send get", "{place} sends what is filled in"),
        ):
            (text,) = self.texts(old, old | {name: old[name] | {place: value}})
            self.assertIn(words, text)
        self.assertIn("it led to “/a.html”", self.texts({"ways": {LINK: "/a.html"}}, {})[0])

    def test_a_file_that_is_linked_is_another_or_gone(self) -> None:
        old = {"files": {f"{LINK} @file": "is the file abc"}}
        for now in ("is the file def", "is not there"):
            (found,) = self.told(old, {"files": {f"{LINK} @file": now}})
            self.assertIn(f"what {{place}} leads to: now “{now}”", found.text)
            self.assertEqual(found.places, (LINK,))

    def test_a_link_into_the_page_that_leads_nowhere_now(self) -> None:
        self.assertEqual(len(self.told({}, {"lost": [LINK]})), 1)
        self.assertEqual(self.told({"lost": [LINK]}, {"lost": [LINK]}), [])


class Meaning(ProbeCase):
    name = "meaning"
    usual = {"page": {}, "labels": {}, "parts": [], "ids": [], "there": ["menu"], "order": [], "tree": []}

    def test_what_is_said_of_the_page(self) -> None:
        old = {"page": {"title": "The mill", "language": "en"}}
        self.assertEqual(
            self.texts(old, {"page": {"title": "Untitled", "language": "en"}}),
            ["the page's title is “Untitled”, it was “The mill”"],
        )
        self.assertEqual(
            self.texts(old, {"page": {"title": "The mill"}}), ["the page's language is gone, it was “en”"]
        )

    def test_labels_parts_ids_and_the_order_of_the_tab_key(self) -> None:
        old = {
            "labels": {P: "labels=Name"},
            "parts": [[P, "h2", "Hours"]],
            "ids": ["menu"],
            "order": [LINK, P],
            "tree": ["heading “Hours” level=2", "link “Home”"],
        }
        for change, words in (
            ({"labels": {}}, "accessibility information of {place} has changed"),
            ({"parts": [[P, "h3", "Hours"]]}, "the headings and parts of the page differ at {place}"),
            ({"ids": [], "there": []}, "ids that links, labels or scripts use are gone: menu"),
            ({"order": [P, LINK]}, "the tab order"),
            ({"tree": ["link “Home”"]}, "what a screen reader reads out: heading “Hours” level=2 is gone"),
        ):
            (difference,) = self.told(old, old | change)
            self.assertIn(words, difference.text)

    def test_which_ids_scripts_use_may_be_known_of_more_or_fewer_of_them(self) -> None:
        self.assertEqual(self.told({"ids": ["menu"]}, {"ids": []}), [])
        self.assertEqual(self.told({"ids": []}, {"ids": ["menu"]}), [])

    def test_where_it_cannot_be_said_what_is_read_out_nothing_is(self) -> None:
        self.assertEqual(self.told({"tree": ["link “Home”"]}, {"tree": None}), [])
        self.assertEqual(self.told({"tree": ["a"]}, {"tree": ["c"]}, {"tree": ["b"]}), [])


class Scripts(ProbeCase):
    name = "scripts"
    usual = {"globals": {}, "listeners": {}, "defined": [], "workers": [], "storage": [], "undefined": []}

    def test_listeners_may_come_and_not_go(self) -> None:
        old = {"listeners": {P: "click", "the document": "click scroll"}}
        self.assertEqual(self.texts(old, {"listeners": {P: "click keydown", "the document": "click scroll"}}), [])
        self.assertEqual(
            self.texts(old, {"listeners": {"the document": "scroll"}}),
            ["{place} no longer reacts to click", "the document no longer reacts to click"],
        )

    def test_elements_workers_and_storage_that_are_not_made_any_more(self) -> None:
        old = {"defined": ["x-menu"], "workers": ["w.js"], "storage": ["seen"]}
        self.assertEqual(len(self.texts(old, {"undefined": ["x-menu"]})), 4)
        self.assertEqual(self.texts({}, old), [])

    def test_globals_of_a_frame_are_told_with_the_frame(self) -> None:
        (found,) = self.told({"globals": {"html > body > iframe >>> player": "object: play"}}, {})
        self.assertIn("“player”", found.text)
        self.assertEqual(found.places, ("html > body > iframe",))


class Errors(ProbeCase):
    name = "errors"
    usual = {"errors": [], "warnings": []}

    def test_new_ones_with_the_files_that_they_name(self) -> None:
        (found,) = self.told({}, {"errors": ["x is not defined (https://site.example/a.js:3:9)"]})
        self.assertEqual(found.files, ("https://site.example/a.js",))

    def test_the_same_at_another_line_is_the_same(self) -> None:
        old = {"errors": ["x is not defined (https://site.example/a.js:3:9)"]}
        self.assertEqual(self.told(old, {"errors": ["x is not defined (https://site.example/b.js:70:1)"]}), [])
        self.assertEqual(len(self.told({}, {"warnings": ["deprecated", "deprecated"]})), 1)


class Missing(ProbeCase):
    name = "missing"
    usual = {"missing": []}

    def test_only_what_was_there_before(self) -> None:
        self.assertEqual(self.texts({"missing": ["/a"]}, {"missing": ["/a", "/b"]}), ["/b is missing now"])
        # Asked for in one of two looks at the page as found: it varies by itself.
        self.assertEqual(self.texts({}, {"missing": ["/a"]}, {"missing": ["/a"]}), [])


class Images(ProbeCase):
    name = "images"
    usual = {"broken": []}

    def test_those_that_were_shown_before(self) -> None:
        self.assertEqual(self.texts({"broken": [P]}, {"broken": [P]}), [])
        (found,) = self.told({}, {"broken": [P]})
        self.assertEqual((found.text, found.places), ("{place} does not show its image", (P,)))
        self.assertEqual(self.texts({}, {"broken": ["hero"]}), ["hero has lost its image"])


class WithoutScripts(ProbeCase):
    name = "without scripts"
    usual = {"shown": {}}

    def test_what_showed_and_does_not_any_more(self) -> None:
        old = {"shown": {P: "Words", LINK: "Home"}}
        self.assertEqual(self.texts(old, {"shown": {P: "Words", LINK: "Home", FORM: "form"}}), [])
        self.assertEqual(self.texts(old, {"shown": {}}), ["without scripts, “Words” and another part are gone"])


class Styles(ProbeCase):
    name = "styles"
    usual = {
        "names": ["color", "display"],
        "rows": [["black", "block"], ["red", "block"]],
        "of": {P: 0, LINK: 0},
        "moves": {},
        "in": {},
    }

    def test_several_elements_of_one_kind_are_told_together(self) -> None:
        (found,) = self.told({}, {"of": {P: 1, LINK: 1}})
        self.assertEqual(found.text, "{place} and another part look different: color")
        self.assertEqual(found.places, (P, LINK))

    def test_in_a_state_or_medium_with_the_moment(self) -> None:
        for state, words in (
            ("hover", "when pointed at"),
            ("print", "in print"),
            ("dark", "in the dark scheme"),
            ("other", "in the state “other”"),
        ):
            (found,) = self.told({"in": {state: {P: {"color": "blue"}}}}, {})
            self.assertIn(words, found.text)
            self.assertEqual(found.step, state)
            self.assertIn("color: blue → as usual", found.detail)

    def test_elements_that_one_of_them_does_not_have_are_told_of_by_others(self) -> None:
        self.assertEqual(self.told({}, {"of": {P: 0}}), [])
        # What is generated around one that is there is nobody else's to tell.
        around = {"of": {P: 0, LINK: 0, f"{P}::before": 0}}
        (found,) = self.told(around, {})
        self.assertEqual((found.text, found.places), ("{place} looks different: before", (P,)))
        self.assertEqual(self.told({"in": {"hover": {LINK: {"color": "blue"}}}}, {"of": {P: 0}}), [])

    def test_columns_may_stand_in_another_order(self) -> None:
        other = {"names": ["display", "color"], "rows": [["block", "black"]], "of": {P: 0, LINK: 0}}
        self.assertEqual(self.told({}, other), [])

    def test_movement_that_is_lost(self) -> None:
        self.assertIn("how it moves", self.texts({"moves": {P: "spin 2s"}}, {})[0])


class Hits(ProbeCase):
    name = "hits"
    usual = {"hits": {}}

    def test_covered_and_out_of_the_window(self) -> None:
        old = {"hits": {LINK: "", P: FORM}}
        self.assertEqual(self.texts(old, {"hits": {LINK: FORM, P: FORM}}), [
            "{place} cannot be pressed: another element covers it",
        ])  # fmt: skip
        self.assertEqual(self.texts(old, {"hits": {LINK: "outside", P: ""}}), [
            "{place} is now outside the window",
        ])  # fmt: skip
        # What is gone is told of by the layout.
        self.assertEqual(self.texts(old, {"hits": {LINK: "gone", P: FORM}}), [])


class Tables(unittest.TestCase):
    TABLE = st.dictionaries(st.sampled_from("abcd"), st.integers(0, 2))

    @given(TABLE, TABLE, TABLE)
    def test_a_row_is_told_exactly_if_it_was_steady_and_is_another_now(
        self, first: dict[str, int], second: dict[str, int], now: dict[str, int]
    ) -> None:
        told = {row.place: (row.old, row.new) for row in changed_entries(first, second, now)}
        for key in "abcd":
            steady = first.get(key) == second.get(key)
            self.assertEqual(key in told, steady and first.get(key) != now.get(key))
            if key in told:
                self.assertEqual(told[key], (first.get(key), now.get(key)))

    @given(TABLE)
    def test_like_itself_nothing_differs(self, table: dict[str, int]) -> None:
        self.assertEqual(list(changed_entries(table, table, table)), [])
