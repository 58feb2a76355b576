"""Bytes at an equal look: pictures as the efforts code them, against one quality for all, judged by FLIP.

FLIP (Andersson and others, HPG 2020) is made for flipping between two pictures; its own package measures it at 67 px
per degree. Our target is chosen for each opponent so that the mean over all photographs is no worse than the
opponent's.
"""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from multiprocessing import get_context
from typing import NamedTuple

import flip_evaluator
import numpy as np
from PIL import Image

from bench.pictures import graphics, photographs
from unladen.raster.codec import reopen
from unladen.raster.recode import Recipe, Recoded, recode
from unladen.raster.search import lowest_quality
from unladen.raster.sight import Sight

SIDE = 560  # px; FLIP takes a second for that
OPPONENTS = (("WEBP", 80), ("JPEG", 80), ("AVIF", 60))
TARGETS = (0.95, 0.97, 0.98)
MOST = 0.75  # of the bytes of WebP 80
WORDS = (("true", 0.985), ("fine", 0.97), ("fair", 0.95))


class Coded(NamedTuple):
    """Bytes of a file, and FLIP over it: the mean, and the worst of a hundred px."""

    bytes: float
    mean: float
    worst: float


def flip(first: Image.Image, second: Image.Image, density: float = 1.0) -> tuple[float, float]:
    """The mean and the 99th percentile of FLIP on white, at 67 px per degree times the density."""
    pixels = [np.asarray(_on_white(image), dtype=np.float32) / 255 for image in (first, second)]
    parameters = {"ppd": 67.0 * density}
    found = flip_evaluator.evaluate(*pixels, "LDR", inputsRGB=True, applyMagma=False, parameters=parameters)[0]
    return float(np.mean(found)), float(np.percentile(found, 99))


def _on_white(image: Image.Image) -> Image.Image:
    if image.mode != "RGBA":
        return image.convert("RGB")
    return Image.alpha_composite(Image.new("RGBA", image.size, (255, 255, 255, 255)), image).convert("RGB")


def fixed(image: Image.Image, format: str, quality: int) -> Coded:
    """A quality that is the same for all, by the encoders as they come."""
    out = io.BytesIO()
    options = {"WEBP": {"method": 6}, "JPEG": {"optimize": True, "progressive": True}}.get(format, {})
    image.save(out, format, quality=quality, **options)  # type: ignore[arg-type]
    return Coded(len(out.getvalue()), *flip(image, reopen(out.getvalue())))


def ours(image: Image.Image, target: float, density: float = 1.0) -> Coded:
    """AVIF or WebP, whichever is smaller at the target."""
    sight = Sight(image, density)
    found = min((lowest_quality(sight, format, target) for format in ("AVIF", "WEBP")), key=lambda f: len(f.data))
    return Coded(len(found.data), *flip(image, reopen(found.data), density))


def graphic(image: Image.Image, target: float) -> Coded:
    """A graphic as WebP of any sort, or AVIF where that is a tenth smaller."""
    out = io.BytesIO()
    image.save(out, "PNG")
    made: list[Recoded] = [
        recode(out.getvalue(), Recipe(format=format, similarity=target, always=True)) for format in ("WEBP", "AVIF")
    ]
    best = made[1] if len(made[1].data) < 0.9 * len(made[0].data) else made[0]
    return Coded(len(best.data), *flip(image, reopen(best.data)))


def _sum(rows: Sequence[Coded]) -> Coded:
    return Coded(
        sum(r.bytes for r in rows), float(np.mean([r.mean for r in rows])), float(np.mean([r.worst for r in rows]))
    )


def _at_equal(curve: Sequence[Coded], other: Coded) -> float:
    """Bytes of ours, between the targets tried, where neither mean nor worst is above the other's."""

    def where(measure: str) -> float:
        points = [(math.log(getattr(c, measure)), math.log(c.bytes)) for c in curve]
        xs, ys = zip(*sorted(points), strict=True)
        slope = (ys[-1] - ys[0]) / (xs[-1] - xs[0])
        x = math.log(getattr(other, measure))
        inside = xs[0] <= x <= xs[-1]
        return (
            float(np.interp(x, xs, ys))
            if inside
            else ys[0 if x < xs[0] else -1] + slope * (x - xs[0 if x < xs[0] else -1])
        )

    return math.exp(max(where("mean"), where("worst")))


def measure() -> tuple[str, str, bool]:
    """Ratios of bytes over all photographs; the agreed figures of the efforts' words are told besides."""
    pictures, drawings = photographs(SIDE), graphics(SIDE)
    context = get_context("spawn")
    with ProcessPoolExecutor(2, mp_context=context) as pool:
        curve = [_sum(list(pool.map(partial(ours, target=target), pictures))) for target in TARGETS]
        ratios = {}
        for format, quality in OPPONENTS:
            other = _sum(list(pool.map(partial(fixed, format=format, quality=quality), pictures)))
            ratios[f"{format} {quality}"] = _at_equal(curve, other) / other.bytes
        for word, target in WORDS:
            for name, work, images in (("photographs", ours, pictures), ("graphics", graphic, drawings)):
                rows = list(pool.map(partial(work, target=target), images))
                means = sorted(row.mean for row in rows)
                total = _sum(rows)
                print(
                    f"  {word}, {len(rows)} {name}: FLIP {total.mean:.4f} in the mean, {means[0]:.3f} to "
                    f"{means[-1]:.3f}, worst hundredth {total.worst:.3f}; {total.bytes:,.0f} bytes"
                )
    figure = ", ".join(f"{ratio:.2f} of {name}" for name, ratio in ratios.items())
    return (
        f"{figure} at equal FLIP, {len(pictures)} photographs",
        f"at most {MOST} of WEBP 80",
        ratios["WEBP 80"] <= MOST,
    )
