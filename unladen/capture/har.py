"""HAR 1.2 files with bodies as captures."""

from __future__ import annotations

import base64
import binascii
import re
import tempfile
from codecs import BOM_UTF8
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from unladen.capture.json_pieces import Pieces, Texts, TooLarge
from unladen.capture.limits import Limits
from unladen.capture.mediatypes import is_page
from unladen.capture.model import Capture
from unladen.capture.recorded import Response, address_of, capture_of_responses, clean_headers, encoding_of
from unladen.capture.store import BodyStore
from unladen.capture.unpacking import BodyRefused, Meter
from unladen.documents import read_loosely
from unladen.errors import BadInput, Notice

VERSION = "1.2"
_BODILESS = (204, 205, 301, 302, 303, 307, 308)
_RANGE = re.compile(r"bytes 0-(\d+)/(\d+)")


def read_har(path: Path, store: BodyStore, *, limits: Limits | None = None, name: str = "") -> Capture:
    """A capture from a HAR file, called `name` in messages; unusable entries are left out with a notice.

    Entries are read one by one, bodies go to the store piece by piece. Raises `BadInput` when nothing can be made of
    it.
    """
    limits = limits or Limits()
    called = name or path.name
    size = path.stat().st_size
    notices: list[Notice] = []
    pages: dict[str, str] = {}
    with path.open("rb") as file, tempfile.TemporaryFile() as aside:
        if file.read(len(BOM_UTF8)) != BOM_UTF8:
            file.seek(0)
        texts = Texts(aside)
        pieces = Pieces(file, ("log", "entries"), texts)
        reader = _Reader(texts, store, Meter(called, size, limits), notices, pages)
        try:
            responses = list(reader.responses(pieces.items()))
        except TooLarge as error:
            raise BadInput(called, str(error)) from error
        log = _log(pieces, called, reader.count)
    if not pieces.whole:
        notices.append(Notice(called, f"is cut off; what came after {reader.count:,} answers is lost"))
    stated = log.get("pages")
    refs = [str(page.get("id")) for page in (stated if isinstance(stated, list) else ()) if isinstance(page, dict)]
    if reader.count and not any(response.size for response in responses):
        raise BadInput(called, "contains no response bodies; record it again with content")
    return capture_of_responses(called, responses, store, notices, [pages[ref] for ref in refs if ref in pages])


def _log(pieces: Pieces, called: str, count: int) -> dict[str, Any]:
    """The document without its entries; one that is cut off must have some."""
    try:
        document = read_loosely(pieces.frame, called)
        if not pieces.whole and not count:
            raise BadInput(called, "is not a JSON document or is truncated")
    except BadInput as refused:
        raise BadInput(called, f"is not a HAR file: it {refused.reason}") from refused
    log = document.get("log") if isinstance(document, dict) else None
    if not isinstance(log, dict) or not isinstance(log.get("entries"), list):
        raise BadInput(called, "is JSON, but not a HAR file: it has no log with entries")
    if str(log.get("version")) != VERSION:
        raise BadInput(called, f"is HAR {str(log.get('version'))[:20]}; only HAR {VERSION} is read")
    return log


