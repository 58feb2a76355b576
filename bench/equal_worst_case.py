"""Bytes of photographs at equal worst-case similarity: a quality for each against one quality for all.

The photographs are those of openly licensed packages (see `photographs`).
"""

from __future__ import annotations

from bench.pictures import photographs
from unladen.raster.codec import encode, reopen
from unladen.raster.search import lowest_quality
from unladen.raster.sight import Sight

TARGETS = (0.985, 0.97, 0.95)
LEAST = 0.25


def measure() -> tuple[str, str, bool]:
    """The one quality is the least at which even the worst photograph is as good as the worst of ours.

    Tried for all three targets; the wanted saving is asked of the lowest, whose qualities lie furthest apart.
    """
    images = photographs()
    told, encodes, saved = [], 0, 0.0
    for target in TARGETS:
        found = [lowest_quality(Sight(image), "WEBP", target) for image in images]
        worst = min(result.likeness for result in found)
        quality = max(result.quality for result in found)
        while quality > 50 and all(
            Sight(i).likeness(reopen(encode(i, "WEBP", quality - 1))) >= worst for i in images
        ):
            quality -= 1
        fixed = sum(len(encode(image, "WEBP", quality)) for image in images)
        saved = 1 - sum(len(result.data) for result in found) / fixed
        encodes += sum(result.encodes for result in found)
        told.append(f"{saved:.0%} under quality {quality} for all at {target}")
    each = encodes / len(images) / len(TARGETS)
    figure = f"{'; '.join(told)}; {len(images)} photographs, {each:.1f} encodes each"
    return figure, f"at least {LEAST:.0%} and at most 5 encodes", saved >= LEAST and each <= 5
