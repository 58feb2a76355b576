"""Which scripts may run later than they do: told from what each gives to others and asks of them."""

from __future__ import annotations

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.sites import FolderCase, page
from unladen.markup.html import Document, Element
from unladen.markup.site import texts_of
from unladen.remedies.scripts.order import Tag, held_by_the_page, may_defer, may_wait, scripts_of
from unladen.remedies.styles.first_view_styles import late_by_itself
from unladen.scripts.names import Names as ScriptNames
from unladen.scripts.names import names_of
from unladen.styles.first import first_rules

SITE = "https://site.example/"


class Names(unittest.TestCase):
    def test_what_is_given(self) -> None:
        for text, given_ in (
            (
                "var one; function two() {} class Three {} let four; const { five, six: [seven] } = {}",
                "one two Three four five seven",
            ),
            ("window.lib = 1; self['other'] = 2; loose = 3", "lib other loose"),
            ("(function ($) { $.fn.slider = function () {} })(jQuery)", "slider"),
            ("jQuery.fn.extend({ tabs: function () {}, 'two-words': 1, short })", "tabs two-words short"),
            ("!function (e, t) { (e = e || self).Lib = t() }(this, function () { return {} })", "Lib"),
            ("Object.defineProperty(window, 'late', { value: 1 })", "late"),
        ):
            with self.subTest(text):
                self.assertLessEqual(set(given_.split()), names_of(text).gives)

    def test_what_is_asked_for_and_what_is_its_own(self) -> None:
        for text, asked, own in (
            ("$('p').hide(); jQuery.noConflict()", "$ jQuery", ""),
            ("(function ($) { $('p') })(jQuery)", "jQuery", "$"),
            ("function f(a, { b }, ...c) { return a + b + c + d } try { e() } catch (g) { g }", "d e", "a b c g f"),
            ("for (const item of list) { item.go() }", "list", "item"),
            ("window.lib.start(); self['other']", "lib other", ""),
            ("var x = 1; (() => { var y = x; return { y, z } })()", "z", "x y"),
            ("const named = function me() { return me }", "", "me named"),
        ):
            with self.subTest(text):
                names = names_of(text)
                self.assertLessEqual(set(asked.split()), names.asks)
                self.assertFalse(set(own.split()) & names.asks)

    def test_what_cannot_be_told_and_what_must_run_at_once(self) -> None:
        for text, opaque, writes, measures in (
            ("eval(code)", True, False, False),
            ("new Function('return ' + name)", True, False, False),
            ("Function('return this')()", False, False, False),  # how libraries look for the global object
            ("setTimeout('go()', 1)", True, False, False),
            ("with (a) { b }", True, False, False),
            ("this is no script", True, True, True),
            ("document.write('<p>')", False, True, False),
            ("window.document.writeln('<p>')", False, True, False),
            ("file.write('x')", False, False, False),
            ("box.offsetHeight", False, False, True),
            ("$('p').outerHeight()", False, False, True),
            ("getComputedStyle(box)", False, False, True),
            ("box.classList.add('x')", False, False, False),
        ):
            with self.subTest(text):
                names = names_of(text)
                self.assertEqual((names.opaque, names.writes, names.measures), (opaque, writes, measures))


