"""Weigh-ins by a real browser of sites made for the purpose."""

from __future__ import annotations

import contextlib
import http.client
import http.server
import os
import signal
import ssl
import threading
from pathlib import Path
from unittest import mock

from tests.browser.cases import DESKTOP, PHONE, BrowserCase
from tests.sites import page, photo
from unladen.capture.model import sent_body
from unladen.errors import BrowserMissing
from unladen.replay import ReplayServer
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.chromium.processes import below
from unladen.weigh.records.conditions import HEADER_BYTES, Conditions
from unladen.weigh.visits import visit
from unladen.weigh.visits.weighing import weigh_page

FILES = {
    "index.html": page(
        "<h1>Weights</h1><img src=a.jpg style='width:200px'><img src=gone.jpg><script src=s.js></script>"
        "<iframe src=frame.html></iframe><p>" + "text " * 200,
        "<link rel=stylesheet href=s.css><link rel=icon href=icon.png>",
    ),
    "frame.html": page("<img src=b.jpg>"),
    "a.jpg": photo(400, 300),
    "b.jpg": photo(100, 80, 2),
    "icon.png": photo(32, 32, 3, "PNG"),
    "s.css": b".hero{background:url(bg.jpg) center/cover;height:200px}" + b"/* */" * 100,
    "s.js": b"fetch('data.json?'+Math.random());document.body.classList.add('hero');" + b"// ...\n" * 80,
    "data.json": b'{"a": 1}',
    "bg.jpg": photo(640, 480, 4),
}


