"""Weigh-ins in open formats: HAR 1.2 with bodies, and requests as CSV."""

from __future__ import annotations

import base64
import csv
import io
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from http import HTTPStatus
from typing import Any
from urllib.parse import parse_qsl, urlsplit

from unladen.capture import Capture
from unladen.weigh.records.model import Request, WeighIn
from unladen.weigh.records.parties import Causes, Rule

_CREATOR = {"name": "Unladen Mule", "version": "1"}
_UNKNOWN = -1  # HAR 1.2: the information is not available
_TEXT = (
    "text/",
    "application/json",
    "application/xml",
    "application/javascript",
    "image/svg+xml",
    "application/xhtml+xml",
)


_COLUMNS = (
    "page", "conditions", "url", "kind", "method", "status", "brought by", "asked for by", "started ms", "waiting ms",
    "receiving ms", "transferred", "body", "decoded", "from cache", "missing",
)  # fmt: skip


def har_of(capture: Capture, weigh_ins: Sequence[WeighIn]) -> dict[str, Any]:
    """One HAR 1.2 document of the kept runs of these weigh-ins; every weigh-in is a page of it.

    Requests that were answered from the browser's cache are left out.
    """
    pages, entries = [], []
    for number, weigh_in in enumerate(weigh_ins, 1):
        began = _moment(weigh_in.taken)
        timings = weigh_in.visit.timings
        pages.append(
            {
                "startedDateTime": _stamp(began),
                "id": f"page_{number}",
                "title": f"{weigh_in.page}, {weigh_in.conditions.key}",
                "pageTimings": {"onContentLoad": round(timings.content_ready, 2), "onLoad": round(timings.load, 2)},
            }
        )
        entries += [
            _entry(capture, request, f"page_{number}", began)
            for request in weigh_in.visit.requests
            if not request.cached
        ]
    browser, _, version = (weigh_ins[0].browser if weigh_ins else "Chromium ").partition(" ")
    log = {"version": "1.2", "creator": _CREATOR, "browser": {"name": browser, "version": version}, "pages": pages}
    return {"log": log | {"entries": entries}}


def _moment(taken: str) -> datetime:
    try:
        return datetime.fromisoformat(taken)
    except ValueError:
        return datetime.fromtimestamp(0, UTC)


def _stamp(moment: datetime) -> str:
    return moment.astimezone(UTC).isoformat(timespec="milliseconds").replace("+00:00", "Z")


def _entry(capture: Capture, request: Request, page: str, began: datetime) -> dict[str, Any]:
    waited = max(0.0, (request.responded or request.ended) - request.started)
    received = max(0.0, request.ended - request.responded) if request.responded else 0.0
    version = {"h2": "HTTP/2", "http/1.1": "HTTP/1.1"}.get(request.protocol, request.protocol or "HTTP/1.1")
    return {
        "pageref": page,
        "startedDateTime": _stamp(began + timedelta(milliseconds=request.started)),
        "time": round(waited + received, 2),
        "request": {
            "method": request.method,
            "url": request.url,
            "httpVersion": version,
            "cookies": [],
            "headers": _pairs(request.request_headers),
            "queryString": [
                {"name": name, "value": value}
                for name, value in parse_qsl(urlsplit(request.url).query, keep_blank_values=True)
            ],
            "headersSize": _UNKNOWN,
            "bodySize": _UNKNOWN,
        },
        "response": {
            "status": request.status,
            "statusText": HTTPStatus(request.status).phrase if request.status in set(HTTPStatus) else "",
            "httpVersion": version,
            "cookies": [],
            "headers": _pairs(request.response_headers),
            "content": _content(capture, request),
            "redirectURL": request.redirect,
            "headersSize": _UNKNOWN,
            "bodySize": request.body,
        },
        "cache": {},
        "timings": {"blocked": _UNKNOWN, "dns": _UNKNOWN, "connect": _UNKNOWN, "ssl": _UNKNOWN, "send": 0}
        | {"wait": round(waited, 2), "receive": round(received, 2)},
    }


def _pairs(headers: Sequence[tuple[str, str]]) -> list[dict[str, str]]:
    return [{"name": name, "value": value} for name, value in headers]


def _content(capture: Capture, request: Request) -> dict[str, Any]:
    exchange = capture.lookup(request.url)
    media_type = request.media_type or "application/octet-stream"
    if exchange is None or request.status not in (200, 206):
        return {"size": 0, "mimeType": media_type}
    body = capture.body(exchange)
    content: dict[str, Any] = {"size": len(body), "mimeType": exchange.header("content-type") or media_type}
    if media_type.startswith(_TEXT):
        try:
            return content | {"text": body.decode("utf-8")}
        except UnicodeDecodeError:
            pass
    return content | {"text": base64.b64encode(body).decode(), "encoding": "base64"}


def csv_of(capture: Capture, weigh_ins: Sequence[WeighIn], rules: Sequence[Rule] = ()) -> str:
    """All requests of these weigh-ins, a row each: sizes in bytes, times in ms."""
    out = io.StringIO()
    rows = csv.writer(out)
    rows.writerow(_COLUMNS)
    for weigh_in in weigh_ins:
        causes = Causes(weigh_in.visit.requests, capture.base_url, rules)
        for request, bringer in zip(causes.requests, causes.bringers, strict=True):
            begin = request.responded or request.ended
            row = [weigh_in.page, weigh_in.conditions.key, request.url, request.kind, request.method, request.status]
            row += [f"{bringer.kind} {bringer.name}".strip(), request.initiator, request.started]
            row += [round(max(0.0, begin - request.started), 2), round(max(0.0, request.ended - begin), 2)]
            row += [request.transferred, request.body, request.decoded, int(request.cached), int(request.missing)]
            rows.writerow([_harmless(value) for value in row])
    return out.getvalue()


def _harmless(value: object) -> object:
    """A text that no spreadsheet takes for a formula."""
    return f"'{value}" if isinstance(value, str) and value[:1] in ("=", "+", "-", "@") else value
