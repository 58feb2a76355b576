"""Weigh-ins under other conditions than the usual ones, as the server's log and the browser tell them."""

from __future__ import annotations

import contextlib
import io
import json
from dataclasses import replace

import jsonschema

from tests.browser.cases import DESKTOP, PHONE, BrowserCase, counting
from tests.core.ledger.test_comparison import SCHEMAS
from tests.sites import page, photo, zip_of
from unladen.capture import read_site
from unladen.capture.recorded import Response, capture_of_responses
from unladen.cli import main
from unladen.lighten import lighten
from unladen.progress import Progress
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.link.freshness import asked_again
from unladen.weigh.records.conditions import DEVICES, HEADER_BYTES, Conditions, Link
from unladen.weigh.records.export import har_of
from unladen.weigh.session import Session
from unladen.weigh.visits.lanes import in_lanes
from unladen.weigh.visits.remote import Batch
from unladen.weigh.visits.visit import visit
from unladen.weigh.visits.weighing import browser_for, weigh_page, weigh_pages

HOST = "https://mill.example/"
FAR = "https://media.other.example/"
LONG = {"cache-control": "max-age=99999"}
REPEAT = replace(DESKTOP, visit="repeat")


def said(url: str, body: bytes, media_type: str, status: int = 200, **fields: str) -> Response:
    headers = {"content-type": media_type, **{name.replace("_", "-"): value for name, value in fields.items()}}
    return Response(url, status, tuple(headers.items()), body, "gzip" if media_type.startswith("text/") else "")


class Repeats(BrowserCase):
    def test_a_page_with_lifetimes_moves_a_small_part_when_one_comes_again(self) -> None:
        files = {
            "index.html": page("<img src=a.jpg>" + "text " * 300, "<link rel=stylesheet href=a.css>"),
            "a.jpg": photo(400, 300),
            "a.css": b".a{}" * 200,
        }
        capture = self.capture(files)
        browser = self.serve(capture)
        first = weigh_page(browser, capture.page("/index.html"), DESKTOP)
        mark = len(self.replay.log)
        again = weigh_page(browser, capture.page("/index.html"), REPEAT)
        log = self.replay.log[mark:]
        # The warming visit asks for three files; the measured one for the page alone, and gets a 304.
        asked = [
            (entry.url.rsplit("/", 1)[-1], entry.status) for entry in log if entry.url.startswith(capture.base_url)
        ]
        asked = [row for row in asked if "icon" not in row[0]]
        self.assertEqual(asked[3:], [("index.html", 304)])
        self.assertEqual(again.visit.transferred, HEADER_BYTES)
        self.assertLess(again.visit.transferred, first.visit.transferred / 50)
        self.assertEqual([r.cached for r in again.visit.requests], [False, True, True])

    def test_what_is_asked_for_again_and_why(self) -> None:
        responses = [
            said(HOST, page("".join(f"<img src={n}.jpg>" for n in "abcd") + "<img src=e.jpg?0>"), "text/html"),
            said(HOST + "a.jpg", photo(40, 30, 1), "image/jpeg", cache_control="max-age=999"),
            said(HOST + "b.jpg", photo(40, 30, 2), "image/jpeg", cache_control="no-store"),
            said(HOST + "c.jpg", photo(40, 30, 3), "image/jpeg", etag='"c"', cache_control="no-cache"),
            said(HOST + "d.jpg", photo(40, 30, 4), "image/jpeg"),
        ]
        capture = capture_of_responses("t", responses, self.store, [])
        browser = self.serve(capture)
        first = weigh_page(browser, capture.pages()[0], DESKTOP).visit.requests
        again = weigh_page(browser, capture.pages()[0], REPEAT).visit.requests
        found = {r.url.rsplit("/", 1)[-1]: (r.status, asked_again(r, first)) for r in again}
        self.assertEqual(found["a.jpg"][1], "")
        self.assertIn("no-store", found["b.jpg"][1])
        self.assertEqual(found["c.jpg"], (304, "must be revalidated on every visit"))
        self.assertIn("neither lifetime nor validator", found["d.jpg"][1])

    def test_what_seldom_changes_is_not_asked_for_again_once_it_has_a_lifetime(self) -> None:
        pictures = {f"{n}.jpg": photo(160, 120, n) for n in range(2)}
        body = "".join(f"<img src={name} width=160 height=120>" for name in pictures)
        index = page(body, "<link rel=stylesheet href=s.css>")
        responses = [
            said(HOST + "index.html", index, "text/html"),
            said(HOST + "s.css", b"img{margin:0}" * 90, "text/css"),
            *(said(HOST + name, data, "image/jpeg") for name, data in pictures.items()),
        ]
        capture = capture_of_responses("t", responses, self.store, [])
        result = lighten(capture, "steady", Progress(), devices=["phone"])
        self.assertTrue(result.account.adds_up(), result.account)
        (change,) = [c for c in counting(result) if c.remedy == "lifetimes"]
        self.assertEqual(set(change.targets), {f"/{name}" for name in pictures})
        phone = replace(PHONE, visit="repeat")
        for now, asked in ((capture, {"s.css", *pictures}), (result.capture, {"s.css"})):
            again = weigh_page(self.serve(now), now.page("/index.html"), phone)
            again_asked = {r.url.rsplit("/", 1)[-1] for r in again.visit.requests if not r.cached}
            self.assertEqual(again_asked - {"index.html"}, asked)


