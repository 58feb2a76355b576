"""How alike two pictures look: SSIM, with guards where its mean is blind.

Wang, Bovik, Sheikh, Simoncelli: Image Quality Assessment, IEEE TIP 13(4), 2004; K1 = 0.01, K2 = 0.03, L = 255. The
window is a 7x7 box, as in scikit-image's default, which the tests compare with.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PIL import Image

Plane = NDArray[np.float32]

_WINDOW = 7
_C1, _C2 = (0.01 * 255) ** 2, (0.03 * 255) ** 2
_BAND = 384
_TEXTURED = 25.0  # variance (levels squared) from which a window counts as textured
_CHROMA_SLACK = 0.03


def _box(plane: Plane) -> Plane:
    # Shifted adds rather than running sums: exact enough in single precision.
    rows = plane[: plane.shape[0] - _WINDOW + 1].copy()
    for shift in range(1, _WINDOW):
        rows += plane[shift : plane.shape[0] - _WINDOW + 1 + shift]
    out = rows[:, : rows.shape[1] - _WINDOW + 1].copy()
    for shift in range(1, _WINDOW):
        out += rows[:, shift : rows.shape[1] - _WINDOW + 1 + shift]
    out /= _WINDOW * _WINDOW
    return out


def ssim_map(first: Plane, second: Plane) -> tuple[Plane, Plane]:
    """The similarity of each window and the variance of each window of `first`; planes of 0 to 255."""
    sample = _WINDOW * _WINDOW / (_WINDOW * _WINDOW - 1)
    mean_a, mean_b = _box(first), _box(second)
    var_a = sample * (_box(first * first) - mean_a * mean_a)
    var_b = sample * (_box(second * second) - mean_b * mean_b)
    both = sample * (_box(first * second) - mean_a * mean_b)
    value = ((2 * mean_a * mean_b + _C1) * (2 * both + _C2)) / ((mean_a**2 + mean_b**2 + _C1) * (var_a + var_b + _C2))
    return value.astype(np.float32, copy=False), var_a.astype(np.float32, copy=False)


def _plane_score(first: Image.Image, second: Image.Image) -> float:
    """The worse of two means: over all windows and over the textured ones only, in bands to bound memory."""
    total = textured = 0.0
    count = textured_count = 0
    height = first.height
    for top in range(0, max(height - _WINDOW + 1, 1), _BAND):
        box = (0, top, first.width, min(top + _BAND + _WINDOW - 1, height))
        a, b = (np.asarray(image.crop(box), dtype=np.float32) for image in (first, second))
        value, variance = ssim_map(a, b)
        busy = variance > _TEXTURED
        total += float(value.sum(dtype=np.float64))
        count += value.size
        textured += float(value[busy].sum(dtype=np.float64))
        textured_count += int(busy.sum())
    mean = total / count
    # A handful of textured windows says nothing; they must be at least a thousandth of the picture.
    return min(mean, textured / textured_count) if textured_count * 1000 > count else mean


def similarity(original: Image.Image, other: Image.Image) -> float:
    """From 0 to 1, the worst over luma, chroma (with some slack) and, with alpha, over white and black grounds.

    Both must have the same size. Pictures smaller than the window are compared by their mean difference.
    """
    if original.size != other.size:
        raise ValueError(f"sizes differ: {original.size} and {other.size}")
    if "A" in original.getbands() or "A" in other.getbands():
        grounds = [(255, 255, 255), (0, 0, 0)]
        return min(similarity(on_ground(original, ground), on_ground(other, ground)) for ground in grounds)
    if min(original.size) < _WINDOW:
        a, b = (np.asarray(image.convert("RGB"), dtype=np.float32) for image in (original, other))
        return 1 - float(np.abs(a - b).mean()) / 255 * 4
    first, second = original.convert("YCbCr").split(), other.convert("YCbCr").split()
    luma = _plane_score(first[0], second[0])
    # Lossy formats store colours at half the resolution, and the eye resolves them at less than that.
    small = (max(original.width // 4, _WINDOW), max(original.height // 4, _WINDOW))
    box = Image.Resampling.BOX
    chroma = (
        _plane_score(a.resize(small, box), b.resize(small, box)) for a, b in zip(first[1:], second[1:], strict=True)
    )
    return min(luma, *(score + _CHROMA_SLACK for score in chroma))


def structure(original: Image.Image, other: Image.Image, shrink: int = 1) -> float:
    """SSIM of brightness alone, each `shrink` px a side taken for one; 1 for what is smaller than the window."""
    first, second = (image.convert("L") for image in (original, other))
    if shrink > 1:
        first, second = (image.reduce(shrink) for image in (first, second))
    return _plane_score(first, second) if min(first.size) >= _WINDOW else 1.0


def on_ground(image: Image.Image, ground: tuple[int, int, int] | None) -> Image.Image:
    """What shows of a picture on a ground; of one without alpha the picture itself."""
    if ground is None:
        return image
    below = Image.new("RGBA", image.size, (*ground, 255))
    return Image.alpha_composite(below, image.convert("RGBA")).convert("RGB")
