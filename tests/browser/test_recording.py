"""Live pages recorded from their address: what is taken in, what is refused, and how a page fails."""

from __future__ import annotations

import contextlib
import gzip
import http.server
import threading
import time
from collections.abc import Callable
from typing import ClassVar

from tests.browser.cases import DESKTOP, BrowserCase
from tests.sites import page, photo
from unladen.capture import Capture
from unladen.errors import BadInput
from unladen.progress import Progress
from unladen.replay.upstream import Allowed
from unladen.weigh.visits.recording import Visiting, record_site
from unladen.weigh.visits.weighing import weigh_page

Reply = tuple[int, dict[str, str], bytes]
HTML = {"Content-Type": "text/html; charset=utf-8"}
HOME = page(
    "<img src=a.jpg><img src='//media.stage.example/b.jpg'><img src='http://127.0.0.1:9/secret.jpg'><img src='http://10.0.0.1/secret.jpg'>"
    "<img src='/to-private'><a href=two.html>two</a><a href='http://else.example/'>else</a><a href=#x>x</a>"
    "<script>fetch('/post', {method: 'POST', body: 'tide=1'})</script>"
)
PACKED = {**HTML, "Content-Encoding": "gzip", "ETag": '"1"', "Cache-Control": "max-age=60", "Set-Cookie": "a=b"}


class Stage(http.server.ThreadingHTTPServer):
    """A small site on loopback."""

    daemon_threads = True
    asked: ClassVar[list[str]] = []


def slow() -> Reply:
    """An answer that comes after every patience."""
    time.sleep(20)
    return 200, HTML, b""


class Handler(http.server.BaseHTTPRequestHandler):
    replies: ClassVar[dict[str, Reply | Callable[[], Reply]]] = {
        "stage.example/": (200, PACKED, gzip.compress(HOME)),
        "stage.example/two.html": (200, HTML, page("two <a href=three.html>3</a>")),
        "stage.example/three.html": (200, HTML, page("three <a href=four.html>4</a>")),
        "stage.example/a.jpg": (200, {"Content-Type": "image/jpeg"}, photo(60, 40)),
        "media.stage.example/b.jpg": (200, {"Content-Type": "image/jpeg"}, photo(50, 40, 2)),
        "stage.example/to-private": (302, {"Location": "http://127.0.0.1/x.jpg"}, b""),
        "stage.example/post": (200, {"Content-Type": "application/json"}, b"{}"),
        "stage.example/moved": (301, {"Location": "/two.html"}, b""),
        "stage.example/error": (500, HTML, b"oh"),
        "stage.example/login": (401, {**HTML, "WWW-Authenticate": "Basic"}, b""),
        "stage.example/circle": (302, {"Location": "/circle"}, b""),
        "stage.example/file": (200, {"Content-Type": "application/zip", "Content-Disposition": "attachment"}, b"PK"),
        "stage.example/away": (302, {"Location": "http://127.0.0.1/"}, b""),
        "stage.example/slow": slow,
        **{
            f"stage.example/shop/{n}.html": (200, HTML, page(f"<main><h1>{n}</h1><img src=/shop/{n}.jpg></main>"))
            for n in range(60)
        },
        **{f"stage.example/shop/{n}.jpg": (200, {"Content-Type": "image/jpeg"}, photo(40, 30, n)) for n in range(60)},
        "stage.example/robots.txt": (200, {}, b"Sitemap: http://stage.example/all.xml"),
        "stage.example/all.xml": (
            200,
            {},
            "\n".join(f"http://stage.example/shop/{n}.html" for n in range(60)).encode() + b"\nhttp://else.example/",
        ),
    }

    def do_GET(self) -> None:
        key = self.headers["Host"] + self.path
        Stage.asked.append(f"{self.command} {key}")
        reply = self.replies.get(key, (404, HTML, b"nothing"))
        status, headers, body = reply() if callable(reply) else reply
        self.send_response(status)
        for name, value in {**headers, "Content-Length": str(len(body))}.items():
            self.send_header(name, value)
        self.end_headers()
        with contextlib.suppress(OSError):
            self.wfile.write(body)

    do_POST = do_GET

    def log_message(self, *_: object) -> None:
        pass


