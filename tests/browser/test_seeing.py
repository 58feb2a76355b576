"""What a look sees of a page: places, words, ways, meaning, styles, scripts, time. One page each, asked for many
things.
"""

from __future__ import annotations

import io
from dataclasses import replace
from typing import Any

from PIL import Image

from tests.browser.cases import BrowserCase
from tests.browser.test_conditions import FAR, HOST, said
from tests.sites import page, photo, registry_package
from unladen.capture import read_site
from unladen.capture.recorded import capture_of_responses
from unladen.check.compare import compare
from unladen.check.page_checks import PageChecks
from unladen.check.snapshot import Snapshot, SnapshotTaker
from unladen.weigh.records.conditions import DEVICES, Device
from unladen.weigh.visits.picture import take_picture
from unladen.work_cache import WorkCache

P = "html > body > p"


class Seeing(BrowserCase):
    def seen(self, body: str, head: str = "", **files: bytes) -> Snapshot:
        named = {name.replace("_", "."): data for name, data in files.items()}
        (snapshot,) = self.snapshots(
            {"index.html": page(body, head), "a.jpg": photo(60, 40), **named}, quick=True, styles=True
        )
        self.assertTrue(snapshot.alive)
        self.assertEqual(snapshot.restless, "")
        return snapshot

    def test_places_are_the_same_where_something_only_wraps_or_is_ours(self) -> None:
        plain = self.seen("<div><img src=a.jpg><img id=two src=a.jpg></div><p>x<p>y")
        wrapped = self.seen(
            "<script></script><div><picture><source srcset='a.jpg 2x'><img src=a.jpg></picture>"
            "<style></style><img id=two src=a.jpg></div><p>x<p data-unladen=ours>ours<p>y"
        )
        self.assertEqual(list(plain.boxes), list(wrapped.boxes))
        self.assertEqual(
            list(plain.boxes)[2:],
            ["html > body > div", "html > body > div > img", "html > body > div > img#two", P, f"{P}:nth-of-type(2)"],
        )

    def test_places_in_frames_and_shadow_trees(self) -> None:
        body = (
            "<iframe src=in.html width=300 height=200></iframe><x-card></x-card><script>"
            "customElements.define('x-card', "
            "class extends HTMLElement { connectedCallback() { this.attachShadow({ mode: 'open' }).innerHTML = "
            "'<button>Inside</button>' } })</script>"
        )
        snapshot = self.seen(body, in_html=page("<p>Framed"))
        words = snapshot.values("words")["words"]
        self.assertEqual(words["html > body > iframe >>> html > body > p"], "Framed")
        self.assertEqual(words["html > body > x-card >> > button"], "Inside")
        self.assertEqual(snapshot.values("scripts")["defined"], ["x-card"])
        x, y, width, height = snapshot.boxes["html > body > iframe >>> html > body > p"]
        self.assertTrue(0 <= x < 300 and 0 <= y < 200 and width <= 300 and height <= 200)

    def test_how_we_hold_a_frame_still_is_not_taken_for_its_own_look(self) -> None:
        snapshot = self.seen(
            "<iframe src=in.html width=300 height=200></iframe><input>",
            in_html=page("<input><svg><circle r=9 /></svg>"),
        )
        self.assertIn("html > body > iframe >>> html > body > input", snapshot.boxes)
        self.assertEqual(snapshot.values("styles")["moves"], {})

    def test_text_is_painted_the_same_at_any_density(self) -> None:
        """Pictures have a pixel for each CSS px. What depends on how dense the window is differs from look to look."""
        body = (
            "<meta name=viewport content='width=device-width'><button style='position:fixed;inset:9px auto "
            "auto 9px'>Menu"
        )
        browser = self.serve(self.capture({"index.html": page(body)}))

        async def picture(density: float) -> bytes:
            context, tab = await browser.open(Device("here", 390, 300, density, True))
            try:
                await tab.goto("https://site.example/index.html")
                return await take_picture(tab, 390, 100, "png")
            finally:
                await context.close()

        first, second = (browser.run(picture(density)) for density in (1, 2))
        self.assertTrue(first)
        self.assertEqual(first, second)

    def test_boxes_fit_the_picture_where_a_page_is_laid_out_anew_for_it(self) -> None:
        # Lines of this page become a px higher once a picture of it was taken, so that its badge moves by 24 px.
        capture = read_site(registry_package("bulma-start", "0.0.5"), self.store)
        index, badge = capture.page("/index.html"), capture.exchanges["https://site.example/made-with-bulma.png"]
        smaller, out = Image.open(io.BytesIO(capture.body(badge))).resize((384, 72)), io.BytesIO()
        smaller.save(out, "PNG")
        body = out.getvalue()
        changed = capture.with_changes([replace(badge, digest=capture.store.put(body), size=len(body))])
        page_checks = PageChecks(self.serve(capture), WorkCache(self.folder / "memo", self.store), quick=True)
        (seen,) = page_checks.compared(capture, changed, index, [DEVICES["phone"]])
        self.assertEqual([difference.text for difference in seen.differences], [])

    def test_all_that_can_be_read_shown_or_not(self) -> None:
        snapshot = self.seen(
            "<p hidden>Hidden</p><img src=a.jpg alt=Wheel title=Hint><input placeholder=Name value=Ada>"
            "<select><option value=1 selected>One</select><details><summary>More</summary><b>Within</b></details>"
            "<i></i><noscript>Turn <img src=b.jpg> them on</noscript>",
            "<style>i::before { content: 'Written' }</style>",
        )
        values = snapshot.values("words")
        words = values["words"]
        self.assertEqual(words[P], "Hidden")
        self.assertEqual(words["html > body > details > b"], "Within")
        for name, told in {
            "img @alt": "Wheel",
            "img @title": "Hint",
            "input @placeholder": "Name",
            "input @value": "Ada",
        }.items():
            self.assertEqual(words[f"html > body > {name}"], told)
        self.assertEqual(words["html > body > select @value"], "1")
        self.assertEqual(values["made"], {"html > body > i::before": '"Written"'} | {
            place: told for place, told in values["made"].items() if "::marker" in place
        })  # fmt: skip
        self.assertEqual((values["without"], values["pictures"]), (["Turn them on"], 1))

    def test_where_a_page_leads_and_what_it_sends(self) -> None:
        snapshot = self.seen(
            "<a href=../up/x.html#part target=_blank rel=noopener>A</a><a href=mailto:ada@mill.example>M</a>"
            "<a href=#nowhere>N</a><a id=here href=#here download=x.zip>H</a>"
            "<form action=/send method=post enctype=multipart/form-data><input name=to type=email required>"
            "<input type=hidden name=token value=7><input type=checkbox name=yes checked></form>"
        )
        values = snapshot.values("ways")
        ways = values["ways"]
        self.assertEqual(ways["html > body > a"], "/up/x.html#part  _blank noopener")
        self.assertEqual(ways["html > body > a:nth-of-type(2)"], "mailto:ada@mill.example")
        self.assertIn("download x.zip", ways["html > body > a#here"])
        self.assertEqual(values["lost"], ["html > body > a:nth-of-type(3)"])
        self.assertEqual(values["forms"], {"html > body > form": "/send post multipart/form-data"})
        fields = {place.split(" > ")[-1]: said for place, said in ways.items() if place.endswith("@field")}
        self.assertEqual(fields["input @field"], "name=to; type=email; required=")
        self.assertIn("value=7", fields["input:nth-of-type(2) @field"])
        self.assertIn("checked=true", fields["input:nth-of-type(3) @field"])

    def test_what_machines_and_aids_are_told(self) -> None:
        head = (
            "<meta name=description content='A mill'><meta name=robots content=noindex><link rel=canonical href=/mill/>"
            '<meta property=og:title content=Mill><script type="application/ld+json">{"b": 1,\n "a": 2}</script>'
        )
        body = (
            "<nav aria-label=Main><a href=/>Home</a></nav><h2>Hours</h2><label for=n>Name</label><input id=n>"
            "<button tabindex=2 aria-expanded=false>Menu</button><a tabindex=1 href=/first>First</a><div "
            "role=alert>!</div>"
        )
        snapshot = self.seen(body, head)
        values = snapshot.values("meaning")
        said = values["page"]
        for name, value in {
            "title": "Test",
            "meta description": "A mill",
            "meta robots": "noindex",
            "meta og:title": "Mill",
            "link canonical": "https://site.example/mill/",
            "structured data 1": '{"b":1,"a":2}',
        }.items():
            self.assertEqual(said[name], value)
        self.assertEqual([row[1:] for row in values["parts"]], [["nav", ""], ["h2", "Hours"]])
        self.assertEqual(values["ids"], ["n"])
        order = [place.split(" > ")[-1] for place in values["order"]]
        self.assertEqual(order, ["a", "button", "a", "input#n"])
        self.assertIn("labels=Name", values["labels"]["html > body > input#n"])
        # Against what Playwright makes of the same tree of the browser.
        tree = values["tree"]
        for line in ("navigation “Main”", "link “Home”", "heading “Hours” level=2", "textbox “Name”"):
            self.assertTrue(any(entry.startswith(line) for entry in tree), (line, tree))
        self.assertTrue(any(entry.startswith("button “Menu”") and "expanded=False" in entry for entry in tree), tree)

    def style(self, snapshot: Snapshot, place: str, name: str) -> str:
        values = snapshot.values("styles")
        return str(values["rows"][values["of"][place]][values["names"].index(name)])

    def test_styles_at_rest_in_forced_states_and_in_other_media(self) -> None:
        rules = (
            "a { color: rgb(1, 2, 3) } a:hover { color: rgb(9, 0, 0) } nav:focus-within a { color: rgb(8, 0, 0) }"
            "a::after { content: 'x'; color: rgb(4, 4, 4) } input:invalid { color: rgb(7, 0, 0) }"
            "li:not(:hover) { color: rgb(3, 3, 3) } @media print { p { display: none } }"
            "@media (prefers-color-scheme: dark) { p { color: rgb(6, 6, 6) } }"
            "@media (prefers-contrast: more) { p { color: rgb(5, 5, 5) } }"
        )
        snapshot = self.seen(
            "<nav><a href=/>A</a></nav><p>Text</p><ul><li>x</ul><input type=email>", f"<style>{rules}</style>"
        )
        link = "html > body > nav > a"
        self.assertEqual(self.style(snapshot, link, "color"), "rgb(1, 2, 3)")
        self.assertEqual(self.style(snapshot, f"{link}::after", "color"), "rgb(4, 4, 4)")
        unlike = snapshot.values("styles")["in"]
        self.assertEqual(unlike["hover"][link]["color"], "rgb(9, 0, 0)")
        self.assertEqual(unlike["focus-within"][link]["color"], "rgb(8, 0, 0)")
        self.assertEqual(unlike["invalid"]["html > body > input"]["color"], "rgb(7, 0, 0)")
        self.assertNotEqual(unlike["hover"]["html > body > ul > li"]["color"], "rgb(3, 3, 3)")
        self.assertEqual(unlike["print"][P]["display"], "none")
        self.assertEqual(unlike["dark"][P]["color"], "rgb(6, 6, 6)")
        self.assertEqual(unlike["contrast"][P]["color"], "rgb(5, 5, 5)")
        self.assertNotIn("forced", unlike)

    def test_a_rule_that_does_nothing_changes_nothing_that_is_seen(self) -> None:
        rules = (
            "a { text-decoration: none } p a:focus { text-decoration: underline } input:invalid { outline: "
            "2px solid }"
        )
        body = "<p><a href=/>A</a><input type=email value=x>"
        idle = (
            ".none:focus { --x: 1; letter-spacing: 1px } .none:invalid { display: none } .none:hover { color: red }"
        )
        plain, more = (self.seen(body, f"<style>{text}</style>") for text in (rules, rules + idle))
        self.assertIn("text-decoration-line", plain.values("styles")["in"]["focus"][f"{P} > a"])
        for before, after in ((plain, more), (more, plain)):
            self.assertEqual(compare(before, before, after), ())

    def test_style_sheets_of_other_hosts_that_no_script_may_read(self) -> None:
        rules = (
            ".menu { cursor: default } /* :hover */ a:hover, b { color: rgb(9, 0, 0) }"
            "@media print { p { display: none } } @supports (color: red) { input:invalid { color: rgb(7, 0, 0) } }"
        )
        link = f"<link rel=stylesheet href={FAR}s.css>"
        responses = [
            said(HOST, page("<a href=/>A</a><p>Text<input type=email>", link), "text/html"),
            said(FAR + "s.css", rules.encode(), "text/css"),
        ]
        capture = capture_of_responses("t", responses, self.store, [])
        checker = SnapshotTaker(self.serve(capture))
        (snapshot,) = checker.look_all(capture, [(HOST, DEVICES["phone"])], only=["styles", "rules"])
        self.assertIn(["", "a:hover", "color: rgb(9,0,0);"], list(snapshot.values("rules")["rules"].values()))
        unlike = snapshot.values("styles")["in"]
        self.assertEqual(unlike["hover"]["html > body > a"]["color"], "rgb(9, 0, 0)")
        self.assertEqual(unlike["invalid"]["html > body > p > input"]["color"], "rgb(7, 0, 0)")
        self.assertEqual(unlike["print"][P]["display"], "none")
        self.assertEqual(snapshot.left, ())

    def test_nothing_is_pointed_at_by_itself(self) -> None:
        corner = "<button style='position:absolute;top:0;left:0;width:90px;height:60px'>Corner</button>"
        snapshot = self.seen(
            corner, "<style>button:hover { color: rgb(9, 0, 0) } @media print { p { color: red } }</style>"
        )
        place = "html > body > button"
        self.assertNotEqual(self.style(snapshot, place, "color"), "rgb(9, 0, 0)")
        self.assertNotIn(place, snapshot.values("styles")["in"]["print"])

    def test_what_is_generated_selected_or_moves_is_seen_where_a_rule_is_about_it(self) -> None:
        rules = (
            "p::selection { color: rgb(1, 2, 3) } input::file-selector-button { color: rgb(4, 5, 6) }"
            "b::before { content: '' } i { animation: glow 2s infinite } @keyframes glow { 50% { color: red } }"
            "div { scroll-behavior: smooth } a::selection:window-inactive { color: red }"
        )
        snapshot = self.seen("<p>Text</p><input type=file><b></b><i>x</i><div></div>", f"<style>{rules}</style>")
        self.assertEqual(self.style(snapshot, f"{P}::selection", "color"), "rgb(1, 2, 3)")
        self.assertEqual(self.style(snapshot, "html > body > input::file-selector-button", "color"), "rgb(4, 5, 6)")
        values = snapshot.values("styles")
        self.assertIn("html > body > b::before", values["of"])
        self.assertIn("50% { color: red; }", values["moves"]["html > body > i"])
        self.assertEqual(values["moves"]["html > body > div"], "scrolls smooth")

    def test_what_waits_to_be_used(self) -> None:
        body = (
            '<template id=row><li class=row>Tide</li></template><script type=application/json id=d>{ "a":1 }</script>'
            "<video controls><track kind=captions srclang=en label=English src=w.vtt></video>"
            "<a href=/list.pdf>List</a><a href=/gone.zip>Gone</a><a href=/index.html>Home</a>"
            "<script>addEventListener('message', () => 0); new BroadcastChannel('tides');"
            "navigator.serviceWorker.register('sw.js')</script>"
        )
        files = {"list.pdf": b"%PDF", "sw.js": b"", "w.vtt": b"WEBVTT"}
        (snapshot,) = self.snapshots(
            {
                "index.html": page(body, "<base target=_blank><link rel=icon href=a.jpg>"),
                "a.jpg": photo(9, 9),
                **files,
            },
            quick=True,
        )
        said = snapshot.values("meaning")["page"]
        self.assertEqual((said["template row"], said["data block d"]), ("Tide li.row", '{"a":1}'))
        self.assertEqual(said["icon icon"], "1")
        ways = snapshot.values("ways")
        self.assertEqual(ways["ways"]["html > body > video @plays"], "controls; captions en English /w.vtt")
        self.assertEqual(ways["ways"]["html > body > a:nth-of-type(3)"], "/index.html  _blank")
        files_told = {place.split(" > ")[-1]: told for place, told in ways["files"].items()}
        self.assertTrue(files_told["a @file"].startswith("is the file "))
        self.assertEqual(files_told["a:nth-of-type(2) @file"], "is not there")
        self.assertEqual(files_told["a:nth-of-type(3) @file"], "is there")
        # A look holds only where these are the same, whether the page asks for them or not.
        self.assertNotEqual(snapshot.reads["https://site.example/list.pdf"], "")
        self.assertEqual(snapshot.reads["https://site.example/gone.zip"], "")
        scripts = snapshot.values("scripts")
        self.assertEqual(scripts["workers"], ["channel tides", "service sw.js"])
        self.assertEqual(scripts["listeners"]["the window"], "message")

    def test_what_lies_above_a_control(self) -> None:
        snapshot = self.seen(
            "<button style='position:absolute;top:200px;left:9px'>Free</button>"
            "<button style='position:absolute;top:300px;left:9px'>Covered</button>"
            "<div id=layer style='position:absolute;top:280px;left:0;width:300px;height:80px'></div>"
            "<a href=/ style='position:absolute;top:2000px;left:9px'>Far below</a>"
            "<label style='position:absolute;top:420px'><input type=checkbox> Tick</label>"
        )
        hits = {place.split(" > ")[-1]: above for place, above in snapshot.values("hits")["hits"].items()}
        self.assertEqual(hits["button"], "")
        self.assertEqual(hits["button:nth-of-type(2)"], "html > body > div#layer")
        self.assertEqual((hits["a"], hits["label"], hits["input"]), ("", "", ""))

    def test_listeners_globals_and_what_is_stored(self) -> None:
        script = """
          var tool = { turn() {}, stop() {} }; function grind() {}
          const off = () => {}; b.addEventListener("click", off); b.addEventListener("keydown", off);
          b.removeEventListener("keydown", off); b.addEventListener("click", { handleEvent() {} });
          document.addEventListener("click", off); addEventListener("resize", off); a.onclick = off;
          localStorage.setItem("seen", 1); document.cookie = "visits=3"; new Worker("data:text/javascript,");
        """
        snapshot = self.seen(
            f"<button id=b>B</button><button id=a>A</button><x-lost></x-lost><script>{script}</script>"
        )
        values = snapshot.values("scripts")
        self.assertEqual(values["globals"]["tool"], "object: stop turn")
        self.assertEqual(values["globals"]["grind"], "function")
        listeners = values["listeners"]
        self.assertEqual(listeners["html > body > button#b"], "click")
        self.assertEqual(listeners["html > body > button#a"], "onclick")
        self.assertEqual((listeners["the document"], listeners["the window"]), ("click", "resize"))
        self.assertEqual((values["undefined"], values["storage"]), (["x-lost"], ["seen", "visits"]))

    def test_time_is_the_pages_own(self) -> None:
        script = """
          const said = [], say = (word) => { said.push(word); p.textContent = said.join(" "); }, start = Date.now();
          setTimeout(() => say("c"), 3000); setTimeout(() => say("a"), 800); setTimeout(() => say("never"), 60000);
          setTimeout(() => { say("b"); setTimeout(() => say("d"), 4500); }, 1000);
          const gone = setTimeout(() => say("gone"), 900); clearTimeout(gone);
          let n = 0; const each = setInterval(() => { say(++n); if (n === 2) clearInterval(each); }, 1500);
          setTimeout("say('text')", 5000);
          setTimeout(() => { p.title = Date.now() - start >= 2000 ? "passed" : "stands"; }, 2000);
          q.textContent = new Date().getFullYear() + " " + typeof Date() + " " + (new Date(0)).toISOString();
        """
        snapshots = self.snapshots(
            {"index.html": page(f"<p id=p>-</p><p id=q>-</p><script>{script}</script>")}, quick=True, times=2
        )
        words = [snapshot.values("words")["words"] for snapshot in snapshots]
        self.assertEqual(words[0][f"{P}#p"], "a b 1 c 2 text d")
        self.assertEqual(words[0][f"{P}#p @title"], "passed")
        self.assertEqual(words[0][f"{P}#q"], "2023 string 1970-01-01T00:00:00.000Z")
        self.assertEqual(words[0], words[1])


