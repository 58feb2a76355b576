"""WARC files (ISO 28500), plain or gzipped record by record, as captures."""

from __future__ import annotations

import mmap
import re
import tempfile
import uuid
import zlib
from collections.abc import Iterable, Iterator
from http import HTTPStatus
from pathlib import Path
from typing import IO

from unladen.capture.limits import Limits
from unladen.capture.model import Capture, sent_body
from unladen.capture.recorded import Headers, Response, address_of, capture_of_responses, clean_headers, encoding_of
from unladen.capture.store import BodyStore
from unladen.capture.unpacking import BodyRefused, Chunks, Meter, decoded, unchunked
from unladen.errors import BadInput, Notice

_MAGIC = b"\x1f\x8b\x08"
_HEAD = re.compile(rb"WARC/1\.[01]\r?\n")
_CHUNK = 1 << 16
_HELD = 1 << 24
_LONGEST_HEAD = 1 << 18  # bytes of the fields of a record or of an answer
_MOST_BROKEN = 1_000
_MOST_NOTICES = 200
_PASSED_OVER = {"warcinfo", "request", "metadata", "conversion", "continuation"}


def read_warc(path: Path, store: BodyStore, *, limits: Limits | None = None, name: str = "") -> Capture:
    """A capture from a WARC file, called `name` in messages; unusable records are left out with a notice.

    Bodies go to the store piece by piece. Raises `BadInput` when nothing can be made of it.
    """
    limits = limits or Limits()
    called = name or path.name
    size = path.stat().st_size
    if size == 0:
        raise BadInput(called, "is empty")
    reader = _Reader(called, size, limits, store)
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as data:
        packed = data[:3] == _MAGIC
        if not packed and not _HEAD.match(data, 0):
            raise BadInput(called, "is not a WARC file")
        responses = [
            response for piece in (reader.members(data) if packed else [data]) for response in reader.responses(piece)
        ]
    if not responses:
        first = f" ({reader.notices[0]})" if reader.notices else ""
        raise BadInput(called, f"holds no recorded responses{first}")
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
    def __init__(self, called: str, size: int, limits: Limits, store: BodyStore) -> None:
        self.called = called
        self.limits = limits
        self.store = store
        self.notices: list[Notice] = []
        self.members_out = Meter(called, size, limits)
        self.bodies_out = Meter(called, size, limits)
        self.count = 0
        self.broken = 0

    def note(self, name: str, reason: str) -> None:
        if len(self.notices) < _MOST_NOTICES:
            self.notices.append(Notice(name or self.called, reason))

    def members(self, data: mmap.mmap) -> Iterator[mmap.mmap]:
        """The gzip members unpacked to disk one by one; after a broken one reading goes on at the next."""
        place, size = 0, len(data)
        while 0 <= place < size:
            with tempfile.TemporaryFile() as file:
                end = self._unpack(data, place, file)
                if end < 0:
                    self.broken += 1
                    if self.broken > _MOST_BROKEN:
                        raise BadInput(self.called, f"holds more than {_MOST_BROKEN:,} broken gzip members")
                    place = data.find(_MAGIC, place + 1)
                    continue
                if file.tell():
                    file.flush()
                    with mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as piece:
                        yield piece
                place = end

    def _unpack(self, data: mmap.mmap, place: int, file: IO[bytes]) -> int:
        """Unpack the member at a place; where the next one begins, -1 when it is broken."""
        machine, here = zlib.decompressobj(31), place
        try:
            while not machine.eof and here < len(data):
                chunk = data[here : here + _CHUNK]
                here += len(chunk)
                while chunk and not machine.eof:
                    out = machine.decompress(chunk, _CHUNK)
                    self.members_out.add(len(out))
                    file.write(out)
                    chunk = machine.unconsumed_tail
        except zlib.error:
            self.note(f"{self.called}, at byte {place:,}", "a gzip member is broken; left out")
            return -1
        if not machine.eof:
            self.note(f"{self.called}, at byte {place:,}", "the file is cut off here")
        return here - len(machine.unused_data)

    def responses(self, data: mmap.mmap) -> Iterator[Response]:
        match = _HEAD.search(data)
        while match is not None:
            # The broken ones count too, since each is searched for its end.
            self.count += 1
            if self.count > self.limits.files * 3:
                raise BadInput(self.called, f"holds more than {self.limits.files * 3:,} records")
            start = match.end()
            # Fields end with an empty line; a file with bare line feeds is common enough.
            begin = _after_head(data, start, start + _LONGEST_HEAD)
            if begin is None:
                if start + _LONGEST_HEAD >= len(data):
                    self.note("", "the last record is cut off; left out")
                    return
                self.note("", "a record has no end of its header; left out")
                match = _HEAD.search(data, start)
                continue
            fields = _fields(data[start:begin])
            url = fields.get("warc-target-uri", "").strip("<>")
            length = _length(fields.get("content-length", ""))
            after = begin + (length or 0)
            if length is None or after > len(data) or not _closed(data, after):
                self.note(url, "a record states a wrong length; left out")
                match = _HEAD.search(data, begin)
                continue
            if result := self._response(fields, url, data, begin, after):
                yield result
            match = _HEAD.search(data, after)

    def _response(self, fields: dict[str, str], url: str, data: mmap.mmap, begin: int, end: int) -> Response | None:
        kind = fields.get("warc-type", "").lower()
        if kind in _PASSED_OVER or not url.startswith(("http://", "https://")):
            return None
        try:
            url = address_of(url)
            if kind == "resource":
                headers = clean_headers([("content-type", fields.get("content-type", "application/octet-stream"))])
                return Response(url, 200, headers, b"", kept=self._keep(_slices(data, begin, end)))
            if kind == "response":
                return self._http(url, data, begin, end)
            reason = (
                "refers to an earlier recording" if kind == "revisit" else f"is of the unknown type “{kind[:30]}”"
            )
            self.note(url, f"{reason}; left out")
        except (BodyRefused, ValueError) as error:
            self.note(url, f"{error}; left out")
        return None

    def _keep(self, chunks: Chunks) -> tuple[str, int]:
        return self.store.put_chunks(self.bodies_out.body(chunks))

    def _http(self, url: str, data: mmap.mmap, begin: int, end: int) -> Response:
        body = _after_head(data, begin, min(end, begin + _LONGEST_HEAD))
        if body is None:
            if end - begin > _LONGEST_HEAD:
                raise BodyRefused("holds a response whose header never ends")
            body = end  # without an empty line there is no body
        status_line, _, rest = data[begin:body].partition(b"\n")
        match = re.match(rb"HTTP/\d(?:\.\d)? (\d{3})", status_line)
        if match is None:
            raise BodyRefused("holds no HTTP response")
        lines = [line.partition(b":") for line in rest.splitlines() if line.strip()]
        headers: Headers = clean_headers((n.decode("latin-1"), v.decode("latin-1")) for n, _, v in lines)
        status = int(match[1])
        if not 200 <= status <= 599:
            raise BodyRefused(f"has the invalid status {status}")
        if status in (206, 304):
            raise BodyRefused("was recorded in part only" if status == 206 else "was recorded without its body")
        chunks: Chunks = _slices(data, body, end)
        if "chunked" in dict(headers).get("transfer-encoding", "").lower():
            chunks = unchunked(chunks)
        kept = self._keep(decoded(chunks, dict(headers).get("content-encoding", "")))
        return Response(url, status, headers, b"", encoding_of(headers), kept=kept)


