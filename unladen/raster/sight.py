"""How far apart two pictures look to a visitor: differences of colour at the size of what an eye resolves.

Differences are those of CIE 1976 L*a*b* (ISO/CIE 11664-4), after a spatial filter, as in S-CIELAB (Zhang and Wandell,
Journal of the SID 5(1), 1997): lightness is averaged over 1.8 minutes of arc, colour over three times as much, at the
67 CSS px that a degree of the visual field holds on a usual screen (FLIP: Andersson and others, HPG 2020). A file of
2 px for each CSS px is averaged over more of them, so that it bears stronger coding. Distances are |dL| + the length
of (da, db), as in FLIP. A floor under it is SSIM of brightness, at the same density, which sees lost texture.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from unladen.raster.similarity import on_ground, structure

Grid = NDArray[np.float32]

# One step of this is what a likeness of 0.97 may differ by: in the mean, in the worst of a hundred places, in the worst
# part of a picture (such as a small face), in flat parts (where steps show as bands), and in 1 - SSIM. Agreed with FLIP
# on photographs and graphics: docs/images.md.
STEP = 0.03
MEAN, WORST, PART, FLAT, STRUCTURE = 1.8, 4.75, 3.0, 1.2, 0.07
_LIGHT, _COLOUR = 2, 3  # px for each cell of lightness at 1 px per CSS px; cells of lightness for each of colour
_TILE = 12  # cells of colour
_EVEN = 0.8  # of L*, between the darkest and the lightest part of a cell that is flat
_ENOUGH = 0.02  # of all cells must be flat for a mean of them to count
_BAND_CELLS = 40
_DENSITIES = (1.0, 1.5, 2.0, 3.0)

# Linear light to XYZ for each of the white D65 (IEC 61966-2-1).
_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
) / np.array([[0.95047], [1.0], [1.08883]])
_EPSILON, _SLOPE, _OFFSET = 216 / 24389, 841 / 108, 4 / 29


def usual_density(px_per_css_px: float) -> float:
    """The next lower density that is told apart, so that likeness is never judged too mildly; 1 for an unknown one."""
    return max((d for d in _DENSITIES if d <= px_per_css_px + 0.01), default=1.0)


class Sight:
    """A picture as a visitor sees it, for comparing others of the same size with it.

    At `density` px per CSS px, beneath a `veil` if there is one: red, green, blue, and its cover in percent.
    """

    def __init__(self, picture: Image.Image, density: float = 1.0, veil: tuple[int, ...] = ()) -> None:
        self.picture, self.density, self.veil = picture, density, veil
        # Less than the density itself: people come nearer to small screens, and zoom in.
        self.light = max(1, round(_LIGHT * density**0.5))
        self.shrink = max(1, round(density**0.5))
        self.grounds: tuple[Any, ...] = ((255, 255, 255), (0, 0, 0)) if "A" in picture.getbands() else (None,)
        self._seen = [self._cells(on_ground(picture, ground)) for ground in self.grounds]

    def at(self, part: Image.Image) -> Sight:
        """Another picture, such as a part of this one, seen in the same way."""
        return Sight(part, self.density, self.veil)

    def likeness(self, other: Image.Image) -> float:
        """From 0 to 1, 1 for no difference at all; on white and on black where something shines through."""
        if other.size != self.picture.size:
            raise ValueError(f"sizes differ: {self.picture.size} and {other.size}")
        worst = 0.0
        for ground, (light, colour) in zip(self.grounds, self._seen, strict=True):
            shown = on_ground(other, ground)
            worst = max(worst, _steps(light, colour, *self._cells(shown)))
            if not self.veil:  # beneath one texture is as much weaker as colour is
                alike = structure(on_ground(self.picture, ground), shown, self.shrink)
                worst = max(worst, (1 - alike) / STRUCTURE)
        return max(0.0, 1 - STEP * worst)

    def _levels(self) -> Grid:
        """What each level of red, green and blue comes to in linear light."""
        *colour, cover = self.veil or (0, 0, 0, 0)
        return np.stack([_light_of((1 - cover / 100) * np.arange(256) + cover / 100 * part) for part in colour])

    def _cells(self, picture: Image.Image) -> tuple[Grid, Grid]:
        """L* in cells of lightness, and (a*, b*) in cells of colour."""
        lights, colours = [], []
        for linear in _bands(picture, self.light * _COLOUR, self._levels()):
            fine = _pooled(linear, self.light)
            lights.append(_lab(fine)[..., 0])
            colours.append(_lab(_pooled(fine, _COLOUR))[..., 1:])
        return np.concatenate(lights), np.concatenate(colours)


def _light_of(levels: NDArray[Any]) -> Grid:
    """Linear light, from 0 to 1, of levels of sRGB."""
    v = levels / 255
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4).astype(np.float32)


def _bands(picture: Image.Image, cell: int, levels: Grid) -> Iterator[Grid]:
    """Linear light in bands of whole cells, the last ones filled up with what stands at the edge."""
    width, height = picture.size
    for top in range(0, height, cell * _BAND_CELLS):
        bottom = min(top + cell * _BAND_CELLS, height)
        pixels = np.asarray(picture.crop((0, top, width, bottom)).convert("RGB"))
        pixels = np.pad(pixels, ((0, -pixels.shape[0] % cell), (0, -width % cell), (0, 0)), mode="edge")
        yield np.stack([levels[plane][pixels[..., plane]] for plane in range(3)], axis=-1)


def _pooled(values: Grid, side: int) -> Grid:
    if side == 1:
        return values
    height, width = values.shape[:2]
    # Rows first, whole; then what is left of them: less to be moved about.
    rows = values.reshape(height // side, side, width, 3).mean(axis=1)
    return rows.reshape(height // side, width // side, side, 3).mean(axis=2)


def _lab(linear: Grid) -> Grid:
    xyz = linear @ _XYZ.T.astype(np.float32)
    f = np.where(xyz > _EPSILON, np.cbrt(xyz), xyz * _SLOPE + _OFFSET)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1)


def _steps(light: Grid, colour: Grid, other_light: Grid, other_colour: Grid) -> float:
    """The worst of the differences, each in its own step."""
    rows, columns = colour.shape[:2]
    blocks = (rows, _COLOUR, columns, _COLOUR)
    apart = np.abs(light - other_light).reshape(blocks).mean(axis=(1, 3))
    apart += np.hypot(*np.moveaxis(colour - other_colour, -1, 0))
    steps = [float(apart.mean()) / MEAN, float(np.percentile(apart, 99)) / WORST]
    if rows >= 2 * _TILE and columns >= 2 * _TILE:
        high, wide = rows // _TILE, columns // _TILE
        tiles = apart[: high * _TILE, : wide * _TILE].reshape(high, _TILE, wide, _TILE).mean(axis=(1, 3))
        steps.append(float(tiles.max()) / PART)
    cells = light.reshape(blocks)
    flat = np.ptp(cells, axis=(1, 3)) < _EVEN
    if flat.mean() > _ENOUGH:
        steps.append(float(apart[flat].mean()) / FLAT)
    return max(steps)
