"""Walks: what is used, that they stay on the page, and the user's own steps."""

from __future__ import annotations

from typing import Any

from tests.browser.cases import BrowserCase
from tests.sites import page, photo
from unladen.errors import BadInput
from unladen.lighten import lighten
from unladen.progress import Progress
from unladen.survey import SurveyInputs
from unladen.weigh.records.conditions import DEVICES, Conditions
from unladen.weigh.session import Session
from unladen.weigh.visits.walk import Step, Walk, WalkOrders, orders_from, walk_page, walk_pages
from unladen.weigh.visits.weighing import weigh_pages

CSS = b"""
.seen { color: red }
.never { color: blue }
.menu:hover ul { display: block }
.open { outline: 1px solid }
@media (min-width: 1000px) { .wide { color: green } }
@media (max-width: 600px) { .narrow { color: teal } }
@font-face { font-family: F; src: url(f.woff2) }
"""
JS = b"""
function atOnce() { return 1 }
function onClick() { document.querySelector('#box').classList.add('open') }
function never() { return 'never called' }
atOnce();
document.querySelector('#more').addEventListener('click', onClick);
"""
BODY = (
    "<nav><ul><li class=menu><a href=elsewhere.html>Away</a><ul><li>x</li></ul></li></ul></nav>"
    "<p class='seen wide narrow' id=box>text</p><button type=button id=more aria-expanded=false>More</button>"
    "<div style='height:3000px'></div><img loading=lazy width=9 height=9 src=late.jpg>"
    "<form action=sent.html id=f><input name=q id=q><button>Send</button></form>"
    "<a href=elsewhere.html role=button onclick=\"location.href='elsewhere.html'\">Go</a>"
    '<button type=button onclick="f.submit()">Submit by script</button><script src=s.js></script>'
)
FILES = {
    "index.html": page(BODY, "<meta name=viewport content='width=device-width'><link rel=stylesheet href=s.css>"),
    "elsewhere.html": page("away"),
    "sent.html": page("sent"),
    "s.css": CSS,
    "s.js": JS,
    "late.jpg": photo(20, 20),
}


