"""Which of many weigh-ins counts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Kept:
    """A weigh-in as far as it matters here: its key, page and conditions; `held`: a plan or ledger stands on it."""

    key: str
    page: str
    conditions: str
    pinned: bool = False
    held: bool = False


def current(rows: Sequence[Kept], order: Sequence[str]) -> list[str]:
    """For every page and conditions the key of the one that is shown: the one held, else a pinned one, else the latest.

    `rows` stand in the order in which they were taken. Those named in `order` come first, in that order.
    """
    chosen: dict[tuple[str, str], Kept] = {}
    for row in rows:
        known = chosen.get((row.page, row.conditions))
        if known is None or (row.held, row.pinned) >= (known.held, known.pinned):
            chosen[(row.page, row.conditions)] = row
    place = {key: i for i, key in enumerate(order)}
    keys = [row.key for row in chosen.values()]
    return sorted(keys, key=lambda key: place.get(key, len(place) + keys.index(key)))


def with_pinned(baseline: Sequence[Kept], pinned: Kept) -> list[str]:
    """The keys of a baseline in which a weigh-in takes the place of the one of the same page and conditions."""
    spot = (pinned.page, pinned.conditions)
    return [pinned.key if (row.page, row.conditions) == spot else row.key for row in baseline]