class WeighIns(BrowserCase):
    def test_every_request_with_its_kind_and_sizes(self) -> None:
        found = self.weigh(FILES)
        rows = {request.url.rsplit("/", 1)[-1].partition("?")[0]: request for request in found.visit.requests}
        kinds = {name: row.kind for name, row in rows.items()}
        self.assertEqual(
            kinds,
            {
                "index.html": "documents",
                "frame.html": "documents",
                "a.jpg": "images",
                "b.jpg": "images",
                "bg.jpg": "images",
                "gone.jpg": "images",
                "s.css": "styles",
                "s.js": "scripts",
                "data.json": "data",
            },
        )
        self.assertEqual(rows["a.jpg"].body, len(FILES["a.jpg"]))
        self.assertEqual(rows["s.css"].body, len(sent_body(FILES["s.css"], "gzip")[0]))
        self.assertEqual(rows["s.css"].decoded, len(FILES["s.css"]))
        self.assertTrue(rows["b.jpg"].frame.endswith("frame.html"))
        self.assertTrue(rows["bg.jpg"].initiator.endswith("s.css"))
        self.assertTrue(rows["data.json"].initiator.endswith("s.js"))
        document = found.as_json()
        self.assertEqual(document["missing"], ["https://site.example/gone.jpg"])
        self.assertGreater(document["load_ms"], 0)
        self.assertLessEqual(document["content_ready_ms"], document["load_ms"])

    def test_the_sum_over_the_requests_is_the_servers_log(self) -> None:
        for http2 in (True, False):
            capture = self.capture(FILES)
            browser = self.serve(capture, http2=http2)
            sums = set()
            for _ in range(3):
                mark = len(self.replay.log)
                found = weigh_page(browser, capture.page("/index.html"), PHONE).as_json()
                # The browser's own calls, which no page asked for, end here too.
                own = [e for e in self.replay.log[mark:] if e.url.startswith("https://site.example/")]
                log = [entry for entry in own if "icon" not in entry.url]
                self.assertEqual(found["transferred"], sum(e.body for e in log) + HEADER_BYTES * len(log))
                self.assertEqual({entry.protocol for entry in log}, {"h2" if http2 else "http/1.1"})
                sums.add((found["transferred"], found["decoded"], found["requests"]))
            self.assertEqual(len(sums), 1)

    def test_where_images_are_shown_and_how_large(self) -> None:
        body = (
            "<img src=a.jpg style='width:200px'><div style='height:3000px'></div>"
            "<img src=b.jpg style='width:50px;height:50px;object-fit:cover'><div id=bg style='width:320px;height:100px;"
            "background:url(bg.jpg) center/cover'></div><img src=a.jpg style='display:none'>"
        )
        found = self.weigh(FILES | {"index.html": page(body)}, PHONE)
        order = sorted(found.facts.images, key=lambda image: (image.via != "img", image.width == 0, image.y))
        first, second, hidden, background = order
        self.assertEqual((first.natural_width, first.paint_width, first.first_view), (400, 200, True))
        self.assertFalse(second.first_view)
        self.assertAlmostEqual(second.paint_width, 62.5, places=1)  # 100x80 covers 50x50
        self.assertEqual((hidden.width, hidden.visible), (0, False))
        self.assertEqual((background.natural_width, background.paint_width), (640, 320))

    def test_space_that_is_reserved_and_space_that_could_be(self) -> None:
        body = (
            "<img src=a.jpg id=natural><img src=a.jpg id=attrs width=40 height=30><img src=a.jpg id=css "
            "style='width:40px;height:30px'>"
            "<div style='width:100px'><img src=a.jpg id=fluid style='max-width:100%;height:auto'></div>"
            "<div style='width:100px'><img src=a.jpg id=wide style='width:100%'></div>"
        )
        images = {image.selector: image for image in self.weigh(FILES | {"index.html": page(body)}).facts.images}
        facts = {name: (i.reserved, i.reservable, i.free) for name, i in images.items()}
        self.assertEqual(facts, {
            "#natural": (False, True, False),
            "#attrs": (True, False, True),
            "#css": (True, True, True),
            "#fluid": (False, True, False),
            # Without height:auto an attribute would stretch it, but its ratio does not.
            "#wide": (False, True, True),
        })  # fmt: skip

    def test_what_is_closed_is_measured_as_it_would_be_opened(self) -> None:
        body = (
            "<style>.menu,.pane{display:none}.menu{background:url(bg.jpg)}.menu img{width:40px}.pane{width:300px}"
            ".pane img{width:100%}</style><nav class=menu><img id=face src=a.jpg></nav>"
            "<div style='width:500px'><div class=pane><img id=tab src=a.jpg></div></div>"
            "<dialog><p><img id=box src=a.jpg width=120></p></dialog><img id=gone src=a.jpg style='display:none'>"
        )
        found = self.weigh(FILES | {"index.html": page(body)})
        images = {image.selector: image for image in found.facts.images if image.via == "img"}
        sizes = {name: (i.closed, i.visible, i.width, round(i.paint_width)) for name, i in images.items()}
        self.assertEqual(sizes, {
            "#face": (True, False, 0, 40), "#tab": (True, False, 0, 300), "#box": (True, False, 0, 120),
            "#gone": (True, False, 0, 400),
        })  # fmt: skip
        asked = {request.url.rsplit("/", 1)[-1] for request in found.visit.requests}
        self.assertNotIn("bg.jpg", asked)  # nothing is fetched for it

    def test_what_lies_over_a_picture_and_the_frames_that_it_covers(self) -> None:
        body = (
            "<style>div{width:400px;height:150px}.a{background:linear-gradient(rgba(0,0,0,.6),rgba(0,0,0,.6)),url(bg.jpg)"
            " center/cover}.b{position:relative;background:url(bgb.jpg) 0 0/cover}.b::before{content:'';"
            "position:absolute;"
            "inset:0;background:#fff;opacity:.5}.c{height:50vh;background:url(bgc.jpg) center/cover}</style><div "
            "class=a></div>"
            "<div class=b></div><div class=c></div><img src=a.jpg style='width:60px;height:60px;object-fit:cover'>"
            "<img src=big.png style='width:100%;height:200px;background:linear-gradient(#000c,#000c)'>"
            "<div style='position:relative'><img src=b.jpg style='width:300px;height:150px'><i "
            "style='position:absolute;"
            "inset:0;background:#000c;visibility:hidden'></i></div>"
        )
        more = {"big.png": photo(600, 20, 3, "PNG"), "bgb.jpg": photo(640, 480, 5), "bgc.jpg": photo(640, 480, 6)}
        capture = self.capture(FILES | more | {"index.html": page(body)})
        facts = weigh_page(self.serve(capture), capture.page("/index.html"), DESKTOP, layout=True).facts
        veils = {image.url.rsplit("/", 1)[-1]: image.veil for image in facts.images}
        self.assertEqual(veils["bg.jpg"], [0, 0, 0, 60])
        self.assertEqual(veils["bgb.jpg"], [255, 255, 255, 50])
        self.assertEqual([veils[name] for name in ("bgc.jpg", "big.png", "b.jpg")], [[], [], []])
        frames = {url.rsplit("/", 1)[-1]: frame for url, frame in facts.layout.frames.items()}
        still = frames["bg.jpg"]
        self.assertEqual((round(still.low, 3), round(still.high, 3), still.x, still.y), (2.667, 2.667, 0.5, 0.5))
        self.assertEqual([frames[name].by_height for name in ("bg.jpg", "bgc.jpg", "a.jpg")], [False, True, False])
        self.assertEqual((frames["bgb.jpg"].x, frames["bgb.jpg"].y), (0.0, 0.0))
        self.assertEqual(frames["a.jpg"].high, 1.0)


