"""HAR and WARC files as captures: what is good comes in, what is bad is named, the rest goes on."""

from __future__ import annotations

import base64
import gzip
import io
import json
import tracemalloc
import zlib
from typing import Any

import brotli
import zstandard
from hypothesis import given
from hypothesis import strategies as st
from warcio.statusandheaders import StatusAndHeaders  # type: ignore[import-untyped]
from warcio.warcwriter import WARCWriter  # type: ignore[import-untyped]

from tests.sites import FolderCase, page, photo
from unladen.capture import Capture, Limits, read_site, read_zip, write_zip
from unladen.capture.recorded import BodyRefused, Response, clean_headers, unpacked
from unladen.capture.unpacking import unchunked
from unladen.capture.warc import write_warc
from unladen.errors import BadInput
from unladen.replay.answer import answer

HOST = "https://mill.example/"
HTML = page("<img src=a.jpg><script src=https://tags.example/t.js></script>")


def entry(
    path: str, body: bytes = b"", media_type: str = "text/html", status: int = 200, **more: Any
) -> dict[str, Any]:
    """One entry of a HAR file."""
    content: dict[str, Any] = {"size": len(body), "mimeType": media_type}
    if body and media_type.startswith("text/"):
        content["text"] = body.decode()
    elif body:
        content |= {"text": base64.b64encode(body).decode(), "encoding": "base64"}
    headers = [{"name": "Content-Type", "value": media_type}, *more.pop("headers", [])]
    url = path if "://" in path else HOST + path
    response = {"status": status, "headers": headers, "content": content | more.pop("content", {})}
    return {"pageref": "p", "request": {"method": "GET", "url": url}, "response": response} | more


def har(*entries: Any, version: str = "1.2") -> dict[str, Any]:
    return {"log": {"version": version, "pages": [{"id": "p"}], "entries": list(entries)}}


GOOD = [
    entry("", HTML, headers=[{"name": "content-encoding", "value": "br"}, {"name": ":status", "value": "200"}]),
    entry("a.jpg", photo(60, 40), "image/jpeg"),
    entry("https://tags.example/t.js", b"let a = 1;" * 90, "text/javascript"),
    entry("old", status=301, headers=[{"name": "Location", "value": HOST}]),
]


