"""Two pictures of a page compared: pixel by pixel, and by similarity where other image files are shown."""

from __future__ import annotations

import io
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageChops

from unladen.raster.shown import LEAST_LIKENESS
from unladen.raster.similarity import similarity, ssim_map

TILE = 32  # CSS px
# Levels of 255 that two pictures of the same thing may differ by, and how many pixels of a tile may go beyond it: what
# two compositions of the same layers give here (tried on the pages of the tests).
_LEVEL = 6
_FEW = 3
_LINE = 8
_HALO, _HALO_LEVEL = 8, 16  # px around another file, and levels that they may be off by
# Where another file is shown that could be judged as a file, the screenshot proves no more than that it is there, in
# its place, upright, of its colours and not covered: means of cells, which no way of reducing a picture disturbs,
# each within what the cell shows when it is moved by a pixel. Browsers reduce 400 px to 36 in a softer way than 72 to
# 36.
_CELLS = 6  # a side, of a small place
_SMALLEST_CELL, _LARGEST_CELL = 4, 16  # px
# Levels of 255 that a cell may be off by, and how much more for each level between its darkest and its brightest px:
# of thin lines a browser keeps more or less, as it takes its steps.
_CELL_LEVEL, _CELL_CONTRAST = 14.0, 0.1
_FEW_CELLS = 0.02  # of all; one of them may be off anyway
# Where no file can tell (drawings, parts of pictures), screenshots are compared: SSIM over the place as a whole, and
# of its worst part of 32 px. Shown smaller or larger than they are, photographs with much grain lose up to 0.05 by
# the browser's own scaling.
LIKE = 0.88
_LIKE_HALVED = 0.93
_WORST = 0.45
_COLOUR = 14.0  # mean distance of colour of a part, in levels
_FLAT = 10.0  # mean distance of brightness below which a part is not judged by its texture
Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class Spot:
    """A part that differs: left, top, right, bottom in CSS px, and why, in words."""

    box: tuple[int, int, int, int]
    why: str


@dataclass(frozen=True, slots=True)
class Other:
    """A place (left, top, right, bottom) where another image file is shown; `likeness`: how alike the files are to a
    visitor (0 to 1), None where that could not be told.
    """

    box: Box
    likeness: float | None = None


@lru_cache(maxsize=6)  # each may have 30 MB, and several looks at a page give the very same picture
def read_picture(data: bytes) -> Image.Image:
    """A PNG of our own making as RGB, not to be changed."""
    return Image.open(io.BytesIO(data)).convert("RGB")


def differing(
    before: Image.Image,
    again: Image.Image | None,
    after: Image.Image,
    others: Iterable[Other] = (),
    ignored: Iterable[Box] = (),
) -> list[Spot]:
    """The parts in which `after` differs from `before`.

    `again` is a second picture of the same, and what differs from it moves by itself. `others` are the places where
    another image file is shown, `ignored` (left, top, right, bottom) those where nothing is compared.
    """
    width, height = min(before.width, after.width), min(before.height, after.height)
    a, b = (np.asarray(image.crop((0, 0, width, height))) for image in (before, after))
    unlike = _unlike(a, b)
    calm = np.ones(unlike.shape, dtype=bool)
    for box in ignored:
        left, top, right, bottom = _within(box, width, height)
        calm[top:bottom, left:right] = False
    if again is not None:
        calm &= ~_restless(before, again, width, height)
    unlike &= calm
    spots: list[Spot] = []
    # What lies within another one is judged by itself, and first.
    for other in sorted(set(others), key=lambda o: (o.box[2] - o.box[0]) * (o.box[3] - o.box[1])):
        left, top, right, bottom = _within(other.box, width, height, 1)
        if right <= left or bottom <= top or not calm[top:bottom, left:right].any():
            continue
        box = left, top, right, bottom
        part = unlike[top:bottom, left:right]
        if other.likeness is not None and other.likeness < LEAST_LIKENESS:
            spots.append(Spot(box, f"is only {other.likeness:.2f} alike"))
        elif part.any() and other.likeness is not None:
            spots += _in_cells(a, b, box, calm[top:bottom, left:right])
        elif part.any():
            spots += _judged(before, after, box, calm[top:bottom, left:right])
        part[:] = calm[top:bottom, left:right] = False
        _forgive_halo(unlike, a, b, box)
    spots += [Spot(box, "looks different") for box in _not_moved(_tiles(unlike), a, b, calm)]
    spots += _beyond(before, after)
    return spots


def _forgive_halo(
    unlike: NDArray[np.bool_], a: NDArray[np.uint8], b: NDArray[np.uint8], box: tuple[int, int, int, int]
) -> None:
    """Let pass what is a little off close around a place where another file is shown: a browser that scales the whole
    page, as phones do with pages made for wide windows, spreads it so far.
    """
    left, top, right, bottom = _within(box, unlike.shape[1], unlike.shape[0], _HALO)
    near = (slice(top, bottom), slice(left, right))
    unlike[near] &= _unlike(a[near], b[near], _HALO_LEVEL)


