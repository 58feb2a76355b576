"""What stands in the heads of pages for browsers and platforms: hosts, the next page, fonts, and what nobody reads."""

from __future__ import annotations

import json
import re
from dataclasses import replace
from pathlib import Path
from typing import Any

from tests.core.survey.test_survey_weighing import HOST, PAGE, asked, weigh_in
from tests.sites import FolderCase, page
from unladen.build import build
from unladen.capture import Capture
from unladen.capture.recorded import Response, capture_of_responses
from unladen.fonts.metrics import face_like, metrics_of
from unladen.markup.extras import extras_in
from unladen.markup.html import Document
from unladen.plan import EFFORTS, Plan
from unladen.progress import Progress
from unladen.remedies import Change
from unladen.remedies.delivery.lifetimes import FOR_GOOD, lifetime_of
from unladen.remedies.delivery.next_page import NextParams
from unladen.remedies.delivery.rules import rules_beside
from unladen.styles.faces import shown_at_once
from unladen.styles.fallbacks import generic_after, with_fallbacks
from unladen.survey import SiteFacts, survey
from unladen.survey.proposing import Surveyed
from unladen.weigh.records.model import Structure, WeighIn
from unladen.work_cache import WorkCache

FONTS = "https://fonts.example/"
ROOT = Path(__file__).resolve().parent.parent.parent.parent
FONT = ROOT / "web/node_modules/@fontsource-variable/hanken-grotesk/files/hanken-grotesk-latin-wght-normal.woff2"


class Heads(FolderCase):
    def surveyed(self, capture: Capture, *weigh_ins: WeighIn, effort: str = "steady") -> Surveyed:
        work_cache = WorkCache(self.folder / "memo", self.store)
        return survey(SiteFacts(capture, weigh_ins), EFFORTS[effort], work_cache, Progress())

    def page_after(self, capture: Capture, *changes: Change[Any]) -> str:
        lighter, journal = build(capture, Plan("bold", changes), WorkCache(self.folder / "memo", self.store))
        self.assertEqual(journal.notices, [])
        return lighter.body(lighter.page("/index.html")).decode()


class Hosts(Heads):
    def test_a_host_found_late_is_looked_up_early_and_a_hint_to_nowhere_goes(self) -> None:
        head = (
            "<link rel=preconnect href=https://gone.example><link rel='dns-prefetch' href=//gone.example>"
            f"<link rel=stylesheet href={FONTS}f.css><link rel='preconnect stylesheet' href=https://odd.example>"
        )
        css = (("content-type", "text/css"),)
        capture = capture_of_responses(
            "t",
            [
                Response(PAGE, 200, (("content-type", "text/html"),), page("", head)),
                Response(FONTS + "f.css", 200, css, b"@font-face{font-family:F;src:url(//files.example/f.woff2)}"),
            ],
            self.store,
            [],
        )
        requests = [
            asked(FONTS + "f.css", "styles"),
            asked("https://files.example/f.woff2", "fonts", initiator=FONTS + "f.css"),
            asked("https://third.example/x.png", "images", initiator="https://third.example/x.js"),
        ]
        found = {excess.id: excess for excess in self.surveyed(capture, weigh_in(*requests)).excess}
        change = found["hints"].change
        assert change
        self.assertEqual(change.params.connect, {"/index.html": "https://files.example"})
        self.assertEqual(change.params.idle, {"/index.html": "https://gone.example"})
        text = self.page_after(capture, change)
        self.assertIn('<link data-unladen=hint rel=preconnect href="https://files.example" crossorigin>', text)
        self.assertNotIn("gone.example", text)
        self.assertIn("odd.example", text)

    def test_a_host_that_comes_only_once_wanted_is_not_looked_up(self) -> None:
        capture = self.capture({"index.html": page("<script async src=https://tag.example/t.js></script>")})
        requests = [
            asked("https://tag.example/t.js", "scripts", 40_000),
            asked("https://more.example/m.js", "scripts", 9_000, initiator="https://tag.example/t.js"),
        ]
        hosts = {}
        for effort in ("steady", "bold"):
            plan = self.surveyed(capture, weigh_in(*requests), effort=effort).plan
            found = plan.change("hints")
            hosts[effort] = found.params.connect if found else {}
            waits = plan.change("delay-scripts:https://tag.example/t.js")
            self.assertEqual(waits is not None and waits.on, effort == "bold")
        self.assertEqual(hosts, {"steady": {"/index.html": "https://more.example"}, "bold": {}})


