"""How long a browser may keep an answer, and why it asks again (RFC 9111)."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from email.utils import parsedate_to_datetime

from unladen.weigh.records.model import Request

_MAX_AGE = re.compile(r"(?:^|[,\s])max-age\s*=\s*\"?(\d+)", re.I)
_HEURISTIC = 0.1  # of the time since the last change; RFC 9111, 4.2.2, and what browsers do
_HOUR = 3600.0

# Why a file comes again on a repeat visit.
NO_STORE = "must not be cached (no-store)"
NO_LIFETIME = "has no lifetime: the browser asks on every visit"
REVALIDATED = "must be revalidated on every visit"
NEITHER = "has neither lifetime nor validator: loads in full on every visit"
NEW_ADDRESS = "its address changes from visit to visit"


@dataclass(frozen=True, slots=True)
class Freshness:
    """`lifetime` in s; `stated` when the server gave one; `validator` when a question can be answered by a 304."""

    lifetime: float
    stated: bool
    validator: bool
    storable: bool = True

    @property
    def reason(self) -> str:
        """Why it is asked for again at once, or "" when it is not."""
        if not self.storable:
            return NO_STORE
        if self.lifetime > 0:
            return ""
        if self.validator:
            return NO_LIFETIME if not self.stated else REVALIDATED
        return NEITHER


def freshness(headers: Iterable[tuple[str, str]]) -> Freshness:
    """The freshness of an answer with these header fields (lower-case names); max-age goes before Expires."""
    fields = dict(headers)
    control = fields.get("cache-control", "").lower()
    validator = bool(fields.get("etag") or fields.get("last-modified"))
    if "no-store" in control:
        return Freshness(0, True, validator, storable=False)
    if re.search(r"(^|[,\s])no-cache(?!=)", control) or ("no-cache" in fields.get("pragma", "") and not control):
        return Freshness(0, True, validator)
    date, modified = _moment(fields.get("date")), _moment(fields.get("last-modified"))
    if match := _MAX_AGE.search(control):
        return Freshness(float(match[1]), True, validator)
    if "expires" in fields:
        expires = _moment(fields["expires"])
        lifetime = (expires - date).total_seconds() if expires and date else 0.0
        return Freshness(max(0.0, lifetime), True, validator)
    if date and modified:
        return Freshness(max(0.0, (date - modified).total_seconds() * _HEURISTIC), False, validator)
    return Freshness(0, False, validator)


def _moment(value: str | None) -> datetime | None:
    try:
        return parsedate_to_datetime(value) if value else None
    except (TypeError, ValueError):
        return None


def asked_again(request: Request, first: Sequence[Request]) -> str:
    """Why a request of a repeat visit went to the network, beside those of the first visit; "" when it did not."""
    if request.cached:
        return ""
    known = next((entry for entry in first if entry.url == request.url), None)
    if known is None:
        plain = request.url.partition("?")[0]
        if any(entry.url.partition("?")[0] == plain for entry in first):
            return NEW_ADDRESS
        return "was not requested on the first visit"
    if request.method != "GET":
        return f"is sent each time ({request.method})"
    return freshness(known.response_headers).reason or "is requested on every visit by the page"
