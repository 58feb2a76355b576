"""Requests summed up, and in words."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from unladen.weigh.records.model import Request


def weight_of(requests: Iterable[Request]) -> int:
    """Bytes transferred."""
    return sum(request.transferred for request in requests)


def requests_in_words(count: int) -> str:
    """How many requests."""
    return f"{count} requests" if count > 1 else "1 request"


def heaviest_kind(requests: Iterable[Request]) -> str:
    """The kind of file that brings the most bytes."""
    sums: dict[str, int] = defaultdict(int)
    for request in requests:
        sums[request.kind] += request.transferred
    return max(sums, key=lambda kind: sums[kind])
