"""Spans of a text."""

from __future__ import annotations

from collections.abc import Iterable

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