def _unlike(a: NDArray[np.uint8], b: NDArray[np.uint8], level: int = _LEVEL) -> NDArray[np.bool_]:
    # Within a byte and channel by channel, which is many times faster than signed numbers over the last axis.
    apart = np.maximum(a, b) - np.minimum(a, b) > level
    return apart[..., 0] | apart[..., 1] | apart[..., 2]


def _not_moved(
    tiles: list[tuple[int, int, int, int]], a: NDArray[np.uint8], b: NDArray[np.uint8], calm: NDArray[np.bool_]
) -> list[tuple[int, int, int, int]]:
    """Without those that look the same once they are moved by a pixel, which an element may be; line by line."""
    height, width = calm.shape
    shifts = [(x, y) for y in (-1, 0, 1) for x in (-1, 0, 1)]

    def same(x0: int, y0: int, x1: int, y1: int) -> bool:
        # With what lies around, so that nothing falls between two parts that are moved apart.
        y0, y1 = max(y0 - 2, 1), min(y1 + 2, height - 1)
        own, counts = a[y0:y1, x0:x1], calm[y0:y1, x0:x1]
        return any((_unlike(own, b[y0 + y : y1 + y, x0 + x : x1 + x]) & counts).sum() <= _FEW for x, y in shifts)

    result = []
    for left, top, right, bottom in tiles:
        x0, y0, x1, y1 = max(left, 1), max(top, 1), min(right, width - 1), min(bottom, height - 1)
        if not all(same(x0, y, x1, min(y + _LINE, y1)) for y in range(y0, y1, _LINE)):
            result.append((left, top, right, bottom))
    return result


def _within(box: Box, width: int, height: int, wider: int = 0) -> tuple[int, int, int, int]:
    left, top, right, bottom = box
    return (
        max(0, int(left) - wider),
        max(0, int(top) - wider),
        min(width, int(right + 0.999) + wider),
        min(height, int(bottom + 0.999) + wider),
    )


