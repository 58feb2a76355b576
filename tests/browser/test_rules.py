"""Which rules match which elements, held against reading all computed styles; and what a page may hold that is hard
to read.
"""

from __future__ import annotations

from typing import Any

from bench.planted import FAULTS, Bench
from bench.planted.harmless import HARMLESS
from tests.browser.cases import BrowserCase
from tests.core.styles.test_styles import FRAMEWORKS
from tests.sites import page, photo, registry_package
from unladen.capture import Capture
from unladen.check import Check
from unladen.check.agreement import Seen
from unladen.check.compare import compare
from unladen.check.page_checks import PageChecks
from unladen.check.probes.rules import focus_of, may_come
from unladen.check.same_walk import walked_as
from unladen.check.snapshot import Snapshot, SnapshotTaker
from unladen.page_scripts import kept_in_page
from unladen.progress import Progress
from unladen.weigh.records.conditions import DEVICES
from unladen.weigh.session import Session
from unladen.work_cache import WorkCache

PHONE = DEVICES["phone"]
# Of some rules of a framework: elements that their selectors are about, and whether each of these gets another mark
# by the rule.
_MISSED = """async (css) => {
  const rules = window[Symbol.for("unladen.rules")], { places } = window[Symbol.for("unladen.places")];
  const all = new CSSStyleSheet(), found = [];
  all.replaceSync(css);
  const collect = (list) => {
    for (const rule of list) {
      if (rule.selectorText) found.push(rule.selectorText);
      if (rule.cssRules) collect(rule.cssRules);
    }
  };
  collect(all.cssRules);
  const some = found.filter((text, n) => n % 23 === 0 && !text.includes("::"));
  for (const text of some) {
    let up = document.body;
    for (const part of text.split(",")[0].replace(/:[-\\w]+(\\([^)]*\\))?/g, "").split(/[\\s>+~]+/).filter(Boolean)) {
      const tag = /^[a-z][a-z0-9]*/.exec(part)?.[0] ?? "div";
      const e = document.createElement(["html", "body", "head", "script", "iframe", "frame"].includes(tag)
      ? "div" : tag);
      for (const [, name] of part.matchAll(/\\.([-\\w]+)/g)) e.classList.add(name);
      for (const [, name, value] of part.matchAll(/\\[([-\\w]+)[~|^$*]?=?["']?([^"'\\]]*)/g))
      e.setAttribute(name, value);
      up.append(e);
      up = e;
    }
  }
  const marks = (sheets) => { document.adoptedStyleSheets = sheets; return rules({ foreign: {}, kinds: [] }).marks; };
  const plain = marks([]), at = new Map(places()), missed = [];
  let met = 0;
  for (const text of some) {
    const one = new CSSStyleSheet();
    one.replaceSync(`${text}{outline-offset:7px}`);
    const now = marks([one]);
    for (const e of document.querySelectorAll(text)) { met++; if (at.has(e) && now[at.get(e)] === plain[at.get(e)])
    missed.push(text); }
  }
  return [some.length, met, missed];
}"""
KINDS = ("style", "state", "media")


