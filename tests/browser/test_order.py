"""Scripts that hold a page up no more, or wait for a visitor: nothing comes out of order, and the first click is not
lost.
"""

from __future__ import annotations

import hashlib
import re
from typing import Any

from tests.browser.cases import PHONE, BrowserCase, counting, set_aside
from tests.sites import page, photo
from unladen.capture.recorded import Response, capture_of_responses
from unladen.lighten import Lightened, lighten
from unladen.markup.site import texts_of
from unladen.progress import Progress
from unladen.remedies.styles.imports_as_links import importing

# Big enough to be worth waiting.
WEIGHT = "window.weight = '" + "".join(hashlib.sha256(bytes([n])).hexdigest() for n in range(250)) + "';"
LIBRARY = """
window.lib = function (then) {
  document.readyState === 'loading' ? document.addEventListener('DOMContentLoaded', then) : setTimeout(then);
};
"""
PLUGIN = (
    "lib.open = function (name) { document.getElementById(name).hidden = !document.getElementById(name).hidden; };"
)
USES = """
lib(function () { document.querySelector('button').onclick = function () { lib.open('more'); said('pressed'); };
said('ready'); });
window.addEventListener('load', function () { said('loaded'); });
var ask = document.body.appendChild(document.createElement('button'));
// what lies over the page may come with its script
ask.textContent = 'Ask'; ask.style.cssText = 'position:fixed;right:0;bottom:0';
document.addEventListener('DOMContentLoaded', function () { said('read'); });
"""
SAID = "var order = []; function said(word) { order.push(word); }"
BODY = (
    "<h1>Words</h1><button>More</button><p id=more hidden>More words</p><form action=/sent><input name=q></form>"
    "<script src=plugin.js></script><script>lib(function () { said('inline'); })</script><script src=uses.js></script>"
)


def site(head: str = "<script src=lib.js></script>", body: str = BODY) -> dict[str, bytes]:
    return {
        "index.html": page(body, f"<script>{SAID}</script>{head}"),
        "lib.js": (LIBRARY + WEIGHT).encode(),
        "plugin.js": PLUGIN.encode(),
        "uses.js": f"{USES}/* {WEIGHT[20:1220]} */".encode(),
    }


