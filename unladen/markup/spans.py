"""Spans of a text."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Sequence

Span = tuple[int, int]


def union(spans: Iterable[Span]) -> list[Span]:
    """The same places as disjoint spans in order."""
    merged: list[Span] = []
    for start, end in sorted(spans):
        if merged and start <= merged[-1][1]:
            merged[-1] = (merged[-1][0], max(merged[-1][1], end))
        elif end > start:
            merged.append((start, end))
    return merged


def touching(spans: Sequence[Span], start: int, end: int) -> Sequence[Span]:
    """Of disjoint spans in order those that have a place in common with another one."""
    first = max(0, bisect_left(spans, (start, start)) - 1)
    if first < len(spans) and spans[first][1] <= start:
        first += 1
    return spans[first : bisect_left(spans, (end, end))]


class Units:
    """From characters of a text to UTF-16 code units, in which the browser counts."""

    def __init__(self, text: str) -> None:
        self._wide = [i for i, c in enumerate(text) if ord(c) > 0xFFFF]
        self.length = len(text) + len(self._wide)

    def at(self, position: int) -> int:
        """The same place in code units."""
        if not self._wide:
            return position
        return position + bisect_left(self._wide, position)
