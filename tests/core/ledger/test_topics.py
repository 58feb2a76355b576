"""A run in words: what belongs together, what is small, and what grew since."""

from __future__ import annotations

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.survey.test_survey_weighing import FAR, asked, weigh_in
from tests.sites import FolderCase
from unladen.ledger.growth import grown
from unladen.ledger.report import remaining_advice
from unladen.ledger.topics import topics_by_file, topics_of
from unladen.weigh.records.parties import Rule

HOST = "https://site.example/"


def row(remedy: str, target: str, saved: int, **more: Any) -> dict[str, Any]:
    known = {"on": True, "standing": "passed", "saved": {"bytes": saved, "requests": 0}}
    return {"id": f"{remedy}:{target}", "remedy": remedy, "targets": [target]} | known | more


def ledger(*rows: dict[str, Any]) -> dict[str, Any]:
    return {"changes": list(rows)}


EXCESS = [
    {"changes": ["shrink:/a.jpg"], "title": "a.jpg is wide", "why": "Less is enough.", "pages": ["/"]},
    {"changes": ["webp:/a.jpg"], "title": "a.jpg: older", "why": "As WebP.", "pages": ["/", "/b"]},
]


class Topics(FolderCase):
    def test_what_was_done_to_one_file_is_one_topic(self) -> None:
        (topic,) = topics_of(ledger(row("webp", "/a.jpg", 100), row("shrink", "/a.jpg", 900)), EXCESS)
        self.assertEqual((topic.id, topic.title, topic.bytes), ("shrink:/a.jpg", "a.jpg is wide", 1000))
        self.assertEqual(topic.why, "Less is enough. As WebP.")
        self.assertEqual(topic.changes, ("shrink:/a.jpg", "webp:/a.jpg"))
        self.assertEqual(topic.pages, ("/", "/b"))

    def test_what_saves_little_stands_together_by_remedy(self) -> None:
        rows = [
            row("webp", "/a.jpg", 100_000),
            *(row("webp", f"/{n}.jpg", 10) for n in range(30)),
            row("svg", "/x.svg", 5),
        ]
        topics = topics_of(ledger(*rows), [])
        self.assertEqual([topic.id for topic in topics], ["webp:/a.jpg", "rest:webp", "rest:svg"])
        self.assertEqual(len(topics[1].changes), 30)
        self.assertEqual(len(topics_by_file(ledger(*rows), [])), 32)

    def test_what_is_not_handed_over_is_no_topic(self) -> None:
        for more in ({"on": False}, {"standing": "set aside"}, {"standing": "nothing to gain"}, {"standing": ""}):
            self.assertEqual(topics_of(ledger(row("webp", "/a.jpg", 9, **more)), EXCESS), [])

    @given(
        st.lists(st.tuples(st.sampled_from(["webp", "svg", "shrink"]), st.integers(0, 5), st.integers(-50, 9_000)))
    )
    def test_no_byte_and_no_change_is_lost(self, told: list[tuple[str, int, int]]) -> None:
        rows = {f"{remedy}:{n}": row(remedy, f"/{n}.jpg", saved) for remedy, n, saved in told}.values()
        for topics in (topics_of(ledger(*rows), []), topics_by_file(ledger(*rows), [])):
            self.assertEqual(sum(topic.bytes for topic in topics), sum(r["saved"]["bytes"] for r in rows))
            self.assertEqual(sorted(id for topic in topics for id in topic.changes), sorted(r["id"] for r in rows))

    def test_what_is_left_is_told_largest_first(self) -> None:
        rows: list[dict[str, Any]] = [
            {"changes": ["a"], "title": "A", "advice": "", "why": "w", "bytes": 9, "visit": "first"},
            {"changes": ["b"], "title": "B", "advice": "", "why": "w", "bytes": 5, "visit": "first"},
            {"changes": [], "title": "C", "advice": "do it", "why": "w", "bytes": 7, "visit": "first"},
            {"changes": ["d"], "title": "D", "advice": "", "why": "w", "bytes": 99, "visit": "repeat"},
        ]
        left = remaining_advice(rows, {"a"})
        self.assertEqual(
            [(e.what, e.advice, e.bytes) for e in left], [("C", "do it", 7), ("B", "w", 5), ("D", "w", 0)]
        )


class Growth(FolderCase):
    def test_who_brought_what_a_page_grew_by(self) -> None:
        before = weigh_in(asked(HOST + "a.jpg", "images", 50_000), asked(FAR + "x.js", "scripts", 9_000))
        after = weigh_in(
            asked(HOST + "a.jpg", "images", 60_000),
            asked(FAR + "x.js", "scripts", 8_000),
            asked("https://tag.example/t.js", "scripts", 30_000),
        )
        (page,) = grown([before], [after])
        self.assertEqual((page.after - page.before), 10_000 - 1_000 + 30_000 + 250)
        self.assertEqual([(g.name, g.bytes) for g in page.by], [("tag.example", 30_250), ("own images", 10_000)])
        named = grown([before], [after], [Rule("tag.example", "third party", "The tag")])
        self.assertEqual(named[0].by[0].name, "The tag")

    def test_little_and_what_is_gone_is_no_growth(self) -> None:
        before = weigh_in(asked(HOST + "a.jpg", "images", 500_000))
        self.assertEqual(grown([before], [weigh_in(asked(HOST + "a.jpg", "images", 504_000))]), [])
        self.assertEqual(grown([before], [weigh_in(asked(HOST + "a.jpg", "images", 1_000))]), [])
        self.assertEqual(grown([before], []), [])
        self.assertEqual(grown([before], [weigh_in(asked(HOST + "a.jpg", "images", 900_000), device="desktop")]), [])
