"""One spelling for each address, and a file for each of them."""

from __future__ import annotations

import json
import shutil
import subprocess
import unittest
import zipfile
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from tests.sites import FolderCase, page, photo
from unladen.capture import Capture, read_site, write_zip
from unladen.capture.addresses import canonical, path_of_url, site_path, url_of_path
from unladen.capture.paths import portable, read_back
from unladen.capture.recorded import Response, capture_of_responses
from unladen.markup.references import link_to, resolve
from unladen.replay.answer import answer

BASE = "https://site.example/"
HTML = (("content-type", "text/html"),)
# Addresses as browsers take them in (WHATWG URL, 4.4): each is compared with what a program of the standard says.
WRITTEN = (
    "https://site.example", "https://site.example/a b.jpg#top", "HTTPS://Site.Example:443/A",
    "https://site.example/%7Emill/",
    "https://site.example/%E4.png", "https://site.example/%f6.png", "https://site.example/a%2Fb.txt",
    "https://site.example//etc/cron.d/evil", "https://site.example/a/../b/./c/%2e%2E/d/..", "https://site.example/..",
    "https://site.example/a\\b.txt", "https://site.example/a%5Cb.txt", "https://site.example/caf\u00e9",
    "https://site.example/cafe\u0301", "https://site.example/%00/%0a", "https://site.example/x:y/z?b=1&a=2",
    "https://site.example/100%/50%25", "https://site.example/a/...", "https://site.example/%83e%83X%83g.html",
)  # fmt: skip
_STANDARD = "console.log(JSON.stringify(JSON.parse(require('fs').readFileSync(0)).map((u) => new URL(u).href)))"


class Addresses(FolderCase):
    def test_one_spelling_for_what_a_server_answers_alike(self) -> None:
        for spelling in (
            "HTTPS://Site.Example:443/a b.jpg#top",
            "https://site.example/a%20b.jpg",
            "https://site.example/a b.jpg",
            "https://site.example/c/../a b.%6apg",
        ):
            self.assertEqual(canonical(spelling), "https://site.example/a%20b.jpg")
        self.assertEqual(canonical("https://site.example/caf\u00e9"), "https://site.example/caf%C3%A9")
        self.assertEqual(canonical("https://site.example"), BASE)
        self.assertEqual(canonical("https://site.example/x?b=1&a=2"), "https://site.example/x?b=1&a=2")

    def test_what_a_server_tells_apart_stays_apart(self) -> None:
        for one, other in (
            ("%E4.png", "%F6.png"),
            ("a%2Fb.txt", "a/b.txt"),
            ("caf\u00e9", "cafe\u0301"),
            ("%83e.html", "%83f.html"),
            ("/a", "a"),
            ("a%5Cb", "a/b"),
        ):
            self.assertNotEqual(canonical(BASE + one), canonical(BASE + other))

    @unittest.skipUnless(shutil.which("node"), "needs node")
    def test_a_browsers_spelling_is_the_same_address(self) -> None:
        asked = json.dumps(WRITTEN)
        made = subprocess.run(["node", "-e", _STANDARD], input=asked, capture_output=True, text=True, check=True)
        for written, spelled in zip(WRITTEN, json.loads(made.stdout), strict=True):
            self.assertEqual(canonical(written), canonical(spelled))
            self.assertEqual(canonical(canonical(written)), canonical(written))

    @given(
        st.text(st.characters(exclude_categories=["Cs", "Cc"]), min_size=1, max_size=30).map(
            lambda t: t.replace("/", "-")
        )
    )
    def test_a_file_name_becomes_an_address_and_comes_back(self, name: str) -> None:
        if name in (".", ".."):
            return
        url = url_of_path(BASE, "pics/" + name)
        self.assertEqual(canonical(url), url)
        self.assertEqual(url_of_path(BASE, path_of_url(BASE, url)), url)
        self.assertTrue(site_path(BASE, url).startswith("/pics/"))

    def test_a_name_with_percent_signs_and_hashes_is_served(self) -> None:
        capture = self.capture({"index.html": page(""), "100% #1?.jpg": photo(20, 20)})
        (image,) = [exchange for exchange in capture if exchange.media_type == "image/jpeg"]
        self.assertEqual(image.url, "https://site.example/100%25%20%231%3F.jpg")
        self.assertEqual(answer(capture, "GET", image.url, {}).status, 200)
        self.assertEqual(answer(capture, "GET", image.url + "?v=2", {}).status, 200)
        self.assertEqual(answer(capture, "OPTIONS", image.url, {}).status, 204)

    def test_an_accent_may_be_spelled_in_two_ways_where_only_one_file_is_meant(self) -> None:
        one = self.capture({"index.html": page(""), "cafe\u0301.txt": b"two characters"})
        both = self.capture({"index.html": page(""), "cafe\u0301.txt": b"two", "caf\u00e9.txt": b"one"})
        for spelling in ("caf\u00e9.txt", "cafe\u0301.txt"):
            self.assertIsNotNone(one.lookup(BASE + spelling))
        bodies = [both.body(e) for s in ("caf\u00e9.txt", "cafe\u0301.txt") if (e := both.lookup(BASE + s))]
        self.assertEqual(bodies, [b"one", b"two"])

    def test_links_lead_where_they_should(self) -> None:
        for target in ("%E4.png", "a%2Fb.txt", "x:y/z.png", "/etc/x.png", "deep/caf%C3%A9.png", "deep//x.png"):
            for here in ("index.html", "deep/page.html", "/etc/page.html", "a%2Fb/page.html"):
                for like in ("a.png", "/a.png", "https://site.example/a.png"):
                    link = link_to(canonical(BASE + target), BASE + here, like)
                    self.assertEqual(resolve(BASE + here, link), canonical(BASE + target), (target, here, link))


