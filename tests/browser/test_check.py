"""Pages looked at for real: what the check finds, what it leaves alone, and pages that do as they please."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema

from bench.planted import Bench, crowd_for
from bench.planted.faults import FAULTS
from bench.planted.harmless import HARMLESS
from tests.browser.cases import PHONE, BrowserCase, CommandCase, counting, set_aside
from tests.sites import page, photo, zip_of
from unladen.check.compare import compare
from unladen.check.page_checks import PageChecks
from unladen.check.snapshot import Snapshot
from unladen.weigh.records.conditions import device_named
from unladen.work_cache import WorkCache, work_cache_of

SCHEMAS = Path(__file__).resolve().parent.parent.parent / "docs" / "schemas"
# Some that only a walk or a picture shows; what the others see is asked in test_seeing, and `python -m bench.planted`
# tries all of them.
PLANTED = (
    "menu button is dead",
    "button in a frame is dead",
    "button in a shadow tree",
)
HARMLESS_ONES = (
    ("/extras.html", "minified styles"),
    ("/index.html", "picture element"),
)


class Planted(BrowserCase):
    def test_planted_faults_are_found_and_blamed_and_harmless_changes_are_neither(self) -> None:
        browser = self.serve(self.capture({"index.html": b"<p>nothing"}))
        bench = Bench(self.folder, PageChecks(browser, WorkCache(self.folder / "memo", self.store)), ["own"])
        faults = {fault.name: fault for fault in FAULTS}
        for name in PLANTED:
            device = device_named(faults[name].devices[0])
            with self.subTest(name):
                self.assertTrue(bench.differences(faults[name], device))
        fault = faults["button in a frame is dead"]
        blamed, asked = bench.culprit(fault, PHONE.device, crowd_for(fault, 2))
        self.assertEqual(blamed, [fault.name])
        self.assertLessEqual(asked, 8)
        for entry in (e for e in HARMLESS if e.site == "own" and (e.page, e.name) in HARMLESS_ONES):
            with self.subTest(entry.name):
                self.assertEqual(list(bench.differences(entry, PHONE.device)), [])


class OddPages(BrowserCase):
    """Whatever a page does, two looks at it are the same, and it comes to an end."""

    def look_twice(self, body: str, head: str = "", *, quick: bool = False) -> list[Snapshot]:
        files = {"index.html": page(body, head), "a.jpg": photo(300, 200), "other.html": page("Other")}
        return self.snapshots(files, quick=quick, times=2)

    def test_pages_that_move_wait_or_run_away_look_the_same_twice(self) -> None:
        at_rest = {"clock", "late", "leisure", "endless drawing", "nothing to see", "waits by the clock"}
        for name, body in {
            "clock": "<p id=p></p><script>setInterval(() => { p.textContent = new Date() }, 50)</script>",
            "carousel": "<p id=p>0</p><script>let n = 0; setInterval(() => { p.textContent = ++n }, 3000)</script>",
            "late": "<p id=p></p><script>setTimeout(() => { p.textContent = 'came late' }, 2500)</script>",
            "leisure": "<p id=p>Text</p><script>let n = 0; (function on() { p.title = ++n; "
            "requestIdleCallback(on) })()</script>",
            "endless drawing": "<canvas id=c></canvas><script>(function draw() { c.width = 300; "
            "requestAnimationFrame(draw) })()</script>",
            "dialogs": "<script>alert(1); confirm(2); print(); open('other.html')</script><button "
            "onclick='alert(3)'>Ask</button>",
            "goes away": "<p>Here</p><button onclick=\"location.href = 'other.html'\">Leave</button><a "
            "href=other.html>Link</a>",
            "traps the focus": "<input id=i><script>document.addEventListener('focusout', () => setTimeout(() => "
            "i.focus()))</script>",
            "nothing to see": "<div hidden>Nothing</div>",
            "cookie choice": "<div style='position:fixed;inset:0;background:#fff'><button "
            "onclick='this.parentNode.remove()'>Agree</button></div><p>Text",
            "waits by the clock": "<p id=p></p><script>const t = Date.now(); while (Date.now() - t < 300); "
            "p.textContent = 'waited'</script>",
        }.items():
            with self.subTest(name):
                first, second = self.look_twice(body, quick=name in at_rest)
                self.assertTrue(first.alive and second.alive)
                self.assertEqual((first.restless, second.restless), ("", ""))
                self.assertEqual(compare(first, first, second), ())

    def test_what_comes_late_is_there_and_what_was_held_has_run_as_often(self) -> None:
        late, _ = self.look_twice(
            "<p id=p></p><script>setTimeout(() => { p.textContent = 'came late' }, 2500)</script>"
        )
        self.assertIn("came late", late.values("words")["words"].values())
        slides, _ = self.look_twice(
            "<p id=p>0</p><script>let n = 0; setInterval(() => { p.textContent = ++n }, 3000)</script>"
        )
        self.assertIn("2", slides.values("words")["words"].values())  # in six seconds of its own time

    def test_what_a_page_is_told_only_with_its_next_frame_belongs_to_the_step(self) -> None:
        # The browser tells of a scroll, and of the end of a movement, when it draws: a busy machine does so late.
        body = (
            "<nav style='position:fixed;top:0'><a href='#end'>To the end</a><button id=row>Row</button>"
            "<button class=other id=move>Move</button><b id=told>-</b></nav>"
            "<div id=box style='position:fixed;top:90px;height:60px;overflow:auto'><p style='height:900px'>Rows</div>"
            "<i id=dot style='position:fixed;top:60px'>.</i>"
            "<section style='height:3000px'></section><section id=end style='height:4000px'>End</section>"
            "<script>const say = (word) => { told.textContent = word; };"
            "document.addEventListener('scroll', () => say(`page ${scrollY}`));"
            "box.addEventListener('scroll', () => say(`box ${box.scrollTop}`));"
            "row.onclick = () => { box.scrollTop = 80; };"
            "move.onclick = () => { dot.animate([{ left: 0 }, { left: '9px' }], 9000).onfinish = () => say('moved'); };"
            "</script>"
        )
        for snapshot in self.look_twice(body):
            said = {step["words"]: str(step["effect"]) for step in snapshot.values("walk")["steps"]}
            self.assertIn("page 3008", said["pressing the link “To the end”"])
            self.assertIn("box 80", said["pressing the button “Row”"])
            self.assertIn("moved", said["pressing the button “Move”"])

    def test_a_page_that_never_rests_says_why_and_nobody_is_blamed(self) -> None:
        # Messages to oneself are none of the timers that we can hold.
        body = (
            "<p id=p>Text</p><script>const { port1, port2 } = new MessageChannel();"
            "port1.onmessage = () => { p.title = performance.now(); port2.postMessage(0) }; "
            "port2.postMessage(0)</script>"
        )
        first, second = self.look_twice(body, quick=True)
        self.assertTrue(first.alive and second.alive)
        self.assertIn("the page keeps changing", first.restless)

    def test_a_page_that_blocks_for_good_is_dead_and_the_rest_goes_on(self) -> None:
        first, _ = self.look_twice(
            "<p>Text</p><script>setTimeout(() => { for (;;) document.title += 1 }, 900)</script>"
        )
        self.assertFalse(first.alive)

    def test_a_page_of_very_many_elements_comes_to_an_end(self) -> None:
        many = "<div class=a><b>x</b><i>y</i></div>" * 1500
        first, second = self.look_twice(many, "<style>.a:hover b{color:red}</style>", quick=True)
        self.assertEqual(compare(first, first, second), ())
        self.assertEqual(len(first.values("rules")["marks"]), 4_502)

    def test_lazy_pictures_far_down_a_very_tall_page_are_seen(self) -> None:
        tall = "".join(
            f"<div style='height:3000px'>{n}</div><img loading=lazy width=90 height=60 src=a.jpg?{n}>"
            for n in range(20)
        )
        snapshot, _ = self.look_twice(tall, quick=True)
        self.assertEqual(snapshot.values("images")["broken"], [])
        self.assertGreater(len(snapshot.strips), 14)
        self.assertIn("https://site.example/a.jpg?19", snapshot.reads)


class Keeping(BrowserCase):
    def test_only_the_one_target_that_breaks_is_set_aside(self) -> None:
        low = "<div style='height:3000px'></div>" + "".join(
            f"<img id=i{n} src=p{n}.jpg width=300 height=200 style='display:block;margin-top:900px'>"
            for n in range(4)
        )
        # It must be there from the start, or the page says so.
        touchy = (
            "<p id=p></p><script>onload = () => { if (i2.loading === 'lazy') p.textContent = 'not there yet' "
            "}</script>"
        )
        files = {"index.html": page(low + touchy), **{f"p{n}.jpg": photo(300, 200, n) for n in range(4)}}
        result = self.lighten(files, "gentle", pages=["/index.html"], devices=["phone"])
        self.assertEqual(set_aside(result), {})
        lazy = next(change for change in counting(result) if change.remedy == "lazy-images")
        self.assertEqual(set(lazy.targets), {"/p0.jpg", "/p1.jpg", "/p3.jpg"})
        (part,) = result.outcomes.by_change[lazy.id].parts
        self.assertEqual(part.target, "/p2.jpg")
        self.assertIn("not there yet", part.reason)
        self.assertTrue(all(pair.passed for pair in result.pairs))
        line = next(row for row in result.ledger()["changes"] if row["id"] == lazy.id)
        self.assertEqual((line["standing"], [p["target"] for p in line["aside"]]), ("passed", ["/p2.jpg"]))

    def test_what_breaks_on_a_tablet_alone_is_seen_though_nobody_weighed_there(self) -> None:
        touchy = (
            "<p id=p></p><script>onload = () => { if (innerWidth > 700 && innerWidth < 1000 && i.loading === 'lazy')"
            " p.textContent = 'not there yet' }</script>"
        )
        low = (
            "<div style='height:3000px'></div><img id=i src=p.jpg width=300 height=200><img src=q.jpg width=300 "
            "height=200>"
        )
        index = page(low + touchy, "<meta name=viewport content='width=device-width'>")
        files = {"index.html": index, "p.jpg": photo(300, 200), "q.jpg": photo(300, 200, 2)}
        result = self.lighten(files, "gentle", devices=())
        lazy = result.outcomes.by_change["lazy-images:/index.html"]
        self.assertEqual([(part.target, "on tablet" in part.reason) for part in lazy.parts], [("/p.jpg", True)])
        self.assertEqual({pair.device for pair in result.pairs}, {"phone", "tablet", "desktop"})

    def test_a_photograph_in_a_hero_keeps_its_saving(self) -> None:
        hero = (
            "<div style='height:400px;background:linear-gradient(#0004,#0008),url(hero.jpg) center/cover'><h1 "
            "style='color:#fff'>Words</h1></div>"
        )
        files = {
            "index.html": page(hero + "<img src=icon.png width=40 height=40>"),
            "hero.jpg": photo(2600, 1700, 4, quality=96, grain=2),
            "icon.png": photo(300, 300, 5, "PNG"),
        }
        result = self.lighten(files, "steady")
        self.assertEqual(set_aside(result), {})
        self.assertLess(result.account.after.bytes, result.account.before.bytes / 4)


class CommandLine(CommandCase):
    def test_two_versions_of_a_site_from_any_source(self) -> None:
        menu = (
            '<button onclick="m.hidden = !m.hidden">Menu</button><nav id=m hidden><a href=about.html>About</a></nav>'
        )
        files = {
            "index.html": page(menu + "<img src=a.jpg alt=Wheel>"),
            "about.html": page("About"),
            "a.jpg": photo(300, 200),
        }
        before = str(zip_of(files, self.folder / "before.zip"))
        same = str(zip_of({f"site/{name}": body for name, body in files.items()}, self.folder / "same.zip"))
        code, said, _ = self.run_check(before, same, "--device", "phone", "--quick")
        self.assertEqual((code, said), (0, "/index.html on phone: the same\n/about.html on phone: the same\n"))
        broken = files | {"index.html": files["index.html"].replace(b"m.hidden = !m.hidden", b"")}
        del broken["about.html"]
        after = str(zip_of(broken, self.folder / "after.zip"))
        code, said, _ = self.run_check(before, after, "--device", "phone", "--json")
        document = json.loads(said)
        jsonschema.validate(document, json.loads((SCHEMAS / "check-1.json").read_text()))
        self.assertEqual((code, document["same"], document["quick"]), (1, False, False))
        index, about = document["pages"]
        self.assertIn("pressing the button “Menu” has no effect now", index["differences"][0]["text"])
        self.assertEqual([d["what"] for d in about["differences"]], ["page"])
        self.assertEqual(work_cache_of(self.store).root.name, "memo")

    def test_bad_input_is_one_line_and_exit_code_two(self) -> None:
        site = str(zip_of({"index.html": page("x")}, self.folder / "a.zip"))
        (self.folder / "b.zip").write_bytes(b"no archive")
        for arguments, words in (
            ((site, str(self.folder / "b.zip")), "b.zip: is not a ZIP file"),
            ((site, "/no/such"), "does not exist"),
            ((site, site, "--page", "/x.html"), "has no such page"),
            ((site, site, "--device", "toaster"), "is not a device"),
        ):
            code, said, errors = self.run_check(*arguments)
            self.assertEqual((code, said, errors.count("\n")), (2, "", 1), arguments)
            self.assertIn(words, errors)