class Har(FolderCase):
    def read(self, document: Any, name: str = "site.har", limits: Limits | None = None) -> Capture:
        path = self.folder / name
        path.write_bytes(document if isinstance(document, bytes) else json.dumps(document).encode())
        return read_site(path, self.store, limits=limits)

    def refused(self, document: Any, words: str, limits: Limits | None = None) -> None:
        with self.assertRaises(BadInput) as caught:
            self.read(document, "bad.har", limits)
        self.assertIn("bad.har", str(caught.exception))
        self.assertIn(words, str(caught.exception))

    def test_several_hosts_redirects_packed_and_binary_bodies(self) -> None:
        capture = self.read(har(*GOOD))
        self.assertEqual((capture.base_url, [p.url for p in capture.pages()]), (HOST, [HOST]))
        self.assertEqual(capture.body(capture.exchanges[HOST]), HTML)
        self.assertEqual(capture.exchanges[HOST].encoding, "br")
        self.assertEqual(answer(capture, "GET", HOST + "a.jpg", {}).body, photo(60, 40))
        moved = answer(capture, "GET", HOST + "old", {})
        self.assertEqual((moved.status, dict(moved.headers)["location"]), (301, HOST))
        self.assertTrue(capture.lookup("https://tags.example/t.js"))
        again = Capture.from_index(json.loads(json.dumps(capture.to_index())), self.store)
        self.assertEqual((again.exchanges, again.page_urls), (capture.exchanges, capture.page_urls))

    def test_what_is_handed_over_is_the_sites_own(self) -> None:
        capture = self.read(har(*GOOD))
        write_zip(capture, self.folder / "out.zip")
        again = read_zip(self.folder / "out.zip", self.store)
        self.assertEqual(sorted(e.path for e in again), ["a.jpg", "index.html"])

    def test_files_of_which_nothing_can_be_made(self) -> None:
        self.refused(b'{"log": {"version": "1.2", "entr', "truncated")
        self.refused(b"[" * 200_000, "nested too deep")
        self.refused(b'{"log": "\xff\xfe"}', "not in UTF-8")
        self.refused({"a": 1}, "not a HAR file")
        self.refused(har(*GOOD, version="2.0"), "HAR 2.0; only HAR 1.2")
        self.refused(har(entry("", content={"size": 900})), "contains no response bodies")
        self.refused(har(entry("a.jpg", photo(9, 9), "image/jpeg")), "holds no HTML page")
        self.refused(har(*GOOD), "at most 2 are read", Limits(files=2))

    def test_what_came_before_the_end_of_a_file_that_is_cut_off(self) -> None:
        text = json.dumps(har(*GOOD))
        capture = self.read(text[: text.index('"https://tags.example/t.js"')].encode())
        self.assertEqual(len(capture.exchanges), len(GOOD) - 2)
        self.assertEqual(
            [str(notice) for notice in capture.notices], ["site.har: is cut off; what came after 2 answers is lost"]
        )

    def test_a_bad_entry_is_left_out_by_name_and_the_rest_goes_on(self) -> None:
        bad = [
            entry("b.jpg", photo(9, 9), "image/jpeg", content={"text": "%%%"}),
            entry("c.jpg", media_type="image/jpeg", content={"size": 9}),
            entry("d.mp4", b"123", "video/mp4", 206, headers=[{"name": "Content-Range", "value": "bytes 0-2/9"}]),
            entry("e.css", media_type="text/css", status=304),
            entry("f.css", media_type="text/css", status=0),
            {"request": {}},
            "nonsense",
            entry("blob:https://mill.example/1", b"x", "text/css"),
        ]
        capture = self.read(har(*bad, *GOOD))
        self.assertEqual(list(capture.exchanges), [HOST, HOST + "a.jpg", "https://tags.example/t.js", HOST + "old"])
        told = "\n".join(str(notice) for notice in capture.notices)
        for words in (
            "b.jpg: has a body that is not valid base64",
            "c.jpg: has no body",
            "d.mp4: was recorded in part",
        ):
            self.assertIn(words, told)
        for words in ("e.css: came from the cache", "f.css: had no response", "entry 6: lacks or misuses"):
            self.assertIn(words, told)

    def test_values_that_no_server_sends_cost_their_entry_only(self) -> None:
        bad = [
            entry("http://mill.example:99999/", b"x"),
            entry("http://mill.example:abc/", b"x"),
            entry("https:///nowhere", b"x"),
            entry("\ud800.html", b"x"),
        ]
        text = json.dumps(
            har(*bad, entry("a.css", b".a{}", "text/css", headers=[{"name": "X-A", "value": "\ud800"}]), *GOOD)
        )
        text = text.replace('"version"', '"pages": 5, "version"', 1)
        for status in ("1e999", "9" * 5000, "NaN", "-Infinity"):
            odd = json.dumps(entry("odd", b"x")).replace('"status": 200', f'"status": {status}')
            capture = self.read(text.replace('"entries": [', f'"entries": [{odd}, ').encode())
            self.assertEqual(len(capture.exchanges), len(GOOD) + 1)
            self.assertEqual(capture.exchanges[HOST + "a.css"].header("x-a"), "?")
            told = "\n".join(map(str, capture.notices))
            self.assertIn("entry 1: lacks or misuses a field", told)
            self.assertIn("mill.example:99999/: has an address that no browser opens", told)
            self.assertIn("mill.example:abc/: has an address", told)

    def test_hosts_of_any_script_stand_under_one_name(self) -> None:
        text = json.dumps(har(*GOOD), ensure_ascii=False).replace("mill.example", "bücher.example")
        capture = self.read(text.encode())
        self.assertEqual(capture.base_url, "https://xn--bcher-kva.example/")
        self.assertIsNotNone(capture.lookup("https://BÜCHER.example/a.jpg"))

    def test_a_whole_range_and_a_confirmed_copy_are_good(self) -> None:
        film = entry("d.mp4", b"123", "video/mp4", 206, headers=[{"name": "Content-Range", "value": "bytes 0-2/3"}])
        capture = self.read(har(*GOOD, film, entry("e.css", b".a{}", "text/css", 304)))
        self.assertEqual([capture.exchanges[HOST + name].status for name in ("d.mp4", "e.css")], [200, 200])


def record(url: str, block: bytes, kind: str = "response", length: int | None = None) -> bytes:
    head = f"WARC/1.0\r\nWARC-Type: {kind}\r\nWARC-Target-URI: {url}\r\n"
    return f"{head}Content-Length: {len(block) if length is None else length}\r\n\r\n".encode() + block + b"\r\n\r\n"