class Matching(BrowserCase):
    def compared(self, before: dict[str, bytes], after: dict[str, bytes]) -> Seen:
        """What a quick check says of two versions of a page."""
        found, now = self.capture(before), self.capture(after)
        page_checks = PageChecks(self.looker(), WorkCache(self.folder / "memo", self.store), quick=True)
        return page_checks.compared(found, now, found.page("/index.html"), [PHONE])[0]

    def styled(self, css: str, after: str, body: str = "<p class=a>x<a href=#>y</a>") -> Seen:
        """The same of a page with one style sheet and with another."""
        return self.compared(
            {"index.html": page(body, f"<style>{css}</style>")}, {"index.html": page(body, f"<style>{after}</style>")}
        )

    def test_what_a_full_reading_finds_these_find(self) -> None:
        """All faults of styles that are planted in one page; `python -m bench.style_proof` holds all pages against
        it.
        """
        browser = self.serve(self.capture({"index.html": b"<p>nothing"}))
        bench = Bench(
            self.folder, PageChecks(browser, WorkCache(self.folder / "memo", self.store), quick=True), ["own"]
        )
        checker = SnapshotTaker(browser)
        found = bench.found["own"]
        spot = [(found.page("/order.html").url, PHONE)]

        def read(capture: Capture) -> Snapshot:
            return checker.look_all(capture, spot, only=["styles", "rules"])[0]

        before = read(found)
        faults = [f for f in FAULTS if f.site == "own" and f.kind in KINDS and f.page == "/order.html"]
        self.assertGreater(len(faults), 6)
        for fault in [*faults, *(h for h in HARMLESS if h.page == "/order.html" and h.file.endswith(".css"))]:
            with self.subTest(fault.name):
                after = read(bench.capture(fault.edit(bench.files["own"])))
                full = compare(before, before, after, ["styles"])
                focus = focus_of(before.observations["rules"], after.observations["rules"])
                if full:
                    assert focus is not None
                    seen = {place for difference in full for place in difference.places}
                    within = {p for p in seen for named in focus.places if p == named or p.startswith(f"{named} >")}
                    self.assertEqual(seen - within, set())
                    states = {difference.step for difference in full} - {""}
                    self.assertLessEqual(states, {*focus.states, *focus.media})

    def test_text_that_says_the_same_leaves_nothing_to_be_read(self) -> None:
        css = ".a{color:#ff0000;margin:0 4px}.a:hover a{top:1px}@media print{.a{color:#000}}.gone{top:0}"
        same = (
            "/* so */ .a { margin: 0px 4px; color: red }\n.gone .a{left:0} .a:hover a { top: 1px }"
            "@media print { .a { color: rgb(0,0,0) } }"
        )
        before, after = (
            self.snapshots({"index.html": page("<p class=a>x<a>y</a>", f"<style>{text}</style>")}, quick=True)[0]
            for text in (
                css,
                ".a{color:#ff0000;margin:0 4px}.a:hover a{top:1px}@media print{.a{color:#000}}.more{top:0}",
            )
        )
        self.assertIsNone(focus_of(before.observations["rules"], after.observations["rules"]))
        self.assertEqual(self.styled(css, same).differences, ())

    def test_every_element_that_a_rule_of_a_framework_is_about_gets_a_mark_of_it(self) -> None:
        """Outside reference: the browser's own matching (Selectors Level 4), and sheets that others have written."""
        browser = self.serve(self.capture({"index.html": b"<!doctype html><p>x"}))

        async def ask() -> list[list[Any]]:
            context, shown, _ = await browser.open_still(PHONE)
            try:
                await shown.goto("https://site.example/index.html")
                await shown.evaluate(kept_in_page("rules", "states", "computed"), {"foreign": {}, "kinds": []})
                return [await shown.evaluate(_MISSED, css) for css in sheets]
            finally:
                await context.close()

        sheets = [(registry_package(name, version) / path).read_text() for name, version, path in FRAMEWORKS]
        with browser.serving(self.capture({"index.html": b"<!doctype html><p>x"})):
            for (name, _, _), (rules, met, missed) in zip(FRAMEWORKS, browser.run(ask()), strict=True):
                with self.subTest(name):
                    self.assertGreater(min(rules, met), 40)
                    self.assertEqual(missed, [])

    def test_a_skip_link_that_stays_away_when_it_has_the_focus(self) -> None:
        body = "<a class=skip href=#main>To the content</a><main id=main>Text</main>"
        css = ".skip{position:absolute;left:-9999px}"
        seen = self.styled(f"{css}.skip:focus{{left:8px}}", css, body)
        self.assertEqual([d.step for d in seen.differences], ["focus"])
        self.assertIn("left", seen.differences[0].text)
        self.assertIn(".skip:focus", seen.differences[0].clues)

    def test_what_lies_behind_a_popover(self) -> None:
        css = "[popover]{border:0}"
        seen = self.styled(f"{css}[popover]::backdrop{{background:#0003}}", css, "<div popover>Popped</div>")
        self.assertIn("background", seen.differences[0].text)

    def test_a_part_that_opens_by_its_height_alone(self) -> None:
        body = "<div class=menu>Menu<div class=sub>Tides</div></div>"
        css = ".sub{height:0;overflow:hidden}"
        seen = self.styled(f"{css}.menu:hover .sub{{height:40px}}", css, body)
        self.assertEqual([d.step for d in seen.differences], ["hover"])

    def test_states_that_hide_behind_what_is_the_same_at_rest(self) -> None:
        """What goes says the same as what stays, and less than what a pointer brings would."""
        css = "#p{color:red}.a{color:red}a:hover,.a:hover{color:blue}"
        body = "<p class=a id=p>x"
        self.assertEqual(
            [d.step for d in self.styled(css, css.replace("#p{color:red}", ""), body).differences], ["hover"]
        )

    def test_the_order_of_the_cascade_counts_and_what_is_said_twice_does_not(self) -> None:
        self.assertTrue(
            self.styled(".a{color:red}p{top:0}.a{color:blue}", ".a{color:blue}p{top:0}.a{color:red}").differences
        )
        before, after = (
            self.snapshots({"index.html": page("<p class=a>x", f"<style>{text}</style>")}, quick=True)[
                0
            ].observations["rules"]
            for text in (".a{color:red}p{top:0}", ".a{color:red}</style><style>.a{color:red}p{top:0}")
        )
        self.assertIsNone(focus_of(before, after))

    def test_layers_containers_has_nesting_scopes_and_registered_properties(self) -> None:
        body = "<div class=box><p class=a>x<a href=#>y</a></div><input type=checkbox checked>"
        for css, after in (
            (
                "@layer one,two;@layer two{.a{color:red}}@layer one{.a{color:blue}}",
                "@layer two,one;@layer two{.a{color:red}}@layer one{.a{color:blue}}",
            ),
            (
                ".box{container-type:inline-size}@container (min-width:1px){.a{color:red}}",
                ".box{container-type:inline-size}",
            ),
            (".box:has(.a){color:red}", ""),
            (".box{& .a{color:red}}", ".box{}"),
            ("@scope (.box){.a{color:red}}", ""),
            (
                "@property --x{syntax:'<color>';inherits:true;initial-value:red}.a{color:var(--x)}",
                ".a{color:var(--x)}",
            ),
            (".box:not(.b:hover) .a{color:red}", ""),
            ("@supports (color:red){.a{color:red}}", ""),
            ("input:checked{outline:1px solid red}", ""),
            (
                "@keyframes spin{to{opacity:0}}.a{animation:spin 2s}",
                "@keyframes spin{to{opacity:.5}}.a{animation:spin 2s}",
            ),
        ):
            with self.subTest(css):
                self.assertTrue(self.styled(css, after, body).differences)
                self.assertEqual(self.styled(css, f"{css}/* a word */.never{{top:0}}", body).differences, ())

    def test_custom_properties_count_where_they_are_read(self) -> None:
        css = ".a{--ink:red;--idle:1px;color:var(--ink)}.b{--ink:blue}"
        body = "<p class=a>x<b class=b>y</b>"

        def focused(after: str, inline: str = "") -> bool:
            snapshots = [
                self.snapshots({"index.html": page(body + inline, f"<style>{text}</style>")}, quick=True)[
                    0
                ].observations["rules"]
                for text in (css, after)
            ]
            return focus_of(snapshots[0], snapshots[1]) is not None

        self.assertFalse(focused(css.replace("--idle:1px;", "")))
        self.assertFalse(focused(css.replace("1px", "2px")))
        self.assertTrue(focused(css.replace("--ink:red", "--ink:green")))
        self.assertTrue(focused(css.replace("--ink:blue", "--ink:green")))
        self.assertTrue(focused(css.replace("--idle:1px;", ""), "<i style='margin:var(--idle)'>z</i>"))
        for reader in (
            "<svg><circle fill='var(--idle)' r=4></circle></svg>",
            "<style>.b{width:calc(2*var(--half))}.a{--half:var(--idle)}</style>",
        ):
            self.assertTrue(focused(css.replace("--idle:1px;", ""), reader), reader)
        odd = ".a{--a\\:b:red;color:var(--a\\:b)}"
        self.assertTrue(self.styled(odd, odd.replace(":red", ":blue"), body).differences)
        escaped = css.replace("var(--ink)", "var(--\\69 nk)")
        self.assertTrue(self.styled(escaped, escaped.replace("ink:red", "ink:blue"), body).differences)
        # A walk may come to what reads it, so one over a page without it is taken.
        found, now = (
            self.snapshots({"index.html": page(body, f"<style>{text}</style>")}, quick=True)[0].observations["rules"]
            for text in (css, css.replace("--idle:1px;", ""))
        )
        self.assertTrue(may_come(found, now, []))

    def test_trees_of_their_own_and_sheets_that_scripts_adopt(self) -> None:
        def site(inner: str, adopted: str) -> dict[str, bytes]:
            script = (
                "customElements.define('x-card',class extends HTMLElement{connectedCallback(){"
                f"this.attachShadow({{mode:'open'}}).innerHTML='<style>{inner}</style><b>Inside</b><slot></slot>'}}}});"
                f"const s=new CSSStyleSheet();s.replaceSync('{adopted}');document.adoptedStyleSheets=[s]"
            )
            return {"index.html": page(f"<x-card><i>Slotted</i></x-card><p>x<script>{script}</script>")}

        whole = site("b:hover{color:red}:host{color:green}::slotted(i){color:teal}", "p:hover{color:red}")
        for other in (
            site(":host{color:green}::slotted(i){color:teal}", "p:hover{color:red}"),
            site("b:hover{color:red}::slotted(i){color:teal}", "p:hover{color:red}"),
            site("b:hover{color:red}:host{color:green}", "p:hover{color:red}"),
            site("b:hover{color:red}:host{color:green}::slotted(i){color:teal}", ""),
        ):
            self.assertTrue(self.compared(whole, other).differences)

    def test_sheets_that_are_hard_to_read(self) -> None:
        """Rings of imports, selectors that no browser knows, a sheet that throws, and one that is not there."""
        hard = (
            "<link rel=stylesheet href=a.css><link rel=stylesheet href=none.css><style>p:unknown(x){color:red}"
            "::-webkit-odd{color:red}.é\\:x,.a\\/b{color:red}[data-x='],{']{color:red}p:is(,){color:red}</style>"
            "<script>addEventListener('load',()=>{Object.defineProperty(document.styleSheets[0],'cssRules',"
            "{get(){throw 1}})})</script>"
        )
        ring = {"a.css": b"@import 'b.css';p{color:green}", "b.css": b"@import 'a.css';p:hover{color:red}"}
        files = {"index.html": page("<p class='é:x a/b'>x", hard)} | ring
        self.assertEqual(
            self.compared(files, files | {"b.css": b"@import 'a.css';p:hover{color:red}/* */"}).differences, ()
        )
        other = files | {"b.css": b"@import 'a.css';p:hover{color:blue}"}
        easy = {
            "index.html": files["index.html"].replace(b"addEventListener", b"void addEventListener.name;(()=>{})")
        } | ring
        self.assertTrue(
            self.compared(files, other).cannot or self.compared(easy, easy | {"b.css": other["b.css"]}).differences
        )

    def test_a_font_that_rules_name_and_nothing_declares(self) -> None:
        css = "@font-face{font-family:Mill;src:url(m.woff2)}p:hover{font-family:Mill,serif}"
        (told,) = self.styled(css, "p:hover{font-family:Mill,serif}").differences
        self.assertEqual(told.text, "the font “mill”, used by style rules, is no longer declared")

    def test_thousands_of_elements_and_rules_come_to_an_end(self) -> None:
        rules = "".join(f".c{n}:hover .d{n}{{color:#{n % 4096:03x}}}" for n in range(30_000))
        body = "<div class='c1'><b class='d1'>x</b><i>y</i></div>" * 6_600
        (snapshot,) = self.snapshots({"index.html": page(body, f"<style>{rules}</style>")}, quick=True)
        self.assertTrue(snapshot.alive)
        self.assertEqual(len(snapshot.values("rules")["rules"]), 1)

    def test_looks_at_the_page_as_found_are_there_before_anyone_asks(self) -> None:
        found = self.capture({"index.html": page("<p>x<button onclick='this.hidden=1'>Go</button>")})
        work_cache = WorkCache(self.folder / "memo", self.store)
        check = Check(Session(self.serve(found), found, work_cache, Progress()), found.pages(), [PHONE])
        check.look_ahead()
        # Another process later on: the same place on the disk.
        page_checks = PageChecks(self.browser, WorkCache(self.folder / "memo", self.store))
        (seen,) = page_checks.compared(found, found, found.page("/index.html"), [PHONE])
        self.assertEqual((seen.differences, seen.cannot, page_checks.taken), ((), "", 0))
        changed = self.capture({"index.html": page("<p>x<button onclick='this.hidden=1'>Go</button><!-- -->")})
        (seen,) = page_checks.compared(found, changed, found.page("/index.html"), [PHONE])
        self.assertEqual((seen.differences, seen.cannot, page_checks.taken), ((), "", 1))


