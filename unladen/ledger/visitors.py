"""What visitors have of it beyond first visits: who brings the bytes, a second visit, and a walk over several pages
from one cache.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from unladen.ledger.account import Saving
from unladen.weigh.link.freshness import freshness
from unladen.weigh.records.conditions import HEADER_BYTES
from unladen.weigh.records.model import Request, WeighIn
from unladen.weigh.records.parties import Causes, Party, Rule


@dataclass(frozen=True, slots=True)
class Stop:
    """A page of a journey, with the bytes and requests that it still takes when a visitor comes to it."""

    page: str
    bytes: int
    requests: int


def by_bringer(
    before: Iterable[WeighIn], after: Iterable[WeighIn], base_url: str, rules: Sequence[Rule] = ()
) -> dict[Party, Saving]:
    """What went of each bringer's bytes and requests, over all weigh-ins; the sum is that of the ledger, to the
    byte.
    """
    result: dict[Party, Saving] = {}
    for sign, weigh_ins in ((1, before), (-1, after)):
        for weigh_in in weigh_ins:
            causes = Causes(weigh_in.visit.requests, base_url, rules)
            for number, request in enumerate(weigh_in.visit.requests):
                if not request.cached:
                    sum_ = result.setdefault(causes.bringers[number], Saving())
                    sum_.add(sign * request.transferred, sign)
    return {bringer: saved for bringer, saved in result.items() if saved != Saving()}


def journey(weigh_ins: Sequence[WeighIn]) -> list[Stop]:
    """Pages one after the other from one cache, from their first visits on one device.

    Modelled, not measured: what an earlier page brought comes from the cache while it is fresh, costs a question and
    its answer where it must be asked for (304, counted as `HEADER_BYTES`), and comes whole where it may not be kept
    (RFC 9111, 4.2 and 4.3). Nothing is thought to grow stale between two pages.
    """
    known: dict[str, Request] = {}
    stops = []
    for weigh_in in weigh_ins:
        size = count = 0
        for request in weigh_in.visit.requests:
            if request.cached:
                continue
            cost, asked = _cost(request, known.get(request.url))
            size, count = size + cost, count + asked
            if request.method == "GET" and request.status == 200:
                known[request.url] = request
        stops.append(Stop(weigh_in.page, size, count))
    return stops


def _cost(request: Request, known: Request | None) -> tuple[int, int]:
    """Bytes and requests of a request, where an earlier page brought `known`."""
    if known is None or request.method != "GET":
        return request.transferred, 1
    fresh = freshness(known.response_headers)
    if fresh.storable and fresh.lifetime > 0:
        return 0, 0
    if fresh.storable and fresh.validator:
        return HEADER_BYTES, 1
    return request.transferred, 1


def journeys(before: Sequence[WeighIn], after: Sequence[WeighIn]) -> list[dict[str, Any]]:
    """For each device the journey over all its pages in their order, and the first of them once more, as found and now.

    Plain values, as in the published ledger.
    """
    journeys = []
    for device in dict.fromkeys(weigh_in.conditions.device.name for weigh_in in before):
        old, new = (
            [w for w in side if w.conditions.device.name == device and w.conditions.visit == "first"]
            for side in (before, after)
        )
        if not old or not new:
            continue
        pages = [
            {"page": then.page, "found": _plain(then), "now": _plain(now)}
            for then, now in zip(journey(old), journey(new), strict=True)
        ]
        again = {"page": old[0].page, "found": _plain(second_visit(old[0])), "now": _plain(second_visit(new[0]))}
        journeys.append({"device": device, "pages": pages, "again": again})
    return journeys


def _plain(stop: Stop) -> dict[str, int]:
    return {"bytes": stop.bytes, "requests": stop.requests}


def second_visit(weigh_in: WeighIn) -> Stop:
    """The same page once more from the cache that its first visit left, modelled as a `journey` is."""
    return journey([weigh_in, weigh_in])[1]
