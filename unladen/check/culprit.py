"""The search for what is to blame.

Zeller and Hildebrandt: Simplifying and Isolating Failure-Inducing Input, IEEE TSE 28(2), 2002: ddmin.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

T = TypeVar("T")
MOST_ASKED = 80


@dataclass(frozen=True, slots=True)
class Blame(Generic[T]):
    """`guilty` still fails and, if `minimal`, not without any one of them.

    Empty: the failure is there without any change.
    """

    guilty: list[T]
    minimal: bool
    asked: int


def all_culprits(items: Sequence[T], fails: Callable[[list[T]], bool], budget: int = MOST_ASKED) -> Blame[T]:
    """All of `items` without which the rest does not fail, one 1-minimal part after the other.

    `fails` must hold for all of them together and not for none of them. `minimal` is False where the budget did not do.
    """
    rest, guilty, asked = list(items), list[T](), 0
    while True:
        result = culprits(rest, fails, budget - asked, innocent=True)
        asked += result.asked
        guilty += result.guilty
        if not result.minimal or asked >= budget:
            return Blame(guilty, False, asked)
        out = set(result.guilty)
        rest = [item for item in rest if item not in out]
        asked += 1
        if not rest or not fails(rest):
            return Blame(guilty, True, asked)


class _SpentError(Exception):
    """The budget is spent."""


def culprits(
    changes: Sequence[T], fails: Callable[[list[T]], bool], budget: int = MOST_ASKED, *, innocent: bool = False
) -> Blame[T]:
    """A part of `changes` that still fails and of which no single one can be left out (1-minimal).

    `fails` must hold for all of them together. It is asked first whether nothing at all fails too, and then nobody is
    to blame, unless it is known that nothing does not fail (`innocent`); it is asked once for each combination, and no
    more than `budget` times. The most suspicious should come first.
    """
    known: dict[tuple[int, ...], bool] = {(): False} if innocent else {}
    asked = 0

    def bad(positions: list[int]) -> bool:
        nonlocal asked
        key = tuple(positions)
        if key not in known:
            if asked >= budget:
                raise _SpentError
            asked += 1
            known[key] = fails([changes[i] for i in positions])
        return known[key]

    current = list(range(len(changes)))
    if not current or (budget and bad([])):
        return Blame([], True, asked)
    minimal = True
    parts = 2
    try:
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
    except _SpentError:
        minimal = False
    return Blame([changes[i] for i in current], minimal, asked)
