"""WARC files (ISO 28500), plain or gzipped record by record, as captures."""

from __future__ import annotations

import mmap
import re
import uuid
import zlib
from collections.abc import Iterable, Iterator
from http import HTTPStatus
from pathlib import Path

from unladen.capture.addresses import canonical
from unladen.capture.limits import Limits
from unladen.capture.model import Capture, sent_body
from unladen.capture.recorded import (
    BodyRefused,
    Headers,
    Response,
    capture_of_responses,
    clean_headers,
    encoding_of,
    unpacked,
)
from unladen.capture.store import BodyStore
from unladen.errors import BadInput, Notice

_MAGIC = b"\x1f\x8b\x08"
_HEAD = re.compile(rb"WARC/1\.[01]\r?\n")
_LARGEST_RECORD = 128_000_000  # bytes
_MOST_NOTICES = 200
_PASSED_OVER = {"warcinfo", "request", "metadata", "conversion", "continuation"}


def read_warc(path: Path, store: BodyStore, *, limits: Limits | None = None, name: str = "") -> Capture:
    """A capture from a WARC file, called `name` in messages; unusable records are left out with a notice.

    Raises `BadInput` when nothing can be made of it.
    """
    limits = limits or Limits()
    called = name or path.name
    if path.stat().st_size == 0:
        raise BadInput(called, "is empty")
    reader = _Reader(called, limits)
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as data:
        packed = data[:3] == _MAGIC
        if not packed and not _HEAD.match(data, 0):
            raise BadInput(called, "is not a WARC file")
        responses = list(reader.responses(reader.members(data) if packed else iter([data])))
    if not responses:
        first = f" ({reader.notices[0]})" if reader.notices else ""
        raise BadInput(called, f"holds no recorded answers{first}")
    return capture_of_responses(called, responses, store, reader.notices)


def write_warc(responses: Iterable[Response], target: Path, date: str = "1980-01-01T00:00:00Z") -> None:
    """Write answers as a plain WARC file; the same ones give the same bytes. `date` is in ISO 8601, UTC."""
    with target.open("wb") as file:
        for response in responses:
            body = sent_body(response.body, response.encoding)[0]
            phrase = HTTPStatus(response.status).phrase if response.status in set(HTTPStatus) else ""
            fields = [(n, v) for n, v in response.headers if n not in ("content-length", "transfer-encoding")]
            if body == response.body:
                fields = [(n, v) for n, v in fields if n != "content-encoding"]
            lines = [f"{name}: {value}" for name, value in [*fields, ("content-length", str(len(body)))]]
            head = "\r\n".join([f"HTTP/1.1 {response.status} {phrase}", *lines, "", ""]).encode()
            record = [
                "WARC/1.1",
                "WARC-Type: response",
                f"WARC-Record-ID: <urn:uuid:{uuid.uuid5(uuid.NAMESPACE_URL, response.url)}>",
                f"WARC-Date: {date}",
                f"WARC-Target-URI: {response.url}",
                "Content-Type: application/http; msgtype=response",
                f"Content-Length: {len(head) + len(body)}",
                "",
                "",
            ]
            file.write("\r\n".join(record).encode() + head + body + b"\r\n\r\n")


