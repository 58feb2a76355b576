"""One image made smaller: the function that survey and build share."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from PIL import Image

from unladen.raster.codec import WEBP_MAX_SIDE, Format, decode, encode, encode_lossless_webp, reopen
from unladen.raster.probe import ImageInfo, ImageRefused, probe
from unladen.raster.similarity import similarity

VERSION = 2
LOWEST_QUALITY, HIGHEST_QUALITY = 50, 92
_TILE = 128  # px
_STEP = 3  # of quality; finer ones change the size by less than a percent
_WORTH_SHARE, _WORTH_BYTES = 0.95, 300


@dataclass(frozen=True, slots=True)
class Recipe:
    """What to make of an image. `width` in px (0: as it is), `format` "" keeps the file's own.

    `similarity` is the target of the quality search, from 0 to 1; 1 means that every pixel stays.
    """

    width: int = 0
    format: str = ""
    similarity: float = 1.0

    def as_json(self) -> dict[str, Any]:
        """Plain values, the same for the same recipe."""
        return asdict(self)


@dataclass(frozen=True, slots=True)
class Recoded:
    """A smaller file: `quality` is 0 when it is lossless, `likeness` the similarity reached."""

    data: bytes
    format: str
    width: int
    height: int
    quality: int
    likeness: float


def recode(data: bytes, recipe: Recipe) -> Recoded:
    """The smaller file; raises `ImageRefused` with the reason when the original is better left alone."""
    info = probe(data)
    if info.format not in ("JPEG", "PNG", "WEBP"):
        raise ImageRefused(f"is a {info.format} file, which is left as it is")
    format = _target_format(info, recipe)
    target = _target_size(info, recipe)
    if recipe.similarity >= 1 and info.has_profile:
        raise ImageRefused("has a colour profile, which an exact copy would lose")
    if recipe.similarity >= 1 and info.format == "JPEG":
        raise ImageRefused("is a JPEG, which gets no smaller without loss")
    pixels = decode(data, target)
    # What has been a JPEG carries noise that no exact coding can pack; graphics often pack best exactly.
    found = _encode(pixels, format, recipe, try_exact=info.format != "JPEG" or recipe.similarity >= 1)
    limit = min(len(data) * _WORTH_SHARE, len(data) - _WORTH_BYTES)
    if len(found.data) > limit:
        raise ImageRefused("would not get smaller by more than 5 %")
    return found


def _target_format(info: ImageInfo, recipe: Recipe) -> Format:
    wanted = recipe.format or info.format
    if wanted not in ("JPEG", "PNG", "WEBP"):
        raise ImageRefused(f"cannot be written as {wanted}")
    return wanted  # type: ignore[return-value]


def _target_size(info: ImageInfo, recipe: Recipe) -> tuple[int, int] | None:
    if not recipe.width or recipe.width >= info.width:
        size = (info.width, info.height)
    else:
        size = (recipe.width, max(1, round(info.height * recipe.width / info.width)))
    if recipe.format == "WEBP" and max(size) > WEBP_MAX_SIDE:
        raise ImageRefused(f"is larger than the {WEBP_MAX_SIDE:,} px a side that WebP can hold")
    return None if size == (info.width, info.height) else size


def _encode(pixels: Image.Image, format: Format, recipe: Recipe, try_exact: bool) -> Recoded:
    if format == "PNG":
        return _recoded(encode(pixels, "PNG", 0), "PNG", pixels, 0, 1.0)
    exact = _exact_webp(pixels) if format == "WEBP" and try_exact else None
    if recipe.similarity >= 1:
        if exact is None:
            raise ImageRefused(f"cannot be written as {format} without loss")
        return exact
    lossy = _search(pixels, format, recipe.similarity)
    return exact if exact is not None and len(exact.data) <= len(lossy.data) else lossy


def _exact_webp(pixels: Image.Image) -> Recoded | None:
    data = encode_lossless_webp(pixels)
    if not _same_pixels(pixels, reopen(data)):
        return None
    return _recoded(data, "WEBP", pixels, 0, 1.0)


def _same_pixels(first: Image.Image, second: Image.Image) -> bool:
    """Whether all visible pixels are equal; the colour under full transparency does not count."""
    a, b = (np.asarray(image.convert("RGBA")) for image in (first, second))
    visible = a[..., 3:] > 0
    return bool(np.array_equal(a[..., 3], b[..., 3]) and np.array_equal(a * visible, b * visible))


def _search(pixels: Image.Image, format: Format, target: float) -> Recoded:
    """The lowest quality that holds the target: bisection on a sample, confirmed on the whole file handed out."""
    sample = _mosaic(pixels)
    low, high = LOWEST_QUALITY, HIGHEST_QUALITY
    while high - low >= _STEP:
        middle = (low + high) // 2
        if similarity(sample, reopen(encode(sample, format, middle, final=False))) >= target:
            high = middle
        else:
            low = middle + 1
    for quality in range(high, HIGHEST_QUALITY + _STEP, _STEP):
        data = encode(pixels, format, min(quality, HIGHEST_QUALITY))
        likeness = similarity(pixels, reopen(data))
        if likeness >= target or quality >= HIGHEST_QUALITY:
            break
    return _recoded(data, format, pixels, min(quality, HIGHEST_QUALITY), likeness)


def _mosaic(pixels: Image.Image) -> Image.Image:
    """Nine tiles spread over a large picture, side by side; a small picture as it is."""
    side = 3 * _TILE
    if pixels.width * pixels.height <= 2 * side * side or min(pixels.size) < side:
        return pixels
    sample = Image.new(pixels.mode, (side, side))
    for row in range(3):
        for column in range(3):
            left = (pixels.width - _TILE) * column // 2
            top = (pixels.height - _TILE) * row // 2
            sample.paste(pixels.crop((left, top, left + _TILE, top + _TILE)), (column * _TILE, row * _TILE))
    return sample


def _recoded(data: bytes, format: str, pixels: Image.Image, quality: int, likeness: float) -> Recoded:
    return Recoded(data, format, pixels.width, pixels.height, quality, likeness)
