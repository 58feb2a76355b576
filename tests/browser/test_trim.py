"""Styles, scripts and fonts made smaller for real: what is used in any state stays, and a page that would break is not handed over."""

from __future__ import annotations

from pathlib import Path

from tests.browser.cases import BrowserCase, counting, set_aside
from tests.sites import page, registry_sdist
from unladen.check import Outcomes, Standing
from unladen.lighten import lighten
from unladen.plan import LeaveOut, Plan
from unladen.progress import Progress

ROOT = Path(__file__).resolve().parent.parent.parent
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
    "<noscript><div class=fallback>Without</div></noscript><template><p class=late></p></template><script src=s.js></script>"
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
        riddles = "document.querySelector('button').onclick = () => { p.className = atob('cmlkZGxl'); q.className = atob('cHV6emxl') }"
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
        outcomes = Outcomes.from_json(result.outcomes.as_json())
        self.assertEqual(
            outcomes.carried_forward(result.plan).applied_to(result.plan), outcomes.applied_to(result.plan)
        )

    def test_a_sheet_that_other_pages_use_stays_and_it_is_said(self) -> None:
        link = "<link rel=stylesheet href=s.css>"
        files = {
            "index.html": page("<p>x", link),
            "other.html": page("<p class=theme-3>y", link),
            "s.css": DEAD.encode(),
        }
        result = lighten(self.capture(files), "steady", Progress(), pages=["/index.html"])
        self.assertNotIn("trim-styles:/s.css", {c.id for c in result.plan.changes})
        self.assertRegex(
            "\n".join(map(str, result.notices)),
            "/s.css: its rules stay, since pages that use it were not weighed",
        )


class Fonts(BrowserCase):
    def test_fonts_are_cut_and_drawn_the_same_and_other_letters_still_come(self) -> None:
        fonts = registry_sdist("pillow", "13.0.0", "Tests/fonts")
        latin = (
            ROOT / "web/node_modules/@fontsource-variable/hanken-grotesk/files/hanken-grotesk-latin-wght-normal.woff2"
        )
        rules = (
            "@font-face{font-family:Mono;src:url(free.ttf?v=1)}@font-face{font-family:Text;src:url(t.woff2) format('woff2');"
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
            sheet, r'url\("free-[0-9a-f]{8}\.woff2"\) format\("woff2"\),url\(free\.ttf\?v=1\);unicode-range:U\+20-'
        )
        self.assertEqual(sheet.count("@font-face"), 4)
        self.assertIn("free.ttf", [e.path for e in result.capture.files()])


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
        result = lighten(self.capture(self.FILES), plan, Progress())
        self.assertTrue(result.account.adds_up())
        self.assertEqual([change.id for change in counting(result)], ["leave-out:/idle.js"])
        self.assertEqual(list(set_aside(result)), ["leave-out:/needed.js"])
        self.assertEqual(result.account.saved_by("leave-out:/idle.js").requests, len(result.before))
        for after in result.after:
            self.assertEqual(after.kinds()["scripts"]["requests"], 1)
