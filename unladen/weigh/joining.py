"""What the browser told and what the server counted, put together."""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Callable, Sequence
from urllib.parse import urlsplit

from unladen.capture.addresses import canonical
from unladen.capture.mediatypes import media_type_of
from unladen.replay import Served
from unladen.weigh.kinds import kind_of
from unladen.weigh.model import Request
from unladen.weigh.recorder import Seen

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
    found: list[Request] = []
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
        found.append(request)
    for key, left in waiting.items():
        if key in icons or urlsplit(key).hostname not in hosts:
            continue
        for answer in left:
            kind = kind_of("", media_type_of(urlsplit(key).path))
            found.append(
                Request(url=key, kind=kind, status=answer.status, body=answer.body, missing=answer.status == 404)
            )
    return found