class Order(FolderCase):
    def tags(self, body: str, files: dict[str, str], head: str = "") -> list[Tag]:
        capture = self.capture(
            {"index.html": page(body, head)} | {name: text.encode() for name, text in files.items()}
        )
        texts = texts_of(capture)
        found = capture.page("/")
        document = texts.document(found)
        assert document
        return scripts_of(texts, found, document)

    def deferred(self, body: str, files: dict[str, str], head: str = "") -> tuple[list[str], dict[str, str]]:
        tags = self.tags(body, files, head)
        taken, reasons = may_defer(tags, {tag.url for tag in tags if tag.url})
        return [tag.url.removeprefix(SITE) for tag in taken], {
            u.removeprefix(SITE): why for u, why in reasons.items()
        }

    def waiting(self, body: str, files: dict[str, str], at_once: str = "") -> tuple[list[str], dict[str, str]]:
        tags = self.tags(body, files)
        taken, reasons = may_wait(tags, {tag.url for tag in tags if tag.url and tag.url != SITE + at_once})
        return [tag.url.removeprefix(SITE) for tag in taken], {
            u.removeprefix(SITE): why for u, why in reasons.items()
        }

    LIBRARY = "window.lib = {}"

    def test_a_library_that_a_script_of_the_page_needs_at_once_stays(self) -> None:
        files = {"lib.js": self.LIBRARY, "own.js": "lib.go = 1", "alone.js": "document.title += '!'"}
        body = (
            "<script src=lib.js></script><script>lib.x = 1</script><script src=own.js></script><script "
            "src=alone.js></script>"
        )
        self.assertEqual(
            self.deferred(body, files),
            (["own.js", "alone.js"], {"lib.js": "a script within the page may need it at once"}),
        )
        free = body.replace("lib.x = 1", "var data = [1]; data.push(2)")
        self.assertEqual(self.deferred(free, files), (["lib.js", "own.js", "alone.js"], {}))

    def test_what_is_deferred_or_asynchronous_already_is_reckoned_with(self) -> None:
        files = {"lib.js": self.LIBRARY, "own.js": "lib.go()", "tag.js": "lib.go()"}
        for body, taken in (
            # A deferred one runs behind it now, and would run before it then.
            ("<script defer src=own.js></script><script src=lib.js></script>", []),
            ("<script src=lib.js></script><script defer src=own.js></script>", ["lib.js"]),
            ("<script src=lib.js></script><script async src=own.js></script>", []),
            ("<script src=lib.js></script><script type=module src=own.js></script>", ["lib.js"]),
            # Of what is not in the recording only the address is known.
            ("<script src=lib.js></script><script async src=https://tags.example/t.js></script>", ["lib.js"]),
            ("<script src=lib.js></script><script async src='https://tags.example/t.js?callback=lib'></script>", []),
            ("<script src=lib.js></script><script src=https://tags.example/t.js></script>", []),
            ("<script src=lib.js></script><script nomodule src=own.js></script>", ["lib.js"]),
            ("<script src=lib.js></script><script type=application/json>lib.go()</script>", ["lib.js"]),
        ):
            with self.subTest(body):
                self.assertEqual(self.deferred(body, files)[0], taken)

    def test_what_writes_into_the_page_stays(self) -> None:
        self.assertIn(
            "writes", self.deferred("<script src=a.js></script>", {"a.js": "document.write('x')"})[1]["a.js"]
        )

    def test_what_waits_takes_along_what_needs_it_and_what_does_not_wait_keeps_what_it_needs(self) -> None:
        files = {
            "lib.js": self.LIBRARY,
            "plugin.js": "lib.open = 1",
            "own.js": "lib.open()",
            "count.js": "var hits = 1",
        }
        scripts = "".join(f"<script src={name}></script>" for name in files)
        inline = "<script>lib.x = 1</script><script>var unrelated = 1</script>"
        everything = self.waiting(scripts + inline, files)
        self.assertEqual(everything, (["lib.js", "plugin.js", "own.js", "count.js", ""], {}))
        taken, reasons = self.waiting(scripts + inline, files, at_once="own.js")
        self.assertEqual(taken, ["count.js"])
        self.assertEqual(set(reasons), {"lib.js", "plugin.js"})
        self.assertEqual(
            self.waiting(scripts + inline, files, at_once="count.js")[0], ["lib.js", "plugin.js", "own.js", ""]
        )

    def test_a_script_of_the_page_that_writes_keeps_what_it_needs(self) -> None:
        taken, _ = self.waiting(
            "<script src=lib.js></script><script>document.write(lib)</script>", {"lib.js": self.LIBRARY}
        )
        self.assertEqual(taken, [])


WORDS = st.frozensets(st.sampled_from("abcd"), max_size=2)


@st.composite
def pages(draw: st.DrawFn) -> list[Tag]:
    """Scripts of a page that give and ask for names at random."""
    found = []
    for number in range(draw(st.integers(1, 6))):
        within = draw(st.booleans())
        when: Any = "now" if within else draw(st.sampled_from(("now", "deferred", "async")))
        names = ScriptNames(draw(WORDS), draw(WORDS), writes=draw(st.integers(0, 9)) == 0)
        element = Element("script", {}, number, number, {}, number, ())
        found.append(Tag(element, "" if within else f"{SITE}{number}.js", when, names))
    return found