class SameWalk(BrowserCase):
    """A walk is taken over where all that it depends on is the same, and a fault that only a walk shows is found all
    the same.
    """

    FAULTS = ("menu does not open", "head casts no shadow when scrolled")
    HARMLESS = ("minified styles", "unused rules out")

    def test_a_picture_that_only_a_state_shows_and_that_is_gone_is_found(self) -> None:
        style = "<link rel=stylesheet href=s.css>"
        body = page("<button onclick='b.className=`open`'>Open</button><p id=b>x</p>", style)
        sheet = b".open { background: url(o.png); height: 90px }"
        files = {"index.html": body, "s.css": sheet, "o.png": photo(90, 90, 1, "PNG")}
        found = self.capture(files)
        page_checks = PageChecks(self.serve(found), WorkCache(self.folder / "memo", self.store))
        for name, differs in (("o.png", False), ("other.png", True)):
            with self.subTest(name):
                changed = self.capture({**files, "s.css": sheet.replace(b"o.png", name.encode()) + b"/**/"})
                (seen,) = page_checks.compared(found, changed, found.page("/index.html"), [PHONE])
                self.assertEqual((bool(seen.differences), seen.cannot), (differs, ""))

    def test_full_looks_and_short_ones_say_the_same(self) -> None:
        browser = self.serve(self.capture({"index.html": b"<p>nothing"}))
        bench = Bench(self.folder, PageChecks(browser, WorkCache(self.folder / "memo", self.store)), ["own"])
        found = bench.found["own"]
        index = found.page("/index.html")
        (before,) = bench.page_checks.look_as_found(found, index, [PHONE])
        for change in [*FAULTS, *HARMLESS]:
            if (
                change.site != "own"
                or change.page != "/index.html"
                or change.name not in (*self.FAULTS, *self.HARMLESS)
            ):
                continue
            with self.subTest(change.name):
                changed = bench.capture(change.edit(bench.files["own"]))
                (at_rest,) = SnapshotTaker(browser).look_all(changed, [(index.url, PHONE)], quick=True)
                taken_over = walked_as(before, at_rest, changed)
                self.assertEqual(taken_over is not None, change.name in self.HARMLESS)
                differences = bench.page_checks.compared(found, changed, index, [PHONE])[0].differences
                self.assertEqual(bool(differences), change.name in self.FAULTS)
