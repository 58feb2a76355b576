"""A font of made-up symbols: rings of points, each with a shape of its own."""

from __future__ import annotations

import io
import math
import random

from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen

_EM, _POINTS = 1000, 48


def symbols(family: str, first: int, count: int) -> bytes:
    """A WOFF2 font with so many symbols from this code point on; the same every time."""
    names = [".notdef", "space", *(f"symbol{n}" for n in range(count))]
    builder = FontBuilder(_EM, isTTF=True)
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap({0x20: "space"} | {first + n: f"symbol{n}" for n in range(count)})
    empty = TTGlyphPen(None).glyph()
    glyphs = {".notdef": empty, "space": empty} | {f"symbol{n}": _ring(n) for n in range(count)}
    builder.setupGlyf(glyphs)
    builder.setupHorizontalMetrics(dict.fromkeys(names, (_EM, 0)))
    builder.setupHorizontalHeader(ascent=850, descent=-150)
    builder.setupNameTable({"familyName": family, "styleName": "Regular"})
    builder.setupOS2(sTypoAscender=850, sTypoDescender=-150, usWinAscent=850, usWinDescent=150)
    builder.setupPost()
    builder.font["head"].created = builder.font["head"].modified = 3_800_000_000  # s since 1904
    builder.font.recalcTimestamp = False
    builder.font.flavor = "woff2"
    out = io.BytesIO()
    builder.font.save(out)
    return out.getvalue()


def _ring(number: int) -> object:
    """A closed line around the middle, in and out by chance."""
    chance = random.Random(number)
    pen = TTGlyphPen(None)
    for inner in (0, 1):
        points = []
        for n in range(_POINTS):
            angle = 2 * math.pi * n / _POINTS * (1 if inner else -1)
            radius = chance.uniform(60, 180) if inner else chance.uniform(230, 430)
            points.append((round(500 + radius * math.cos(angle)), round(350 + radius * math.sin(angle))))
        pen.moveTo(points[0])
        for point in points[1:]:
            pen.lineTo(point)
        pen.closePath()
    return pen.glyph()
