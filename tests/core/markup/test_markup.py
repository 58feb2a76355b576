"""Text, HTML, CSS and srcset, read with positions and edited in place."""

from __future__ import annotations

import contextlib
import re
import unittest

import tinycss2
from hypothesis import example, given
from hypothesis import strategies as st

from tests.core.markup.test_html_trees import PAGES
from tests.sites import registry_package
from unladen.markup.css import background_rule, css_declaration, css_urls
from unladen.markup.edits import Edit, apply_edits, edited
from unladen.markup.html import Document, MarkupBroken, edit_html, same_elements
from unladen.markup.references import (
    css_references,
    html_references,
    link_to,
    repoint,
    resolve,
    script_references,
)
from unladen.markup.srcset import parse_srcset
from unladen.markup.text import Undecodable, decode
from unladen.markup.tidy import tidied

BASE = "https://site.example/d/index.html"


class Decoding(unittest.TestCase):
    def test_declared_charsets_come_back_to_the_byte(self) -> None:
        for charset, words in (
            ("utf-8", "naïve"),
            ("iso-8859-1", "naïve"),
            ("shift_jis", "日本"),
            ("koi8-r", "мельница"),
        ):
            body = f"<meta charset={charset}><p>{words}".encode(charset)
            text = decode(body)
            self.assertIn(words, text.chars)
            self.assertEqual(text.encode(), body)

    def test_a_byte_order_mark_wins_and_is_kept(self) -> None:
        body = b"\xef\xbb\xbf<meta charset=koi8-r>\xc3\xa9"
        self.assertEqual(decode(body).chars[-1], "é")
        self.assertEqual(decode(body).encode(), body)

    def test_a_page_that_lies_about_its_charset(self) -> None:
        stray = b"<meta charset=utf-8><p>caf\xe9"
        self.assertEqual(decode(stray).encode(), stray)
        with self.assertRaisesRegex(Undecodable, "not valid shift_jis"):
            decode(b"<meta charset=shift_jis><p>\xff\xff")
        with self.assertRaisesRegex(Undecodable, "unknown charset"):
            decode(b"<meta charset=klingon-1>")
        with self.assertRaisesRegex(Undecodable, "unknown charset"):
            decode(b'@charset "ut\0f-8"; p { color: red }')

    def test_unlabelled_text_that_is_not_utf8(self) -> None:
        self.assertEqual(decode(b"caf\xe9").chars, "café")

    @given(st.binary(max_size=200))
    def test_every_byte_comes_back_or_the_text_is_refused(self, body: bytes) -> None:
        with contextlib.suppress(Undecodable):
            self.assertEqual(decode(body).encode(), body)


class EditingHtml(unittest.TestCase):
    def test_attributes_are_set_in_place_and_all_else_stays(self) -> None:
        source = "<!DOCTYPE html>\r\n<P>x<IMG  SRC=a.jpg\r\n alt='q' /><br>"
        document = Document(source)
        image = next(e for e in document.elements if e.tag == "img")
        after = edit_html(
            source,
            [document.set_attribute(image, "loading", "lazy"), document.set_attribute(image, "alt", 'a "b" & c')],
            {"loading", "alt"},
        )
        self.assertEqual(
            after, '<!DOCTYPE html>\r\n<P>x<IMG loading="lazy"  SRC=a.jpg\r\n alt="a &quot;b&quot; &amp; c" /><br>'
        )

    def test_elements_of_the_parser_and_of_scripts_are_not_there(self) -> None:
        document = Document("<table><b>x</b><tr><td>y</table><script>'<img src=x>'</script>")
        self.assertNotIn("tbody", [e.tag for e in document.elements])
        self.assertNotIn("img", [e.tag for e in document.elements])

    def test_an_edit_that_changes_the_tree_is_refused(self) -> None:
        source = "<p>a</p><p>b</p>"
        with self.assertRaises(MarkupBroken):
            edit_html(source, [Edit(0, 3, "<div>")], set())
        with self.assertRaises(MarkupBroken):
            edit_html('<img src="a">', [Edit(5, 12, 'src="b"')], {"alt"})

    @given(st.text(alphabet="ab<>/='\" \r\n&;imgsrpdvt!-", max_size=120))
    def test_reading_any_text_keeps_positions_true(self, chars: str) -> None:
        document = Document(chars)
        for element in document.elements:
            self.assertEqual(chars[element.start], "<")
            self.assertEqual(chars[element.start + 1 : element.start + 1 + len(element.tag)].lower(), element.tag)
            for name, (start, end) in element.spans.items():
                self.assertTrue(chars[start:end].lower().startswith(name))

    def test_edits_for_one_span_the_last_one_holds_and_overlaps_are_refused(self) -> None:
        self.assertEqual(apply_edits("abc", [Edit(1, 2, "X"), Edit(1, 2, "Y")]), "aYc")
        self.assertEqual(apply_edits("abc", [Edit(1, 1, "-", "p"), Edit(1, 1, "+", "q")]), "a-+bc")
        with self.assertRaises(ValueError):
            apply_edits("abc", [Edit(0, 2, "X"), Edit(1, 3, "Y")])


