"""A capture served under other addresses: what is changed in its texts, and what is not."""

from __future__ import annotations

import gzip
import json
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.capture.test_recordings import entry, har
from tests.sites import FolderCase, page
from unladen.capture import Capture, read_site
from unladen.replay.moved import MOST_HOSTS, SCRIPT_PATH, Moved

OWN, FAR = "https://mill.example", "https://far.example"


def address(label: str) -> str:
    return f"http://{label or 'own'}.copy.test:9"


class MovedCase(FolderCase):
    def recorded(self, *entries: Any) -> Capture:
        """A recording of the site's own page and of what else is given."""
        path = self.folder / "in.har"
        path.write_text(json.dumps(har(*entries)))
        return read_site(path, self.store)

    def moved(self, body: bytes = b"<p>home", *more: Any) -> Moved:
        return Moved(
            self.recorded(
                entry(f"{OWN}/", body, "text/html"), entry(f"{FAR}/t.js", b"let a = 1;", "text/javascript"), *more
            ),
            address,
        )


class Texts(MovedCase):
    def test_addresses_of_known_hosts_lead_to_where_they_are_now(self) -> None:
        copy = self.moved()
        here, far = address(""), address("h1")
        for before, after in {
            "https://mill.example/a.jpg": f"{here}/a.jpg",
            "http://mill.example": here,
            "HTTPS://Far.Example/t.js": f"{far}/t.js",
            "//far.example/t.js": f"{far}/t.js",
            "url(//far.example/a.png)": f"url({far}/a.png)",
            '"https:\\/\\/far.example\\/t.js"': f'"{far}\\/t.js"'.replace("http://", "http:\\/\\/"),
            "https://far.example:443/x": f"{far}/x",
            "a.jpg 1x, https://far.example/b.jpg 2x": f"a.jpg 1x, {far}/b.jpg 2x",
        }.items():
            self.assertEqual(copy.text(before), after)

    def test_other_addresses_stay(self) -> None:
        copy = self.moved()
        for text in (
            "https://elsewhere.example/far.example/x",
            "https://notfar.example/",
            "https://far.example.org/",
            "https://far.example:8080/",
            "https://far.examples/",
            "ftp://far.example/",
            "https://far.example@evil.example/",
            "mailto:ada@far.example",
            "// far.example is where it was",
        ):
            self.assertEqual(copy.text(text), text)

    @given(st.text())
    def test_a_text_without_them_is_as_it_was(self, text: str) -> None:
        copy = Moved(Capture("https://mill.example/", {}, None), address)  # type: ignore[arg-type]
        if "mill.example" not in text.lower():
            self.assertEqual(copy.text(text), text)

    def test_a_page_gets_our_script_first_and_nothing_holds_it_to_the_bytes_of_before(self) -> None:
        policy = '<meta http-equiv="Content-Security-Policy" content="script-src none">'
        body = page(f"<script src={FAR}/t.js integrity=sha256-x></script><script>let integrity = 1</script>", policy)
        sent = self.moved(body).answer("", "/", {}).body.decode()
        self.assertLess(sent.index(f'<script src="{SCRIPT_PATH}">'), sent.index("<meta"))
        self.assertIn("data-http-equiv=", sent)
        self.assertIn(f"src={address('h1')}/t.js data-integrity=sha256-x>", sent)
        self.assertIn("<script>let integrity = 1</script>", sent)

    def test_the_script_goes_behind_the_document_type_where_there_is_no_head(self) -> None:
        script = f'<script src="{SCRIPT_PATH}"></script>'
        for body, wanted in {
            "<p>x": f"{script}<p>x",
            "<!doctype html><p>x": f"<!doctype html>{script}<p>x",
            "<!DOCTYPE html>\n<html lang=en><body>x": f"<!DOCTYPE html>\n<html lang=en>{script}<body>x",
            "<html><head class=a><title>": f"<html><head class=a>{script}<title>",
            "<header>x": f"{script}<header>x",
        }.items():
            self.assertEqual(self.moved(body.encode()).answer("", "/", {}).body.decode(), wanted)

    def test_pictures_and_other_charsets_keep_their_bytes(self) -> None:
        german = "<meta charset=iso-8859-1><p>Gr\xfc\xdfe <a href=https://site.example/>x".encode("latin-1")
        raw = b"\x89PNG https://site.example/"
        copy = Moved(self.capture({"index.html": german, "a.png": raw}), address)
        self.assertIn(b"Gr\xfc\xdfe <a href=" + address("").encode(), copy.answer("", "/index.html", {}).body)
        self.assertEqual(copy.answer("", "/a.png", {}).body, raw)


class Answers(MovedCase):
    def test_each_host_answers_at_its_own_label(self) -> None:
        copy = self.moved()
        self.assertEqual(copy.answer("h1", "/t.js", {}).body, b"let a = 1;")
        for label, path in (("", "/t.js"), ("h1", "/"), ("h2", "/t.js"), ("hx", "/t.js")):
            self.assertEqual(copy.answer(label, path, {}).status, 404, (label, path))

    def test_what_was_sent_packed_is_sent_plain_where_it_was_changed(self) -> None:
        copy = self.moved(page("x" * 3000 + FAR), entry(f"{OWN}/a.css", b"a{}" * 900, "text/css"))
        found = copy.answer("", "/", {"if-none-match": "*"})
        self.assertEqual((found.status, dict(found.headers).get("content-encoding")), (200, None))
        self.assertNotEqual(found.body[:2], gzip.compress(b"")[:2])
        self.assertIn(address("h1").encode(), found.body)

    def test_redirects_follow_and_those_to_strangers_lead_nowhere(self) -> None:
        copy = self.moved(
            b"<p>home",
            entry(f"{OWN}/old", status=301, headers=[{"name": "Location", "value": "/new"}]),
            entry(f"{OWN}/far", status=302, headers=[{"name": "Location", "value": f"{FAR}/t.js"}]),
            entry(f"{OWN}/away", status=302, headers=[{"name": "Location", "value": "https://elsewhere.example/"}]),
        )
        self.assertEqual(dict(copy.answer("", "/old", {}).headers)["location"], f"{address('')}/new")
        self.assertEqual(dict(copy.answer("", "/far", {}).headers)["location"], f"{address('h1')}/t.js")
        self.assertEqual(copy.answer("", "/away", {}).status, 404)

    def test_a_site_in_a_folder_is_found_by_its_pages_own_paths_and_from_the_root(self) -> None:
        capture = self.capture({"index.html": page("home"), "a.css": b"a{}"})
        inner = Capture.from_index(
            json.loads(json.dumps(capture.to_index()).replace("https://site.example/", "https://site.example/shop/")),
            self.store,
        )
        copy = Moved(inner, address)
        for path in ("/index.html", "/", "/a.css", "/shop/a.css", "/shop/"):
            self.assertEqual(copy.answer("", path, {}).status, 200, path)

    def test_more_hosts_than_anybody_needs_are_not_moved(self) -> None:
        many = [entry(f"https://h{n}.example/a.js", b"1", "text/javascript") for n in range(MOST_HOSTS + 20)]
        self.assertEqual(len(self.moved(b"<p>home", *many).origins), MOST_HOSTS)
