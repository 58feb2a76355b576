"""Styles, scripts and fonts made smaller for real: what is used in any state stays, and a page that would break is
not handed over.
"""

from __future__ import annotations

import hashlib
import re
from pathlib import Path

from tests.browser.cases import BrowserCase, counting, set_aside
from tests.browser.test_conditions import said
from tests.sites import page, registry_sdist
from unladen.capture.recorded import capture_of_responses
from unladen.check import ChangeResults, Standing
from unladen.lighten import Lightened, lighten
from unladen.plan import LeaveOut, Plan
from unladen.progress import Progress
from unladen.survey import SurveyInputs
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import DEVICES
from unladen.weigh.session import Session
from unladen.weigh.visits.walk import walk_pages

ROOT = Path(__file__).resolve().parent.parent.parent
# So much that nothing makes nothing of it.
PADDING = "void '" + "".join(hashlib.sha256(bytes([n])).hexdigest() for n in range(60)) + "';"
# Enough of it that what goes is worth going.
DEAD = "".join(
    f".theme-{n} .panel-{n} > a:hover {{ color: rgb({n}, {n}, {n}); margin: {n}px }}\n" for n in range(120)
)
ALIVE = """
.menu { display: none } .menu.open { display: block; color: rgb(1, 2, 3) } a:hover { color: red }
.tab-1, .tab-2, .gone-too { order: 1 } .no-js .fallback { color: green } input:invalid { outline: 3px solid }
.made-by-script b::before { content: "x"; animation: turn 1s } @keyframes turn { to { opacity: .5 } }
@keyframes never { to { opacity: 0 } } :root { --used: 4px; --unused: 5px } p { padding: var(--used) }
@media print { .paper { display: none } .theme-1 .paper { color: red } } .late { border: 1px solid }
"""
SCRIPT = """
var tab = 1;
document.querySelector("button").addEventListener("click", function (event) {
  document.querySelector(".menu").classList.toggle("open");
  document.getElementById("here").className = "tab-" + tab;
  document.getElementById("here").innerHTML = '<i class="made-by-script"><b>b</b></i>';
});
"""
BODY = (
    "<button>Menu</button><nav class=menu><a href=#>One</a></nav><p id=here class=paper>Text<input type=email>"
    "<noscript><div class=fallback>Without</div></noscript><template><p class=late></p></template><script "
    "src=s.js></script>"
)