class Links(BrowserCase):
    def test_a_slow_link_slows_frames_of_other_sites_too(self) -> None:
        link = Link(1_600_000, 150)
        responses = [
            said(HOST, page(f"<iframe src={FAR}frame></iframe>"), "text/html"),
            said(FAR + "frame", page("<img src=big.jpg>"), "text/html"),
            said(FAR + "big.jpg", photo(500, 400, 5), "image/jpeg"),
        ]
        capture = capture_of_responses("t", responses, self.store, [])
        found = weigh_page(self.serve(capture), capture.pages()[0], replace(DESKTOP, link=link))
        size = found.visit.requests[-1].transferred
        # Three round trips, and the bytes over the throughput.
        least = 3 * 150 + size / link.bytes_per_ms
        self.assertTrue(least * 0.95 < found.visit.timings.load < least * 1.6, (least, found.visit.timings))
        self.assertEqual([r.frame for r in found.visit.requests][1:], [FAR + "frame"] * 2)
        self.assertEqual(found.as_json()["link"], "1.6 Mbit/s, 150 ms")

    def test_windows_of_all_sizes(self) -> None:
        body = "<script>document.write(`<img src=${innerWidth}x${innerHeight}@${devicePixelRatio}.jpg>`)</script>"
        capture = self.capture({"index.html": page(body, "<meta name=viewport content='width=device-width'>")})
        browser = self.serve(capture)
        for name, wanted in (("phone", "390x844@2"), ("tablet", "820x1180@2"), ("desktop", "1280x800@1")):
            found = weigh_page(browser, capture.page("/index.html"), Conditions(DEVICES[name]))
            self.assertIn(wanted, found.visit.requests[-1].url)


class Scrolling(BrowserCase):
    def test_what_comes_only_on_scrolling_is_counted_apart(self) -> None:
        lazy = "".join(
            f"<div style='height:1500px'></div><img loading=lazy width=40 height=30 src={n}.jpg>" for n in "bcd"
        )
        files = {"index.html": page("<img src=a.jpg>" + lazy)} | {
            f"{n}.jpg": photo(40, 30, i) for i, n in enumerate("abcd")
        }
        found = self.weigh(files, PHONE)
        loaded = {r.url.rsplit("/", 1)[-1] for r in found.visit.requests}
        scrolled = {r.url.rsplit("/", 1)[-1] for r in found.facts.scrolled}
        self.assertIn("d.jpg", scrolled)
        self.assertEqual(loaded | scrolled, {"index.html", "a.jpg", "b.jpg", "c.jpg", "d.jpg"})
        self.assertFalse(loaded & scrolled)
        self.assertEqual(
            found.as_json()["scrolled"]["transferred"], sum(r.body + HEADER_BYTES for r in found.facts.scrolled)
        )