class _Reader:
    def __init__(self, called: str, limits: Limits) -> None:
        self.called = called
        self.limits = limits
        self.notices: list[Notice] = []
        self.total = 0
        self.count = 0

    def note(self, name: str, reason: str) -> None:
        if len(self.notices) < _MOST_NOTICES:
            self.notices.append(Notice(name or self.called, reason))

    def members(self, data: mmap.mmap) -> Iterator[bytes]:
        """The gzip members unpacked; after a broken one reading goes on at the next."""
        place, size = 0, len(data)
        while 0 <= place < size:
            machine, out, here = zlib.decompressobj(31), bytearray(), place
            try:
                while not machine.eof and here < size and len(out) <= _LARGEST_RECORD:
                    chunk = data[here : here + 65_536]
                    here += len(chunk)
                    out += machine.decompress(chunk, _LARGEST_RECORD)
                    if machine.unconsumed_tail:
                        raise zlib.error("too large")
            except zlib.error:
                self.note(f"{self.called}, at byte {place:,}", "a gzip member is broken or too large; left out")
                place = data.find(_MAGIC, place + 1)
                continue
            if not machine.eof:
                self.note(f"{self.called}, at byte {place:,}", "the file is cut off here")
            yield bytes(out)
            place = here - len(machine.unused_data) if machine.eof else -1

    def responses(self, pieces: Iterator[bytes | mmap.mmap]) -> Iterator[Response]:
        for piece in pieces:
            yield from self._records(piece)

    def _records(self, data: bytes | mmap.mmap) -> Iterator[Response]:
        match = _HEAD.search(data)
        while match is not None:
            start = match.end()
            # Fields end with an empty line; a file with bare line feeds is common enough.
            ends = [
                (i, n) for mark in (b"\r\n\r\n", b"\n\n") if (i := data.find(mark, start)) >= 0 for n in [len(mark)]
            ]
            if not ends:
                self.note("", "the last record is cut off; left out")
                return
            end, width = min(ends)
            fields = _fields(data[start:end])
            url = fields.get("warc-target-uri", "").strip("<>")
            begin = end + width
            length = _length(fields.get("content-length", ""))
            after = begin + (length or 0)
            if length is None or after > len(data) or not _closed(data, after):
                self.note(url, "a record states a wrong length; left out")
                match = _HEAD.search(data, begin)
                continue
            self.count += 1
            if self.count > self.limits.files * 3:
                raise BadInput(self.called, f"holds more than {self.limits.files * 3:,} records")
            self.total += length
            if self.total > self.limits.total_size:
                raise BadInput(self.called, f"holds more than {self.limits.total_size // 1_000_000:,} MB")
            if found := self._response(fields, url, data[begin:after]):
                yield found
            match = _HEAD.search(data, after)

    def _response(self, fields: dict[str, str], url: str, block: bytes) -> Response | None:
        kind = fields.get("warc-type", "").lower()
        if kind in _PASSED_OVER or not url.startswith(("http://", "https://")):
            return None
        try:
            url = canonical(url)
            if kind == "resource":
                headers = clean_headers([("content-type", fields.get("content-type", "application/octet-stream"))])
                return Response(url, 200, headers, block)
            if kind == "response":
                return _http(url, block, self.limits.file_size)
            reason = (
                "refers to an earlier recording" if kind == "revisit" else f"is of the unknown type “{kind[:30]}”"
            )
            self.note(url, f"{reason}; left out")
        except (BodyRefused, ValueError) as error:
            self.note(url, f"{error}; left out")
        return None


def _fields(head: bytes) -> dict[str, str]:
    lines = re.sub(rb"\r?\n[ \t]+", b" ", head).splitlines()
    pairs = (line.partition(b":") for line in lines)
    return {
        name.strip().lower().decode("latin-1"): value.strip().decode("utf-8", "replace") for name, _, value in pairs
    }


def _length(text: str) -> int | None:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 13 else None


def _closed(data: bytes | mmap.mmap, place: int) -> bool:
    """Whether a record may end here: at the end of the data, or before the empty lines that follow each record."""
    return place == len(data) or data[place : place + 1] in (b"\r", b"\n")


def _http(url: str, block: bytes, limit: int) -> Response:
    head, mark, body = block.partition(b"\r\n\r\n")
    if not mark:
        head, mark, body = block.partition(b"\n\n")
    status_line, _, rest = head.partition(b"\n")
    match = re.match(rb"HTTP/\d(?:\.\d)? (\d{3})", status_line)
    if match is None:
        raise BodyRefused("holds no HTTP answer")
    lines = [line.partition(b":") for line in rest.splitlines() if line.strip()]
    headers: Headers = clean_headers((n.decode("latin-1"), v.decode("latin-1")) for n, _, v in lines)
    status = int(match[1])
    if not 200 <= status <= 599:
        raise BodyRefused(f"has the status {status}, which no page gets")
    if "chunked" in dict(headers).get("transfer-encoding", "").lower():
        body = _unchunked(body)
    if status in (206, 304):
        raise BodyRefused("was recorded in part only" if status == 206 else "was recorded without its body")
    return Response(url, status, headers, unpacked(body, headers, limit) if body else b"", encoding_of(headers))


def _unchunked(body: bytes) -> bytes:
    """The body without its chunk framing; one that was unchunked by the recorder already stays as it is."""
    out, place = bytearray(), 0
    while True:
        end = body.find(b"\r\n", place)
        size = body[place:end].split(b";")[0].strip() if end >= 0 else b""
        if not re.fullmatch(rb"[0-9A-Fa-f]{1,8}", size):
            if place == 0:
                return body
            raise BodyRefused("has a body that is cut off")
        count = int(size, 16)
        if count == 0:
            return bytes(out)
        if end + 2 + count > len(body):
            raise BodyRefused("has a body that is cut off")
        out += body[end + 2 : end + 2 + count]
        place = end + 2 + count + 2
