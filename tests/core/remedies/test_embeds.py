"""Embeds and widgets: what they are told by, what stands in for them, and that all of it can be taken back."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path
from typing import Any

import turbohtml
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.plans import change
from tests.sites import FolderCase, page, photo
from unladen.build import build
from unladen.capture import Capture
from unladen.capture.recorded import Response, capture_of_responses
from unladen.plan import EFFORTS, Plan
from unladen.progress import Progress
from unladen.remedies import Change, Journal
from unladen.remedies.embeds.delay_scripts import Place
from unladen.remedies.embeds.stills import EmbedParams, allowed, still_document
from unladen.remedies.loader import LOADER, MARGIN, STILLER, WAITER
from unladen.survey import Finding, SiteFacts, survey
from unladen.survey.embeds.frames import kind_of
from unladen.weigh.page.embeds import Above, Embed, Inside
from unladen.weigh.records.conditions import DEVICES, HEADER_BYTES, Conditions
from unladen.weigh.records.model import PageFacts, Request, Visit, WeighIn
from unladen.work_cache import WorkCache

WEB = Path(__file__).resolve().parent.parent.parent.parent / "web"
HOST = "https://site.example/"
PLAYER = "https://player.example/film?id=7&hd=1"
WIDGET = "https://gate.example/w.js"
FRAME = "https://gate.example/frame"


def responses(body: str, head: str = "", **headers: str) -> list[Response]:
    """A page with what it embeds."""

    def answer(url: str, media_type: str, body: bytes, fields: dict[str, str]) -> Response:
        return Response(url, 200, (("content-type", media_type), *fields.items()), body)

    policy = {name.replace("_", "-"): value for name, value in headers.items()}
    return [
        answer(HOST, "text/html", page(body, head), policy),
        answer(PLAYER, "text/html", page("<button>Play</button>"), {}),
        answer(WIDGET, "text/javascript", b"/* widget */" * 4000, {}),
        answer(FRAME, "text/html", page("<form><input></form>"), {}),
    ]


class EmbedCase(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.picture = self.store.put(photo(320, 180, format="PNG"))

    def site(self, body: str, head: str = "", **headers: str) -> Capture:
        return capture_of_responses("t", responses(body, head, **headers), self.store, [])

    def built(self, capture: Capture, *changes: Change[Any]) -> tuple[str, Journal]:
        lighter, journal = build(capture, Plan("bold", changes), WorkCache(self.folder / "memo", self.store))
        return lighter.body(lighter.page("/")).decode(), journal

    def embed(self, url: str = PLAYER, **params: Any) -> Change[Any]:
        pictures = [{"digest": self.picture, "frame": 640, "width": 640, "height": 360}]
        wanted = {
            "kind": "player",
            "title": "The sluice",
            "way": "still",
            "start": "autoplay=1",
            "pictures": pictures,
        }
        return change(f"embed:{url}", "embed", (url,), ("/",), wanted | params)

    def hold(self, **params: Any) -> Change[Any]:
        return change("hold", "delay-scripts", (WIDGET,), ("/",), {"wait": "act"} | params)


class PageGroups(FolderCase):
    def test_an_embed_is_told_by_what_stands_in_it(self) -> None:
        self.assertEqual(kind_of(Inside(films=1)), "player")
        self.assertEqual(kind_of(Inside(plays=1, fields=2)), "player")
        self.assertEqual(kind_of(Inside(), "autoplay; fullscreen"), "player")
        self.assertEqual(kind_of(Inside(tiles=6, images=6)), "map")
        self.assertEqual(kind_of(Inside(fields=1, images=9)), "form")
        self.assertEqual(kind_of(Inside(images=5)), "feed")
        self.assertEqual(kind_of(Inside(images=1)), "frame")


class Stills(EmbedCase):
    def test_the_frame_stays_with_all_that_it_had(self) -> None:
        frame = (
            f'<iframe class=film width="100%" name=f src="{PLAYER.replace("&", "&amp;")}" '
            'sandbox="allow-scripts"></iframe>'
        )
        capture = self.site(f"<table><tr><td>{frame}</td></tr></table>")
        text, journal = self.built(capture, self.embed())
        self.assertIn(frame.removeprefix("<iframe"), text)
        self.assertIn("srcdoc=", text)
        self.assertEqual(journal.withheld_by(PLAYER, "/"), f"embed:{PLAYER}")
        again, _ = self.built(capture)
        self.assertEqual(again.encode(), capture.body(capture.page("/")))

    def test_frames_that_no_browser_heeds_or_that_have_their_own_document_stay(self) -> None:
        inert = (
            f'<noscript><iframe src="{PLAYER}"></iframe></noscript><template><iframe src="{PLAYER}"></iframe>'
            "</template>"
        )
        own = f'<iframe srcdoc="<p>mine" src="{PLAYER}"></iframe>'
        text, journal = self.built(self.site(inert + own), self.embed())
        self.assertEqual(text, page(inert + own).decode())
        self.assertEqual([n.reason for n in journal.notices], [f"does not show {PLAYER} any more"])

    def test_the_same_embed_five_times_shares_one_picture(self) -> None:
        frame = f'<iframe src="{PLAYER}"></iframe>'
        capture = self.site(frame * 5)
        lighter, _ = build(capture, Plan("bold", (self.embed(),)), WorkCache(self.folder / "memo", self.store))
        text = lighter.body(lighter.page("/")).decode()
        self.assertEqual(text.count("srcdoc="), 5)
        self.assertEqual([e.path for e in lighter if e.media_type == "image/webp"], ["stills/the-sluice.webp"])

    def test_a_picture_that_is_not_here_leaves_a_plain_still(self) -> None:
        lost = [{"digest": "0" * 64, "frame": 1, "width": 1, "height": 1}]
        text, journal = self.built(self.site(f'<iframe src="{PLAYER}"></iframe>'), self.embed(pictures=lost))
        self.assertIn("srcdoc=", text)
        self.assertNotIn("img src", text)
        self.assertIn("so its placeholder is plain", journal.notices[0].reason)

    def test_where_no_script_may_run_a_link_does_the_same(self) -> None:
        frame = f'<iframe src="{PLAYER}"></iframe>'
        for capture in (
            self.site(frame, content_security_policy="script-src 'self'"),
            self.site(frame, "<meta http-equiv=Content-Security-Policy content=\"default-src 'self'\">"),
        ):
            text, _ = self.built(capture, self.embed())
            self.assertIn("&lt;a class=s" if "&lt;a" in text else "<a class=s", text)
            self.assertNotIn("<button", text)

    def test_what_the_frame_may_do_is_said_of_the_embed(self) -> None:
        # Permissions Policy, 5.3: without origins a feature is that of the frame's own address.
        self.assertEqual(
            allowed("fullscreen; camera 'src'; midi *", PLAYER, plays=True),
            "autoplay https://player.example; fullscreen https://player.example; camera https://player.example; midi *",
        )
        self.assertEqual(allowed("", PLAYER, plays=False), "")

    @settings(max_examples=60, deadline=None)
    @given(st.text(max_size=60), st.text(min_size=1, max_size=60), st.sampled_from(["player", "map"]))
    def test_no_title_or_address_breaks_out(self, title: str, query: str, kind: str) -> None:
        address = f"//player.example/?{query}"
        params = EmbedParams(title=title, kind=kind, start="autoplay=1" if kind == "player" else "")
        text = still_document(params, address, [(640, "a.webp")], "en", scripted=True)
        tree = turbohtml.parse(turbohtml.parse(text).serialize())
        self.assertEqual([e.tag for e in tree.select("body > main > *")], ["button", "noscript", "script"])
        button = tree.select_one("button")
        assert button is not None
        value = str(button.attrs["value"])
        self.assertTrue(value.startswith("//player.example/?"))
        self.assertEqual(value.endswith("autoplay=1"), kind == "player")

    def test_shapes_that_differ_get_a_picture_each(self) -> None:
        text = still_document(EmbedParams(title="t"), PLAYER, [(340, "n.webp"), (660, "w.webp")], "", scripted=True)
        self.assertIn('<source media="(max-width:500px)" srcset="n.webp"><img src="w.webp"', text)


class Holds(EmbedCase):
    MARKUP = f"<div id=gate></div><script async src={WIDGET}></script>"

    def test_a_held_script_is_neither_fetched_nor_run(self) -> None:
        text, journal = self.built(self.site(self.MARKUP), self.hold())
        self.assertIn(f'<script data-hold="act" type="text/held" async src={WIDGET}>', text)
        self.assertEqual(text.count(LOADER), 1)
        self.assertEqual(journal.withheld_by(WIDGET, "/"), "hold")

    def test_near_marks_the_place_and_keeps_its_height(self) -> None:
        place = {"tag": "div", "attrs": {"id": "gate"}, "heights": [[390, 420], [1280, 360]]}
        text, _ = self.built(self.site(self.MARKUP), self.hold(wait="near", places={"/": place}))
        mark = re.search(r'<div data-near="(\w+)" id=gate>', text)
        self.assertIsNotNone(mark)
        assert mark
        self.assertIn(f'data-hold="{mark[1]}"', text)
        self.assertIn(f'[data-near="{mark[1]}"]{{min-height:360px}}@media (max-width:835px)', text)

    def test_modules_and_pages_with_a_policy_are_left_alone(self) -> None:
        for capture, word in (
            (self.site(f"<script type=module src={WIDGET}></script>"), "module"),
            (self.site(self.MARKUP, content_security_policy="script-src https:"), "policy"),
        ):
            text, journal = self.built(capture, self.hold())
            self.assertEqual(text.encode(), capture.body(capture.page("/")))
            self.assertIn(word, journal.notices[0].reason)

    def test_the_script_that_every_page_pays_for_is_small(self) -> None:
        self.assertLess(len(LOADER.encode()), 1000)

    def test_near_is_as_near_as_the_survey_takes_it_for(self) -> None:
        self.assertIn(f"rootMargin:`{MARGIN}px`", LOADER)

    def test_the_short_form_is_made_of_the_readable_one(self) -> None:
        made = subprocess.run(["node", "loader.mjs", "--print"], cwd=WEB, capture_output=True, text=True, check=True)
        self.assertEqual(made.stdout.splitlines(), [LOADER, WAITER, STILLER], "run `npm run loader` in web/")


class Surveys(EmbedCase):
    def weigh_in(self, *requests: Request, embed: Embed | None = None) -> WeighIn:
        first = Request(HOST, "documents", 200, 500)
        facts = PageFacts(embeds=[embed] if embed else [])
        return WeighIn("/", Conditions(DEVICES["phone"]), Visit([first, *requests]), facts)

    def frame(self, url: str, **facts: Any) -> Embed:
        given: dict[str, Any] = {"x": 0, "y": 5000, "width": 640, "height": 360, "visible": True, "first_view": False}
        given |= {"picture": self.picture, "picture_width": 640, "inside": Inside(plays=1)}
        return Embed(url, "iframe", "Film", above=[Above("div", {"id": "gate"}, 368)], **given | facts)

    def embeds(self, effort: str = "steady", **facts: Any) -> Finding:
        lost = facts.pop("lost", False)
        requests = [
            Request(PLAYER, "documents", 200, 2000, frame=HOST, initiator=HOST, missing=lost),
            Request("https://cdn.example/core.js", "scripts", 200, 900_000, frame=PLAYER, initiator=PLAYER),
        ]
        weigh_in = self.weigh_in(*requests, embed=self.frame(PLAYER, **facts))
        evidence = SiteFacts(self.site(f'<iframe src="{PLAYER}"></iframe>'), [weigh_in])
        (found,) = self.survey(evidence, effort)
        return found

    def survey(self, evidence: SiteFacts, effort: str) -> list[Finding]:
        work_cache = WorkCache(self.folder / "memo", self.store)
        found = survey(evidence, EFFORTS[effort], work_cache, Progress()).excess
        return [excess for excess in found if excess.excess == "embedded"]

    def test_an_embed_counts_with_all_that_it_causes(self) -> None:
        found = self.embeds()
        self.assertEqual(found.requests, 2)
        self.assertEqual(found.of_bytes, 902_000 + 2 * HEADER_BYTES)
        assert found.change
        self.assertTrue(found.change.on)
        self.assertLess(found.bytes, found.of_bytes)

    def test_how_far_an_effort_goes(self) -> None:
        feed: dict[str, Any] = {"inside": Inside(images=6)}
        for effort, facts, expected in (
            ("gentle", {}, ("still", False)),
            ("steady", {}, ("still", True)),
            ("steady", feed, ("lazy", True)),
            ("steady", feed | {"y": 900}, ("still", False)),
            ("bold", feed, ("still", True)),
        ):
            change = self.embeds(effort, **facts).change
            assert change
            self.assertEqual((change.params.way, change.on), expected, (effort, facts))

    def test_reasons_to_leave_an_embed_as_it_is(self) -> None:
        for facts, word in (
            ({"lost": True}, "not in the capture"),
            ({"heard": 3, "listeners": 1}, "send each other messages"),
            ({"heard": 3, "listeners": 1, "resized": True}, "sets its height"),
            ({"inside": Inside(plays=1, messages=1)}, "send each other messages"),
            ({"visible": False}, "shown nowhere"),
            ({"reachable": False}, "beneath something else"),
            ({"picture": ""}, "could not be pictured"),
        ):
            found = self.embeds(**facts)
            self.assertIsNone(found.change, facts)
            self.assertIn(word, found.advice)
        # Messages that nobody in the page listens for mean nothing.
        self.assertIsNotNone(self.embeds(heard=3, listeners=0).change)

    def widgets(self, markup: str, script: bytes = b"", *more: Request, embed: Embed | None = None) -> list[Finding]:
        capture = capture_of_responses(
            "t",
            [r if r.url != WIDGET else Response(r.url, r.status, r.headers, script) for r in responses(markup)],
            self.store, [],
        )  # fmt: skip
        loaded = Request(WIDGET, "scripts", 200, 90_000, frame=HOST, initiator=HOST)
        evidence = SiteFacts(capture, [self.weigh_in(loaded, *more, embed=embed)])
        return self.survey(evidence, "bold")

    def test_a_widget_waits_for_its_place_to_come_near(self) -> None:
        made = Request(FRAME, "documents", 200, 9_000, frame=HOST, initiator=WIDGET)
        (found,) = self.widgets(Holds.MARKUP, b"let w", made, embed=self.frame(FRAME, inside=Inside(fields=2)))
        assert found.change
        place = Place(tag="div", attrs={"id": "gate"}, heights=((390, 368),), frames=((390, 640, 360),))
        self.assertEqual(found.change.params.places, {"/": place})
        self.assertEqual((found.change.params.kind, found.change.params.wait), ("form", "near"))

    def test_what_makes_nothing_in_place_waits_for_the_visitor(self) -> None:
        beacon = Request("https://count.example/b.gif", "images", 200, 40, frame=HOST, initiator=WIDGET)
        (found,) = self.widgets(Holds.MARKUP, b"let w", beacon)
        assert found.change
        self.assertEqual(found.change.params.wait, "act")

    def test_a_library_that_others_may_need_is_no_widget(self) -> None:
        self.assertEqual(self.widgets(f"<script src={WIDGET}></script>", b"window.$ = 1"), [])

    def test_what_writes_into_the_page_stays(self) -> None:
        (found,) = self.widgets(Holds.MARKUP, b"document . write('<p>')")
        self.assertIsNone(found.change)
        self.assertIn("writes into the page", found.advice)
