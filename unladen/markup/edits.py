"""Replacing spans of a text."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Edit:
    """Put `text` in the place of the characters from `start` to `end`; `slot` tells insertions at one point apart."""

    start: int
    end: int
    text: str
    slot: str = ""


def apply_edits(chars: str, edits: Iterable[Edit]) -> str:
    """The text with all edits made; of two for the same span and slot the later one holds.

    Raises `ValueError` when two edits overlap.
    """
    latest = {(edit.start, edit.end, edit.slot): edit for edit in edits}
    out: list[str] = []
    position = 0
    for edit in sorted(latest.values(), key=lambda e: (e.start, e.end, e.slot)):
        if edit.start < position:
            raise ValueError(f"edits overlap at character {edit.start}")
        out += (chars[position : edit.start], edit.text)
        position = edit.end
    out.append(chars[position:])
    return "".join(out)