class Trimmed(BrowserCase):
    def test_dead_rules_go_and_what_any_state_or_script_may_need_stays(self) -> None:
        head = f"<link rel=stylesheet href=s.css><style>{DEAD}.paper {{ margin: 1px }}</style>"
        files = {
            "index.html": page(BODY, head).replace(b"<html", b"<html class=no-js"),
            "s.css": (DEAD + ALIVE).encode(),
            "s.js": SCRIPT.encode(),
        }
        result = self.lighten(files)
        self.assertEqual(set_aside(result), {})
        self.assertLessEqual(
            {"trim-styles:/s.css", "trim-styles:/index.html", "precompress"}, {c.id for c in counting(result)}
        )
        sheet = result.capture.body(result.capture.exchanges["https://site.example/s.css"]).decode()
        for there in (
            ".menu.open",
            "a:hover",
            ".tab-1, .tab-2 {",
            ".no-js .fallback",
            "input:invalid",
            "b::before",
            "@keyframes turn",
            "--used",
            ".late",
        ):
            self.assertIn(there, sheet)
        for gone in ("theme-", "gone-too", "never", "--unused"):
            self.assertNotIn(gone, sheet)
        written = result.capture.body(result.capture.page("/index.html")).decode()
        self.assertIn(".paper { margin: 1px }", written)
        self.assertNotIn("theme-", written)
        for before, after in zip(result.before, result.after, strict=True):
            self.assertLess(after.kinds()["styles"]["transferred"], before.kinds()["styles"]["transferred"] / 2)

    def test_of_a_trim_that_breaks_a_page_only_the_rules_missed_come_back(self) -> None:
        # Classes that nobody can tell from the text of the script, and that come with a click.
        riddles = (
            "document.querySelector('button').onclick = () => { p.className = atob('cmlkZGxl'); q.className "
            "= atob('cHV6emxl') }"
        )
        hidden = ".riddle { color: rgb(9, 9, 9) } .puzzle { letter-spacing: 3px } .never-a, .never-b { order: 1 }"
        body = f"<button>More</button><p id=p>One</p><p id=q>Two</p><script>{riddles}</script>"
        files = {
            "index.html": page(body, "<link rel=stylesheet href=s.css>"),
            "s.css": (DEAD + hidden).encode(),
        }
        result = self.lighten(files, devices=["phone"])
        (outcome,) = [o for o in result.outcomes.by_change.values() if o.change == "trim-styles:/s.css"]
        self.assertEqual(outcome.standing, Standing.PASSED)
        (part,) = outcome.parts
        self.assertEqual(sorted(part.pieces), [".puzzle", ".riddle"])
        self.assertTrue(all(pair.passed for pair in result.pairs))
        sheet = result.capture.body(result.capture.exchanges["https://site.example/s.css"]).decode()
        self.assertIn(".riddle", sheet)
        self.assertIn(".puzzle", sheet)
        for gone in ("theme-", "never"):
            self.assertNotIn(gone, sheet)
        # It holds for the next run, which need not search again.
        outcomes = ChangeResults.from_json(result.outcomes.as_json())
        self.assertEqual(
            outcomes.carried_forward(result.plan).applied_to(result.plan), outcomes.applied_to(result.plan)
        )

    def test_a_sheet_without_its_last_state_is_painted_as_before(self) -> None:
        fonts = registry_sdist("pillow", "13.0.0", "Tests/fonts")
        faces = (
            "@font-face{font-family:Mono;src:url(free.ttf)} .mono{font-family:Mono} .skip-me:focus,"
            ".skip-me:active{clip:auto}"
        )
        rows = "".join(
            f"<p class=mono style='margin:.{n}7em 0;line-height:1.{n}3'>{n} Row of text</p>" for n in range(9)
        )
        files = {
            "index.html": page(
                f"<button>More</button>{rows}<i hidden>a</i><i hidden>b</i><i hidden>c</i><script src=s.js></script>",
                "<link rel=stylesheet href=faces.css><link rel=stylesheet href=s.css>",
            ),
            "faces.css": (faces + DEAD).encode(),
            "s.css": b"button:hover,p:hover{color:#123} body{font-size:15.3px}",
            "s.js": b"document.querySelector('button').onclick = () => { for (const i of "
            b"document.querySelectorAll('i')) i.hidden ^= 1 }",
            "free.ttf": (fonts / "FreeMono.ttf").read_bytes(),
        }
        result = self.lighten(files, devices=["phone"])
        self.assertEqual(set_aside(result), {})
        self.assertEqual([o.parts for o in result.outcomes.by_change.values() if o.parts], [])
        self.assertNotIn(
            "skip-me", result.capture.body(result.capture.exchanges["https://site.example/faces.css"]).decode()
        )

    def test_where_not_all_pages_were_weighed_those_that_were_get_a_file_of_their_own(self) -> None:
        link = "<link rel=stylesheet href=css/s.css>"
        own = ".used { color: red; background: url(../a.svg) } .theme-3 { order: 1 }" + f"/* people {PADDING} */"
        files = {
            "index.html": page("<p class=used>x", link),
            "deep/two.html": page("<p class=used>x", link.replace("css/", "../css/")),
            "other.html": page("<p class=theme-3>y", link),
            "css/s.css": (DEAD + own).encode(),
            "a.svg": b"<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'><path d='M0 0h9v9z'/></svg>",
        }
        before = self.capture(files)
        result = lighten(before, "steady", Progress(), pages=["/index.html", "/deep/two.html"], devices=["phone"])
        self.assertEqual(set_aside(result), {})
        self.assertTrue(result.account.adds_up(), result.account)
        self.assertGreater(result.account.saved_by("trim-styles:/css/s.css").bytes, 1_000)
        (copy,) = [url for url in result.capture.exchanges if re.search(r"/css/s-\w{8}\.css$", url)]
        text = result.capture.body(result.capture.exchanges[copy]).decode()
        self.assertIn(".used", text)
        self.assertNotIn("theme-", text)
        self.assertNotIn("people", text)  # written shorter too
        for name, names in (("/index.html", True), ("/deep/two.html", True), ("/other.html", False)):
            chars = result.capture.body(result.capture.page(name)).decode()
            self.assertEqual(copy.rsplit("/", 1)[1] in chars, names, chars)
        kept = result.capture.body(result.capture.exchanges["https://site.example/css/s.css"]).decode()
        self.assertIn("theme-3", kept)
        self.assertGreater(result.capture.exchanges[copy].packed_size, 0)