class ReadingCss(unittest.TestCase):
    SHEET = """@import "base.css" screen; @import url(other.css);
    /* url(no.png) */ a { content: "url(no.png)"; background: url( 'a b.png' ), url(data:image/png;base64,AA==) }
    @font-face { src: url("f.woff2?#iefix") format("woff2") } b { background: image-set("x.png" 1x, url(y.png) 2x) }
    i { background: url(esc\\29 aped.png); }"""

    def test_addresses_and_their_positions(self) -> None:
        found = [(u.value, self.SHEET[u.start : u.end], u.imported) for u in css_urls(self.SHEET)]
        self.assertEqual([value for value, _, _ in found if not value.startswith("data:")], [
            "base.css", "other.css", "a b.png", "f.woff2?#iefix", "x.png", "y.png", "esc)aped.png",
        ])  # fmt: skip
        self.assertEqual([imported for _, _, imported in found][:3], [True, True, False])
        self.assertIn(("a b.png", "a b.png", False), found)

    @staticmethod
    def by_parser(chars: str) -> list[str]:
        """Outside reference: tinycss2, an implementation of CSS Syntax Level 3."""

        def walk(tokens: list) -> list[str]:  # type: ignore[type-arg]
            out = []
            for token in tokens:
                if token.type == "url":
                    out.append(token.value)
                elif token.type == "function" and token.lower_name == "url":
                    out += [a.value for a in token.arguments if a.type == "string"]
                elif hasattr(token, "content") and token.content:
                    out += walk(token.content)
                elif token.type == "function":
                    out += walk(token.arguments)
            return out

        return walk(tinycss2.parse_component_value_list(chars))

    def test_the_same_addresses_as_a_css_parser(self) -> None:
        ours = [u.value for u in css_urls(self.SHEET)]
        for value in self.by_parser(self.SHEET):
            self.assertIn(value, ours)

    @given(
        st.lists(
            st.sampled_from(
                [
                    "a{b:",
                    "url(",
                    "url( ",
                    "x.png",
                    ")",
                    "}",
                    "{",
                    "(",
                    " ",
                    "/*",
                    "*/",
                    ";",
                    "\\61 ",
                    "\\)",
                    "\\0 ",
                ]
            ),
            max_size=14,
        ).map("".join)
    )
    @example("url(a(b)url(c)")
    @example("url(x")
    @example("a{b:url(\\110000 )}")
    def test_broken_addresses_end_where_a_css_parser_ends_them(self, chars: str) -> None:
        # What is no address to the parser is none to us; comments within a broken one are no comments to either.
        self.assertEqual([u.value for u in css_urls(chars)], self.by_parser(chars))

    def test_halves_of_characters_are_replaced(self) -> None:
        # CSS Syntax Level 3, 4.3.7; the parser above lets them through.
        self.assertEqual([u.value for u in css_urls("url(\\d800 a\\0 b)")], ["\ufffda\ufffdb"])

    def test_megabytes_of_what_never_ends(self) -> None:
        for unit in ("a{b:url(", 'a{b:url("', "a{b:'", "/*", "url(\\", "image-set(", "url(   "):
            list(css_urls(unit * (1_000_000 // len(unit))))
        many = "a{background:url(x.png)}" * 5000
        self.assertEqual(sum(background_rule(many, u.start) is not None for u in css_urls(many)), 5000)


class Candidates(unittest.TestCase):
    def test_srcset_as_the_standard_reads_it(self) -> None:
        # HTML Standard, 4.8.4.3.3: commas within URLs, several spaces, a comma directly behind a URL.
        value = " a.jpg 1x , b,c.jpg  2x,d.jpg, data:image/gif;base64,R0=  100w"
        found = parse_srcset(value)
        self.assertEqual([(c.url, c.descriptor) for c in found], [
            ("a.jpg", "1x"), ("b,c.jpg", "2x"), ("d.jpg", ""), ("data:image/gif;base64,R0=", "100w"),
        ])  # fmt: skip
        for candidate in found:
            self.assertEqual(value[candidate.start : candidate.end], candidate.url)


class References(unittest.TestCase):
    def test_where_a_page_names_its_images(self) -> None:
        source = (
            '<base href="/img/"><link rel=stylesheet href=../s.css><img src="a.jpg?v=1">'
            '<img src=b.jpg srcset="c.jpg 2x">'
            "<picture><source srcset=d.webp><img src=e.jpg></picture><video poster=f.jpg></video>"
            "<p style=\"background:url('g h.jpg')\"></p><style>p{background:url(i.jpg)}</style>"
            "<svg><image href=j.jpg></image></svg><a href=k.jpg></a><img src='data:image/gif,x'>"
        )
        found = {(r.url.rsplit("/", 1)[-1], r.via) for r in html_references(source, BASE)}
        self.assertEqual(
            found,
            {
                ("s.css", "stylesheet"),
                ("a.jpg?v=1", "img"),
                ("b.jpg", "srcset"),
                ("c.jpg", "srcset"),
                ("d.webp", "picture"),
                ("e.jpg", "picture"),
                ("f.jpg", "poster"),
                ("g%20h.jpg", "style"),
                ("i.jpg", "style"),
                ("j.jpg", "other"),
            },
        )

    def test_a_reference_keeps_its_folder_and_query(self) -> None:
        source = '<img src="../pics/hero%20one.jpg?v=3#x">'
        (reference,) = html_references(source, BASE)
        after = apply_edits(
            source, [repoint(source, reference, "https://site.example/pics/hero%20one-780w.webp", BASE)]
        )
        self.assertEqual(after, '<img src="../pics/hero%20one-780w.webp?v=3#x">')
        sheet = "p{background:url(hero.jpg)}"
        (reference,) = css_references(sheet, "https://site.example/s.css")
        self.assertEqual(
            apply_edits(
                sheet, [repoint(sheet, reference, "https://site.example/hero.webp", "https://site.example/s.css")]
            ),
            "p{background:url(hero.webp)}",
        )


class Additions(unittest.TestCase):
    """Elements that a change adds, and everything else staying as it is."""

    def wrapped(self, source: str, before: str = "<picture>", after: str = "</picture>") -> str:
        image = next(e for e in Document(source).elements if e.tag == "img")
        opening = Edit(image.start, image.start, before, slot="2", adds=True)
        return edit_html(source, [opening, Edit(image.end, image.end, after, slot="1", adds=True)], set())

    def test_what_is_added_is_left_out_of_the_comparison(self) -> None:
        for source in ("<p><img src=a><b>x</b>", "<ul><li><img src=a></ul>", "<a href=x><img src=a></a><img src=b>"):
            self.assertIn("<picture><img src=a></picture>", self.wrapped(source))

    def test_what_tears_the_page_apart_is_refused(self) -> None:
        for source, before, after in (
            ("<p><img src=a> text</p><i>x</i>", "<div>", "</div>"),  # a paragraph ends where a block begins
            ("<table><tr><img src=a></tr></table>", "<picture>", "</b>"),
            ("<b><img src=a></b><i>x</i>", "<picture>", ""),  # never closed
        ):
            with self.subTest(source), self.assertRaises(MarkupBroken):
                self.wrapped(source, before, after)

    def test_undoing_gives_the_original_back(self) -> None:
        source = "<p>é<img src=a>\r\n<b>x</b>"
        edits = [Edit(4, 4, "<picture>", slot="2", adds=True), Edit(15, 15, "</picture>", slot="1", adds=True)]
        text, added = edited(source, edits)
        self.assertEqual(apply_edits(text, added), source)


class NamedInScripts(unittest.TestCase):
    def test_only_whole_names_count(self) -> None:
        script = """load("img/a.jpg"); x = 'img/b.png?v=2'; y = "img/" + n + ".jpg"; z = `img/${n}.jpg`;
        w = "a.jpg b.jpg" """
        found = script_references(script, [BASE])
        self.assertEqual([r.url.partition("example/")[2] for r in found], ["d/img/a.jpg", "d/img/b.png?v=2"])
        self.assertEqual({r.via for r in found}, {"named"})

    def test_one_name_must_mean_one_file(self) -> None:
        pages = ["https://site.example/index.html", "https://site.example/deep/page.html"]
        self.assertEqual(script_references('"a.jpg"', pages), [])
        self.assertEqual(len(script_references('"/a.jpg"', pages)), 1)

    def test_attributes_that_hold_nothing_but_a_name(self) -> None:
        source = '<a data-full=" big.jpg " data-note="see big.jpg" data-all=\'["big.jpg"]\' data-n="3">'
        self.assertEqual(
            [(r.via, source[r.start : r.end]) for r in html_references(source, BASE)], [("data", "big.jpg")]
        )

    def test_links_are_written_as_their_author_wrote_them(self) -> None:
        url = "https://site.example/img/new%20one.webp"
        for base, like, expected in (
            ("https://site.example/deep/page.html", "a.jpg", "../img/new%20one.webp"),
            ("https://site.example/index.html", "x/a.jpg", "img/new%20one.webp"),
            ("https://site.example/deep/page.html", "/a.jpg", "/img/new%20one.webp"),
            ("https://site.example/index.html", "https://site.example/a.jpg", url),
            ("https://other.example/", "a.jpg", url),
        ):
            self.assertEqual(link_to(url, base, like), expected)
            self.assertEqual(resolve(base, link_to(url, base, like)), url)


class Declarations(unittest.TestCase):
    SHEET = (
        ".a{color:red;background:url( 'x;y}.jpg' ) top/cover !important}@media print{.b{background-image:url(b.jpg)}}"
    )

    def at(self, sheet: str, name: str) -> tuple[str, str] | None:
        span = css_declaration(sheet, sheet.index(name))
        rule = background_rule(sheet, sheet.index(name))
        return (sheet[span[0] : span[1]], sheet[rule[0].start : rule[0].open] if rule else "") if span else None

    def test_where_one_begins_and_ends(self) -> None:
        self.assertEqual(self.at(self.SHEET, "x;y"), ("background:url( 'x;y}.jpg' ) top/cover !important", ".a"))
        self.assertEqual(self.at(self.SHEET, "b.jpg"), ("background-image:url(b.jpg)", ".b"))

    def test_only_a_rule_with_one_plain_background_can_be_followed(self) -> None:
        for sheet in (
            ".a{background:url(b.jpg),url(c.jpg)}",
            ".a{background:linear-gradient(red,blue),url(b.jpg)}",
            ".a{mask:url(b.jpg)}",
            "@font-face{src:url(b.jpg)}",
            ".a{.b{background:url(b.jpg)}}",
        ):
            found = self.at(sheet, "b.jpg")
            self.assertEqual(found and found[1], "", sheet)


class Tidying(unittest.TestCase):
    def test_what_says_nothing_goes_and_what_shows_stays(self) -> None:
        for before, after in (
            ("<p>a  b</p>\n\n  <p>c</p>", "<p>a  b</p>\n<p>c</p>"),
            ("<b>a</b>   <i>b</i>", "<b>a</b> <i>b</i>"),
            ("<p> a\n\n b <!-- said --> c</p>", "<p> a\n\n b  c</p>"),
            ("<pre>\n\n  <b>x</b>  \n</pre>\n\n<p>", "<pre>\n\n  <b>x</b>  \n</pre>\n<p>"),
            ("<script>a  < b; // <!-- x -->\n\n</script>", "<script>a  < b; // <!-- x -->\n\n</script>"),
            ("<!--[if IE]>\n\n<p><![endif]--><p>", "<!--[if IE]>\n\n<p><![endif]--><p>"),
            ("<!-- ko if: a --><b></b><!-- /ko -->", "<!-- ko if: a --><b></b><!-- /ko -->"),
            ("<!-- Copyright 2026 Mill --><!-- idle -->", "<!-- Copyright 2026 Mill -->"),
            ("<p><!-- 1/2: #menu, $5 [really]! --><b>", "<p><b>"),
            ("<a title='x  <!-- y -->  z'>\n\n<b>", "<a title='x  <!-- y -->  z'>\n<b>"),
            ("1 <  2\n\n<b>", "1 <  2\n\n<b>"),
            ("<!-- never ends <p>  \n <b>", "<!-- never ends <p>  \n <b>"),
            ("<!-->\n\n<p>", "<!-->\n<p>"),
        ):
            with self.subTest(before):
                self.assertEqual(tidied(before), after)

    def test_real_pages_keep_their_elements_and_words(self) -> None:
        for name, version, folder in PAGES:
            for path in sorted((registry_package(name, version) / folder).glob("*.html"))[:4]:
                chars = path.read_text()
                made = tidied(chars)
                self.assertTrue(same_elements(chars, made), path.name)
                self.assertEqual(*(re.sub(r"<!--.*?-->", "", text, flags=re.S).split() for text in (chars, made)))
