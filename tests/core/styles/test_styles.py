"""What selectors ask for, what goes from a style sheet, and that the rest stays as it was."""

from __future__ import annotations

import re
import unittest
from functools import cache
from typing import Any

import tinycss2

from tests.sites import registry_package
from unladen.markup.html import Document
from unladen.styles.faces import range_of, with_smaller
from unladen.styles.minify import minified
from unladen.styles.naming import names_in_markup, names_in_script
from unladen.styles.rules import every, tree
from unladen.styles.selectors import wanted
from unladen.styles.trim import Dead, selectors_in, trimmed

FRAMEWORKS = (
    ("bootstrap", "5.3.3", "dist/css/bootstrap.css"),
    ("bulma", "1.0.2", "css/bulma.css"),
    ("materialize-css", "1.0.0", "dist/css/materialize.css"),
)
GROUPED = ("media", "supports", "layer", "container")
PAGES = (("startbootstrap-sb-admin-2", "4.1.4", "."), ("startbootstrap-agency", "7.0.12", "dist"))


@cache
def framework(name: str, version: str, path: str) -> str:
    return (registry_package(name, version) / path).read_text()


def rules_of(chars: str) -> list[Any]:
    """What tinycss2 reads: at-rules with what is in them, and style rules, without comments and white space."""

    def plain(nodes: Any) -> str:
        return " ".join(tinycss2.serialize([n for n in nodes if n.type not in ("comment",)]).split())

    found: list[Any] = []
    for node in tinycss2.parse_stylesheet(chars, skip_comments=True, skip_whitespace=True):
        if node.type == "at-rule" and node.content is not None and node.lower_at_keyword in GROUPED:
            found.append((node.lower_at_keyword, plain(node.prelude), rules_of(tinycss2.serialize(node.content))))
        elif node.type == "at-rule":
            found.append((node.lower_at_keyword, plain(node.prelude), node.content and plain(node.content)))
        elif node.type == "qualified-rule":
            selectors = [plain(list(part)) for part in _split(node.prelude)]
            found.append((tuple(selectors), plain(node.content)))
    return found


def _split(tokens: Any) -> list[list[Any]]:
    parts: list[list[Any]] = [[]]
    for token in tokens:
        if token == ",":
            parts.append([])
        else:
            parts[-1].append(token)
    return parts


class Asking(unittest.TestCase):
    def test_states_and_what_is_generated_are_left_out(self) -> None:
        for selector, relaxed, names in (
            ("a:hover > b::before", "a > b", ("a", "b")),
            (".menu:not(.open) li:nth-child(2n + 1)", ".menu li", (".menu", "li")),
            (":root", "*", ()),
            (":hover > .x", "* > .x", (".x",)),
            ("[aria-expanded=true] .x", "[aria-expanded] .x", ("[aria-expanded]", ".x")),
            ("input[type='range' i]::-moz-range-thumb", "input[type='range' i]", ("input", "[type]")),
            ("a:is(.b, .c):focus d", "a:is(.b,.c) d", ("a", "d")),
            (".x:is(H1)", ".x:is(H1)", (".x", "h1")),
            (r".sm\:flex", r".sm\:flex", (".sm:flex",)),
            ("a /* b */ c", "a c", ("a", "c")),
            ("a:has(> b) + c", "a + c", ("a", "c")),
        ):
            with self.subTest(selector):
                found = wanted(selector)
                assert found is not None
                self.assertEqual((found.relaxed, found.names), (relaxed, names))

    def test_what_cannot_be_judged_is_nothing(self) -> None:
        for selector in (
            "&:hover",
            "> a",
            "a > > b",
            "svg|a",
            "*|*",
            ":host(.x)",
            "::slotted(b)",
            "a || b",
            "a:",
            "",
            ".5x",
            "a:is(&)",
        ):
            self.assertIsNone(wanted(selector), selector)

    def test_what_matches_a_selector_matches_the_relaxed_one(self) -> None:
        """The sheets of three frameworks against real pages, matched by the parser's own selectors."""
        documents = [
            Document(path.read_text())
            for name, version, part in PAGES
            for path in sorted((registry_package(name, version) / part).glob("*.html"))[:3]
        ]
        tried = 0
        for name in FRAMEWORKS:
            chars = framework(*name)
            for node in every(tree(chars)):
                for start, end in node.selectors:
                    found = wanted(chars[start:end])
                    for document in documents if found else ():
                        try:
                            own = {e.start for e in document.matching(chars[start:end])}
                        except ValueError:
                            continue
                        assert found is not None
                        if own:
                            tried += 1
                            self.assertLessEqual(
                                own, {e.start for e in document.matching(found.relaxed)}, chars[start:end]
                            )
                            self.assertTrue(
                                all(names_in_markup(document.chars).may_name(n) for n in found.names if n[0] in ".#")
                            )
        self.assertGreater(tried, 300)


