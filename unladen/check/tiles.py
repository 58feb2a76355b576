"""Two pictures of a page compared tile by tile."""

from __future__ import annotations

import io
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

TILE = 32  # CSS px
# A tile differs when the mean of its differences, at half a pixel per CSS px, exceeds this many of 255 levels. Lossy
# coding at the qualities used stays under 6; text moved by one px gives 25 and more (tried on the test pages).
TILE_LEVEL = 14.0
_NOISE_LEVEL = 3.0
MAX_PIXELS = 80_000_000


def read_picture(data: bytes) -> Image.Image:
    """A PNG of our own making as RGB."""
    return Image.open(io.BytesIO(data)).convert("RGB")


def without(image: Image.Image, boxes: Iterable[tuple[float, float, float, float]]) -> Image.Image:
    """The picture with these boxes (x, y, width, height in CSS px) painted over."""
    boxes = list(boxes)
    if boxes:
        image = image.copy()
        pen = ImageDraw.Draw(image)
        for x, y, width, height in boxes:
            pen.rectangle((x - 1, y - 1, x + width + 1, y + height + 1), fill=(0, 0, 0))
    return image


def tile_levels(first: Image.Image, second: Image.Image) -> NDArray[np.float32]:
    """The mean difference (0 to 255) of each tile, rows by columns; where only one has content it is 255."""
    width, height = max(first.width, second.width), max(first.height, second.height)
    columns, rows = -(-width // TILE), -(-height // TILE)
    levels = np.full((rows, columns), 255.0, dtype=np.float32)
    for row in range(-(-min(first.height, second.height) // TILE)):
        box = (0, row * TILE, min(first.width, second.width), min((row + 1) * TILE, first.height, second.height))
        a, b = (_halved(image.crop(box)) for image in (first, second))
        difference = np.abs(a - b).mean(axis=2)
        for column in range(-(-box[2] // TILE)):
            part = difference[:, column * TILE // 2 : (column + 1) * TILE // 2]
            if part.size:
                levels[row, column] = part.mean()
    return levels


def _halved(image: Image.Image) -> NDArray[np.float32]:
    small = image.resize((max(1, image.width // 2), max(1, image.height // 2)), Image.Resampling.BOX)
    return np.asarray(small, dtype=np.float32)


def differing_tiles(
    before: Image.Image, again: Image.Image, after: Image.Image
) -> tuple[list[tuple[int, int, int, int]], float]:
    """Boxes (left, top, right, bottom in CSS px) where `after` differs, and the largest level.

    Tiles in which two pictures of the unchanged page differ move by themselves and do not count.
    """
    restless = tile_levels(before, again) > _NOISE_LEVEL
    levels = tile_levels(before, after)
    shape = tuple(max(a, b) for a, b in zip(restless.shape, levels.shape, strict=True))
    mask = np.zeros(shape, dtype=bool)
    mask[: restless.shape[0], : restless.shape[1]] = restless
    counted = np.where(mask[: levels.shape[0], : levels.shape[1]], 0, levels)
    found = [
        (int(c) * TILE, int(r) * TILE, (int(c) + 1) * TILE, (int(r) + 1) * TILE)
        for r, c in np.argwhere(counted > TILE_LEVEL)
    ]
    return found, float(counted.max(initial=0))
