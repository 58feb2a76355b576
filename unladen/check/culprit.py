"""The search for the changes to blame.

Zeller and Hildebrandt: Simplifying and Isolating Failure-Inducing Input, IEEE TSE 28(2), 2002: ddmin.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

T = TypeVar("T")


def culprits(changes: Sequence[T], fails: Callable[[list[T]], bool]) -> list[T]:
    """A part of `changes` that still fails and of which no single one can be left out (1-minimal).

    `fails` must hold for all of them together; it is asked once for each combination.
    """
    known: dict[tuple[int, ...], bool] = {}

    def bad(positions: list[int]) -> bool:
        key = tuple(positions)
        if key not in known:
            known[key] = fails([changes[i] for i in positions])
        return known[key]

    current = list(range(len(changes)))
    parts = 2
    while len(current) >= 2:
        size = -(-len(current) // parts)
        chunks = [current[i : i + size] for i in range(0, len(current), size)]
        smaller = next((chunk for chunk in chunks if bad(chunk)), None)
        if smaller is not None:
            current, parts = smaller, 2
            continue
        rests = ([i for i in current if i not in chunk] for chunk in chunks)
        smaller = next((rest for rest in rests if len(chunks) > 2 and bad(rest)), None)
        if smaller is not None:
            current, parts = smaller, max(parts - 1, 2)
        elif parts < len(current):
            parts = min(len(current), parts * 2)
        else:
            break
    return [changes[i] for i in current]