class Walks(BrowserCase):
    def walk(self, files: dict[str, bytes], orders: WalkOrders | None = None, device: str = "desktop") -> Walk:
        capture = self.capture(files)
        browser = self.serve(capture)
        return browser.run(
            walk_page(browser, capture.page("/index.html").url, DEVICES[device], orders or WalkOrders())
        )

    def used(self, walk: Walk, name: str, text: bytes) -> str:
        (use,) = [use for use in walk.files if use.url.endswith(name)]
        return "".join(text.decode()[start:end] for start, end in use.used)

    def test_what_is_used_over_the_walk_and_what_is_not(self) -> None:
        walk = self.walk(FILES)
        css, js = self.used(walk, "s.css", CSS), self.used(walk, "s.js", JS)
        for word in (".seen", ".menu:hover", ".open", ".wide", "@font-face"):
            self.assertIn(word, css)
        self.assertNotIn(".never", css)
        self.assertNotIn(".narrow", css)
        self.assertIn("classList.add", js)
        self.assertNotIn("'never called'", js)
        phone = self.used(self.walk(FILES, device="phone"), "s.css", CSS)
        self.assertIn(".narrow", phone)
        self.assertNotIn(".wide", phone)

    def test_it_never_leaves_the_page_nor_sends_a_form(self) -> None:
        walk = self.walk(FILES)
        log = [entry.url.rsplit("/", 1)[-1] for entry in self.replay.log]
        self.assertNotIn("elsewhere.html", log)
        self.assertFalse([name for name in log if name.startswith("sent.html")])
        self.assertEqual(
            [s.outcome for s in walk.steps if s.step.action != "hover"],
            [""] * sum(s.step.action != "hover" for s in walk.steps),
        )
        scroll = walk.steps[0]
        self.assertEqual((scroll.step.action, scroll.requests), ("scroll", 1))
        self.assertGreater(scroll.transferred, len(FILES["late.jpg"]))

    def test_own_steps_missing_elements_and_steps_switched_off(self) -> None:
        own = (
            Step("type", "#q", "tide", own=True),
            Step("click", "#not-there", own=True),
            Step("click", "a[", own=True),
            Step("click", "a[href='elsewhere.html']", own=True),
            Step("wait", ms=10, own=True),
        )
        walk = self.walk(FILES, WalkOrders(own, frozenset({"open #more"})))
        outcomes = {s.step.key: s.outcome for s in walk.steps}
        self.assertEqual(outcomes["type #q tide"], "")
        self.assertEqual(outcomes["click #not-there"], "there is no such element")
        self.assertTrue(outcomes["click a["])
        self.assertEqual(outcomes["click a[href='elsewhere.html']"], "")
        self.assertEqual(outcomes["open #more"], "switched off")
        self.assertNotIn("classList.add", self.used(walk, "s.js", JS))
        self.assertNotIn("elsewhere.html", [entry.url.rsplit("/", 1)[-1] for entry in self.replay.log])
        self.assertTrue([e for e in walk.elements if e["selector"] == "#q" and e["field"]])

    def test_the_use_of_rules_is_what_the_browser_itself_matches(self) -> None:
        selectors = [
            "p",
            "p.x",
            "div > p",
            ".a .b",
            ".a > .b",
            "#one",
            "#two",
            "a[href]",
            "a[rel]",
            "li:first-child",
            "li:nth-child(9)",
            ":is(h1,h2)",
            "p:not(.x)",
        ]
        css = "".join(f"{selector} {{ --n{i}: 1 }}\n" for i, selector in enumerate(selectors)).encode()
        body = (
            "<div><p class=x id=one>t</p></div><div class=a><span><b class=b>t</b></span></div><a href=#>t</a>"
            "<ul><li>t</ul><h2>t</h2>"
        )
        capture = self.capture({"index.html": page(body, "<link rel=stylesheet href=s.css>"), "s.css": css})
        browser = self.serve(capture)
        url = capture.page("/index.html").url
        walk = browser.run(walk_page(browser, url, DEVICES["desktop"], WalkOrders()))
        used = self.used(walk, "s.css", css)

        async def matched() -> Any:
            context, tab = await browser.open(DEVICES["desktop"])
            await tab.goto(url)
            found = await tab.evaluate("(all) => all.map((s) => document.querySelector(s) !== null)", selectors)
            await context.close()
            return found

        for i, truth in enumerate(browser.run(matched())):
            self.assertEqual(f"--n{i}:" in used, truth, selectors[i])

    def test_frames_of_other_hosts_and_text_that_is_not_ascii(self) -> None:
        from tests.browser.test_conditions import FAR, HOST, said
        from unladen.capture.recorded import capture_of_responses

        js = "/* é😀 */ function a() { return 1 } function b() { return 2 } a();".encode()
        responses = [
            said(HOST, page(f"<iframe src={FAR}f></iframe>"), "text/html"),
            said(FAR + "f", page("<script src=x.js></script>"), "text/html"),
            said(FAR + "x.js", js, "text/javascript"),
        ]
        capture = capture_of_responses("t", responses, self.store, [])
        with_frames = walk_pages(
            Session.of(self.serve(capture), capture, Progress()), capture.pages(), [DEVICES["phone"]], {}
        )
        (use,) = with_frames[0].files
        text = js.decode().encode("utf-16-le")
        used = "".join(text[2 * a : 2 * b].decode("utf-16-le") for a, b in use.used)
        self.assertIn("return 1", used)
        self.assertNotIn("return 2", used)

    def test_pictures_that_come_when_something_is_opened(self) -> None:
        script = (
            "<script>document.querySelector('#more').onclick = (e) => {"
            "document.body.append(Object.assign(new Image(), { src: e.target.dataset.large }));"
            "document.body.append(Object.assign(new Image(), { src: 'big/' + 'two' + '.jpg' })) }</script>"
        )
        body = "<p>x<button type=button id=more data-large=big/one.jpg>Look</button>"
        files = {"index.html": page(body + script), "big/one.jpg": photo(900, 600), "big/two.jpg": photo(900, 600, 2)}
        capture = self.capture(files)
        browser = self.serve(capture)
        conditions = [Conditions(DEVICES["desktop"])]
        weigh_ins = weigh_pages(Session.of(browser, capture, Progress()), capture.pages(), conditions)
        walks = walk_pages(Session.of(browser, capture, Progress()), capture.pages(), [DEVICES["desktop"]], {})
        self.assertEqual({url.rsplit("/", 1)[-1] for url in walks[0].came}, {"one.jpg", "two.jpg"})
        self.assertEqual(Walk.from_record(walks[0].to_record()), walks[0])
        seen = SurveyInputs(weigh_ins, walks=walks)
        found = lighten(capture, "steady", Progress(), devices=["desktop"], seen=seen)
        # The page names the one, so that it may become another file; of the other only a script knows the name.
        done = {o.change: o.standing for o in found.outcomes.by_change.values()}
        self.assertEqual((done["webp:/big/one.jpg"], done["recompress:/big/two.jpg"]), ("passed", "passed"))
        url = "https://site.example/big/two.jpg"
        self.assertLess(found.capture.exchanges[url].size, capture.exchanges[url].size)

    def test_orders_that_cannot_be_are_refused(self) -> None:
        for record in (
            {"own": [{"action": "fly"}]},
            {"own": [{"action": "click"}]},
            {"own": [{"action": "wait", "ms": 99_999}]},
            {"own": [{"action": "wait", "colour": 1}]},
            {"own": [{"action": "wait"}] * 101},
        ):
            with self.assertRaises(BadInput):
                orders_from(record)
