"""How large a font is set, and what makes another one take the same room (CSS Fonts Level 5, 2.1 "size-adjust" and
2.2).
"""

from __future__ import annotations

import io
from dataclasses import dataclass

from fontTools.ttLib import TTFont

# Text of the languages of a page is not at hand for fonts of systems, so both are measured by the same words.
_WORDS = (
    "The wheel turns twice a day when the pond is full and the tide has gone. It has done so since 1684, with one "
    "long rest. Come "
    "and hear the stones run, and take home a bag of what they grind: flour, rye, oats."
)
_USES_TYPO = 1 << 7  # OpenType OS/2, fsSelection


@dataclass(frozen=True, slots=True)
class Metrics:
    """Shares of the em: what lines take above and below, the gap between them, and the mean advance of a character."""

    ascent: float
    descent: float
    gap: float
    width: float


def _of_system(ascent: int, descent: int, gap: int, width: float) -> Metrics:
    return Metrics(ascent / 2048, descent / 2048, gap / 2048, width / 2048)


# Read from the Liberation fonts, which are as wide as those that systems have by these names, glyph by glyph.
SYSTEM = {
    "sans-serif": (("Arial", "ArialMT", "Liberation Sans"), _of_system(1854, 434, 67, 904.2)),
    "serif": (("Times New Roman", "TimesNewRomanPSMT", "Liberation Serif"), _of_system(1825, 443, 87, 813.3)),
    "monospace": (("Courier New", "CourierNewPSMT", "Liberation Mono"), _of_system(1705, 615, 0, 1229.0)),
}


def metrics_of(data: bytes) -> Metrics | None:
    """Those of a font; None where it cannot be read, or has not the letters by which it is measured."""
    try:
        with TTFont(io.BytesIO(data), lazy=True) as font:
            characters, advances = font.getBestCmap() or {}, font["hmtx"]
            units = font["head"].unitsPerEm
            if not all(ord(c) in characters for c in _WORDS):
                return None
            width = sum(advances[characters[ord(c)]][0] for c in _WORDS) / len(_WORDS) / units
            lines, table = font["hhea"], font.get("OS/2")
            if table is not None and table.fsSelection & _USES_TYPO:
                up, down, gap = table.sTypoAscender, table.sTypoDescender, table.sTypoLineGap
            else:
                up, down, gap = lines.ascent, lines.descent, lines.lineGap
            return Metrics(up / units, abs(down) / units, gap / units, width) if width > 0 and units else None
    except Exception:  # fontTools raises what struct, zlib and brotli do, and more, on broken files
        return None


def face_like(alias: str, font: Metrics, generic: str, characters: str) -> str:
    """A font face of this name, made of one of the system's, that takes the room of a font, for these characters (as
    `unicode-range` writes them): what the font does not have is left to whoever comes next.
    """
    names, own = SYSTEM[generic]
    size = font.width / own.width
    source = ",".join(f'local("{name}")' for name in names)
    rows = (("size-adjust", size), *((f"{n}-override", v / size) for n, v in _lines(font)))
    return (
        f'@font-face{{font-family:"{alias}";src:{source};'
        + ";".join(f"{n}:{100 * v:.2f}%" for n, v in rows)
        + f";unicode-range:{characters}}}"
    )


def _lines(font: Metrics) -> tuple[tuple[str, float], ...]:
    return ("ascent", font.ascent), ("descent", font.descent), ("line-gap", font.gap)
