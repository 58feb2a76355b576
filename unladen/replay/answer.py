"""What the replay server answers: a pure function of capture, request and time."""

from __future__ import annotations

import re
from dataclasses import dataclass
from email.utils import formatdate, parsedate_to_datetime

from unladen.capture import Capture, Exchange
from unladen.capture.mediatypes import is_page

_RANGE = re.compile(r"^bytes=(\d*)-(\d*)$")
# Hop-by-hop or rewritten here, or about hosts and transports that a replay does not have.
_NOT_REPLAYED = {
    "age", "alt-svc", "clear-site-data", "connection", "content-encoding", "content-length", "date", "etag",
    "expires", "keep-alive", "nel", "proxy-authenticate", "report-to", "strict-transport-security", "trailer",
    "transfer-encoding", "upgrade",
}  # fmt: skip
_WITH_304 = {"cache-control", "content-location", "date", "etag", "expires", "vary"}  # RFC 9110, 15.4.5
_FILE_LIFETIME = 3600  # s


@dataclass(frozen=True, slots=True)
class Answer:
    """A response without its transport: header names are lower-case."""

    status: int
    headers: tuple[tuple[str, str], ...]
    body: bytes = b""


def answer(
    capture: Capture, method: str, url: str, request_headers: dict[str, str], now: float | None = None
) -> Answer:
    """The recorded response; 404 without a body for what is not in the capture, since a guess would be counted.

    `now` (s since the epoch) is what dates are moved to; without it they are left out.
    """
    if method == "OPTIONS":
        allow = (
            ("access-control-allow-origin", request_headers.get("origin", "*")),
            ("access-control-allow-headers", request_headers.get("access-control-request-headers", "*")),
            ("access-control-allow-methods", "*"),
            ("access-control-allow-credentials", "true"),
        )
        return Answer(204, allow)
    exchange = capture.lookup(url)
    if exchange is None:
        target = capture.redirect(url)
        if target is not None:
            return Answer(301, (("location", target), ("cache-control", "no-store")))
        return Answer(404, (("content-type", "text/plain"), ("cache-control", "no-store")))
    body, encoding = capture.sent(exchange)
    headers = _headers(exchange, now)
    if encoding:
        headers.append(("content-encoding", encoding))
        if not exchange.header("vary"):
            headers.append(("vary", "accept-encoding"))
    if exchange.status == 200 and _is_same(exchange, headers, request_headers):
        return Answer(304, tuple(h for h in headers if h[0] in _WITH_304))
    wanted = _RANGE.match(request_headers.get("range", ""))
    if exchange.status == 200 and wanted and any(wanted.groups()) and not encoding:
        return _part(body, headers, wanted)
    if not encoding and exchange.status == 200:
        headers.append(("accept-ranges", "bytes"))
    return Answer(exchange.status, tuple(headers), body)


def _headers(exchange: Exchange, now: float | None) -> list[tuple[str, str]]:
    """The recorded fields, dates moved to now; for a file those of an ordinary static server.

    A static server is taken to give every file a validator and, but for pages, a lifetime of an hour.
    """
    dated = [("date", formatdate(now, usegmt=True))] if now is not None else []
    tag = ("etag", f'"{exchange.digest[:20]}"')
    if not exchange.recorded:
        lifetime = "no-cache" if is_page(exchange.media_type) else f"max-age={_FILE_LIFETIME}"
        fields = [tag, ("access-control-allow-origin", "*")]
        if not exchange.header("cache-control"):
            fields.append(("cache-control", lifetime))
        return [*exchange.headers, *fields, *dated]
    headers = [(name, value) for name, value in exchange.headers if name not in _NOT_REPLAYED]
    if exchange.header("etag"):
        headers.append(tag)
    if expires := exchange.header("expires"):
        headers.append(("expires", _moved(expires, exchange.header("date"), now)))
    return [*headers, *dated]


def _moved(expires: str, date: str, now: float | None) -> str:
    """The expiry as far ahead of now as it was of the answer's date; unreadable ones stay, and mean the past."""
    try:
        lifetime = (parsedate_to_datetime(expires) - parsedate_to_datetime(date)).total_seconds()
    except (TypeError, ValueError):
        return expires
    return formatdate(now + lifetime, usegmt=True) if now is not None else expires


def _is_same(exchange: Exchange, headers: list[tuple[str, str]], request: dict[str, str]) -> bool:
    """Whether the browser's copy is still good (RFC 9110, 13.1: If-None-Match goes before If-Modified-Since)."""
    tags = [value for name, value in headers if name == "etag"]
    if asked := request.get("if-none-match"):
        return any(tag in asked for tag in tags)
    since, modified = request.get("if-modified-since"), exchange.header("last-modified")
    return bool(since) and since == modified


def _part(body: bytes, headers: list[tuple[str, str]], wanted: re.Match[str]) -> Answer:
    # RFC 9110, section 14: a missing start means the last so many bytes.
    first, last = wanted.groups()
    start = int(first) if first else max(len(body) - int(last), 0)
    end = min(int(last), len(body) - 1) if first and last else len(body) - 1
    if start > end:
        return Answer(416, (("content-range", f"bytes */{len(body)}"),))
    return Answer(206, (*headers, ("content-range", f"bytes {start}-{end}/{len(body)}")), body[start : end + 1])