class Naming(unittest.TestCase):
    def test_a_script_may_spell_a_name_in_parts(self) -> None:
        names = names_in_script(
            "e.classList.add('is-' + state, `tab-${n}`, x + '-open'); d.dataset.bsTheme = 1; i--; 'menu'"
        )
        for there in (".is-active", ".tab-3", ".row-open", ".menu", "#menu", "[data-bs-theme]"):
            self.assertTrue(names.may_name(there), there)
        for not_there in (".card", ".menus", ".i-x", "[data-other]", "table"):
            self.assertFalse(names.may_name(not_there), not_there)

    def test_what_is_no_part_of_a_name_is_none(self) -> None:
        names = names_in_script("_ __ a- -b c-- d--; _x = i--; $ -1 'é-'")
        self.assertEqual((names.starts, names.ends), ((), ()))
        self.assertEqual(names_in_script("").whole, frozenset())

    def test_markup_names_what_stands_anywhere_in_it(self) -> None:
        names = names_in_markup(
            "<template><p class='a b'></template><!-- <i id=c> --><noscript><b class=\"d\"></noscript><x "
            "data-on='.e, #f'>"
        )
        self.assertTrue(all(names.may_name(n) for n in (".a", ".b", "#c", ".d", ".e", "#f", "template", "i")))


class Trimming(unittest.TestCase):
    def trim(
        self, chars: str, *absent: str, unmatched: tuple[str, ...] = (), keep: tuple[str, ...] = (), named: str = ""
    ) -> str:
        dead = Dead(frozenset(absent), frozenset(unmatched), keep)
        return trimmed(chars, dead, lambda name: name in named.split()).chars

    def test_rules_selectors_and_groups(self) -> None:
        for before, after in (
            (".x{a:b} p{c:d}", " p{c:d}"),
            (".x,p,.x b{a:b}", "p{a:b}"),
            ("p, .x ,q{a:b}", "p ,q{a:b}"),
            ("p,.x:hover{a:b}", "p{a:b}"),
            ("@media print{.x{a:b}}p{c:d}", "p{c:d}"),
            ("@media print{.x{a:b} p{c:d}}", "@media print{ p{c:d}}"),
            ("@supports (a:b){@media print{.x{a:b}}}", ""),
            ("@layer one{.x{a:b}}", "@layer one{}"),  # says where its layer comes
            ("@scope (.x){p{a:b}}", "@scope (.x){p{a:b}}"),
            (".x{a:b;& p{c:d}}", ""),
            ("p{a:b;.x &{c:d}}", "p{a:b;.x &{c:d}}"),
            ("p:not(.x){a:b}", "p:not(.x){a:b}"),
            ("*:is(.x,p){a:b}", "*:is(.x,p){a:b}"),
            (".x{a:'}'} p{c:d}", " p{c:d}"),
            ("p{a:b} .x{c:d", "p{a:b} .x{c:d"),  # it never ends, and a browser reads it to the end
        ):
            with self.subTest(before):
                self.assertEqual(self.trim(before, ".x"), after)

    def test_what_lies_too_deep_to_be_told_apart_stays_with_what_holds_it(self) -> None:
        deep = "@media print{" * 60 + ".x{a:b}" + "}" * 60
        self.assertEqual(self.trim(deep + ".x{c:d}", ".x"), deep)
        self.assertEqual(self.trim("a{" * 5000, ".x"), "a{" * 5000)

    def test_what_nothing_is_left_to_name_goes_too(self) -> None:
        chars = (
            ":root{--a:1;--b:var(--a);--c:2}.x{color:var(--b);animation:turn 2s;font-family:Mill}p{order:var(--c)}"
            "@keyframes turn{to{a:b}}@font-face{font-family:'Mill';src:url(m.woff2)}@property --a{syntax:'*'}"
        )
        self.assertEqual(self.trim(chars, ".x"), ":root{--a:1;--c:2}p{order:var(--c)}@property --a{syntax:'*'}")
        kept = self.trim(chars, ".x", named="--b turn Mill")
        self.assertIn("--b:var(--a)", kept)
        self.assertIn("@keyframes turn", kept)
        self.assertIn("@font-face", kept)

    def test_the_user_s_word_keeps_rules(self) -> None:
        chars = ".menu-open a{a:b}.menu{c:d}.card{e:f}@keyframes turn{to{a:b}}"
        absent = (".menu", ".menu-open", ".card")
        self.assertEqual(self.trim(chars, *absent, keep=(".menu*",)), ".menu-open a{a:b}.menu{c:d}")
        self.assertEqual(self.trim(chars, *absent, keep=(".menu", "turn")), ".menu{c:d}@keyframes turn{to{a:b}}")
        self.assertEqual(self.trim(chars, *absent, keep=("*", " ")), "")

    def test_the_rest_of_a_framework_is_what_tinycss2_reads_less_what_went(self) -> None:
        for name in FRAMEWORKS:
            with self.subTest(name):
                self.expect_the_rest(name, 3)

    def expect_the_rest(self, name: tuple[str, str, str], every_nth: int) -> None:
        chars = framework(*name)
        names = sorted({n for asked in selectors_in(chars) for n in asked.names})
        dead = Dead(frozenset(n.lower() for n in names[::every_nth]))
        result = trimmed(chars, dead)

        def less(rules: list[Any]) -> list[Any]:
            left: list[Any] = []
            for rule in rules:
                if isinstance(rule[0], tuple):
                    own = tuple(s for s in rule[0] if not dead.why(s))
                    left += [(own, rule[1])] if own else []
                elif rule[0] in GROUPED:
                    inner = less(rule[2])
                    left += [(rule[0], rule[1], inner)] if inner or not rule[2] or rule[0] == "layer" else []
                else:
                    left.append(rule)
            return left

        self.assertEqual(rules_of(result.chars), less(rules_of(chars)))


