"""Replacing spans of a text."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Edit:
    """Put `text` in the place of the characters from `start` to `end`; `slot` tells insertions at one point apart.

    `adds`: elements may come with it and go with what it replaces.
    """

    start: int
    end: int
    text: str
    slot: str = ""
    adds: bool = False


def apply_edits(chars: str, edits: Iterable[Edit]) -> str:
    """The text with all edits made; of two for the same span and slot the later one holds.

    Raises `ValueError` when two edits overlap.
    """
    return edited(chars, edits)[0]


def edited(chars: str, edits: Iterable[Edit]) -> tuple[str, list[Edit]]:
    """The text with all edits made, and those that add elements as they would be undone: spans of the new text."""
    latest = {(edit.start, edit.end, edit.slot): edit for edit in edits}
    out: list[str] = []
    adding: list[Edit] = []
    position = length = 0
    for edit in sorted(latest.values(), key=lambda e: (e.start, e.end, e.slot)):
        if edit.start < position:
            raise ValueError(f"edits overlap at character {edit.start}")
        out += (chars[position : edit.start], edit.text)
        length += edit.start - position
        if edit.adds:
            adding.append(Edit(length, length + len(edit.text), chars[edit.start : edit.end], adds=True))
        length += len(edit.text)
        position = edit.end
    out.append(chars[position:])
    return "".join(out), adding
