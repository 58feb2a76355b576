"""The made-up site: the same bytes every time, with the faults that it is there to show."""

from __future__ import annotations

import hashlib
import http.client
import io
import unittest

from PIL import Image

from demo import pages, services
from demo.generate import HOST, files
from demo.pictures import jpeg, landscape
from demo.staging import StagingServer
from tests.sites import FolderCase, page
from unladen.capture.recorded import Response, capture_of_responses
from unladen.markup.references import html_references


class Demo(unittest.TestCase):
    def test_pictures_are_the_same_every_time_and_look_like_photographs(self) -> None:
        first, second = (jpeg(landscape(300, 200, 5, mill=True), camera=True) for _ in range(2))
        self.assertEqual(hashlib.sha256(first).digest(), hashlib.sha256(second).digest())
        self.assertGreater(len(first), 300 * 200 * 0.25)
        self.assertEqual(Image.open(io.BytesIO(first)).getexif()[0x010F], "Sallow & Reed")

    def test_every_file_that_a_page_names_is_made(self) -> None:
        made = {f"{HOST}/{path}" for path, _ in files()} | {url for url, _ in services.answers()}
        for make in (pages.home, pages.visit, pages.shop, pages.events, pages.journal):
            for reference in html_references(make(), f"https://{HOST}/{make.__name__}.html"):
                self.assertIn(reference.url.removeprefix("https://").partition("?")[0], made)

    def test_all_names_are_reserved(self) -> None:
        # RFC 2606: nobody can register a name below .example.
        for url, _ in services.answers():
            self.assertTrue(url.partition("/")[0].endswith(".example"), url)

    def test_scripts_and_fonts_are_the_same_every_time(self) -> None:
        self.assertEqual(services.filler("a", 5000, 3), services.filler("a", 5000, 3))
        self.assertGreater(len(services.filler("a", 5000, 3)), 4999)
        made = services.font(services.FAMILIES[0][2], "Saltings", 400)
        self.assertEqual(made[:4], b"wOF2")
        services.font.cache_clear()
        self.assertEqual(services.font(services.FAMILIES[0][2], "Saltings", 400), made)


class Staging(FolderCase):
    def test_one_port_answers_for_all_hosts_over_plain_http(self) -> None:
        responses = [
            Response(f"https://{HOST}/index.html", 200, (("content-type", "text/html"),), page("mill")),
            Response(f"https://{services.TAGS}/t.js", 200, (("content-type", "text/javascript"),), b"let t;"),
        ]
        capture = capture_of_responses("demo", responses, self.store, [])
        with StagingServer(capture, 0) as server:

            def get(host: str, path: str) -> tuple[int, bytes]:
                connection = http.client.HTTPConnection("127.0.0.1", server.plain_port)
                connection.request("GET", path, headers={"Host": host})
                response = connection.getresponse()
                return response.status, response.read()

            self.assertEqual(get(HOST, "/index.html"), (200, page("mill")))
            self.assertEqual(get(services.TAGS, "/t.js?id=1"), (200, b"let t;"))
            self.assertEqual(get("nobody.example", "/"), (404, b""))