class Names(BrowserCase):
    def test_what_people_would_call_things(self) -> None:
        body: dict[str, Any] = {
            "<a href=/>Home</a>": ["link", "Home"],
            "<button aria-label=Close>x</button>": ["button", "Close"],
            "<img src=a.jpg alt='The wheel'>": ["picture", "The wheel"],
            "<input type=checkbox name=news>": ["tick box", "news"],
            "<input placeholder=Search>": ["field", "Search"],
            "<div role=tab>Hours</div>": ["tab", "Hours"],
            "<summary>More</summary>": ["heading to open", "More"],
            "<textarea name=say></textarea>": ["field", "say"],
        }
        (snapshot,) = self.snapshots({"index.html": page("".join(body)), "a.jpg": photo(60, 40)}, quick=True)
        self.assertEqual(list(snapshot.names.values())[2:], list(body.values()))


class Lost(BrowserCase):
    """Many small things of one page, lost all at once: each of them is told."""

    def told(self, parts: dict[str, tuple[str, str]], frame: str, *, quick: bool) -> str:
        """What differs between a page with each first text in the frame at its name, and one with each second."""
        files = {"a.jpg": photo(60, 40), "f.mp4": b""}
        snapshots = []
        for side in (0, 1):
            markup = frame
            for name, texts in parts.items():
                markup = markup.replace(f"<<{name}>>", texts[side])
            snapshots += self.snapshots({"index.html": page(markup)} | files, quick=quick, styles=quick)
        before, after = snapshots
        self.assertEqual((before.restless, after.restless), ("", ""))
        self.assertEqual(compare(before, before, before), ())
        return "\n".join(f"{d.text} | {d.step} | {d.detail}" for d in compare(before, before, after))

    def test_at_rest(self) -> None:
        parts = {
            "paper": ("@page { margin: 3cm }", ""),
            "range": ("input:out-of-range { background: #fdd }", ""),
            "poster": (" poster=a.jpg", ""),
            "loop": (" loop", ""),
            "spelling": (" spellcheck=false", ""),
            "imports": ('{"imports":{"x":"./x.js"}}', '{"imports":{}}'),
            "moves": ('<animate attributeName="r" values="8;10" dur="2s" repeatCount="indefinite"/>', ""),
            "wide": ("matchMedia('(min-width: 900px)').addEventListener('change', () => {});", ""),
            "older": ("matchMedia('(max-width: 300px)').addListener(() => {});", ""),
            "language": ("Array.prototype.last = function () {};", ""),
        }
        frame = (
            "<style><<paper>> <<range>></style><script type=importmap><<imports>></script>"
            "<script><<wide>><<older>><<language>></script><p contenteditable<<spelling>>>Write</p>"
            "<input type=number max=9 value=3><video src=f.mp4 controls<<loop>><<poster>> width=90 height=60></video>"
            "<svg width=40 height=40><circle cx=20 cy=20 r=8><<moves>></circle></svg>"
        )
        told = self.told(parts, frame, quick=True)
        for words in (
            "sheet of paper is gone", "in the state “out-of-range”", "has lost its image",
            "not “controls; loop”",
            "spellcheck=false", "data block 1", "how it moves", "min-width", "max-width", "“Array.prototype”",
        ):  # fmt: skip
            self.assertIn(words, told)

    def test_in_use(self) -> None:
        parts = {
            "twice": ("this.textContent = 'Pressed twice'", ""),
            "menu": ("this.textContent = 'Own menu'", ""),
            "down": ("if (e.key === 'ArrowDown') l.hidden = false", ""),
            "slash": ("if (e.key === '/') i.focus()", ""),
            "sum": ("n.value * 5", "n.value * 6"),
            "theme": ("document.body.dataset.theme = 'night'", ""),
        }
        frame = (
            "<p id=t>Press me</p><p id=c>Ask me</p><div id=k tabindex=0>Choose</div><p id=l hidden>Choices</p>"
            "<form><input id=n name=n type=number value=2><output id=s></output><button>Send</button></form>"
            "<input id=i>"
            "<button id=b>Open</button><p id=o hidden>Opened</p><script>"
            "t.addEventListener('dblclick', function () { <<twice>> });"
            "c.addEventListener('contextmenu', function (e) { e.preventDefault(); <<menu>> });"
            "k.addEventListener('keydown', (e) => { <<down>>; if (e.key === 'Escape') l.hidden = true });"
            "document.addEventListener('keydown', (e) => { <<slash>> });"
            "n.form.addEventListener('input', () => { s.value = <<sum>> + ' coins' });"
            "b.onclick = () => { o.hidden = !o.hidden; <<theme>> }</script>"
        )
        told = self.told(parts, frame, quick=False)
        for words in (
            "pressing twice the paragraph “Press me”",
            "pressing the other button on the paragraph “Ask me”",
            "pressing the key ArrowDown on the part “Choose”",
            "after pressing the key /, another element has the focus",
            "says 6 coins",
            "after pressing the button “Open”, the address or the state of the page differs",
        ):
            self.assertIn(words, told)