class Fonts(BrowserCase):
    def test_fonts_are_cut_and_drawn_the_same_and_other_letters_still_come(self) -> None:
        fonts = registry_sdist("pillow", "13.0.0", "Tests/fonts")
        latin = (
            ROOT / "web/node_modules/@fontsource-variable/hanken-grotesk/files/hanken-grotesk-latin-wght-normal.woff2"
        )
        rules = (
            "@font-face{font-family:Mono;src:url(free.ttf?v=1)}@font-face{font-family:Text;src:url(t.woff2) "
            "format('woff2');"
            "font-weight:100 900}body{font:16px Text}code{font-family:Mono}"
        )
        more = "<button onclick=\"this.textContent='ЖЖ Ωλ'\">More</button>"
        body = f"<h1>Merrow</h1><p>Grüße – the wheel <b>turns</b> <code>twice ½ Ω</code>{more}"
        result = self.lighten({
            "index.html": page(body, "<link rel=stylesheet href=s.css>"),
            "s.css": rules.encode(),
            "free.ttf": (fonts / "FreeMono.ttf").read_bytes(),
            "t.woff2": latin.read_bytes(),
        })  # fmt: skip
        self.assertEqual(set_aside(result), {})
        before, after = (w[0].kinds()["fonts"] for w in (result.before, result.after))
        self.assertLess(after["transferred"], before["transferred"] / 3)
        self.assertEqual(after["requests"], before["requests"])
        sheet = result.capture.body(result.capture.exchanges["https://site.example/s.css"]).decode()
        self.assertRegex(
            sheet,
            r'url\("free-[0-9a-f]{8}\.woff2"\) format\("woff2"\),url\(free\.ttf\?v=1\);font-display:swap;'
            r"unicode-range:U\+20-",
        )
        self.assertEqual(sheet.count("@font-face"), 4)
        self.assertIn("free.ttf", [e.path for e in result.capture.files()])

    def test_nothing_jumps_when_a_font_comes(self) -> None:
        latin = (
            ROOT / "web/node_modules/@fontsource-variable/hanken-grotesk/files/hanken-grotesk-latin-wght-normal.woff2"
        )
        rules = (
            "@font-face{font-family:Text;src:url(t.woff2);font-weight:100 900}p{font:18px/normal Text,"
            "sans-serif;width:300px}"
        )
        words = (
            "<p>"
            + "When the pond is full and the tide has gone, the sluice opens and the great wheel goes round. " * 8
        )
        files = {"index.html": page(words, f"<style>{rules}</style>"), "t.woff2": latin.read_bytes()}
        result = self.lighten(files)
        self.assertEqual(set_aside(result), {})
        self.assertIn("even-fallbacks", {c.id for c in counting(result)})
        heights = []
        for capture, block in ((result.capture, False), (result.capture, True), (self.capture(files), True)):
            browser = self.serve(capture)

            async def height(browser: Browser = browser, block: bool = block) -> float:
                context, tab = await browser.open(DEVICES["desktop"])
                if block:
                    await tab.route("**/*.woff2", lambda route: route.abort())
                await tab.goto("https://site.example/index.html")
                await tab.evaluate("document.fonts.ready")
                found: float = await tab.evaluate("document.querySelector('p').getBoundingClientRect().height")
                await context.close()
                return found

            heights.append(browser.run(height()))
        with_font, without_font, as_found = heights
        self.assertLess(abs(without_font - with_font), 0.04 * with_font)
        self.assertGreater(abs(as_found - with_font), abs(without_font - with_font))

    def test_a_family_of_another_host_comes_home_with_the_letters_in_use(self) -> None:
        host = "https://faces.example/"
        files = ROOT / "web/node_modules/@fontsource-variable/hanken-grotesk/files"
        cyrillic = (files / "hanken-grotesk-cyrillic-ext-wght-normal.woff2").read_bytes()
        latin = Path("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf").read_bytes()
        styles = "".join(
            f"@font-face{{font-family:Hanken;src:url({name});font-weight:100 900;unicode-range:{ranges}}}"
            for name, ranges in (
                ("//faces.example/f/latin.ttf", "U+0-2FF"),
                ("f/cyrillic.woff2", "U+400-52F"),
                ("f/greek.woff2", "U+370-3FF"),
            )
        )
        index = page(
            "<p>Quick brown <b>foxes</b></p>",
            "<link rel=stylesheet href='//faces.example/css?family=hanken'><style>p{font:20px Hanken,serif}</style>",
        )
        responses = [
            said("https://site.example/index.html", index, "text/html"),
            said(host + "css?family=hanken", styles.encode(), "text/css", access_control_allow_origin="*"),
            said(host + "f/latin.ttf", latin, "font/ttf", access_control_allow_origin="*"),
            said(host + "f/cyrillic.woff2", cyrillic, "font/woff2", access_control_allow_origin="*"),
        ]
        capture = capture_of_responses("t", responses, self.store, [])
        result = lighten(capture, "bold", Progress(), devices=["phone"])
        self.assertEqual(set_aside(result), {})
        self.assertTrue(result.account.adds_up(), result.account)
        (change,) = [c for c in counting(result) if c.remedy == "host-fonts"]
        saved = result.account.saved_by(change.id)
        self.assertGreater(saved.bytes, len(latin) / 2)
        (after,) = result.after
        self.assertEqual({r.url.split("/")[2] for r in after.visit.requests}, {"site.example"})
        self.assertLess(after.kinds()["fonts"]["transferred"], len(latin) / 8)
        (sheet,) = [e for e in result.capture if e.path.startswith("fonts/") and e.media_type == "text/css"]
        text = result.capture.body(sheet).decode()
        self.assertIn("https://faces.example/f/greek.woff2", text)  # which the recording does not have
        kept = {e.path for e in result.capture.files()}
        self.assertEqual(sum(path.startswith("fonts/") for path in kept), 4, kept)
        # From gentle to steady it is the user's to choose.
        steady = lighten(capture, "steady", Progress(), devices=["phone"])
        self.assertFalse(any(c.on for c in steady.plan.changes if c.remedy == "host-fonts"))