class NextPage(Heads):
    def test_off_until_wanted_and_not_for_what_links_do(self) -> None:
        capture = self.capture({"index.html": page("<a href=b.html>B</a>"), "b.html": page("B")})
        surveyed = self.surveyed(capture, weigh_in(), effort="bold")
        change = surveyed.plan.change("next-page")
        assert change
        self.assertFalse(change.on)
        text = self.page_after(capture, replace(change, on=True, params=NextParams(never="/account* </script>")))
        rules = re.findall(r"<script type=speculationrules[^>]*>(.*?)</script>", text)
        where = json.loads(rules[0])["prefetch"][0]["where"]["and"]
        self.assertLessEqual({"/*logout*", "/account*", "</script>"}, set(where[1]["not"]["href_matches"]))

    def test_not_where_a_page_leads_nowhere(self) -> None:
        capture = self.capture({"index.html": page("<a href=#top>Up</a><a href=https://other.example/>Out</a>")})
        self.assertIsNone(self.surveyed(capture, weigh_in()).plan.change("next-page"))


class Extras(Heads):
    GOING = (
        "<!--[if lt IE 9]><script src=shim.js></script><![endif]-->",
        "<meta name=generator content='Platform 6.1'>",
        "<meta http-equiv=X-UA-Compatible content='IE=edge'>",
        "<link rel=EditURI type='application/rsd+xml' href=/rsd>",
        "<link rel=wlwmanifest href=/w.xml>",
        "<link rel=alternate type='application/json+oembed' href='/oembed?url=x'>",
        "<link rel=alternate type='application/rss+xml' href=/comments/feed/>",
    )
    STAYING = (
        "<!--[if !IE]><!--><meta name=a><!--<![endif]-->",
        "<!--[if IE]><!--><meta name=b><!--<![endif]-->",
        "<meta name=description content=generator>",
        "<link rel=alternate type='application/rss+xml' href=/feed/>",
        "<link rel=alternate hreflang=de href=/de/>",
        "<script>var s = '<!--[if IE]>x<![endif]-->'</script>",
        "<link rel='alternate stylesheet' href=x.css>",
    )

    def test_what_nobody_reads_is_told_from_what_somebody_does(self) -> None:
        for text in self.GOING:
            with self.subTest(text):
                found = extras_in(Document(page("", text).decode()))
                self.assertEqual(len(found), 1)
        for text in self.STAYING:
            with self.subTest(text):
                self.assertEqual(extras_in(Document(page("", text).decode())), [])

    def test_all_of_it_goes_and_the_rest_is_as_it_was(self) -> None:
        capture = self.capture({"index.html": page("<p>Words", "".join(self.GOING + self.STAYING))})
        surveyed = self.surveyed(capture, weigh_in())
        change = surveyed.plan.change("drop-extras")
        assert change
        text = self.page_after(capture, change)
        self.assertEqual(text, page("<p>Words", "".join(self.STAYING)).decode())
        excess = next(e for e in surveyed.excess if e.id == "drop-extras")
        self.assertGreater(excess.bytes, 100)


