"""What the browser told and what the server counted, put together."""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Callable, Sequence
from itertools import accumulate
from urllib.parse import unquote, urlsplit

from unladen.capture import Capture
from unladen.capture.addresses import canonical
from unladen.capture.mediatypes import media_type_of
from unladen.replay import Served
from unladen.weigh.chromium.recorder import Seen
from unladen.weigh.records.kinds import kind_of
from unladen.weigh.records.model import Request

Place = Callable[[str, int, int], float]


def _nowhere(_url: str, _line: int, _column: int) -> float:
    return 0.0


def join(
    seen: Sequence[Seen],
    served: Sequence[Served],
    icons: set[str],
    *,
    earlier: Sequence[Seen] = (),
    place: Place = _nowhere,
) -> list[Request]:
    """Requests as the browser tells them with the bytes that the server counted, joined by URL in order.

    Icons of the site, and hosts that only the browser itself asks for, are left out; all else that was served is in,
    so the sum over the requests is the sum over the log. Times count from the first request, which may be one of
    those `earlier`. `place` gives the share of a text that comes before a line and column.
    """
    waiting: defaultdict[str, deque[Served]] = defaultdict(deque)
    for answered in served:
        if answered.method != "OPTIONS":
            waiting[canonical(answered.url)].append(answered)
    begin = min((entry.started for entry in [*earlier, *seen]), default=0.0)
    requests: list[Request] = []
    hosts = {urlsplit(entry.url).hostname for entry in [*earlier, *seen]}

    def after(moment: float) -> float:
        return round((moment - begin) * 1000, 2) if moment else 0.0

    for entry in seen:
        key = canonical(entry.url)
        if key in icons and entry.resource_type == "Other":
            continue
        if entry.taken_back and not waiting[key]:
            continue  # it never reached the server
        request = Request(
            url=key,
            kind=kind_of(entry.resource_type, entry.media_type),
            status=entry.status,
            frame=entry.frame,
            initiator=entry.initiator,
            initiator_type=entry.initiator_type,
            started=after(entry.started),
            responded=min(after(entry.responded), after(entry.ended) or float("inf")),
            ended=after(entry.ended),
            cached=entry.cached,
            failed=entry.failed,
            method=entry.method,
            protocol=entry.protocol,
            priority=entry.priority,
            media_type=entry.media_type,
            blocking=entry.blocking,
            redirect=entry.redirect,
            stack=entry.stack,
            request_headers=entry.request_headers,
            response_headers=entry.response_headers,
        )
        if entry.initiator_type == "parser" and entry.line >= 0:
            request.named_at = place(canonical(entry.initiator), entry.line, entry.column)
        request.missing = entry.missing
        # A copy that the server said is still good came from the cache, but its question and answer did not.
        if waiting[key] and (not entry.cached or waiting[key][0].status == 304):
            answer = waiting[key].popleft()
            request.body, request.status, request.cached = answer.body, answer.status, False
            request.missing = answer.status == 404
        elif request.status == 200 and not entry.failed:
            request.cached = True  # a copy in memory, which the browser does not always call one
        requests.append(request)
    for key, left in waiting.items():
        if key in icons or urlsplit(key).hostname not in hosts:
            continue
        for answer in left:
            kind = kind_of("", media_type_of(urlsplit(key).path))
            requests.append(
                Request(url=key, kind=kind, status=answer.status, body=answer.body, missing=answer.status == 404)
            )
    return requests


def completed(capture: Capture, requests: list[Request]) -> list[Request]:
    """The same requests with decoded sizes, media types and better causes, as the capture tells them."""
    for request in requests:
        exchange = capture.lookup(request.url)
        request.decoded = exchange.size if exchange and request.body and request.status == 200 else request.body
        if exchange and not request.media_type:
            request.media_type = exchange.media_type
    name_scripts(capture, requests)
    return requests


def name_scripts(capture: Capture, requests: list[Request]) -> None:
    """Images that scripts ask for are told by the browser as the parser's; the script that names them is the cause."""
    bodies: dict[str, bytes] = {}

    def names(url: str, *words: str) -> bool:
        if url not in bodies:
            exchange = capture.lookup(url)
            bodies[url] = capture.body(exchange) if exchange else b""
        return all(word.encode() in bodies[url] for word in words)

    scripts = [request for request in requests if request.kind == "scripts" and request.status == 200]
    for request in requests:
        if request.kind != "images" or request.initiator_type != "parser":
            continue
        parts = urlsplit(request.url)
        file = unquote(parts.path).rsplit("/", 1)[-1] or parts.netloc
        if names(request.initiator, file):
            continue
        host = () if parts.netloc == urlsplit(request.initiator).netloc else (parts.netloc,)
        cause = next((s for s in scripts if s.started <= request.started and names(s.url, file, *host)), None)
        if cause is not None:
            request.initiator, request.initiator_type, request.stack = cause.url, "script", [cause.url]


class Places:
    """From line and column (both from 0) to the share of a text that has come when they are reached."""

    def __init__(self, capture: Capture) -> None:
        self._capture = capture
        self._starts: dict[str, list[int]] = {}

    def __call__(self, url: str, line: int, column: int) -> float:
        if url not in self._starts:
            exchange = self._capture.lookup(url)
            lengths = map(len, self._capture.body(exchange).splitlines(keepends=True)) if exchange else ()
            self._starts[url] = list(accumulate(lengths, initial=0))
        starts = self._starts[url]
        size = starts[-1]
        return min(1.0, (starts[min(line, len(starts) - 1)] + column) / size) if size else 0.0
