"""HAR 1.2 files with bodies as captures."""

from __future__ import annotations

import base64
import binascii
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from unladen.capture.limits import Limits
from unladen.capture.mediatypes import is_page
from unladen.capture.model import Capture
from unladen.capture.recorded import Response, address_of, capture_of_responses, clean_headers, encoding_of
from unladen.capture.store import BodyStore
from unladen.capture.unpacking import Meter
from unladen.documents import read_loosely
from unladen.errors import BadInput, Notice

VERSION = "1.2"
_BODILESS = (204, 205, 301, 302, 303, 307, 308)
_RANGE = re.compile(r"bytes 0-(\d+)/(\d+)")


def read_har(path: Path, store: BodyStore, *, limits: Limits | None = None, name: str = "") -> Capture:
    """A capture from a HAR file, called `name` in messages; unusable entries are left out with a notice.

    Raises `BadInput` when nothing can be made of it.
    """
    limits = limits or Limits()
    called = name or path.name
    log = _log(path, called, limits)
    entries = log["entries"]
    if len(entries) > limits.files:
        raise BadInput(called, f"holds {len(entries):,} requests; at most {limits.files:,} are read")
    notices: list[Notice] = []
    pages: dict[str, str] = {}
    stated = log.get("pages")
    refs = [str(page.get("id")) for page in (stated if isinstance(stated, list) else ()) if isinstance(page, dict)]
    meter = Meter(called, path.stat().st_size, limits)
    responses = list(_responses(entries, notices, pages, meter))
    bodies = sum(bool(response.size) for response in responses)
    if entries and not bodies:
        raise BadInput(called, "holds no bodies; record it again with the contents of the answers")
    return capture_of_responses(called, responses, store, notices, [pages[ref] for ref in refs if ref in pages])


def _log(path: Path, called: str, limits: Limits) -> dict[str, Any]:
    size = path.stat().st_size
    if size > limits.har_size:
        raise BadInput(
            called, f"is {size // 1_000_000:,} MB; a HAR file of at most {limits.har_size // 1_000_000} MB is read"
        )
    try:
        document = read_loosely(path.read_bytes(), called)
    except BadInput as refused:
        raise BadInput(called, f"is not a HAR file: it {refused.reason}") from refused
    log = document.get("log") if isinstance(document, dict) else None
    if not isinstance(log, dict) or not isinstance(log.get("entries"), list):
        raise BadInput(called, "is JSON, but not a HAR file: it has no log with entries")
    if str(log.get("version")) != VERSION:
        raise BadInput(called, f"is HAR {str(log.get('version'))[:20]}; only HAR {VERSION} is read")
    return log


def _responses(entries: list[Any], notices: list[Notice], pages: dict[str, str], meter: Meter) -> Iterator[Response]:
    called = meter.name
    for number, entry in enumerate(entries):
        try:
            found = _response(entry, meter.limits)
        except _Left as left:
            if left.reason:
                notices.append(Notice(left.url or f"{called}, entry {number + 1}", f"{left.reason}; left out"))
            continue
        except (KeyError, TypeError, AttributeError, ValueError, OverflowError):
            notices.append(Notice(f"{called}, entry {number + 1}", "lacks or misuses a field; left out"))
            continue
        meter.add(len(found.body))
        media_type = dict(found.headers).get("content-type", "").partition(";")[0]
        if found.status == 200 and found.body and is_page(media_type.strip().lower()):
            pages.setdefault(str(entry.get("pageref")), found.url)
        yield found


class _Left(Exception):
    """An entry that is left out; without a reason there is nothing to say about it."""

    def __init__(self, url: str = "", reason: str = "") -> None:
        self.url, self.reason = url, reason


def _response(entry: dict[str, Any], limits: Limits) -> Response:
    request, response = entry["request"], entry["response"]
    url, status = str(request["url"]), int(response["status"])
    if not url.startswith(("http://", "https://")):
        raise _Left
    try:
        url = address_of(url)
    except ValueError as error:
        raise _Left(url.encode("utf-8", "backslashreplace").decode()[:300], str(error)) from None
    if status <= 0:
        raise _Left(url, "got no answer when it was recorded")
    if not 200 <= status <= 599:
        raise _Left
    headers = clean_headers((str(field["name"]), str(field["value"])) for field in response["headers"])
    content = response.get("content") or {}
    if not dict(headers).get("content-type") and content.get("mimeType"):
        headers += (("content-type", str(content["mimeType"])),)
    if response.get("redirectURL") and not dict(headers).get("location"):
        headers += (("location", str(response["redirectURL"])),)
    body = _body(url, content)
    if len(body) > limits.file_size:
        raise _Left(url, f"is larger than {limits.file_size // 1_000_000} MB")
    if not body and status not in _BODILESS and status < 400 and (content.get("size") or 0) > 0:
        raise _Left(url, "has no body in the file")
    if status == 304:
        if not body:
            raise _Left(url, "was answered from the cache when it was recorded, without its body")
        status = 200
    if status == 206:
        whole = _RANGE.fullmatch(dict(headers).get("content-range", ""))
        if not whole or int(whole[1]) + 1 != int(whole[2]) or len(body) != int(whole[2]):
            raise _Left(url, "was recorded in part only")
        status, headers = 200, tuple(field for field in headers if field[0] != "content-range")
    return Response(url, status, headers, body, encoding_of(headers), str(request.get("method", "GET")).upper())


def _body(url: str, content: dict[str, Any]) -> bytes:
    text = content.get("text")
    if not isinstance(text, str):
        return b""
    if content.get("encoding") == "base64":
        try:
            return base64.b64decode(text, validate=True)
        except (binascii.Error, ValueError) as error:
            raise _Left(url, "has a body that is not valid base64") from error
    return text.encode("utf-8", "surrogatepass")