class Waiting(BrowserCase):
    def lighten(self, files: dict[str, bytes], effort: str = "steady", **options: object) -> Lightened:
        """On a phone alone."""
        return super().lighten(files, effort, devices=("phone",), **options)

    def visited(self, result: Lightened, deed: str, after: str) -> Any:
        """What a script says on the lightened page once a visitor has done something."""
        browser = self.serve(result.capture)

        async def visit() -> Any:
            context, tab = await browser.open(PHONE.device)
            await tab.goto("https://site.example/index.html")
            await tab.wait_for_load_state()
            await tab.evaluate("document.body.dataset.seen = window.lib ? 'early' : 'none'")
            await (tab.click(deed) if deed in ("button", "h1") else tab.keyboard.press(deed))
            await tab.wait_for_function("window.order && order.includes('loaded')")
            told = await tab.evaluate(after)
            await context.close()
            return told

        return browser.run(visit())

    def test_scripts_wait_for_a_visitor_run_in_their_order_and_lose_no_click(self) -> None:
        result = self.lighten(site(), "bold")
        self.assertEqual(set_aside(result), {})
        # Written shorter for those who do something, though nobody fetches it at once.
        self.assertLessEqual({"wait-for-visitor", "minify-scripts"}, {change.id for change in counting(result)})
        asked = {r.url.rpartition("/")[2] for w in result.after for r in w.visit.requests}
        self.assertFalse({"lib.js", "plugin.js", "uses.js"} & asked, asked)
        told = self.visited(
            result, "button", "[document.body.dataset.seen, document.getElementById('more').hidden, order]"
        )
        seen, hidden, order = told
        self.assertEqual((seen, hidden), ("none", False))
        # As on the page as found, where the library calls once the page has been read.
        self.assertEqual(order, ["inline", "ready", "read", "loaded", "pressed"])

    def test_what_covers_the_page_until_scripts_have_run_keeps_them_from_waiting(self) -> None:
        cover = "<div id=cover style='position:fixed;inset:0;background:#fff'>One moment</div>"
        files = site(body=cover + BODY) | {
            "uses.js": (USES + "document.getElementById('cover').style.display = 'none';").encode()
        }
        result = self.lighten(files, "bold")
        outcome = result.outcomes.by_change["wait-for-visitor"]
        self.assertIn("until late files load", outcome.reason + "".join(part.reason for part in outcome.parts))
        shown = [
            target for change in counting(result) if change.id == "wait-for-visitor" for target in change.targets
        ]
        self.assertNotIn("/uses.js", shown)

    def test_the_first_view_has_its_styles_before_the_style_sheets_come(self) -> None:
        rules = "".join(f".far-{n} {{ color: rgb({n}, 0, {n}); padding: {n}px }}\n" for n in range(200))
        sheet = (
            "h1 { color: teal; font-size: 40px } .menu { display: none } @media (min-width: 10px) { .lead { "
            "margin: 30px } }"
        )
        far = "".join(f"<p class=far-{n}>Far {n}</p>" for n in range(200))
        body = (
            f"<nav class=menu>Closed</nav><h1>Words</h1><p class=lead>More</p><div style='height:1500px'></div>{far}"
        )
        files = {"index.html": page(body, "<link rel=stylesheet href=a.css>"), "a.css": (sheet + rules).encode()}
        result = self.lighten(files, "bold")
        self.assertEqual(set_aside(result), {})
        self.assertIn("first-view-styles:/index.html", {change.id for change in counting(result)})
        text = result.capture.body(result.capture.page("/")).decode()
        self.assertIn("h1{color:teal", text)
        self.assertNotIn(".far-99{", text)
        browser = self.serve(result.capture)

        async def without_sheets() -> Any:
            context, tab = await browser.open(PHONE.device)
            await tab.route("**/*.css", lambda route: route.abort())
            await tab.goto("https://site.example/index.html")
            told = await tab.evaluate(
                "['h1', '.menu', '.lead'].map(s => getComputedStyle(document.querySelector(s)))"
                ".map(s => s.color + s.display + s.margin)"
            )
            await context.close()
            return told

        heading, menu, lead = browser.run(without_sheets())
        self.assertTrue(
            menu.startswith("rgb(0, 0, 0)none") and lead.endswith("30px") and heading.startswith("rgb(0, 128, 128)")
        )

    def test_animations_without_an_end_stand_still_while_nobody_sees_them(self) -> None:
        style = (
            "<style>@keyframes turn { to { rotate: 1turn } } i { display: block; animation: turn 1s infinite "
            "}</style>"
        )
        body = (
            "<i id=top>Here</i><div style='height:9000px'></div><i id=far>There</i><i id=off "
            "style='animation:none'>Off</i>"
        )
        result = self.lighten({"index.html": page(body, style)}, "bold")
        self.assertIn("still-out-of-sight:/index.html", {change.id for change in counting(result)})
        browser = self.serve(result.capture)
        state = "['top', 'far'].map(id => document.getElementById(id).getAnimations()[0].playState).join(' ')"

        async def visit() -> list[str]:
            context, tab = await browser.open(PHONE.device)
            await tab.goto("https://site.example/index.html")
            told = []
            for deed, wanted in (
                ("0", "running paused"),
                ("scrollTo(0, 9999)", "paused running"),
                ("scrollTo(0, 0)", "running paused"),
            ):
                await tab.evaluate(deed)
                await tab.wait_for_function(f"{state} === '{wanted}'", timeout=20_000)
                told.append(wanted)
            await context.close()
            return told

        self.assertEqual(len(browser.run(visit())), 3)

    def test_imported_sheets_are_named_by_the_page_in_the_order_in_which_they_count(self) -> None:
        files = {
            "index.html": page("<p class=a>Words</p><p class=b>More</p>", "<link rel=stylesheet href=css/a.css>"),
            "css/a.css": b'@charset "utf-8"; @import url("b.css"); @import "c.css" print; .a { color: teal }',
            "css/b.css": b"@import 'd.css'; .a { color: red } .b { color: navy; background: url(../x.png) }",
            "css/c.css": b".b { color: black }",
            "css/d.css": b".b { color: red; margin: 9px }",
            "x.png": photo(20, 20),
        }
        result = self.lighten(files)
        self.assertEqual(set_aside(result), {})
        text = result.capture.body(result.capture.page("/")).decode()
        self.assertEqual(
            re.findall(r'<link[^>]*href="?([^" >]*)"?(?: media="(\w+)")?', text),
            [("css/d.css", ""), ("css/b.css", ""), ("css/c.css", "print"), ("css/a.css", "")],
        )
        for name in ("a", "b"):
            sheet = result.capture.body(result.capture.exchanges[f"https://site.example/css/{name}.css"]).decode()
            self.assertNotIn("@import", sheet)
        # All are asked for by the page now, none by another sheet.
        asked = {r.url[-5:]: r.initiator for w in result.after for r in w.visit.requests if r.kind == "styles"}
        self.assertEqual(
            {url for url, by in asked.items() if by.endswith("index.html")}, {"d.css", "b.css", "c.css", "a.css"}
        )

    def test_imports_that_a_link_cannot_stand_for_stay(self) -> None:
        for sheet, more in (
            ("@import 'b.css' layer(base);", ".a {}"),
            ("@import 'b.css' supports(display: grid);", ".a {}"),
            ("@import 'b.css' screen;", "@import 'c.css' print; .a {}"),
            ("@import 'b.css';", "@import 'a.css';"),
            ("@import 'https://fonts.example/f.css';", ""),
        ):
            with self.subTest(sheet):
                files = {"a.css": sheet.encode(), "b.css": more.encode(), "c.css": b""}
                files["index.html"] = page("", "<link rel=stylesheet href=a.css>")
                capture = self.capture(files)
                texts = texts_of(capture)
                document = texts.document(capture.page("/"))
                assert document
                self.assertEqual(list(importing(texts, capture.page("/"), document)), [])

    def test_what_leads_on_for_good_is_named_by_its_end(self) -> None:
        host = "https://site.example/"
        html, css, png = ((("content-type", sort),) for sort in ("text/html", "text/css", "image/png"))

        body = "<img src=old.png width=20 height=20><img src=for-now.png>"

        def leads(path: str, to: str, status: int = 301) -> Response:
            return Response(host + path, status, (("location", to),), b"")

        capture = capture_of_responses(
            "t",
            [
                Response(host + "index.html", 200, html, page(body, "<link rel=stylesheet href=old.css>")),
                leads("old.css", "/older.css"),
                leads("older.css", "/new.css", 308),
                Response(host + "new.css", 200, css, b"h1 { background: url(old.png) } p { color: red }"),
                leads("old.png", host + "new.png"),
                leads("for-now.png", host + "new.png", 302),
                Response(host + "new.png", 200, png, photo(20, 20, format="PNG")),
            ],
            self.store,
            [],
        )
        result = lighten(capture, "gentle", Progress(), devices=("phone",))
        self.assertTrue(result.account.adds_up(), result.account)
        self.assertEqual(set_aside(result), {})
        asked = [r.url.removeprefix(host) for r in result.after[0].visit.requests]
        self.assertEqual(sorted(asked), ["for-now.png", "index.html", "new.css", "new.png", "new.png"])
        self.assertEqual(result.account.saved_by("straight-there").requests, 3)

    def test_tiny_scripts_and_styles_stand_in_the_page_as_they_are_in_the_end(self) -> None:
        comment = b"/* " + WEIGHT[-900:-300].encode() + b" */"
        head = "<link rel=stylesheet href=a.css media='(min-width: 1px)'><link rel=stylesheet href=b.css>"
        files = {
            "index.html": page(
                "<p class=a>Words</p><script src=a.js id=own></script><script src=b.js></script>", head
            ),
            "a.css": comment + b".a { color:  teal }\n.gone { color: red }",
            "b.css": b".a { background: url(x.png) }",
            "a.js": comment
            + b"document.title = 'Set  by ' + document.querySelector('#own').localName;document.write('')",
            "b.js": b"document.body.dataset.from = document.currentScript.src;",
            "x.png": photo(8, 8, format="PNG"),
        }
        result = self.lighten(files)
        self.assertEqual(set_aside(result), {})
        text = result.capture.body(result.capture.page("/")).decode()
        # Written shorter by the change for that.
        self.assertIn(
            '<style data-unladen=inline media="(min-width: 1px)">.a{color:teal}.gone{color:red}</style>', text
        )
        self.assertRegex(text, r'<script id="own">document\.title="Set  by "')
        asked = {r.url.rpartition("/")[2] for w in result.after for r in w.visit.requests}
        self.assertEqual(asked, {"index.html", "b.css", "b.js"})  # the picture is tiny too
        self.assertEqual(result.account.saved_by("inline-code").requests, 2)