class Trouble(BrowserCase):
    def test_a_page_that_does_everything_wrong_is_still_weighed(self) -> None:
        body = (
            "<script>alert('hello');throw new Error('broken on purpose')</script><script>"
            "window.open('/index.html?again')</script>"
            "<a href=x download id=d></a><script>d.click()</script><img src=a.jpg>"
        )
        found = self.weigh(FILES | {"index.html": page(body)}).as_json()
        self.assertIn("script error: broken on purpose", found["errors"])
        self.assertIn("opened a dialog: hello", found["errors"])
        self.assertGreater(found["kinds"]["images"]["transferred"], len(FILES["a.jpg"]))

    def test_a_page_that_never_stops_loading(self) -> None:
        body = "<img src=a.jpg><script>setInterval(()=>fetch('data.json?'+performance.now()),100)</script>"
        with mock.patch.object(visit, "LIMIT", 3.0):
            found = self.weigh(FILES | {"index.html": page(body)})
        self.assertIn("the page never stopped loading within 3 s", found.visit.errors)
        self.assertTrue(found.facts.images)

    def test_a_page_that_goes_round_in_a_circle(self) -> None:
        files = {
            "index.html": page("<script>location.href='two.html'</script>"),
            "two.html": page("<meta http-equiv=refresh content='0;url=index.html'>"),
        }
        found = self.weigh(files)
        self.assertIn("keeps redirecting", " ".join(found.visit.errors))

    def test_a_page_that_eats_memory_is_ended_and_the_next_one_is_not(self) -> None:
        eats = "<script>const all = []; setInterval(() => all.push(new Uint8Array(2e7).fill(1)), 20)</script>"
        capture = self.capture({"eats.html": page(eats), "index.html": page("x")})
        browser = self.serve(capture)
        with mock.patch.dict("os.environ", {"MULE_PAGE_MEMORY": "400000000"}):
            found = weigh_page(browser, capture.page("/eats.html"), DESKTOP)
            self.assertIn("the page crashed its tab", found.visit.errors)
            self.assertEqual(weigh_page(browser, capture.page("/index.html"), DESKTOP).visit.errors, [])

    def test_a_page_that_crashes_its_tab_does_not_take_the_next_one_with_it(self) -> None:
        files = FILES | {
            "crash.html": page("<script>location.href='chrome://crash'</script>"),
            "index.html": page("ok"),
        }
        capture = self.capture(files)
        browser = self.serve(capture)
        original = visit.load

        async def crash(page: object, *rest: object) -> bool:
            session = await page.context.new_cdp_session(page)  # type: ignore[attr-defined]
            alive = await original(page, *rest)  # type: ignore[arg-type]
            with contextlib.suppress(Exception):
                await visit.asyncio.wait_for(session.send("Page.crash"), 1)
            return alive

        with mock.patch.object(visit, "load", crash):
            found = weigh_page(browser, capture.page("/crash.html"), DESKTOP)
        self.assertIn("the page crashed its tab", found.visit.errors)
        self.assertEqual(weigh_page(browser, capture.page("/index.html"), DESKTOP).visit.errors, [])

    def test_the_browser_reaches_nothing_but_the_replay_server(self) -> None:
        asked = []

        class Listener(http.server.BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                asked.append(self.path)
                self.send_response(200)
                self.end_headers()

            def log_message(self, *_: object) -> None:
                pass

        server = http.server.HTTPServer(("127.0.0.1", 0), Listener)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        port = server.server_address[1]
        body = "".join(
            f"<img src=http://{host}:{port}/{i}><script>fetch('http://{host}:{port}/f{i}',{{mode:'no-cors'}})</script>"
            for i, host in enumerate(("127.0.0.1", "localhost", "[::1]", "a.example"))
        )
        body += "<script>document.title = typeof RTCPeerConnection</script><img src=http://10.0.0.1/x>"
        found = self.weigh({"index.html": page(body)})
        self.assertEqual(asked, [])
        reached = [r for r in found.visit.requests[1:] if r.body or not r.missing]
        self.assertEqual(reached, [])

    def test_no_chromium_is_said_plainly(self) -> None:
        capture = self.capture(FILES)
        with (
            mock.patch.dict(os.environ, {"MULE_CHROMIUM": "/nowhere/chromium"}),
            ReplayServer(capture) as replay,
            self.assertRaisesRegex(BrowserMissing, "/nowhere/chromium"),
            Browser(replay),
        ):
            pass

    def test_a_killed_driver_ends_its_browsers_and_the_next_one_starts_another(self) -> None:
        capture = self.capture({"index.html": page("<h1>Here")})
        self.serve(capture)
        drivers = [child for child in below(os.getpid()) if b"playwright/driver" in _told(child)]
        self.assertEqual(len(drivers), 1)
        os.kill(drivers[0], signal.SIGKILL)
        with ReplayServer(capture) as replay, Browser(replay) as browser:
            self.assertEqual(weigh_page(browser, capture.page("/index.html"), PHONE).visit.requests[0].status, 200)

    def test_no_program_of_this_machine_can_steer_the_browser(self) -> None:
        self.serve(self.capture({"index.html": page("<h1>Here")}))
        own = set(below(os.getpid()))
        browsers = [one for one in own if b"--type=" in _told(one) or b"headless" in _told(one)]
        self.assertTrue(browsers)
        held = {
            str(file.readlink())
            for one in browsers
            for file in Path(f"/proc/{one}/fd").iterdir()
            if file.is_symlink()
        }
        rows = [
            line.split()
            for name in ("tcp", "tcp6")
            for line in Path(f"/proc/net/{name}").read_text().splitlines()[1:]
        ]
        listening = {f"socket:[{row[9]}]" for row in rows if row[3] == "0A"}  # 0A: LISTEN, proc(5)
        self.assertEqual(held & listening, set())

    def test_several_runs_keep_the_median(self) -> None:
        capture = self.capture(FILES)
        found = weigh_page(self.serve(capture), capture.page("/index.html"), Conditions(DESKTOP.device, runs=3))
        self.assertEqual(found.visit.timings.load, sorted(run.load for run in found.runs)[1])


def _told(process: int) -> bytes:
    """The command line of a process."""
    return Path(f"/proc/{process}/cmdline").read_bytes()


class Replaying(BrowserCase):
    def test_a_request_that_is_taken_back_does_not_close_the_connection(self) -> None:
        body = (
            "<script>for (let i = 0; i < 60; i++) { const c = new AbortController();"
            "fetch('b.jpg?' + i, {signal: c.signal}).catch(() => 0); c.abort(); }</script><img src=a.jpg>"
        )
        with self.assertNoLogs("asyncio", "ERROR"):
            found = self.weigh(FILES | {"index.html": page(body)})
        self.assertEqual(found.as_json()["missing"], [])

    def test_parts_validators_and_folders(self) -> None:
        capture = self.capture(FILES | {"shop/index.html": page("shop")})
        with ReplayServer(capture, http2=False) as replay:
            context = ssl._create_unverified_context()

            def get(path: str, **headers: str) -> tuple[int, dict[str, str], bytes]:
                connection = http.client.HTTPSConnection("127.0.0.1", replay.tls_port, context=context)
                named = {"Host": "site.example"} | {k.replace("_", "-"): v for k, v in headers.items()}
                connection.request("GET", path, headers=named)
                response = connection.getresponse()
                return response.status, {k.lower(): v for k, v in response.getheaders()}, response.read()

            body = FILES["a.jpg"]
            status, headers, whole = get("/a.jpg")
            self.assertEqual((status, whole), (200, body))
            self.assertEqual(get("/a.jpg", If_None_Match=headers["etag"])[0::2], (304, b""))
            status, headers, part = get("/a.jpg", Range="bytes=10-19")
            self.assertEqual((status, part, headers["content-range"]), (206, body[10:20], f"bytes 10-19/{len(body)}"))
            self.assertEqual(get("/a.jpg", Range="bytes=-5")[2], body[-5:])
            self.assertEqual(get("/a.jpg", Range=f"bytes={len(body)}-")[0], 416)
            self.assertEqual(get("/shop")[0], 301)
            self.assertEqual(get("/shop/")[0], 200)
            self.assertEqual(get("/none")[0::2], (404, b""))