def http(body: bytes, media_type: str = "text/html", status: int = 200, extra: str = "") -> bytes:
    return f"HTTP/1.1 {status} OK\r\nContent-Type: {media_type}\r\n{extra}\r\n".encode() + body


HOME = record(HOST, http(HTML))


class Warc(FolderCase):
    def read(self, data: bytes, name: str = "site.warc") -> Capture:
        path = self.folder / name
        path.write_bytes(data)
        return read_site(path, self.store)

    def told(self, data: bytes) -> str:
        capture = self.read(data)
        self.assertEqual(capture.body(capture.exchanges[HOST]), HTML)
        return "\n".join(str(notice) for notice in capture.notices)

    def test_plain_and_gzipped_record_by_record(self) -> None:
        records = [
            record("", b"software: x", "warcinfo"),
            HOME,
            record(HOST, b"GET / HTTP/1.1\r\n\r\n", "request"),
            record(HOST + "a.css", http(gzip.compress(b".a{}" * 99), "text/css", extra="Content-Encoding: gzip\r\n")),
            record("https://tags.example/t.js", b"let a", "resource"),
            record(
                HOST + "b.css", http(b"4\r\n.a{}\r\n0\r\n\r\n", "text/css", extra="Transfer-Encoding: chunked\r\n")
            ),
        ]
        for data in (b"".join(records), b"".join(map(gzip.compress, records))):
            capture = self.read(data)
            bodies = {e.url.removeprefix(HOST): capture.body(e) for e in capture}
            self.assertEqual(bodies["a.css"], b".a{}" * 99)
            self.assertEqual((bodies["b.css"], bodies["https://tags.example/t.js"]), (b".a{}", b"let a"))
            self.assertEqual(capture.notices, ())

    def test_bad_lengths_are_left_out_and_reading_goes_on(self) -> None:
        for length in (3, 10**7, -1):
            told = self.told(record(HOST + "bad", http(b"abc"), length=length) + HOME)
            self.assertIn(f"{HOST}bad: a record states a wrong length", told)
        self.assertIn("wrong length", self.told(record(HOST + "bad", b"").replace(b": 0", b": zero") + HOME))

    def test_bad_gzip_members_are_left_out_and_reading_goes_on(self) -> None:
        broken = bytearray(gzip.compress(record(HOST + "bad", http(b"abc" * 200))))
        broken[30:40] = b"0123456789"
        self.assertIn(
            "a gzip member is broken", self.told(gzip.compress(b"WARC/1.0\r\n") + bytes(broken) + gzip.compress(HOME))
        )
        self.assertIn("cut off here", self.told(gzip.compress(HOME) + gzip.compress(HOME)[:60]))

    def test_twenty_thousand_records_and_heads_without_an_end(self) -> None:
        small = record(HOST + "x", b"software: x", "warcinfo")
        self.assertEqual(self.told(small * 20_000 + HOME), "")
        self.assertIn("no end of its header", self.told(b"WARC/1.0\r\nX: " + b"y" * 300_000 + HOME))

    def test_records_of_other_types_and_unusable_answers_are_named(self) -> None:
        bad = [
            (record(HOST + "x", b"", "revisit"), "refers to an earlier recording"),
            (record(HOST + "x", b"", "mystery"), "unknown type “mystery”"),
            (record(HOST + "x", b"no http here"), "holds no HTTP response"),
            (record(HOST + "x", http(b"", status=304)), "without its body"),
            (record(HOST + "x", b"HTTP/1.1 200 OK\r\nX: " + b"y" * 300_000), "header never ends"),
            (record(HOST + "x", http(b"\xff" * 9, extra="Content-Encoding: gzip\r\n")), "cannot be decompressed"),
            (record(HOST + "x", http(b"zz", extra="Content-Encoding: zstd\r\n")), "cannot be decompressed"),
            (record(HOST + "x", http(b"zz", extra="Content-Encoding: lzma\r\n")), "packed by “lzma”"),
            (record(HOST + "x", http(b"5\r\nab", extra="Transfer-Encoding: chunked\r\n")), "cut off"),
        ]
        for data, words in bad:
            self.assertIn(words, self.told(data + HOME))

    def test_files_of_which_nothing_can_be_made(self) -> None:
        for data, words in ((b"", "is empty"), (b"hello", "not a WARC"), (HOME[:40], "no recorded responses")):
            with self.assertRaisesRegex(BadInput, f"site.warc.*{words}"):
                self.read(data)
        with self.assertRaisesRegex(BadInput, "no recorded responses"):
            self.read(gzip.compress(b"not a record"), "site.warc.gz")

    def test_what_is_written_is_read_back_and_the_same_every_time(self) -> None:
        headers = (("content-type", "text/html"), ("content-encoding", "br"), ("cache-control", "max-age=5"))
        responses = [
            Response(HOST, 200, headers, HTML * 9, "br"),
            Response(HOST + "x", 302, (("location", "/"),), b""),
        ]
        paths = [self.folder / name for name in ("a.warc", "b.warc")]
        for path in paths:
            write_warc(responses, path)
        self.assertEqual(*(path.read_bytes() for path in paths))
        capture = read_site(paths[0], self.store)
        home = capture.exchanges[HOST]
        self.assertEqual(
            (capture.body(home), home.encoding, home.header("cache-control")), (HTML * 9, "br", "max-age=5")
        )
        self.assertEqual(capture.exchanges[HOST + "x"].status, 302)

    def test_what_warcio_writes_is_read(self) -> None:
        """PyPI warcio as a second writer, plain and gzipped record by record."""
        for packed in (False, True):
            path = self.folder / f"other{packed}.warc{'.gz' if packed else ''}"
            with path.open("wb") as file:
                writer = WARCWriter(file, gzip=packed)
                writer.write_record(writer.create_warcinfo_record("other.warc", {"software": "another"}))
                for url, kind, body in ((HOST, "text/html", HTML), (f"{HOST}a.css", "text/css", b"a{b:c}" * 90)):
                    fields = [("Content-Type", kind), ("Content-Encoding", "gzip"), ("Transfer-Encoding", "chunked")]
                    sent = gzip.compress(body)
                    chunks = b"".join(
                        b"%x\r\n%b\r\n" % (len(sent[n : n + 99]), sent[n : n + 99]) for n in range(0, len(sent), 99)
                    )
                    answer = StatusAndHeaders("200 OK", fields, protocol="HTTP/1.1")
                    payload = io.BytesIO(chunks + b"0\r\n\r\n")
                    writer.write_record(
                        writer.create_warc_record(url, "response", payload=payload, http_headers=answer)
                    )
                    writer.write_record(writer.create_revisit_record(url, "sha1:X", url, "2026-01-01T00:00:00Z"))
            capture = read_site(path, self.store)
            self.assertEqual([capture.body(e) for e in capture], [HTML, b"a{b:c}" * 90])
            self.assertEqual({n.reason for n in capture.notices}, {"refers to an earlier recording; left out"})