class _Reader:
    def __init__(
        self, texts: Texts, store: BodyStore, meter: Meter, notices: list[Notice], pages: dict[str, str]
    ) -> None:
        self.texts = texts
        self.store = store
        self.meter = meter
        self.notices = notices
        self.pages = pages  # the first page with a body of each of the log's pages
        self.count = 0

    def responses(self, items: Iterable[bytes | None]) -> Iterator[Response]:
        called, limits = self.meter.name, self.meter.limits
        for item in items:
            self.count += 1
            if self.count > limits.files:
                raise BadInput(called, f"holds more requests than are read: at most {limits.files:,} are read")
            place = f"{called}, entry {self.count}"
            try:
                if item is None:
                    raise _Left(reason="is too large")
                entry = _read(item, place)
                result = self._response(entry)
            except _Left as left:
                if left.reason:
                    self.notices.append(Notice(left.url or place, f"{left.reason}; left out"))
                continue
            except (KeyError, TypeError, AttributeError, ValueError, OverflowError):
                self.notices.append(Notice(place, "lacks or misuses a field; left out"))
                continue
            finally:
                self.texts.forget()
            media_type = dict(result.headers).get("content-type", "").partition(";")[0]
            if result.status == 200 and result.size and is_page(media_type.strip().lower()):
                self.pages.setdefault(str(entry.get("pageref")), result.url)
            yield result

    def _response(self, entry: dict[str, Any]) -> Response:
        request, response = entry["request"], entry["response"]
        url, status = str(request["url"]), int(response["status"])
        if not url.startswith(("http://", "https://")):
            raise _Left
        try:
            url = address_of(url)
        except ValueError as error:
            raise _Left(url.encode("utf-8", "backslashreplace").decode()[:300], str(error)) from None
        if status <= 0:
            raise _Left(url, "had no response when it was recorded")
        if not 200 <= status <= 599:
            raise _Left
        fields = ((str(field["name"]), str(field["value"])) for field in response["headers"])
        headers = clean_headers((name, value) for name, value in fields if not self.texts.stands_for(value))
        content = response.get("content") or {}
        if not dict(headers).get("content-type") and content.get("mimeType"):
            headers += (("content-type", str(content["mimeType"])),)
        if response.get("redirectURL") and not dict(headers).get("location"):
            headers += (("location", str(response["redirectURL"])),)
        kept = self._keep(url, content)
        if not kept[1] and status not in _BODILESS and status < 400 and (content.get("size") or 0) > 0:
            raise _Left(url, "has no body in the file")
        if status == 304:
            if not kept[1]:
                raise _Left(url, "came from the cache when it was recorded, without its body")
            status = 200
        if status == 206:
            whole = _RANGE.fullmatch(dict(headers).get("content-range", ""))
            if not whole or int(whole[1]) + 1 != int(whole[2]) or kept[1] != int(whole[2]):
                raise _Left(url, "was recorded in part only")
            status, headers = 200, tuple(field for field in headers if field[0] != "content-range")
        method = str(request.get("method", "GET")).upper()
        return Response(url, status, headers, b"", encoding_of(headers), method, kept)

    def _keep(self, url: str, content: dict[str, Any]) -> tuple[str, int]:
        text = content.get("text")
        if not isinstance(text, str):
            text = ""
        pieces = self.texts.read(text) if self.texts.stands_for(text) else iter((text,))
        body = _from_base64(pieces) if content.get("encoding") == "base64" else _encoded(pieces)
        try:
            return self.store.put_chunks(self.meter.body(body))
        except BodyRefused as refused:
            raise _Left(url, str(refused)) from refused
        except binascii.Error as error:
            raise _Left(url, "has a body that is not valid base64") from error
        except ValueError as error:
            raise _Left(url, "has a body that is not text") from error


def _read(item: bytes, place: str) -> dict[str, Any]:
    try:
        entry: dict[str, Any] = read_loosely(item, place)
    except BadInput as refused:
        raise _Left(reason=refused.reason) from refused
    return entry


class _Left(Exception):
    """An entry that is left out; without a reason there is nothing to say about it."""

    def __init__(self, url: str = "", reason: str = "") -> None:
        self.url, self.reason = url, reason


def _encoded(pieces: Iterable[str]) -> Iterator[bytes]:
    return (piece.encode("utf-8", "surrogatepass") for piece in pieces)


def _from_base64(pieces: Iterable[str]) -> Iterator[bytes]:
    """Bodies in base64 (RFC 4648), of which nothing else is taken; raises `binascii.Error`."""
    held = b""
    for piece in pieces:
        if not piece.isascii():
            raise binascii.Error("not in the alphabet")
        held += piece.encode()
        whole = len(held) // 4 * 4
        if b"=" in held[: whole - 2]:
            break
        yield base64.b64decode(held[:whole], validate=True)
        held = held[whole:]
    if held:
        raise binascii.Error("wrong padding")
