"""Sets of characters as ranges, as `unicode-range` writes them (CSS Fonts Level 4, 4.5)."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Collection, Iterable

_LAST = 0x10FFFF
_TOKEN = re.compile(r"[Uu]\+([0-9A-Fa-f]{1,6})(\?{0,5})(?:-([0-9A-Fa-f]{1,6}))?")
# Scripts whose letters take their shape from their neighbours: of these a font keeps all or none.
_SHAPED = (
    (0x0300, 0x036F),
    (0x0590, 0x05FF),
    (0x0600, 0x08FF),
    (0x0900, 0x0DFF),
    (0x0E00, 0x0EFF),
    (0x0F00, 0x0FFF),
    (0x1000, 0x109F),
    (0x1100, 0x11FF),
    (0x1780, 0x17FF),
    (0x1800, 0x18AF),
    (0x1900, 0x1CFF),
    (0xA8E0, 0xA8FF),
    (0xA900, 0xAADF),
    (0xFB1D, 0xFB4F),
    (0xFB50, 0xFDFF),
    (0xFE70, 0xFEFF),
    (0xFE00, 0xFE0F),
    (0x200B, 0x200F),
)
# What a text in Latin letters may come to need: ISO 8859-1, and marks that typists use (common practice, no source).
FLOOR = frozenset(
    {
        *range(0x20, 0x7F),
        *range(0xA0, 0x100),
        0x131,
        0x152,
        0x153,
        0x160,
        0x161,
        0x178,
        0x17D,
        0x17E,
        0x192,
        0x2C6,
        0x2DC,
        *range(0x2010, 0x2015),
        *range(0x2018, 0x201F),
        *range(0x2020, 0x2023),
        0x2026,
        0x2030,
        0x2032,
        0x2033,
        0x2039,
        0x203A,
        0x2044,
        0x20AC,
        0x2116,
        0x2122,
        0x2190,
        0x2191,
        0x2192,
        0x2193,
        0x2212,
        0x2215,
        0x2248,
        0x2260,
        0x2264,
        0x2265,
    }
)


def parsed(text: str) -> frozenset[int]:
    """The characters of a `unicode-range`; raises `ValueError` for what is none."""
    result: set[int] = set()
    for part in text.split(","):
        match = _TOKEN.fullmatch(part.strip())
        if match is None or len(match[1]) + len(match[2]) > 6 or (match[2] and match[3]):
            raise ValueError(f"“{part.strip()[:40]}” is no range of characters")
        first = int(match[1] + match[2].replace("?", "0"), 16)
        last = int(match[3], 16) if match[3] else int(match[1] + match[2].replace("?", "F"), 16)
        if first > last or last > _LAST:
            raise ValueError(f"“{part.strip()[:40]}” is no range of characters")
        result.update(range(first, last + 1))
    return frozenset(result)


def written(characters: Iterable[int], others: Collection[int] | None = None) -> str:
    """The shortest list of ranges that holds these characters and none of `others`; without any, nothing but these."""
    parts: list[list[int]] = []
    forbidden = sorted(others) if others is not None else []
    for c in sorted(set(characters)):
        last = parts[-1][1] if parts else -2
        near = c == last + 1 or (
            others is not None and last >= 0 and bisect_left(forbidden, last) == bisect_left(forbidden, c)
        )
        if near:
            parts[-1][1] = c
        else:
            parts.append([c, c])
    return ",".join(f"U+{a:X}" if a == b else f"U+{a:X}-{b:X}" for a, b in parts)


def with_neighbours(characters: Iterable[int], known: Collection[int]) -> frozenset[int]:
    """The same with all characters of a font (`known`) that belong to a script of which one is among them."""
    result = set(characters)
    for first, last in _SHAPED:
        if any(first <= c <= last for c in result & set(known)):
            result.update(c for c in known if first <= c <= last)
    return frozenset(result)