class LeftOut(BrowserCase):
    FILES = {
        "index.html": page("<p>x</p><script src=needed.js></script><script src=idle.js></script>"),
        "needed.js": b"document.body.append('made by a script')",
        "idle.js": b"void 'nothing that anybody sees'; /* " + b"long " * 900 + b" */",
    }

    def test_what_nobody_misses_stays_out_and_what_is_missed_comes_back(self) -> None:
        plan = Plan("steady", ())
        for name in ("/idle.js", "/needed.js"):
            plan = LeaveOut(name, ("/index.html",)).apply(plan)
        result = lighten(self.capture(self.FILES), plan, Progress(), devices=["phone"])
        self.assertTrue(result.account.adds_up())
        self.assertEqual([change.id for change in counting(result)], ["leave-out:/idle.js"])
        self.assertEqual(list(set_aside(result)), ["leave-out:/needed.js"])
        self.assertEqual(result.account.saved_by("leave-out:/idle.js").requests, len(result.before))
        for after in result.after:
            self.assertEqual(after.kinds()["scripts"]["requests"], 1)


class Twice(BrowserCase):
    def test_a_file_under_two_names_comes_once_and_of_two_versions_one_can_be_left_out(self) -> None:
        library = "/*! Slides v{} */ window.slides = (window.slides || 0) + 1; window.note = 'x';" + PADDING
        own = "document.write('<p>' + [slides, note, window.lib].join() + '</p>'); window.lib = 1;" + PADDING
        twice = "".join(
            f"<script src={name}></script>" for name in ("slides.min.js", "old/slides.js", "a/lib.js", "b/lib.js")
        )
        files = {
            "index.html": page("<h1>x</h1>" + twice),
            "slides.min.js": library.format("2.0.1").encode(),
            "old/slides.js": library.format("1.9").encode(),
            "a/lib.js": own.encode(),
            "b/lib.js": own.encode(),
        }
        result = self.lighten(files, "bold", devices=["phone"])
        self.assertEqual(set_aside(result), {})
        saved = result.account.saved_by("merge:/a/lib.js")
        self.assertEqual(saved.requests, 1)
        self.assertGreater(saved.bytes, 1_000)
        # Run twice as before, from one file.
        self.assertEqual(result.capture.body(result.capture.page("/index.html")).decode().count("a/lib.js"), 2)
        left_out = [change for change in result.plan.changes if change.remedy == "leave-out"]
        self.assertEqual({change.id for change in left_out}, {"leave-out:/slides.min.js", "leave-out:/old/slides.js"})
        self.assertFalse(any(change.on for change in left_out))


