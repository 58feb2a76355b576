"""The media in which a page is looked at where it has rules for them."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Medium:
    """What is emulated for it, and the pattern that tells of it in the conditions of rules."""

    emulated: Mapping[str, Any]
    asked: str


MEDIA: Mapping[str, Medium] = {
    "print": Medium({"media": "print"}, r"\bprint\b"),
    "dark": Medium({"color_scheme": "dark"}, "prefers-color-scheme"),
    "motion": Medium({"reduced_motion": "no-preference"}, "prefers-reduced-motion"),
    "contrast": Medium({"contrast": "more"}, "prefers-contrast"),
    "forced": Medium({"forced_colors": "active"}, "forced-colors"),
}
USUAL: Mapping[str, Any] = {
    "media": "screen",
    "color_scheme": "light",
    "reduced_motion": "reduce",
    "contrast": "no-preference",
    "forced_colors": "none",
}


def asked_for(conditions: Collection[str]) -> list[str]:
    """The media that these conditions name."""
    patterns = {name: re.compile(medium.asked, re.I) for name, medium in MEDIA.items()}
    return [name for name, pattern in patterns.items() if any(map(pattern.search, conditions))]