class Unpacking(FolderCase):
    def test_the_usual_encodings_also_one_upon_another(self) -> None:
        body = b"tide " * 500
        raw = zlib.compressobj(wbits=-15)
        for token, packed in (
            ("gzip", gzip.compress(body)),
            ("deflate", zlib.compress(body)),
            ("deflate", raw.compress(body) + raw.flush()),
            ("br", brotli.compress(body)),
            ("gzip, br", brotli.compress(gzip.compress(body))),
            ("zstd", zstandard.compress(body[:900]) + zstandard.compress(body[900:])),
            ("identity", body),
        ):
            self.assertEqual(unpacked(packed, (("content-encoding", token),), 10_000), body)

    def test_bombs_and_stumps_are_refused(self) -> None:
        bomb = b"\0" * 5_000_000
        for token, packed in (
            ("gzip", gzip.compress(bomb)),
            ("br", brotli.compress(bomb)),
            ("zstd", zstandard.compress(bomb)),
        ):
            with self.assertRaisesRegex(BodyRefused, "more than 1 MB"):
                unpacked(packed, (("content-encoding", token),), 1_000_000)
            with self.assertRaises(BodyRefused):
                unpacked(packed[:-3], (("content-encoding", token),), 10_000_000)

    def test_what_comes_out_is_counted_before_it_is_held(self) -> None:
        bomb = b"\0" * 60_000_000
        record_of = {
            "br": brotli.compress(bomb),
            "gzip": gzip.compress(bomb),
            "zstd": zstandard.compress(bomb),
            "gzip, br": brotli.compress(gzip.compress(bomb)),
        }
        for token, packed in record_of.items():
            with self.subTest(token):
                path = self.folder / "bomb.warc"
                path.write_bytes(HOME + record(HOST + "x", http(packed, extra=f"Content-Encoding: {token}\r\n")))
                tracemalloc.start()
                capture = read_site(path, self.store, limits=Limits(file_size=50_000_000, ratio=10**9))
                peak = tracemalloc.get_traced_memory()[1]
                tracemalloc.stop()
                self.assertIn("x: is larger than 50 MB", "\n".join(map(str, capture.notices)))
                self.assertLess(peak, 20_000_000)
                with self.assertRaisesRegex(BadInput, "more than 150 times its size"):
                    read_site(path, self.store)

    @given(st.binary(max_size=3000), st.lists(st.integers(1, 700), max_size=9), st.integers(1, 500))
    def test_chunked_bodies_come_out_whatever_the_pieces(self, body: bytes, sizes: list[int], piece: int) -> None:
        framed, place = b"", 0
        for size in sizes:
            part = body[place : place + size]
            framed += b"%x;note=1\r\n%b\r\n" % (len(part), part) if part else b""
            place += size
        rest = body[place:]
        framed += (b"%X\r\n%b\r\n" % (len(rest), rest) if rest else b"") + b"0\r\n\r\n"
        pieces = [framed[n : n + piece] for n in range(0, len(framed), piece)]
        self.assertEqual(b"".join(unchunked(pieces)), body)

    def test_header_fields_cannot_smuggle_lines(self) -> None:
        fields = clean_headers([("X-A", "b\r\nSet-Cookie: c"), (":path", "/"), ("big", "x" * 20_000), ("", "y")])
        self.assertEqual(fields, (("x-a", "b Set-Cookie: c"),))