class FilesKept(FolderCase):
    """As many files come out as go in, each with its bytes, or a notice names it."""

    def handed_over(self, site: Capture) -> tuple[dict[str, bytes], set[str]]:
        notices = write_zip(site, self.folder / "out.zip")
        with zipfile.ZipFile(self.folder / "out.zip") as archive:
            files = {name: archive.read(name) for name in archive.namelist()}
        return files, {notice.name for notice in notices}

    @given(st.lists(st.binary(min_size=1, max_size=12), min_size=1, max_size=12, unique=True))
    def test_addresses_of_any_bytes(self, names: list[bytes]) -> None:
        coded = ["".join(f"%{byte:02x}" for byte in name) for name in names]
        answers = [Response(BASE, 200, HTML, page("Home"))]
        answers += [Response(BASE + "f/x" + n, 200, (), f"body {n}".encode()) for n in coded]
        site = capture_of_responses("mill.har", answers, self.store, [])
        files, named = self.handed_over(site)
        self.assertEqual(len(site), 1 + len(names))
        for code in coded:
            exchange = site.lookup(BASE + "f/x" + code)
            assert exchange is not None
            self.assertEqual(site.body(exchange), f"body {code}".encode())
            self.assertTrue(site.body(exchange) in files.values() or site_path(BASE, exchange.url) in named)

    def test_names_in_older_encodings(self) -> None:
        words = {"latin-1": "fähre", "shift_jis": "テスト表", "koi8-r": "мельница"}
        for encoding, word in words.items():
            with self.subTest(encoding):
                raw = word.encode(encoding)
                coded = "".join(f"%{byte:02X}" for byte in raw)
                answers = [Response(BASE, 200, HTML, page(f"<img src='{coded}.gif'>"))]
                answers.append(Response(f"{BASE}{coded}.gif", 200, (), raw))
                files, _ = self.handed_over(capture_of_responses("mill.har", answers, self.store, []))
                self.assertIn(raw, files.values())
                # A folder or archive with names of these bytes.
                with zipfile.ZipFile(self.folder / "in.zip", "w") as archive:
                    archive.writestr("index.html", page("Home"))
                    archive.writestr(raw.decode("cp437") + ".gif", raw)
                again = read_site(self.folder / "in.zip", self.store)
                self.assertIn(raw, [again.body(e) for e in again])

    def test_a_file_whose_name_looks_like_a_code(self) -> None:
        site = self.capture({"index.html": page(""), "%E4.png": b"a", "a%2Fb.txt": b"b", "a/b.txt": b"c"})
        files, _ = self.handed_over(site)
        self.assertLessEqual({b"a", b"b", b"c"}, set(files.values()))
        self.assertEqual(read_back(portable("%E4.png")), "%E4.png")
        self.assertEqual({Path(name).name for name in files}, {"index.html", "%E4.png", "a%2Fb.txt", "b.txt"})
