"""Excess beside images: what others bring, fonts, repeat visits, hidden panels, structure, unused parts."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from demo import services
from tests.core.survey.test_survey import SHOWN, URL
from tests.sites import FolderCase, page, photo
from unladen.capture import Capture
from unladen.capture.recorded import Response, capture_of_responses
from unladen.plan import EFFORTS
from unladen.progress import Progress
from unladen.survey import Finding, SiteFacts, survey
from unladen.survey.code.twice import library_of
from unladen.survey.code.unused import UseFacts
from unladen.survey.embeds.third_parties import BringerFacts
from unladen.weigh.page.coverage import FileUse
from unladen.weigh.page.fonts import fonts_of
from unladen.weigh.records.conditions import DEVICES, Conditions
from unladen.weigh.records.model import PageFacts, Part, Request, Structure, Visit, WeighIn
from unladen.weigh.visits.walk import Walk
from unladen.work_cache import WorkCache

HOST = "https://site.example/"
PAGE = HOST + "index.html"
FAR = "https://film.example/"


def weigh_in(*requests: Request, device: str = "phone", visit: str = "first", **facts: Any) -> WeighIn:
    page_itself = Request(PAGE, "documents", 200, 900)
    return WeighIn(
        "/index.html", Conditions(DEVICES[device], visit), Visit([page_itself, *requests]), PageFacts(**facts)
    )


def asked(url: str, kind: str, size: int = 1000, **facts: Any) -> Request:
    known = {"initiator": PAGE, "frame": PAGE, "initiator_type": "parser"}
    return Request(url, kind, 200, size, size, **known | facts)


class Surveying(FolderCase):
    def find(self, capture: Capture, *weigh_ins: WeighIn, **more: Any) -> dict[str, Finding]:
        evidence = SiteFacts(capture, weigh_ins, **more)
        surveyed = survey(evidence, EFFORTS["steady"], WorkCache(self.folder / "memo", self.store), Progress())
        found, plan = surveyed.excess, surveyed.plan
        # Advice has no change, and so no place in the plan.
        self.assertEqual({c.id for c in plan.changes}, {c.id for e in found for c in e.changes})
        return {excess.id: excess for excess in found}

    def test_an_embed_with_all_it_causes(self) -> None:
        requests = [
            asked(FAR + "embed", "documents", 2000, frame=FAR + "embed"),
            asked(FAR + "core.js", "scripts", 90_000, initiator=FAR + "embed", frame=FAR + "embed"),
            asked("https://cdn.example/x.js", "scripts", 9_000, initiator=FAR + "core.js", frame=FAR + "embed"),
            asked("https://small.example/t.js", "scripts", 2_000),
        ]
        capture = self.capture({"index.html": page("")})
        found = self.find(capture, weigh_in(*requests), weigh_in(*requests[:2], device="desktop"))
        embed = found["brought:embed:film.example"]
        self.assertEqual((embed.bytes, embed.requests, embed.kind), (101_000 + 3 * 250, 3, "scripts"))
        assert isinstance(embed.facts, BringerFacts)
        self.assertEqual(embed.facts.hosts, ["cdn.example", "film.example"])
        self.assertTrue(embed.advice and not embed.tried and embed.change is None)
        self.assertNotIn("brought:third party:small.example", found)

    def test_images_of_others_are_no_business_of_ours(self) -> None:
        responses = [
            Response(PAGE, 200, (("content-type", "text/html"),), page(f"<img src={FAR}a.jpg>")),
            Response(FAR + "a.jpg", 200, (("content-type", "image/jpeg"),), photo(1200, 800)),
        ]
        capture = capture_of_responses("t", responses, self.store, [])
        image = replace(SHOWN, url=FAR + "a.jpg")
        found = self.find(capture, weigh_in(asked(FAR + "a.jpg", "images", 200_000), images=[image]))
        self.assertEqual([e.excess for e in found.values() if e.change], [])

    def test_pictures_in_closed_panels(self) -> None:
        capture = self.capture({"index.html": page("<img src=a.jpg>"), "a.jpg": photo(1200, 800)})
        hidden = replace(SHOWN, visible=False, first_view=False, width=0, paint_width=0)
        request = asked(URL, "images", 100_000)
        found = self.find(capture, weigh_in(request, images=[hidden]))
        excess = found["hidden:/a.jpg"]
        self.assertEqual((excess.targets, excess.requests), (("/a.jpg",), 1))
        # What the other cures leave of it, so that no byte is counted twice.
        self.assertEqual(excess.bytes + found["webp:/a.jpg"].bytes, len(photo(1200, 800)))
        for shown in (replace(hidden, visible=True), replace(hidden, loading="lazy")):
            self.assertNotIn("hidden:/a.jpg", self.find(capture, weigh_in(request, images=[hidden, shown])))

    def test_what_comes_again_and_why(self) -> None:
        fields = (("content-type", "text/javascript"), ("cache-control", "no-store"))
        responses = [
            Response(PAGE, 200, (("content-type", "text/html"),), page("")),
            Response(HOST + "a.js", 200, fields, b"let a;" * 900),
        ]
        capture = capture_of_responses("t", responses, self.store, [])
        request = asked(HOST + "a.js", "scripts", 5000, response_headers=list(fields))
        excess = self.find(capture, weigh_in(request))["again:no store"]
        self.assertEqual((excess.visit, excess.bytes, excess.tried), ("repeat", 5250, False))
        # A weighed repeat visit goes before what headers promise.
        changing = replace(request, url=HOST + "a.js?2")
        repeats = [weigh_in(changing, visit="repeat")]
        first = weigh_in(replace(request, url=HOST + "a.js?1"))
        again = self.find(capture, first, repeats=repeats)["again:new address"]
        self.assertEqual((again.tried, again.requests), (True, 1))

    def test_the_headers_of_plain_files_are_our_own_assumption_and_prove_nothing(self) -> None:
        capture = self.capture({"index.html": page(""), "a.js": b"let a;" * 900})
        found = self.find(capture, weigh_in(asked(HOST + "a.js", "scripts", 5000)))
        self.assertFalse([name for name in found if name.startswith("again:")])

    def test_advice_on_how_a_page_is_built(self) -> None:
        capture = self.capture({"index.html": page("")})
        built = Structure(
            4000, 40, Part("html>b"), [Part("html>main", "Visits", 3000)], [Part("#a"), Part("#b")], ["#b"]
        )
        found = self.find(capture, weigh_in(structure=built), weigh_in(structure=Structure(10, 3), device="desktop"))
        titles = {name: found[name].title for name in ("nodes:/index.html", "deep:/index.html", "moving:/index.html")}
        self.assertIn("4,000 elements", titles["nodes:/index.html"])
        self.assertIn("stand in “Visits”", found["nodes:/index.html"].why)
        self.assertIn("40 deep", titles["deep:/index.html"])
        self.assertEqual(titles["moving:/index.html"], "2 animations never end, 1 of them within another")
        self.assertEqual(self.find(capture, weigh_in(structure=Structure(10, 3))), {})

    def test_parts_that_no_walk_used(self) -> None:
        capture = self.capture({"index.html": page(""), "a.css": bytes(range(32, 127)) * 400})
        use = FileUse(HOST + "a.css", "styles", 38_000, [(0, 9_500)])
        walks = [Walk("/index.html", DEVICES["phone"], files=[use, FileUse(FAR + "x.js", "scripts", 90_000, [])])]
        excess = self.find(capture, weigh_in(), walks=walks)
        self.assertFalse(excess)  # it packs so well that three quarters of it are crumbs
        files = {"index.html": page(""), "a.css": photo(300, 200)}
        size = len(files["a.css"])
        walks = [Walk("/index.html", DEVICES["phone"], files=[FileUse(HOST + "a.css", "styles", size, [])])]
        found = self.find(self.capture(files), weigh_in(), walks=walks)["unused:/a.css"]
        self.assertEqual(found.facts, UseFacts(used=0, size=size))


class Rules(FolderCase):
    DEAD = "".join(f".x{n} > b {{ color: rgb({n}, {n}, {n}); order: {n} }}\n" for n in range(90))
    ABSENT = frozenset(f".x{n}" for n in range(90))

    def dead(self, *weigh_ins: WeighIn, walks: Sequence[Walk] = ()) -> frozenset[str] | None:
        """The names that are nowhere, None where the sheet stays."""
        files = {"index.html": page("<p>x", "<link rel=stylesheet href=s.css>"), "s.css": self.DEAD.encode()}
        evidence = SiteFacts(self.capture(files), weigh_ins, walks=walks)
        surveyed = survey(evidence, EFFORTS["steady"], WorkCache(self.folder / "memo", self.store), Progress())
        change = next((c for c in surveyed.plan.changes if c.id == "trim-styles:/s.css"), None)
        return frozenset(change.params.absent) & self.ABSENT if change else None

    def seen(self, *names: str, device: str = "phone") -> WeighIn:
        return weigh_in(asked(HOST + "s.css", "styles", 900), device=device, names=list(names))

    def test_a_rule_goes_where_no_page_has_what_it_asks_for(self) -> None:
        self.assertEqual(self.dead(self.seen("p", "html")), self.ABSENT)
        self.assertEqual(self.dead(self.seen("p"), self.seen("p", ".x7", device="desktop")), self.ABSENT - {".x7"})

    def test_a_device_on_which_the_page_did_not_answer_proves_nothing(self) -> None:
        self.assertIsNone(self.dead(self.seen("p"), self.seen(device="desktop")))

    def test_what_a_walk_has_used_stays(self) -> None:
        start = self.DEAD.index(".x7 ")
        use = FileUse(HOST + "s.css", "styles", len(self.DEAD), [(start, start + 20)])
        walks = [Walk("/index.html", DEVICES["phone"], files=[use])]
        self.assertEqual(self.dead(self.seen("p", "html"), walks=walks), self.ABSENT - {".x7"})


class Fonts(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        faces = "".join(
            f"@font-face{{font-family:'{family}';font-weight:{weight};src:url({family}-{weight}.woff2)}}"
            for family, weight, _ in services.FAMILIES
        )
        files = {f"{f}-{w}.woff2": services.font(path, f, w) for f, w, path in services.FAMILIES}
        self.site = self.capture(
            {
                "index.html": page("", "<link rel=stylesheet href=f.css>"),
                "f.css": faces.encode(),
                "bad.woff2": b"wOF2 nonsense",
                **files,
            }
        )
        self.requests = [asked(HOST + "f.css", "styles")]
        self.requests += [asked(HOST + name, "fonts", len(body)) for name, body in files.items()]

    def test_families_bytes_characters_and_who_asks(self) -> None:
        shown = Structure(
            fonts=[{"family": "Sluice", "weight": "400", "style": "normal", "characters": "abc\U0001f600"}]
        )
        fonts = fonts_of(self.site, [*self.requests, asked(HOST + "bad.woff2", "fonts", 13)], shown)
        sluice = next(f for f in fonts if f.url.endswith("Sluice-400.woff2"))
        self.assertEqual((sluice.family, sluice.weight, sluice.format, sluice.used), ("Sluice", "400", "WOFF2", 3))
        self.assertGreater(sluice.glyphs, 500)
        self.assertEqual(sluice.asked_by, HOST + "f.css")
        bad = next(f for f in fonts if f.url.endswith("bad.woff2"))
        self.assertEqual((bad.glyphs, bad.family), (0, ""))

    def test_more_than_two_families_and_files_with_far_more_than_is_shown(self) -> None:
        rows = [
            {"family": f, "weight": "400", "style": "normal", "characters": "abc"} for f, _, _ in services.FAMILIES
        ]
        evidence = SiteFacts(self.site, [weigh_in(*self.requests, structure=Structure(fonts=rows))])
        work_cache = WorkCache(self.folder / "memo", self.store)
        found = {excess.id: excess for excess in survey(evidence, EFFORTS["steady"], work_cache, Progress()).excess}
        families = found["fonts:families"]
        self.assertEqual(families.title, "4 font families, where two usually do")
        self.assertEqual(len(families.targets), 2)
        cut = [e for name, e in found.items() if name.startswith("glyphs:")]
        self.assertTrue(cut and all(0 < e.bytes < e.of_bytes and e.tried and e.changes[0].on for e in cut))
        # What is cut off counts once: of the families what is left of them.
        whole = sum(font.transferred for font in fonts_of(self.site, self.requests, Structure(fonts=rows)))
        self.assertEqual(families.of_bytes, whole - sum(excess.bytes for excess in cut))


class Twice(unittest.TestCase):
    def test_libraries_are_told_by_their_comment_and_the_name_of_the_file(self) -> None:
        for chars, name, known in (
            ("/*! jQuery v3.6.0 | (c) somebody */(function(){})()", "jquery.min.js", ("jquery", "3.6.0")),
            ("/*!\n * jQuery JavaScript Library v1.12.4\n */", "jquery.js", ("jquery", "1.12.4")),
            ("/*!\n  * Frame v4.6.0 (https://frame.example/)\n */", "frame.bundle.min.js", ("frame", "4.6.0")),
            ("// slides, version 2.1\n// by somebody", "touch.slides.js", ("slides", "2.1")),
            ("void 0", "moment-2.29.1.min.js", ("moment", "2.29.1")),
            ("void 0", "moment@2.29.1.js", ("moment", "2.29.1")),
            ("/*! Wheel plugin for jQuery 1.2 */", "jquery.wheel.js", None),
            ("/*! jQuery 1.2 needed */", "plugin.js", None),
            ("void 'jQuery v1.2'", "jquery.js", None),
            ("/*", "a.js", None),
            ("", "", None),
        ):
            with self.subTest(name):
                self.assertEqual(library_of(chars, name), known)