class AnyOrder(unittest.TestCase):
    """However scripts need each other: whatever was sure to have run before one that needs it still is."""

    def sure(self, tags: list[Tag], deferred: set[int], held: set[int]) -> set[tuple[int, int]]:
        """Pairs of places, of which the first is sure to run before the second (HTML Standard, 4.12.1)."""

        def turn(i: int) -> tuple[int, int]:
            late = i in deferred or tags[i].when == "deferred"
            return (2 if i in held else 0) + late, i

        found = set()
        for i, one in enumerate(tags):
            for j, other in enumerate(tags):
                if i == j or (one.when == "async" and i not in held):
                    continue
                if other.when == "async" and j not in held:
                    # It may come at any time once its tag has been read.
                    if turn(i)[0] == 0 and i < j:
                        found.add((i, j))
                elif turn(i) < turn(j):
                    found.add((i, j))
        return found

    def check(self, tags: list[Tag], deferred: set[int], held: set[int]) -> None:
        before, after = self.sure(tags, set(), set()), self.sure(tags, deferred, held)
        for i, j in before:
            if tags[j].names.needs(tags[i].names):
                self.assertIn((i, j), after, (i, j, deferred, held))

    @given(pages(), st.sets(st.integers(0, 5)))
    def test_deferred(self, tags: list[Tag], wanted: set[int]) -> None:
        taken, _ = may_defer(tags, {tags[i].url for i in wanted if i < len(tags)})
        places = {tag.element.start for tag in taken}
        self.assertTrue(all(tags[i].when == "now" and tags[i].url and not tags[i].names.writes for i in places))
        self.check(tags, places, set())

    @given(pages(), st.sets(st.integers(0, 5)))
    def test_waiting(self, tags: list[Tag], wanted: set[int]) -> None:
        taken, _ = may_wait(tags, {tags[i].url for i in wanted if i < len(tags) and tags[i].url})
        places = {tag.element.start for tag in taken}
        self.assertFalse(any(tags[i].names.writes for i in places))
        self.check(tags, set(), places)


class ByItself(unittest.TestCase):
    """What a page does by itself already is noticed, so that it is not done twice."""

    def test_scripts_that_a_page_holds_back(self) -> None:
        for text, held in (
            ("<script type=text/later src=a.js></script>", True),
            ("<script type=text/later data-src=a.js></script>", True),
            ("<script src=a.js></script><script type=module src=b.js></script>", False),
            ("<script type=application/ld+json>{}</script><script type=importmap src=x>{}</script>", False),
            ("<script type=text/x-template src=a.html></script><script type=text/later>a()</script>", False),
            ("<script data-unladen=wait type=text/held src=a.js></script>", False),
        ):
            with self.subTest(text):
                self.assertEqual(bool(held_by_the_page(Document(page(text).decode()))), held)

    def test_style_sheets_that_come_late(self) -> None:
        for text, late in (
            ("<link rel=preload as=style href=a.css onload=\"this.rel='stylesheet'\">", True),
            ("<link rel=stylesheet media=print onload=\"this.media='all'\" href=a.css>", True),
            ("<link rel=stylesheet href=a.css><link rel=icon onload=go() href=i.png>", False),
        ):
            with self.subTest(text):
                self.assertEqual(late_by_itself(Document(page("", text).decode())), late)


class First(unittest.TestCase):
    def test_rules_of_the_first_view_in_their_order_and_groups_without_files(self) -> None:
        sheet = """@charset "utf-8"; @import "b.css"; @layer base, theme;
        .a, .b:hover { color: red; background: url(x.png) no-repeat; margin: 0 } .far { color: blue }
        @media (width > 10px) { .far { order: 1 } .b { order: 2 } } @media print { .far { order: 3 } }
        @layer theme { .far { order: 4 } } @supports (display: grid) { .a::before { content: url(y.png) } }
        @font-face { font-family: F; src: url(f.woff2) } @keyframes k { to { opacity: 0 } } .b {
        background: url(only.png) }"""
        self.assertEqual(
            first_rules(sheet, {".a", ".b"}),
            "@layer base,theme;.a,.b:hover{color:red;margin:0}@media (width>10px){.b{order:2}}@layer theme{}",
        )

    def test_nothing_of_a_sheet_that_the_first_view_does_not_need(self) -> None:
        self.assertEqual(first_rules(".far { color: red } @media print { .a { order: 1 } }", set()), "")