class Fonts(Heads):
    def test_faces_say_how_text_shows_until_they_are_there_unless_they_do_so_already(self) -> None:
        sheet = (
            "@font-face{font-family:A;src:url(a.woff2)}@font-face{font-family:A;font-display:optional;src:url(a.woff2)}"
            "@font-face { font-family: A; src: url(a.woff2); font-display : block; }@font-face{font-family:B;"
            "src:url(b.woff2)}"
        )
        self.assertEqual(
            shown_at_once(sheet, HOST, {HOST + "a.woff2"}, "swap"),
            "@font-face{font-family:A;src:url(a.woff2);font-display:swap}"
            "@font-face{font-family:A;font-display:optional;src:url(a.woff2)}"
            "@font-face { font-family: A; src: url(a.woff2); font-display : swap; }@font-face{font-family:B;"
            "src:url(b.woff2)}",
        )

    def test_a_fallback_follows_its_family_wherever_that_is_asked_for(self) -> None:
        for before, after in (
            ("p{font-family:Inter,serif}", 'p{font-family:Inter,"f",serif}'),
            ("p{font-family:'Inter'}", "p{font-family:'Inter',\"f\"}"),
            ("p{font:italic 12px/1.5 Inter, x !important}", 'p{font:italic 12px/1.5 Inter,"f", x !important}'),
            (":root{--font-body: Inter, serif}", ':root{--font-body: Inter,"f", serif}'),
            ("p{font-family:Inter Tight,x}", ""),
            ("p{font-family:My Inter}", ""),
            ("@font-face{font-family:Inter;src:url(a)}", ""),
            (".Inter{color:red}", ""),
        ):
            with self.subTest(before):
                self.assertEqual(with_fallbacks(before, {"Inter": "f"}), after or before)
        self.assertEqual(generic_after("a{font-family:Inter,x,sans-serif}", "Inter"), "sans-serif")
        self.assertEqual(generic_after("a{font:1px Inter,monospace}b{font-family:x,serif}", "Inter"), "monospace")

    def test_a_font_of_the_system_takes_its_own_room_as_it_is(self) -> None:
        found = metrics_of(Path("/usr/share/fonts/truetype/liberation/LiberationSans-Regular.ttf").read_bytes())
        assert found
        face = face_like("x", found, "sans-serif", "U+20")
        self.assertEqual(re.findall(r"size-adjust:([\d.]+)%", face), ["100.00"])
        self.assertEqual(
            re.findall(r"(?:ascent|descent)-override:([\d.]+)%", face), ["90.53", "21.19"]
        )  # as its own tables have it
        self.assertIsNone(metrics_of(b"no font"))

    def site(self, head: str = "") -> tuple[Capture, WeighIn]:
        font = FONT.read_bytes()
        sheet = b"@font-face{font-family:Inter;src:url(i.woff2)}p{font-family:Inter}"
        capture = self.capture(
            {
                "index.html": page("<p>Words", f"<link rel=stylesheet href=a.css>{head}"),
                "a.css": sheet,
                "i.woff2": font,
            }
        )
        shown = Structure(
            fonts=[{"family": "Inter", "weight": "400", "style": "normal", "characters": "Words", "first": True}]
        )
        requests = [
            asked(HOST + "a.css", "styles", blocking=True),
            asked(HOST + "i.woff2", "fonts", len(font), initiator=HOST + "a.css"),
        ]
        return capture, weigh_in(*requests, structure=shown)

    def test_a_font_of_the_first_view_is_named_by_the_page_as_it_is_in_the_end(self) -> None:
        capture, weighed = self.site()
        plan = self.surveyed(capture, weighed).plan
        changes = [c for c in plan.changes if c.remedy in ("subset-fonts", "fonts-first", "show-text")]
        self.assertEqual({c.remedy for c in changes}, {"subset-fonts", "fonts-first", "show-text"})
        lighter, _ = build(capture, Plan("steady", tuple(changes)), WorkCache(self.folder / "memo", self.store))
        text = lighter.body(lighter.page("/index.html")).decode()
        name = re.findall(r'rel=preload as=font type="font/woff2" crossorigin href="(i-\w{8}\.woff2)"', text)
        self.assertEqual(len(name), 1)
        self.assertIn(HOST + name[0], lighter.exchanges)
        sheet = lighter.body(lighter.exchanges[HOST + "a.css"]).decode()
        self.assertEqual(sheet.count("font-display:swap"), sheet.count("@font-face"))

    def test_a_page_that_names_its_font_already_names_the_smaller_one(self) -> None:
        capture, weighed = self.site("<link rel=preload as=font type=font/woff2 crossorigin href=i.woff2>")
        plan = self.surveyed(capture, weighed).plan
        self.assertFalse([c for c in plan.changes if c.remedy == "fonts-first"])
        change = next(c for c in plan.changes if c.remedy == "subset-fonts")
        text = self.page_after(capture, change)
        self.assertRegex(text, r'rel=preload as=font type="font/woff2" crossorigin href="i-\w{8}\.woff2"')

    def test_hosts_of_static_files_are_told_each_file_by_itself(self) -> None:
        files = {"index.html": page(""), "a b.png": b"x", "s-0a1b2c3d.css": b"", "t.css": b""}
        text = rules_beside(self.capture(files), 86_400)["server-rules/_headers"]
        self.assertEqual(
            text,
            f"/a%20b.png\n  Cache-Control: {lifetime_of(86_400)}\n/s-0a1b2c3d.css\n  Cache-Control: {FOR_GOOD}\n",
        )