def _after_head(data: mmap.mmap, start: int, most: int) -> int | None:
    """Where a body begins after the first empty line, None if there is none before `most`."""
    result = data.find(b"\r\n\r\n", start, most)
    bare = data.find(b"\n\n", start, most if result < 0 else result)
    return bare + 2 if bare >= 0 else result + 4 if result >= 0 else None


def _slices(data: mmap.mmap, begin: int, end: int) -> Iterator[bytes]:
    """A part of the data piece by piece; what has been read is let go of every now and then, so that memory stays
    flat.
    """
    for place in range(begin, end, _CHUNK):
        yield data[place : min(place + _CHUNK, end)]
        if place // _HELD != (place + _CHUNK) // _HELD:
            data.madvise(mmap.MADV_DONTNEED, max(0, place // _HELD - 1) * _HELD, 2 * _HELD)


def _fields(head: bytes) -> dict[str, str]:
    lines = re.sub(rb"\r?\n[ \t]+", b" ", head).splitlines()
    pairs = (line.partition(b":") for line in lines)
    return {
        name.strip().lower().decode("latin-1"): value.strip().decode("utf-8", "replace") for name, _, value in pairs
    }


def _length(text: str) -> int | None:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 13 else None


def _closed(data: mmap.mmap, place: int) -> bool:
    """Whether a record may end here: at the end of the data, or before the empty lines that follow each record."""
    return place == len(data) or data[place : place + 1] in (b"\r", b"\n")