class Timings(BrowserCase):
    def test_the_published_worked_example_of_a_shift(self) -> None:
        # Layout Instability (W3C WICG): an element of half the window moves down by a quarter of it: 0.75 x 0.25.
        body = (
            "<div id=d style='position:absolute;left:0;top:0;width:100vw;height:50vh;background:#222'></div>"
            # Later than half a second, since a phone's window takes its size first, and kept loading until then.
            "<script>setTimeout(() => { d.style.top = '25vh'; }, 900);"
            "for (const t of [300, 600, 900]) setTimeout(() => fetch('a.txt?' + t), t)</script>"
        )
        # The distance counts against the longer side of the window, so the example wants a window higher than wide.
        head = "<meta name=viewport content='width=device-width'><style>body{margin:0}</style>"
        found = self.weigh({"index.html": page(body, head)}, PHONE)
        self.assertAlmostEqual(found.visit.timings.shift, 0.75 * 0.25, 3)

    def test_the_largest_paint_is_named_with_its_request_and_long_tasks_count(self) -> None:
        busy = "const t = performance.now(); while (performance.now() - t < 200);"
        wait = f"<script>requestAnimationFrame(() => setTimeout(() => {{ {busy} }}))</script>"
        body = f"<h1>Mill</h1><img id=hero src=a.jpg>{wait}<img src=b.jpg>"
        files = {"index.html": page(body), "a.jpg": photo(700, 500)}
        found = self.weigh(files | {"b.jpg": photo(900, 3000, 7)}).visit
        self.assertIn(found.largest.url, (f"https://site.example/{n}.jpg" for n in "ab"))
        self.assertGreater(found.timings.largest_paint, 0)
        self.assertGreaterEqual(found.timings.load, found.timings.content_ready)
        self.assertGreater(found.timings.first_paint, 0)

    def test_how_the_page_is_built(self) -> None:
        body = (
            "<nav><ul>" + "<li><a href=#>x</a></li>" * 9 + "</ul></nav><main><div><div><b>deep</b></div></div></main>"
            "<p class=s><i class=s></i></p><p style='font-family:serif'>Müll 12</p>"
        )
        style = "<style>.s{display:block;animation:k 1s infinite}@keyframes k{50%{opacity:.5}}</style>"
        built = self.weigh({"index.html": page(body, style)}).facts.structure
        assert built.deepest
        self.assertEqual((built.depth, built.deepest.selector), (6, "html>body>nav>ul>li:nth-of-type(1)>a"))
        self.assertEqual((len(built.moving), len(built.nested)), (2, 1))
        self.assertTrue(any(set("Mül12") <= set(font["characters"]) for font in built.fonts))
        self.assertGreater(built.sections[0].nodes, built.sections[-1].nodes)