class Minifying(unittest.TestCase):
    def test_frameworks_say_the_same_to_tinycss2(self) -> None:
        def said(chars: str) -> str:
            rules = re.sub(r"\s*([,:;{}()>+~!=])\s*", r"\1", str(rules_of(chars)).replace("\\n", " "))
            return re.sub(r";(?=[}'\"])", "", rules).replace(" ", "")

        for name in FRAMEWORKS:
            chars = framework(*name)
            made = minified(chars)
            self.assertLess(len(made), len(chars) * 0.95)
            self.assertEqual(said(made), said(chars))

    def test_what_matters_stays(self) -> None:
        for before, after in (
            ("a { width: calc(1px + 2px) }", "a{width:calc(1px + 2px)}"),
            ("/*! (c) */ a  b > c { d : e ; } /* x */", "/*! (c) */a b>c{d:e}"),
            ("a{content:'a  ;  b'}", "a{content:'a  ;  b'}"),
            ("@media screen and (min-width: 1px) { a { b: c } }", "@media screen and (min-width:1px){a{b:c}}"),
        ):
            self.assertEqual(minified(before), after)


class Faces(unittest.TestCase):
    URL = "https://site.example/fonts/a.woff2"

    def made(self, chars: str, kept: str = "U+20-7E", left: str = "U+A0-FF", *, before: bool = False) -> str:
        return with_smaller(
            chars, "https://site.example/css/s.css", {self.URL}, "n.woff2", lambda _: (kept, left), before=before
        )

    def test_the_smaller_file_stands_in_its_place_and_the_other_behind_it(self) -> None:
        face = (
            "@font-face{font-family:A;src:url(a.eot);src:local('A'),url( '../fonts/a.woff2' ) format('woff2'),"
            "url(a.woff)}"
        )
        first = face.replace("url( '../fonts/a.woff2' ) format('woff2')", 'url("n.woff2") format("woff2")')
        self.assertEqual(
            self.made(f"p{{}}{face}q{{}}"),
            f"p{{}}{first[:-1]};unicode-range:U+20-7E}}{face[:-1]};unicode-range:U+A0-FF}}q{{}}",
        )
        self.assertEqual(self.made(face, left=""), first)
        self.assertIn('url("n.woff2") format("woff2"),url( \'../fonts', self.made(face, before=True))

    def test_its_own_range_is_taken_up(self) -> None:
        face = "@font-face{unicode-range:U+0-FF;src:url(../fonts/a.woff2)}"
        self.assertEqual(range_of(face, next(every(tree(face)))), "U+0-FF")
        self.assertEqual(
            self.made(face),
            '@font-face{unicode-range:U+20-7E;src:url("n.woff2") format("woff2")}'
            "@font-face{unicode-range:U+A0-FF;src:url(../fonts/a.woff2)}",
        )

    def test_faces_of_other_files_stay(self) -> None:
        face = "@font-face{src:url(b.woff2)}"
        self.assertEqual(self.made(face), face)
