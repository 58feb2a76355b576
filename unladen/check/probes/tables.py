"""What several probes share: tables by place, compared."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from unladen.check.probes.spec import Observation


@dataclass(frozen=True, slots=True)
class Changed:
    """A row that differs: `old` or `new` is None where there is none."""

    place: str
    old: Any
    new: Any


def changed_rows(before: Observation, again: Observation, after: Observation, name: str) -> Iterator[Changed]:
    """The rows of a table that differ, in the order of the page; those that the page itself varies are left out."""
    first, second, now = (seen.values.get(name) or {} for seen in (before, again, after))
    yield from changed_entries(first, second, now)


def changed_entries(first: Mapping[str, Any], second: Mapping[str, Any], now: Mapping[str, Any]) -> Iterator[Changed]:
    """As `changed_rows`, for tables as such."""
    for place in dict.fromkeys([*first, *now]):
        old, new = first.get(place), now.get(place)
        if old != new and old == second.get(place):
            yield Changed(place, old, new)


def element_of(place: str) -> str:
    """The place of the element that a row such as `html > body @title` or `… > p::before` is about."""
    return place.split(" @")[0].split("::")[0]


def frame_of(place: str) -> tuple[str, ...]:
    """The place of the frame that something is in, none for what is in the page itself."""
    frame = place.rpartition(" >>> ")[0]
    return (frame,) if frame else ()


def and_more(count: int) -> str:
    """How many parts beside the first one are meant."""
    return f" and {count - 1} other parts" if count > 2 else " and another part" if count == 2 else ""


def shortened(text: Any, most: int = 80) -> str:
    """A value for people to read."""
    said = " ".join(str(text).split())
    return said if len(said) <= most else said[: most - 1] + "…"
