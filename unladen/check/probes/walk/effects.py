"""Effects of a step on an element, as the page's script (state.js) reports them: a verb and its values."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

_NEAR = 2.0  # CSS px; boxes are rounded


class Verb(StrEnum):
    """What happened to an element."""

    NEW = "new"
    GONE = "gone"
    SHOWS = "shows"
    HIDES = "hides"
    MOVES = "moves"
    AT = "at"
    LOOKS = "looks"
    SAYS = "says"
    TELLS = "tells"
    HOLDS = "holds"


# What remains to be compared once an earlier step had another effect: places and looks follow from that step.
_ROUGH = frozenset({Verb.SHOWS, Verb.HIDES, Verb.SAYS, Verb.TELLS, Verb.HOLDS, Verb.GONE})


@dataclass(frozen=True, slots=True)
class Effect:
    """What happened to an element.

    `box`: CSS px; left, top, width and height of a new or shown element, their changes for `moves`. `text`: the new
    look, text, state or value, all of them for a new element.
    """

    verb: Verb
    box: tuple[float, ...] = ()
    text: str = ""

    def is_near(self, other: Effect) -> bool:
        """Whether both are the same but for 2 px."""
        if (self.verb, self.text, len(self.box)) != (other.verb, other.text, len(other.box)):
            return False
        return all(abs(a - b) <= _NEAR for a, b in zip(self.box, other.box, strict=True))


Effects = Mapping[str, tuple[Effect, ...]]
"""Effects on elements by place."""


def effects_of(changes: Mapping[str, Iterable[Sequence[Any]]]) -> dict[str, tuple[Effect, ...]]:
    """Effects from plain values: place to rows of verb, box (four numbers or none) and text."""
    return {place: tuple(map(_effect, rows)) for place, rows in changes.items()}


def _effect(row: Sequence[Any]) -> Effect:
    verb, box, text = row
    return Effect(Verb(verb), tuple(box), text)


def opens(effects: Effects) -> bool:
    """Whether something shows or is new."""
    return any(effect.verb in (Verb.SHOWS, Verb.NEW) for row in effects.values() for effect in row)


def rough(effects: Effects) -> dict[str, tuple[Effect, ...]]:
    """Effects without places and looks."""
    kept = {place: tuple(effect for effect in row if effect.verb in _ROUGH) for place, row in effects.items()}
    return {place: row for place, row in kept.items() if row}


def are_near(old: tuple[Effect, ...] | None, new: tuple[Effect, ...] | None) -> bool:
    """Whether the effects on an element are the same but for rounding."""
    if old is None or new is None or len(old) != len(new):
        return False
    return all(a.is_near(b) for a, b in zip(old, new, strict=True))
