"""One text made of many wishes: each change on its own, transforms after edits, and a guard for each sort of text."""

from __future__ import annotations

import unittest
from collections.abc import Callable

from unladen.build.texts import MadeText, made_text
from unladen.markup.edits import Edit
from unladen.markup.text import Text
from unladen.remedies.draft import Pending, Stage, Transform

PAGE = "<p>one</p><img src=a.jpg><p>two</p>" + "<!-- padding -->" * 30


def text(chars: str) -> Text:
    return Text(chars, "utf-8")


def pending(change: str, chars: str, old: str, new: str, attribute: str = "", adds: bool = False) -> Pending:
    start = chars.index(old)
    return Pending(change, Edit(start, start + len(old), new, adds=adds), attribute)


def made(chars: str, media_type: str, *entries: Pending | Transform) -> MadeText:
    edits = tuple(entry for entry in entries if isinstance(entry, Pending))
    return made_text(
        text(chars), media_type, "gzip", edits, tuple(entry for entry in entries if isinstance(entry, Transform))
    )


class EachOnItsOwn(unittest.TestCase):
    def test_one_refused_edit_leaves_those_of_other_changes(self) -> None:
        good = pending("webp", PAGE, "a.jpg", "a.webp", "*")
        bad = pending("bad", PAGE, "<p>two", "<b>two", "*")
        other = pending("lazy", PAGE, "<img", "<img loading=lazy", "loading")
        found = made(PAGE, "text/html", good, bad, other)
        self.assertIn(b"<img loading=lazy src=a.webp>", found.body)
        self.assertIn(b"<p>two</p>", found.body)
        self.assertEqual([change for change, _ in found.refused], ["bad"])
        self.assertEqual([change for change, _, _ in found.steps], ["webp", "lazy"])

    def test_a_change_is_taken_as_a_whole_or_not_at_all(self) -> None:
        halves = pending("both", PAGE, "a.jpg", "a.webp", "*"), pending("both", PAGE, "<p>two", "<b>two", "*")
        found = made(PAGE, "text/html", *halves)
        self.assertEqual((found.body.decode(), found.steps), (PAGE, ()))

    def test_edits_that_overlap_are_refused_for_the_later_one(self) -> None:
        first = pending("first", PAGE, "src=a.jpg", "src=b.jpg", "*")
        second = pending("second", PAGE, "a.jpg", "c.jpg", "*")
        found = made(PAGE, "text/html", first, second)
        self.assertIn(b"src=b.jpg", found.body)
        self.assertEqual([change for change, _ in found.refused], ["second"])

    def test_what_the_charset_cannot_say_is_refused(self) -> None:
        chars = "<img src=a.jpg>"
        found = made_text(Text(chars, "latin-1"), "text/html", "", (pending("odd", chars, "a.jpg", "✓.jpg", "*"),))
        self.assertEqual(found.body.decode("latin-1"), chars)
        self.assertEqual([change for change, _ in found.refused], ["odd"])

    def test_the_steps_add_up_to_what_is_sent(self) -> None:
        found = made(
            PAGE,
            "text/html",
            pending("one", PAGE, "a.jpg", "a.webp", "*"),
            Transform("two", Stage.TRIM, lambda chars: chars.replace("<!-- padding -->", "")),
        )
        (_, _, between), (_, start, _) = found.steps
        self.assertEqual(between, start)
        self.assertEqual([change for change, _, _ in found.steps], ["one", "two"])


class InStages(unittest.TestCase):
    def transform(self, change: str, stage: int, make: Callable[[str], str]) -> Transform:
        return Transform(change, Stage.MINIFY if stage > 1 else Stage.TRIM, make)

    def test_edits_come_first_then_transforms_by_their_stage(self) -> None:
        last = self.transform("upper", 2, lambda chars: chars.replace("#222", "#000"))
        first = self.transform("lower", 1, lambda chars: chars.replace("#111", "#222"))
        edit = pending("edit", "a{color:#fff}", "#fff", "#111")
        found = made("a{color:#fff}", "text/css", last, first, edit)
        self.assertEqual(found.body, b"a{color:#000}")
        self.assertEqual([change for change, _, _ in found.steps], ["edit", "lower", "upper"])

    def test_one_that_breaks_the_text_is_left_out_and_named(self) -> None:
        for media_type, before, after, why in (
            ("text/html", "<p>a</p>", "<b>a</b>", "other elements"),
            ("text/css", "a{background:url(x.png)}", "a{background:url(y.png)}", "other files"),
            ("application/json", '{"a": 1}', '{"a": 2}', "not be the same"),
        ):
            wrong = self.transform("wrong", 1, lambda chars, after=after: after)  # type: ignore[misc]
            right = self.transform("right", 2, lambda chars: chars.replace(" ", ""))
            found = made(before, media_type, wrong, right)
            self.assertEqual(found.body.decode().replace(" ", ""), before.replace(" ", ""))
            ((change, reason),) = found.refused
            self.assertEqual(change, "wrong")
            self.assertIn(why, reason)

    def test_one_that_fails_is_left_out_and_named(self) -> None:
        def fails(chars: str) -> str:
            raise ValueError("it cannot be read")

        found = made("a{}", "text/css", self.transform("broken", 1, fails))
        self.assertEqual((found.body, found.refused), (b"a{}", (("broken", "it cannot be read"),)))


class Guards(unittest.TestCase):
    """What each sort of text refuses."""

    def refused(self, media_type: str, chars: str, old: str, new: str) -> bool:
        return bool(made(chars, media_type, pending("x", chars, old, new, "*")).refused)

    def test_scripts_keep_their_strings(self) -> None:
        script = "load('img/a.jpg'); // end"
        self.assertFalse(self.refused("text/javascript", script, "img/a.jpg", "img/a.webp"))
        for bad in ("a'b", "a\nb", "a\\b", "${x}", "</script>"):
            self.assertTrue(self.refused("text/javascript", script, "img/a.jpg", bad), bad)
        self.assertTrue(self.refused("text/javascript", script, "a.jpg'", "a.webp"))

    def test_styles_keep_what_they_name(self) -> None:
        style = "a{background:url(a.jpg)}"
        self.assertFalse(self.refused("text/css", style, "a.jpg", "a.webp"))
        self.assertTrue(self.refused("text/css", style, "a.jpg", "a(b.jpg"))

    def test_data_stays_data(self) -> None:
        data = '{"src": "a.jpg"}'
        self.assertFalse(self.refused("application/json", data, "a.jpg", "a.webp"))
        self.assertTrue(self.refused("application/json", data, "a.jpg", 'a".jpg'))