# Each with something of its own, so that packing does not make nothing of them.
CALLED_LATE = "".join(
    f"function part{n}(a, b) {{ var sum = a * {n + 3}; for (var i = 0; i < b; i += {n + 1}) sum += Math.pow(i, "
    f"{n % 7});"
    f" return sum < 0 ? '{hashlib.sha256(bytes([n])).hexdigest()}' : 'p{n}:' + sum }}\n"
    for n in range(160)
)
CALLING = """
function shown(a) { var all = []; for (var i = 0; i < a; i++) all.push(part3(i, i)); return all.join(" ") }
function pressed() { document.getElementById("out").textContent = part5(2, 9) }
document.getElementById("out").textContent = shown(4);
document.getElementById("more").addEventListener("click", pressed);
"""


class Withheld(BrowserCase):
    def lightened(self, head: str = "") -> Lightened:
        files = {
            "index.html": page("<p id=out></p><button id=more>More</button><script src=js/a.js></script>", head),
            "js/a.js": (CALLED_LATE + CALLING).encode(),
        }
        capture = self.capture(files)
        browser = self.serve(capture)
        walks = walk_pages(Session.of(browser, capture, Progress()), capture.pages(), [DEVICES["phone"]], {})
        return lighten(capture, "bold", Progress(), devices=["phone"], seen=SurveyInputs([], walks=walks))

    def test_what_nobody_called_comes_when_somebody_does(self) -> None:
        result = self.lightened()
        # What it shows at once does not wait for a visitor.
        self.assertEqual(set(set_aside(result)), {"wait-for-visitor"})
        self.assertTrue(result.account.adds_up(), result.account)
        change = next(c for c in counting(result) if c.remedy == "functions-when-called")
        self.assertGreater(result.account.saved_by(change.id).bytes, 1_000)
        script = result.capture.body(result.capture.exchanges["https://site.example/js/a.js"]).decode()
        self.assertIn("p3:", script)  # on load
        self.assertIn("p5:", script)  # by a press of the walk
        self.assertNotIn("p7:", script)
        (rest,) = [url for url in result.capture.exchanges if url.endswith(".rest.json")]
        self.assertIn("p7:", result.capture.body(result.capture.exchanges[rest]).decode())
        self.assertNotIn(rest, {r.url for weigh_in in result.after for r in weigh_in.visit.requests})

        async def call(browser: Browser) -> list[str]:
            context, window = await browser.open(DEVICES["phone"])
            asked: list[str] = []
            window.on("request", lambda request: asked.append(request.url))
            await window.goto("https://site.example/index.html")
            self.assertNotIn(rest, asked)
            said = await window.evaluate("[part7(1, 2), part9(1, 2), part7.length, String(part159(3, 0))]")
            await context.close()
            self.assertEqual(asked.count(rest), 1)
            return [str(value) for value in said]

        browser = self.serve(result.capture)
        self.assertEqual(browser.run(call(browser)), ["p7:11", "p9:12", "2", "p159:486"])

    def test_where_a_policy_forbids_it_a_script_stays_whole(self) -> None:
        policy = "<meta http-equiv=content-security-policy content=\"script-src 'self'\">"
        result = self.lightened(policy)
        self.assertEqual([c for c in result.plan.changes if c.remedy == "functions-when-called"], [])
        self.assertIn("has a policy", " ".join(notice.reason for notice in result.notices))
