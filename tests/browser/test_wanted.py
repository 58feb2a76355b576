"""What loads when it is wanted and not before: told by the replay server's log, with a real browser."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable, Iterable
from dataclasses import replace
from functools import partial
from typing import Any

from playwright.async_api import Page

from demo.services import filler
from tests.browser.cases import BrowserCase, set_aside
from tests.core.video.test_video import MOVING, X264, made
from tests.plans import change
from tests.sites import page, photo, registry_package
from unladen.build import build
from unladen.capture import Capture, read_site
from unladen.capture.recorded import Response, capture_of_responses
from unladen.check import ChangeResults
from unladen.lighten import Baseline, Lightened, as_planned, carry_out, weigh_and_survey
from unladen.plan import ChooseEmbed, EmbedChoice, Plan
from unladen.progress import Progress
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import DEVICES, Conditions, link_named
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import browser_for, weigh_page
from unladen.work_cache import work_cache_of

_TWO_FRAMES = "new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))"
HOST = "https://site.example/"
REEL = "https://reel.example/"
GATE = "https://gate.example/"
VIEW = "<meta name=viewport content='width=device-width'>"
TALL = "<p style='height:5000px'>far</p>"
Act = Callable[[Page], Awaitable[Any]]


def answer(url: str, body: bytes | str, media_type: str = "text/html") -> Response:
    data = body.encode() if isinstance(body, str) else body
    return Response(url, 200, (("content-type", media_type), ("cache-control", "no-store")), data)


def player(number: int, size: int = 9_000) -> list[Response]:
    """A player that fetches a script of about this size and shows a button."""
    body = page(
        f"<button>Play</button><img src={REEL}{number}.jpg width=400>", f"<script src={REEL}{number}.js></script>"
    )
    return [
        answer(f"{REEL}{number}", body),
        answer(f"{REEL}{number}.js", filler(f"reel{number}", size, number), "text/javascript"),
        answer(f"{REEL}{number}.jpg", photo(400, 225, number), "image/jpeg"),
    ]


async def act_by(script: str, window: Page) -> None:
    """What a visitor does, as a script."""
    await window.evaluate(script)


def frame(number: int) -> str:
    return f'<iframe src="{REEL}{number}" title="Film {number}" width=400 height=225></iframe>'


GATE_SCRIPT = f"""var box=document.querySelector("#gate"),f=document.createElement("iframe");f.src="{GATE}frame";
f.title="Tickets";f.style="width:300px;height:200px;border:0";box.append(f);/*{"x" * 30_000}*/"""


class WantedCase(BrowserCase):
    def site(self, body: str, *others: Response, head: str = "") -> Capture:
        markup = page(body, VIEW + head).replace(b"<html>", b"<html lang=en>")
        return capture_of_responses("t", [answer(HOST, markup), *others], self.store, [])

    def proposed(self, capture: Capture, effort: str, devices: tuple[str, ...] = ("phone", "desktop")) -> Baseline:
        with browser_for(capture) as browser:
            conditions = [Conditions(DEVICES[name], runs=1) for name in devices]
            return weigh_and_survey(Session.of(browser, capture, Progress()), [capture.page("/")], conditions, effort)

    def lightened(
        self,
        capture: Capture,
        effort: str,
        only: tuple[str, ...] = (),
        path: str = "/",
        devices: tuple[str, ...] = ("phone",),
    ) -> Lightened:
        """The whole way with the changes of these remedies; all must add up and pass."""
        with browser_for(capture) as browser:
            conditions = [Conditions(DEVICES[name], runs=1) for name in devices]
            base = weigh_and_survey(
                Session.of(browser, capture, Progress()), [capture.page(path)], conditions, effort
            )
            plan = replace(base.plan, changes=tuple(c for c in base.plan.changes if not only or c.remedy in only))
            result = carry_out(Session.of(browser, capture, Progress()), plan, base.weigh_ins, glances=())
        self.assertTrue(result.account.adds_up(), result.account)
        self.assertEqual([pair.differences for pair in result.pairs if not pair.passed], [])
        return result

    def asked(
        self, browser: Browser, capture: Capture, device: str, act: Act | None = None, *until: str
    ) -> list[str]:
        """What the replay server was asked for by one visit, in order.

        `act` is what the visitor then does; the visit lasts until the addresses `until` were asked for and answered.
        """
        browser.replay.capture = capture
        mark = len(browser.replay.log)

        async def visit() -> None:
            context, window = await browser.open(DEVICES[device])
            await window.goto(capture.page("/").url, wait_until="networkidle")
            if act is not None:
                await act(window)
                await self.wait_for(browser, mark, until)
                await window.evaluate(_TWO_FRAMES)
            await context.close()

        browser.run(visit())
        return [entry.url for entry in browser.replay.log[mark:] if not entry.url.endswith("favicon.ico")]

    async def wait_for(self, browser: Browser, mark: int, until: Iterable[str]) -> None:
        """Until the server was asked for these; the limit is for what never comes and is never reached otherwise."""
        async with asyncio.timeout(60):
            while set(until) - {entry.url for entry in browser.replay.log[mark:]}:
                await asyncio.sleep(0.02)


class Stills(WantedCase):
    def test_three_players_that_bring_most_of_four_megabytes(self) -> None:
        # Practice value: stills halve bytes and load time of such a page (common practice, no source).
        players = [response for number in range(3) for response in player(number, 1_100_000)]
        own = answer(HOST + "a.jpg", photo(900, 600), "image/jpeg")
        capture = self.site(
            "<img src=a.jpg width=900 height=600>" + "".join(frame(n) for n in range(3)), own, *players
        )
        result = self.lightened(capture, "steady", ("embed",))
        link = link_named("1.6 Mbit/s, 150 ms").label
        for before, after in zip(result.before, result.after, strict=True):
            self.assertGreater(before.visit.transferred, 3_400_000)
            self.assertLess(after.visit.transferred, before.visit.transferred / 2)
            self.assertLess(after.modelled_ms()[link], before.modelled_ms()[link] / 2)
            self.assertFalse([r.url for r in after.visit.requests if r.url.startswith(REEL)])
        self.assertEqual(sum(result.account.saved_by(f"embed:{REEL}{n}").requests for n in range(3)), 9 - 3)

    def test_a_still_is_a_button_that_brings_the_real_thing(self) -> None:
        capture = self.site(frame(1) + "<button>Next</button>", *player(1))
        result = self.lightened(capture, "steady", ("embed",))
        axe = (registry_package("axe-core", "4.10.3") / "axe.min.js").read_text()
        told: dict[str, Any] = {}

        async def press(window: Page) -> None:
            await window.keyboard.press("Tab")
            still = await (await window.query_selector("iframe")).content_frame()  # type: ignore[union-attr]
            assert still
            told["focused"] = await still.evaluate("document.activeElement.localName")
            told["name"] = await still.evaluate("document.querySelector('button').innerText")
            for place in (window, still):
                await place.evaluate(axe)
                found = await place.evaluate("axe.run(document, {iframes: false})")
                told.setdefault("violations", []).extend(
                    v["id"] for v in found["violations"] if v["id"] not in _OF_THE_PAGE
                )
            told["before"] = [e.url for e in browser.replay.log if e.url.startswith(REEL)]
            told["spot"] = await window.evaluate(_BOX)
            await window.keyboard.press("Enter")
            await self.wait_for(browser, 0, (f"{REEL}1?autoplay=1", f"{REEL}1.js"))
            await window.wait_for_function("document.activeElement.localName === 'iframe'")
            told["after"] = await window.evaluate(_BOX)
            told["within"] = await window.evaluate("document.activeElement.localName")

        browser = self.serve(capture)
        asked = self.asked(browser, result.capture, "desktop", press)
        self.assertEqual(told["before"], [])
        self.assertEqual((told["focused"], told["within"]), ("button", "iframe"))
        self.assertIn("Film 1", told["name"])
        self.assertEqual(told["violations"], [])
        self.assertEqual(told["spot"], told["after"])
        self.assertIn(f"{REEL}1?autoplay=1", asked)
        self.assertIn(f"{REEL}1.js", asked)
        self.assertEqual(
            build(capture, Plan("steady", ()), work_cache_of(self.store))[0].exchanges, capture.exchanges
        )

    def test_on_phones_alone_and_in_a_frame_that_may_run_nothing(self) -> None:
        quiet = frame(2).replace("<iframe", "<iframe sandbox")
        capture = self.site(frame(1) + quiet, *player(1), *player(2))
        with browser_for(capture) as browser:
            conditions = [Conditions(DEVICES[name], runs=1) for name in ("phone", "desktop")]
            base = weigh_and_survey(Session.of(browser, capture, Progress()), [capture.page("/")], conditions, "bold")
            plan = ChooseEmbed(f"embed:{REEL}1", EmbedChoice("still", below=700)).apply(base.plan)
            result = carry_out(Session.of(browser, capture, Progress()), plan, base.weigh_ins, glances=())
        self.assertTrue(result.account.adds_up(), result.account)
        self.assertEqual(set_aside(result), {})
        browser = self.serve(capture)
        self.assertFalse([url for url in self.asked(browser, result.capture, "phone") if url.startswith(REEL)])
        wide = self.asked(browser, result.capture, "desktop")
        self.assertEqual({url for url in wide if url.startswith(REEL)}, {REEL + "1", REEL + "1.js", REEL + "1.jpg"})

    def test_embeds_that_need_their_page_stay(self) -> None:
        talk = "<script>onload=()=>parent.postMessage({height:300},'*')</script><button>Play</button>"
        listen = (
            "<script>addEventListener('message',e=>{document.querySelector('iframe').height=e.data.height})</script>"
        )
        filler_ = answer(REEL + "1.js", filler("reel", 20_000, 1), "text/javascript")
        talking = answer(REEL + "1", page(talk, f"<script src={REEL}1.js></script>"))
        for body, others, word in (
            (frame(1) + listen, (talking, filler_), "sets its height"),
            (f"<iframe srcdoc='{frame(1)}'></iframe>", tuple(player(1)), ""),
            (f"<script>document.write({frame(1)!r})</script>", tuple(player(1)), ""),
            (
                frame(1).replace("width", "style='pointer-events:none' width", 1),
                tuple(player(1)),
                "beneath something else",
            ),
        ):
            base = self.proposed(self.site(body, *others), "bold", ("desktop",))
            self.assertFalse([c.id for c in base.plan.changes if c.remedy == "embed"], body)
            self.assertEqual(word, word if any(word in e.advice for e in base.excess) else "?", body)

    def test_a_still_that_opens_nothing_is_set_aside(self) -> None:
        # The frame may not leave its own document, so pressing the button changes nothing.
        guard = (
            "<script>document.querySelector('iframe').contentWindow.navigation"
            ".addEventListener('navigate',e=>e.preventDefault())</script>"
        )
        capture = self.site(frame(1) + guard, *player(1, 30_000))
        with browser_for(capture) as browser:
            conditions = [Conditions(DEVICES["desktop"], runs=1)]
            base = weigh_and_survey(
                Session.of(browser, capture, Progress()), [capture.page("/")], conditions, "steady"
            )
            plan = replace(base.plan, changes=tuple(c for c in base.plan.changes if c.remedy == "embed"))
            self.assertEqual(len(plan.changes), 1)
            result = carry_out(Session.of(browser, capture, Progress()), plan, base.weigh_ins, glances=())
        (reason,) = set_aside(result).values()
        self.assertIn("does not open", reason)
        self.assertEqual(result.capture.exchanges, capture.exchanges)


_BOX = "JSON.stringify(document.querySelector('iframe').getBoundingClientRect())"
_OF_THE_PAGE = {
    "landmark-one-main",
    "page-has-heading-one",
    "region",
    "bypass",
}  # of the little page around the still


class Waiting(WantedCase):
    def test_a_widget_comes_when_its_place_does(self) -> None:
        parts = [answer(GATE + "w.js", GATE_SCRIPT, "text/javascript"), answer(GATE + "frame", "<input>")]
        body = f"{TALL}<div id=gate></div><script async src={GATE}w.js></script>"
        capture = self.site(body, *parts)
        result = self.lightened(capture, "bold", ("delay-scripts",))
        (change,) = result.plan.counting()
        self.assertEqual(change.params.wait, "near")
        self.assertEqual(set_aside(result), {})
        browser = self.serve(capture)
        for device in ("phone", "desktop"):
            self.assertEqual(self.asked(browser, result.capture, device), [HOST])
            down = self.asked(
                browser, result.capture, device, lambda w: w.evaluate("scrollTo(0,4800)"), GATE + "frame"
            )
            self.assertEqual(down, [HOST, GATE + "w.js", GATE + "frame"])

    def test_a_widget_that_is_held_until_its_still_is_pressed(self) -> None:
        parts = [answer(GATE + "w.js", GATE_SCRIPT, "text/javascript"), answer(GATE + "frame", "<input>")]
        capture = self.site(f"<p>Text</p><div id=gate></div><script async src={GATE}w.js></script>", *parts)
        with browser_for(capture) as browser:
            conditions = [Conditions(DEVICES[name], runs=1) for name in ("phone", "desktop")]
            base = weigh_and_survey(Session.of(browser, capture, Progress()), [capture.page("/")], conditions, "bold")
            plan = ChooseEmbed(f"delay-scripts:{GATE}w.js", EmbedChoice("click", "Tickets")).apply(base.plan)
            result = carry_out(Session.of(browser, capture, Progress()), plan, base.weigh_ins, glances=())
        self.assertTrue(result.account.adds_up(), result.account)
        self.assertEqual(set_aside(result), {})
        browser = self.serve(capture)
        self.assertFalse({GATE + "w.js"}.intersection(self.asked(browser, result.capture, "phone")))

        async def press(window: Page) -> None:
            still = await (await window.query_selector("iframe")).content_frame()  # type: ignore[union-attr]
            assert still
            await still.click("button")

        self.assertLess(
            {GATE + "w.js", GATE + "frame"}, set(self.asked(browser, result.capture, "phone", press, GATE + "frame"))
        )

    def test_a_page_that_waits_for_all_its_pictures_keeps_its_hidden_ones(self) -> None:
        script = (
            "<script>Promise.all([...document.images].map(i=>i.complete||new Promise(r=>i.onload=r)))"
            ".then(()=>document.querySelector('p').hidden=false)</script>"
        )
        body = "<img src=later.jpg width=300 height=200 style='display:none'><p hidden>Here we are</p>" + script
        capture = self.site(body, answer(HOST + "later.jpg", photo(600, 400), "image/jpeg"))
        result = self.lightened(capture, "gentle", ("lazy-images",))
        self.assertEqual(set(set_aside(result)), {"lazy-images-hidden:/later.jpg"})

    def test_what_has_no_place_comes_when_the_visitor_does_anything(self) -> None:
        chat = f"new Image().src='{GATE}b.gif';/*{'x' * 40_000}*/"
        dot = bytes.fromhex("47494638396101000100800000000000ffffff21f90401000000002c00000000010001000002024401003b")
        parts = [answer(GATE + "c.js", chat, "text/javascript"), answer(GATE + "b.gif", dot, "image/gif")]
        capture = self.site(f"<p>Text</p><script async src={GATE}c.js></script>", *parts)
        result = self.lightened(capture, "bold", ("delay-scripts",))
        browser = self.serve(capture)
        self.assertEqual(self.asked(browser, result.capture, "phone"), [HOST])
        keyed = self.asked(browser, result.capture, "desktop", lambda w: w.keyboard.press("Shift"), GATE + "b.gif")
        self.assertEqual(keyed, [HOST, GATE + "c.js", GATE + "b.gif"])

    def test_hidden_slides_far_frames_and_backgrounds_come_when_shown(self) -> None:
        style = "<style>.later{display:none}.far{height:300px;background:url(far.jpg) center/cover}</style>"
        body = (
            "<img src=first.jpg width=300 height=200><img class=later src=later.jpg width=300 height=200>"
            f"{TALL}<div class=far></div>{frame(1)}"
        )
        images = [
            answer(f"{HOST}{n}.jpg", photo(600, 400, i), "image/jpeg")
            for i, n in enumerate(("first", "later", "far"))
        ]
        feed = answer(REEL + "1", page(f"<script src={REEL}1.js></script>" + "<img src=x width=9>" * 4))
        script = answer(REEL + "1.js", filler("r", 40_000, 1), "text/javascript")
        capture = self.site(body, *images, feed, script, head=style)
        result = self.lightened(capture, "steady", ("lazy-images", "lazy-backgrounds", "embed", "priority"))
        browser = self.serve(capture)
        for device in ("phone", "desktop"):
            self.assertEqual(self.asked(browser, result.capture, device), [HOST, HOST + "first.jpg"])
            shown = self.asked(browser, result.capture, device, lambda w: w.evaluate(_OPEN), HOST + "later.jpg")
            self.assertEqual(shown[2:], [HOST + "later.jpg"])
            far = (HOST + "far.jpg", REEL + "1", REEL + "1.js")
            down = self.asked(browser, result.capture, device, lambda w: w.evaluate("scrollTo(0,4900)"), *far)
            self.assertLess(set(far), set(down))
        # Twice changes nothing: what is lazy already is left alone.
        self.assertFalse(
            [c for c in self.proposed(result.capture, "steady").plan.changes if c.remedy in ("lazy-images", "embed")]
        )

    def test_slides_beneath_the_first_one_come_with_the_first_move(self) -> None:
        style = (
            "<style>.s{position:relative;width:300px;height:200px}.s img{position:absolute;left:0;"
            "top:0}.o{opacity:0}</style>"
        )
        slides = "".join(f"<img src={n}.jpg width=300 height=200>" for n in ("under", "over"))
        body = f"<div class=s><img class=o src=faded.jpg width=300 height=200>{slides}</div>"
        images = [
            answer(f"{HOST}{n}.jpg", photo(600, 400, i), "image/jpeg")
            for i, n in enumerate(("under", "over", "faded"))
        ]
        capture = self.site(body, *images, head=style)
        result = self.lightened(capture, "gentle", ("lazy-backgrounds", "lazy-images"))
        browser = self.serve(capture)
        for device in ("phone", "desktop"):
            self.assertEqual(self.asked(browser, result.capture, device), [HOST, HOST + "over.jpg"])
            # Whether the visitor moves or the slides do.
            for move in ("dispatchEvent(new Event('keydown'))", "document.querySelector('.s').className='s next'"):
                others = (HOST + "under.jpg", HOST + "faded.jpg")
                moved = self.asked(browser, result.capture, device, partial(act_by, move), *others)
                self.assertEqual(set(moved[2:]), set(others))

    def test_posters_far_below_come_near_and_without_scripts_are_there(self) -> None:
        body = f"{TALL}<video controls preload=none width=300 height=200 poster=p.jpg></video>"
        capture = self.site(body, answer(HOST + "p.jpg", photo(600, 400), "image/jpeg"))
        result = self.lightened(capture, "gentle", ("lazy-backgrounds",))
        browser = self.serve(capture)
        self.assertEqual(self.asked(browser, result.capture, "phone"), [HOST])
        down = self.asked(browser, result.capture, "phone", lambda w: w.evaluate("scrollTo(0,4800)"), HOST + "p.jpg")
        self.assertEqual(down, [HOST, HOST + "p.jpg"])
        text = result.capture.body(result.capture.page("/")).decode()
        self.assertIn("@media (scripting:none){[data-film=", text)

    def test_without_scripts_backgrounds_show_at_once(self) -> None:
        style = "<style>.far{height:300px;background:url(far.jpg)}</style>"
        capture = self.site(
            f"{TALL}<div class=far></div>", answer(HOST + "far.jpg", photo(600, 400), "image/jpeg"), head=style
        )
        wanted = change("far", "lazy-backgrounds", ("/far.jpg",), ("/",), {"wait": "near"})
        lighter = build(capture, Plan("steady", (wanted,)), work_cache_of(self.store))[0]
        browser = self.serve(capture)
        self.assertNotIn(HOST + "far.jpg", self.asked(browser, lighter, "desktop"))

        async def visit() -> None:
            assert browser._browser
            context = await browser._browser.new_context(java_script_enabled=False)
            window = await context.new_page()
            await window.goto(HOST, wait_until="networkidle")
            await context.close()

        mark = len(browser.replay.log)
        browser.run(visit())
        self.assertIn(HOST + "far.jpg", [entry.url for entry in browser.replay.log[mark:]])

    def test_the_largest_picture_is_asked_for_with_priority(self) -> None:
        small = "".join(f"<img src={n}.jpg width=20 height=20>" for n in range(4))
        images = [answer(f"{HOST}{n}.jpg", photo(40, 40, n), "image/jpeg") for n in range(4)]
        images.append(answer(HOST + "hero.jpg", photo(900, 600, 9), "image/jpeg"))
        for body, head in (
            (small + "<img src=hero.jpg width=320 height=220 loading=lazy>", ""),
            (
                small + "<div class=hero></div>",
                "<style>.hero{height:300px;background:url(hero.jpg) center/cover}</style>",
            ),
        ):
            capture = self.site(body, *images, head=head)
            wanted = change("priority", "priority", ("/hero.jpg",), ("/",))
            lighter = build(capture, Plan("steady", (wanted,)), work_cache_of(self.store))[0]
            with browser_for(lighter) as browser:
                for device in ("phone", "desktop"):
                    weighed = weigh_page(browser, lighter.page("/"), Conditions(DEVICES[device], runs=1))
                    requests = {r.url.removeprefix(HOST): r for r in weighed.visit.requests}
                    self.assertEqual(requests["hero.jpg"].priority, "High", body)
                    self.assertEqual(sum(r.url.endswith("hero.jpg") for r in weighed.visit.requests), 1)


_OPEN = "document.querySelector('.later').style.display='block'"


class Films(WantedCase):
    def test_phones_do_not_load_a_film_behind_the_page(self) -> None:
        film = answer(HOST + "a.mp4", made(self.folder, MOVING, options=X264), "video/mp4")
        capture = self.site("<video src=a.mp4 autoplay muted loop playsinline width=320 height=180></video>", film)
        result = self.lightened(capture, "steady", ("poster",))
        # What the plan makes of the page, whatever the account found of films that come in parts.
        planned = as_planned(capture, result.plan, ChangeResults())
        browser = self.serve(capture)
        self.assertNotIn(HOST + "a.mp4", self.asked(browser, planned, "phone"))
        for device in ("tablet", "desktop"):
            asked = self.asked(browser, planned, device)
            self.assertEqual(set(asked), {HOST, HOST + "a.mp4"})

    def test_a_film_waits_until_it_is_played_and_is_then_the_lighter_one(self) -> None:
        film = answer(HOST + "a.mp4", made(self.folder, MOVING, options=X264), "video/mp4")
        capture = self.site("<video src=a.mp4 controls width=320 height=180></video>", film)
        result = self.lightened(capture, "steady", ("film", "lazy-films"))
        browser = self.serve(capture)
        played = self.asked(browser, result.capture, "desktop", lambda w: w.evaluate(_PLAY), HOST + "a-480w-av1.mp4")
        self.assertFalse([url for url in self.asked(browser, result.capture, "desktop") if url.endswith(".mp4")])
        self.assertIn(HOST + "a-480w-av1.mp4", played)
        self.assertNotIn(HOST + "a.mp4", played)

    def test_an_endless_picture_becomes_a_film_that_plays_by_itself(self) -> None:
        data = made(self.folder, "testsrc2=size=320x240:rate=10:duration=3", name="a.gif", options="-loop 0")
        capture = self.site(
            "<img class=c src=a.gif alt='The wheel' width=320 height=240>", answer(HOST + "a.gif", data, "image/gif")
        )
        result = self.lightened(capture, "bold")
        (change,) = (c for c in result.plan.counting() if c.remedy == "animations-as-films")
        self.assertEqual(set_aside(result), {})
        self.assertGreater(result.account.saved_by(change.id).bytes, 0)
        browser = self.serve(capture)
        told: list[bool] = []

        async def snapshot(window: Page) -> None:
            await window.wait_for_function(
                "(v => v && !v.paused && v.readyState > 2)(document.querySelector('video.c[aria-label]'))"
            )
            told.append(True)

        asked = self.asked(browser, result.capture, "phone", snapshot)
        self.assertEqual(told, [True])
        self.assertFalse([url for url in asked if url.endswith((".gif", ".webp"))])


_PLAY = "document.querySelector('video').play()"


class RealPages(WantedCase):
    """Pages of openly licensed packages; gentle effort, so that what is put off shows and not how images are coded."""

    def prove(self, package: str, version: str, path: str) -> Lightened:
        capture = read_site(registry_package(package, version), self.store)
        return self.lightened(
            capture, "gentle", ("lazy-images", "lazy-backgrounds", "embed", "priority", "reserve"), path
        )

    def test_slides_beneath_the_first_one(self) -> None:
        result = self.prove("pagepiling.js", "1.5.6", "/examples/backgrounds.html")
        self.assertGreater(result.account.saved_by("lazy-backgrounds-act:/examples/backgrounds.html").bytes, 300_000)

    def test_slides_beside_the_first_one(self) -> None:
        result = self.prove("flexslider", "2.7.2", "/demo/index.html")
        self.assertLess(result.account.after.bytes, result.account.before.bytes)