class Recording(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        server = Stage(("127.0.0.1", 0), Handler)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        Stage.asked.clear()
        here = ("127.0.0.1", server.server_address[1])
        self.allowed = Allowed({"stage.example": here, "media.stage.example": here})

    def record(self, address: str, **how: object) -> Capture:
        visiting = Visiting(**how)  # type: ignore[arg-type]
        return record_site(address, self.store, Progress(), visiting, self.allowed, devices=("desktop",))

    def test_pages_third_parties_and_links_of_the_same_site(self) -> None:
        capture = self.record("http://stage.example/", depth=1, pages=5)
        self.assertEqual([p.url for p in capture.pages()], ["http://stage.example/", "http://stage.example/two.html"])
        home = capture.exchanges["http://stage.example/"]
        self.assertEqual(
            (capture.body(home), home.encoding, home.header("cache-control")), (HOME, "gzip", "max-age=60")
        )
        self.assertEqual(capture.body(capture.exchanges["http://media.stage.example/b.jpg"]), photo(50, 40, 2))
        self.assertIn("POST stage.example/post", Stage.asked)
        # Links of other sites are not followed, nor are those deeper than was asked for.
        self.assertFalse([line for line in Stage.asked if "else.example" in line or "three" in line])
        # What a page embeds from a private address is refused, also behind a redirect, and said.
        refused = {notice.name: notice.reason for notice in capture.notices}
        for address in ("http://127.0.0.1/x.jpg", "http://10.0.0.1/secret.jpg"):
            self.assertIn("private or local address", refused[address])
        # What the browser would like for itself goes nowhere.
        self.assertEqual({name for name in refused if "127.0.0.1" not in name and "10.0.0.1" not in name}, set())
        found = weigh_page(self.serve(capture), home, DESKTOP)
        self.assertEqual(found.visit.requests[0].body, len(capture.sent(home)[0]))
        self.assertIn("http://stage.example/a.jpg", [r.url for r in found.visit.requests if r.status == 200])

    def test_a_redirect_leads_to_the_page_that_is_weighed(self) -> None:
        capture = self.record("http://stage.example/moved")
        self.assertEqual([p.url for p in capture.pages()], ["http://stage.example/two.html"])
        self.assertEqual(capture.exchanges["http://stage.example/moved"].status, 301)

    def test_the_number_of_pages_is_kept_to(self) -> None:
        self.assertEqual(len(self.record("http://stage.example/", depth=5, pages=3).pages()), 3)

    def test_pages_of_a_sitemap_of_which_those_alike_are_only_fetched(self) -> None:
        capture = self.record("http://stage.example/", pages=2000, sitemap=True, only=("/shop/*",))
        paths = [p.path for p in capture.pages()]
        self.assertEqual(paths, ["index.html", *(f"shop/{n}.html" for n in range(60))])
        self.assertEqual(sum(line.endswith(".jpg") and "/shop/" in line for line in Stage.asked), 60)
        self.assertIn("an address of another host", "\n".join(map(str, capture.notices)))
        self.assertEqual(capture.body(capture.exchanges["http://stage.example/shop/59.jpg"]), photo(40, 30, 59))
        found = weigh_page(self.serve(capture), capture.page("/shop/59.html"), DESKTOP)
        self.assertEqual([r.status for r in found.visit.requests], [200, 200])

    def test_a_list_of_pages_and_a_pattern(self) -> None:
        lines = ("/shop/1.html", "http://stage.example/shop/2.html", "http://else.example/", "/two.html")
        capture = self.record("http://stage.example/", pages=9, listed=lines, only=("/shop/*",))
        self.assertEqual([p.path for p in capture.pages()], ["index.html", "shop/1.html", "shop/2.html"])

    def test_addresses_that_bring_no_page(self) -> None:
        for path, words in (
            ("error", "responds with 500 Internal Server Error"),
            ("gone", "responds with 404 Not Found"),
            ("login", "asks for a login"),
            ("circle", "redirects in a circle"),
            ("file", "offers a file to download"),
            ("away", "private or local address"),
        ):
            with self.assertRaises(BadInput) as caught:
                self.record(f"http://stage.example/{path}")
            self.assertIn(path, caught.exception.name)
            self.assertIn(words, caught.exception.reason)

    def test_a_page_that_never_answers(self) -> None:
        with self.assertRaisesRegex(BadInput, "did not answer within 2 s"):
            self.record("http://stage.example/slow", seconds=2)

    def test_private_addresses_are_refused_outright(self) -> None:
        for address in ("http://127.0.0.1/", "http://localhost/", "http://[::1]/", "http://169.254.169.254/latest"):
            with self.assertRaisesRegex(BadInput, "private or local address"):
                self.record(address)
        self.assertEqual(Stage.asked, [])

    def test_a_site_that_sends_more_than_may_be_recorded(self) -> None:
        capture = self.record("http://stage.example/", total=len(HOME) + 10)
        self.assertIn("reached its size limit", "\n".join(map(str, capture.notices)))