class Replayed(FolderCase):
    NOW = 1_800_000_000.0  # Fri, 15 Jan 2027 08:00:00 GMT

    def ask(self, headers: dict[str, str], asked: dict[str, str] | None = None, body: bytes = b"x" * 500) -> Any:
        from unladen.capture.recorded import capture_of_responses

        fields = tuple({"content-type": "text/html", **headers}.items())
        capture = capture_of_responses("t", [Response(HOST, 200, fields, body)], self.store, [])
        return answer(capture, "GET", HOST, asked or {}, self.NOW)

    def test_dates_are_moved_to_now_and_age_is_dropped(self) -> None:
        old = {"date": "Tue, 10 Mar 2020 12:00:00 GMT", "expires": "Tue, 10 Mar 2020 13:00:00 GMT", "age": "99"}
        fields = dict(self.ask(old).headers)
        self.assertEqual(fields["date"], "Fri, 15 Jan 2027 08:00:00 GMT")
        self.assertEqual(fields["expires"], "Fri, 15 Jan 2027 09:00:00 GMT")
        self.assertNotIn("age", fields)
        self.assertEqual(dict(self.ask({"expires": "0"}).headers)["expires"], "0")

    def test_a_copy_that_is_still_good_is_confirmed_without_a_body(self) -> None:
        first = self.ask({"etag": '"abc"', "cache-control": "no-cache"})
        tag = dict(first.headers)["etag"]
        again = self.ask({"etag": '"abc"', "cache-control": "no-cache"}, {"if-none-match": tag})
        self.assertEqual((again.status, again.body), (304, b""))
        changed = self.ask({"etag": '"abc"'}, {"if-none-match": tag}, b"y" * 500)
        self.assertEqual(changed.status, 200)
        since = {"last-modified": "Tue, 10 Mar 2020 12:00:00 GMT"}
        self.assertEqual(self.ask(since, {"if-modified-since": since["last-modified"]}).status, 304)
        self.assertEqual(self.ask({}, {"if-none-match": tag}).status, 200)

    def test_plain_files_get_a_validator_and_but_for_pages_a_lifetime(self) -> None:
        capture = self.capture({"index.html": page(""), "a.css": b".a{}"})
        fields = {e.path: dict(answer(capture, "GET", e.url, {}).headers) for e in capture}
        self.assertEqual(fields["index.html"]["cache-control"], "no-cache")
        self.assertEqual(fields["a.css"]["cache-control"], "max-age=3600")
        self.assertTrue(fields["a.css"]["etag"])