def _restless(before: Image.Image, again: Image.Image, width: int, height: int) -> NDArray[np.bool_]:
    """Whole tiles in which two pictures of the same differ, and those around them."""
    mask = np.zeros((height, width), dtype=bool)
    right, bottom = min(width, again.width), min(height, again.height)
    a, b = (np.asarray(image.crop((0, 0, right, bottom))) for image in (before, again))
    for left, top, _, _ in _tiles(_unlike(a, b, _LEVEL // 2), few=0):
        mask[max(0, top - TILE) : top + 2 * TILE, max(0, left - TILE) : left + 2 * TILE] = True
    mask[bottom:, :] = mask[:, right:] = True
    return mask


def _tiles(unlike: NDArray[np.bool_], few: int = _FEW) -> list[tuple[int, int, int, int]]:
    if not unlike.any():
        return []
    height, width = unlike.shape
    padded = np.pad(unlike, ((0, -height % TILE), (0, -width % TILE)))
    counts = padded.reshape(padded.shape[0] // TILE, TILE, padded.shape[1] // TILE, TILE).sum(axis=(1, 3))
    rows = np.argwhere(counts > few)
    return [(int(c) * TILE, int(r) * TILE, int(c + 1) * TILE, int(r + 1) * TILE) for r, c in rows]


def _judged(
    before: Image.Image, after: Image.Image, box: tuple[int, int, int, int], calm: NDArray[np.bool_]
) -> list[Spot]:
    """A place where another file is shown: as a whole, and its worst part. It may be moved by a pixel."""
    first, second = before.crop(box), after.crop(box)
    if not calm.all():
        mask = Image.fromarray(calm)
        second = Image.composite(second, first, mask)
    like = similarity(first, second)
    candidates = [second]
    if min(first.size) > TILE:
        candidates += [ImageChops.offset(second, x, y) for y in (-1, 0, 1) for x in (-1, 0, 1) if x or y]
    if like < LIKE and len(candidates) > 1:
        inner = (1, 1, first.width - 1, first.height - 1)
        own = first.crop(inner)
        like = max(similarity(own, image.crop(inner)) for image in candidates)
        if like < LIKE:  # fine lines fall between the pixels in another way once a picture has another size
            halved = _half(own)
            if max(similarity(halved, _half(image.crop(inner))) for image in candidates) >= _LIKE_HALVED:
                like = LIKE
    if like < LIKE:
        return [Spot(box, f"is only {like:.2f} alike")]
    worst: dict[tuple[int, int], str] | None = None
    for image in candidates:
        spots = _worst_parts(first, image)
        worst = spots if worst is None else {part: why for part, why in worst.items() if part in spots}
        if not worst:
            return []
    left, top = box[:2]
    shifted = ((_part(*part), why) for part, why in (worst or {}).items())
    return [Spot((left + p[0], top + p[1], left + p[2], top + p[3]), why) for p, why in shifted]


def _in_cells(
    a: NDArray[np.uint8], b: NDArray[np.uint8], box: tuple[int, int, int, int], calm: NDArray[np.bool_]
) -> list[Spot]:
    """A place where a file is shown that is known to be alike: whether it shows there, in low detail."""
    left, top, right, bottom = box
    first, second = (side[top:bottom, left:right].astype(np.float32) for side in (a, b))
    side = max(_SMALLEST_CELL, min(_LARGEST_CELL, min(right - left, bottom - top) // _CELLS))
    starts = [np.arange(0, max(1, length // side)) * side for length in calm.shape]
    # Parts that move by themselves say nothing, nor do the cells around them.
    still = _by_cell(np.logical_and, calm, starts)
    means = [
        [_cell_means(_moved_by(first, x, y)[..., band], starts) for y in (-1, 0, 1) for x in (-1, 0, 1)]
        for band in range(3)
    ]
    off = np.zeros(still.shape, dtype=bool)
    for band, moved in enumerate(means):
        now = _cell_means(second[..., band], starts)
        most, least = (_by_cell(pick, first[..., band], starts) for pick in (np.maximum, np.minimum))
        level = _CELL_LEVEL + _CELL_CONTRAST * (most - least)
        off |= (now < np.min(moved, axis=0) - level) | (now > np.max(moved, axis=0) + level)
    off &= still
    if off.sum() <= max(1, _FEW_CELLS * off.size):
        return []
    rows, columns = (np.unique(index) for index in np.nonzero(off))
    return [
        Spot(
            (
                left + int(columns[0]) * side,
                top + int(rows[0]) * side,
                min(right, left + int(columns[-1] + 1) * side),
                min(bottom, top + int(rows[-1] + 1) * side),
            ),
            "looks different",
        )
    ]


def _moved_by(picture: NDArray[np.float32], x: int, y: int) -> NDArray[np.float32]:
    """A picture moved by a px or none, its edge filled up with what stands there."""
    height, width = picture.shape[:2]
    return np.pad(picture, ((1, 1), (1, 1), (0, 0)), mode="edge")[1 + y : 1 + y + height, 1 + x : 1 + x + width]


def _by_cell(pick: np.ufunc, plane: NDArray[Any], starts: list[NDArray[np.int64]]) -> NDArray[Any]:
    """What a function such as `np.maximum` makes of each cell."""
    cells: NDArray[Any] = pick.reduceat(pick.reduceat(plane, starts[0], axis=0), starts[1], axis=1)
    return cells


def _cell_means(plane: NDArray[np.float32], starts: list[NDArray[np.int64]]) -> NDArray[np.float64]:
    """The means of cells; the last of a row or column takes what is left, so that none is a mere edge."""
    sums = np.add.reduceat(np.add.reduceat(plane, starts[0], axis=0, dtype=np.float64), starts[1], axis=1)
    rows, columns = (np.diff(at, append=length) for at, length in zip(starts, plane.shape, strict=True))
    return sums / np.outer(rows, columns)


def _half(image: Image.Image) -> Image.Image:
    return image.resize((max(1, image.width // 2), max(1, image.height // 2)), Image.Resampling.BOX)


def _worst_parts(first: Image.Image, second: Image.Image) -> dict[tuple[int, int], str]:
    """The parts (row and column) that nobody would take for the same, though the whole is alike; at half the size."""
    tile = TILE // 2
    a, b = (np.asarray(_half(image).convert("YCbCr"), dtype=np.float32) for image in (first, second))
    levels = _pooled(np.abs(a[..., 0] - b[..., 0]), tile)
    colour = _pooled(np.abs(a[..., 1:] - b[..., 1:]).sum(axis=2), tile)
    worst_parts = {(int(r), int(c)): "has other colours" for r, c in np.argwhere(colour > _COLOUR)}
    if min(a.shape[:2]) < 7:
        bad = levels > 2.5 * _FLAT
    else:
        value, _ = ssim_map(a[..., 0], b[..., 0])
        bad = (_pooled(np.pad(value, 3, mode="edge"), tile) < _WORST) & (levels > _FLAT)
    return worst_parts | {(int(r), int(c)): "looks different" for r, c in np.argwhere(bad)}


def _part(row: int, column: int) -> tuple[int, int, int, int]:
    return column * TILE, row * TILE, (column + 1) * TILE, (row + 1) * TILE


def _pooled(plane: NDArray[np.float32], tile: int) -> NDArray[np.float64]:
    """The means of tiles."""
    return _cell_means(plane, [np.arange(0, max(1, length // tile)) * tile for length in plane.shape])


def _beyond(before: Image.Image, after: Image.Image) -> list[Spot]:
    """What only one of the two has, below the other's end; a px may be a matter of rounding."""
    if abs(before.height - after.height) <= 1:
        return []
    top, bottom = sorted((before.height, after.height))
    return [Spot((0, top, max(before.width, after.width), bottom), "is longer or shorter")]
