"""What the replay server answers: a pure function of capture and request."""

from __future__ import annotations

import re
from dataclasses import dataclass

from unladen.capture import Capture

_RANGE = re.compile(r"^bytes=(\d*)-(\d*)$")


@dataclass(frozen=True, slots=True)
class Answer:
    """A response without its transport: header names are lower-case."""

    status: int
    headers: tuple[tuple[str, str], ...]
    body: bytes = b""


def answer(capture: Capture, method: str, url: str, request_headers: dict[str, str]) -> Answer:
    """The recorded response; 404 without a body for what is not in the capture, since a guess would be counted."""
    if method == "OPTIONS":
        allow = (("access-control-allow-origin", "*"), ("access-control-allow-headers", "*"))
        return Answer(204, allow)
    exchange = capture.lookup(url)
    if exchange is None:
        target = capture.redirect(url)
        if target is not None:
            return Answer(301, (("location", target), ("cache-control", "no-store")))
        return Answer(404, (("content-type", "text/plain"), ("cache-control", "no-store")))
    body, gzipped = capture.sent(exchange)
    tag = f'"{exchange.digest[:20]}"'
    headers = [*exchange.headers, ("etag", tag), ("cache-control", "max-age=3600")]
    headers.append(("access-control-allow-origin", "*"))
    if gzipped:
        headers += [("content-encoding", "gzip"), ("vary", "accept-encoding")]
    if request_headers.get("if-none-match") == tag:
        return Answer(304, tuple(h for h in headers if h[0] in ("etag", "cache-control", "vary")))
    wanted = _RANGE.match(request_headers.get("range", ""))
    if wanted and any(wanted.groups()) and not gzipped:
        return _part(body, headers, wanted)
    return Answer(exchange.status, (*headers, ("accept-ranges", "bytes")), body)


def _part(body: bytes, headers: list[tuple[str, str]], wanted: re.Match[str]) -> Answer:
    # RFC 9110, section 14: a missing start means the last so many bytes.
    first, last = wanted.groups()
    start = int(first) if first else max(len(body) - int(last), 0)
    end = min(int(last), len(body) - 1) if first and last else len(body) - 1
    if start > end:
        return Answer(416, (("content-range", f"bytes */{len(body)}"),))
    return Answer(206, (*headers, ("content-range", f"bytes {start}-{end}/{len(body)}")), body[start : end + 1])