class Exact(BrowserCase):
    def test_ten_pages_ten_times_to_the_byte_of_the_log(self) -> None:
        files: dict[str, bytes] = {
            "s.js": b"fetch('data.json?' + Math.random()); // " + b"x" * 400,
            "data.json": b'{"a":1}',
        }
        for n in range(10):
            extra = [
                "<iframe src=0.html></iframe>",
                "<img src=gone.jpg>",
                "<script src=s.js></script>",
                "<video src=v.mp4></video>",
            ]
            images = "".join(f"<img src={(n + i) % 10}.jpg>" for i in range(n % 5 + 1))
            files[f"{n}.html"] = page(images + (extra[n % 4] if n else ""), "<link rel=stylesheet href=s.css>")
            files[f"{n}.jpg"] = photo(60 + 9 * n, 40, n)
        files |= {"s.css": b"body{background:url(5.jpg)}" + b"/* */" * 60, "v.mp4": photo(30, 30, 9)}
        capture = self.capture(files)
        seen: dict[str, set[tuple[int, int, int]]] = {}

        def one(browser: Browser, url: str) -> None:
            log = browser.replay.log
            mark = len(log)
            found, _ = browser.run(visit(browser, url, DESKTOP, facts=False))
            own = [e for e in log[mark:] if e.url.startswith(capture.base_url) and "icon" not in e.url]
            self.assertEqual(sum(r.body for r in found.requests), sum(e.body for e in own), url)
            self.assertEqual(sum(not r.cached for r in found.requests), len(own), url)
            counts = len(found.requests), found.transferred, sum(r.decoded for r in found.requests)
            seen.setdefault(url, set()).add(counts)

        urls = [p.url for p in capture.pages()]
        with browser_for(capture) as browser:
            in_lanes(Session.of(browser, capture, Progress()), Batch("weigh", urls * 10, one, str), serves=True)
        self.assertEqual((len(seen), {len(counts) for counts in seen.values()}), (10, {1}))

    def test_a_har_that_was_exported_weighs_the_same_when_it_comes_back(self) -> None:
        responses = [
            said(
                HOST,
                page(f"<img src=a.jpg><script src={FAR}t.js></script><img src=gone.jpg><img src=old>"),
                "text/html",
            ),
            said(HOST + "a.jpg", photo(200, 100), "image/jpeg"),
            said(HOST + "old", b"", "text/plain", 302, location="/b.jpg"),
            said(HOST + "b.jpg", photo(90, 60, 3), "image/jpeg"),
            said(FAR + "t.js", b"fetch('https://media.other.example/d');" + b"//" * 400, "text/javascript"),
            said(FAR + "d", b'{"a":1}', "application/json", access_control_allow_origin="*"),
        ]
        capture = capture_of_responses("t", responses, self.store, [])
        found = weigh_page(self.serve(capture), capture.pages()[0], DESKTOP)
        target = self.folder / "again.har"
        target.write_text(json.dumps(har_of(capture, [found])))
        again = read_site(target, self.store)
        with browser_for(again) as browser:
            (back,) = weigh_pages(Session.of(browser, again, Progress()), again.pages(), [DESKTOP])
        names = ("requests", "transferred", "decoded", "kinds", "missing")
        self.assertEqual([back.as_json()[n] for n in names], [found.as_json()[n] for n in names])
        self.assertEqual(found.as_json()["missing"], [HOST + "gone.jpg"])


class CommandLine(BrowserCase):
    def test_all_conditions_and_open_formats_at_once(self) -> None:
        site = zip_of(
            {
                "index.html": page("<img src=a.jpg>", "<link rel=stylesheet href=a.css>"),
                "a.jpg": photo(90, 60),
                "a.css": b".a{}",
            },
            self.folder / "site.zip",
        )
        har, table = self.folder / "out.har", self.folder / "out.csv"
        how = [
            "--device",
            "tablet",
            "--device",
            "1440x900@1",
            "--visit",
            "repeat",
            "--link",
            "10 Mbit/s, 40 ms",
            "--runs",
            "2",
        ]
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            code = main(["weigh", str(site), *how, "--har", str(har), "--csv", str(table), "--json"])
        document = json.loads(out.getvalue())
        jsonschema.validate(document, json.loads((SCHEMAS / "weigh-ins-1.json").read_text()))
        self.assertEqual(code, 0)
        rows = {w["device"]: w for w in document["weigh_ins"]}
        self.assertEqual(list(rows), ["tablet", "1440x900@1"])
        for row in rows.values():
            self.assertEqual((row["visit"], row["link"], row["runs"]), ("repeat", "10 Mbit/s, 40 ms", 2))
            self.assertEqual((row["requests"], len(row["load_ms_runs"])), (1, 2))
            self.assertIn("10 Mbit/s, 40 ms", row["modelled_load_ms"])
        self.assertEqual(rows["1440x900@1"]["window"], {"width": 1440, "height": 900, "density": 1})
        log = json.loads(har.read_text())["log"]
        self.assertEqual((len(log["pages"]), [e["response"]["status"] for e in log["entries"]]), (2, [304, 304]))
        self.assertEqual(len(table.read_text().splitlines()), 1 + 2 * 3)
