"""One image made smaller: the function that survey, build and loupe share."""

from __future__ import annotations

import io
from dataclasses import asdict, dataclass, replace
from typing import Any, ClassVar

import numpy as np
from PIL import Image

from unladen.raster.animation import animated_webp
from unladen.raster.codec import FORMATS, MAX_SIDES, Box, Format, decode, encode, reopen, with_palette
from unladen.raster.exact import exact_copy
from unladen.raster.metadata import is_marked, kept_exif, marked
from unladen.raster.probe import ImageInfo, ImageRefused, has_gain_map, probe
from unladen.raster.search import QUALITIES, lowest_quality
from unladen.raster.sight import Sight
from unladen.raster.svg import minified_svg
from unladen.raster.webp import encode_lossless_webp, encode_near_lossless_webp

VERSION = 11
SVG = "SVG"
_WORTH_SHARE, _WORTH_BYTES = 0.95, 300
_WORTH_EXACT_SHARE, _WORTH_EXACT_BYTES = 0.98, 100
_ALREADY_COARSE = 60  # a JPEG of lower quality shows its blocks; coding them again would add to them
_CEILING_SLACK = 0.03
_ROUGH = 75  # quality
_NEAR = 40  # of near-lossless coding: levels rounded to multiples of 8 where it does not show
_OF_A_PALETTE = _OF_NEAR = 99  # told as their quality, since neither has one but they are not exact
# Quality 50 of the tables in ITU-T T.81, annex K, in the mean.
_MEAN_LUMA_TABLE = 57.625


@dataclass(frozen=True, slots=True)
class Recipe:
    """What to make of an image. `width` in px (0: as it is), `format` "" keeps the file's own.

    `similarity` is the target of the quality search, from 0 to 1; 1 means that every pixel stays. A `quality` other
    than 0 is taken as it is, without a search. `always`: also when the file gets no smaller, as for a look at it.
    `copyright`: what the file says about its owner stays in it. `part`: left, top, width and height in px of the
    picture as found, of which alone a file is made; `width` is that of the part then. How a visitor sees it:
    `density` in px of the file per CSS px, and a `veil` that lies over it (red, green, blue; and its cover in
    percent).
    """

    name: ClassVar[str] = "raster"
    version: ClassVar[int] = VERSION
    seconds: ClassVar[float] = 120
    memory: ClassVar[int] = 3_000_000_000

    width: int = 0
    format: str = ""
    similarity: float = 1.0
    quality: int = 0
    always: bool = False
    copyright: bool = False
    part: tuple[int, ...] = ()
    density: float = 1.0
    veil: tuple[int, ...] = ()

    def as_json(self) -> dict[str, Any]:
        """Plain values, the same for the same recipe."""
        return asdict(self)

    def run(self, data: bytes) -> Recoded:
        """The smaller file; raises `ImageRefused`."""
        return recode(data, self)


# A picture that stands in for what a frame shows.
STILL = Recipe(format="WEBP", similarity=0.97, always=True)


@dataclass(frozen=True, slots=True)
class Recoded:
    """A smaller file: `quality` is 0 when it is lossless, `likeness` the similarity reached, `encodes` the tries."""

    data: bytes
    format: str
    width: int
    height: int
    quality: int
    likeness: float
    encodes: int = 1

    def facts(self) -> dict[str, Any]:
        """All but the file."""
        return {
            "format": self.format,
            "width": self.width,
            "height": self.height,
            "quality": self.quality,
            "likeness": round(self.likeness, 4),
            "encodes": self.encodes,
        }


def recode(data: bytes, recipe: Recipe, *, rough: bool = False) -> Recoded:
    """The smaller file; raises `ImageRefused` with the reason when the original is better left alone.

    A `rough` one is encoded at one quality as fast as can be, and nobody asks how alike it is: for what is only tried.
    """
    if recipe.format == SVG:
        result = minified_svg(data)
        _expect_worth(result, data, exact=True, recipe=recipe)
        return Recoded(result, SVG, 0, 0, 0, 1.0)
    info = probe(data)
    format = _target_format(info, recipe)
    if info.frames > 1 and not recipe.always:
        return _animated(data, info, format, recipe)
    if info.format not in FORMATS and not (recipe.always or info.format == "GIF"):
        raise ImageRefused(f"is a {info.format} file, which stays unchanged")
    if has_gain_map(data) and not recipe.always and not (recipe.similarity >= 1 and not recipe.quality):
        raise ImageRefused("holds a second picture for bright screens (HDR), which would be lost")
    part = _part(info, recipe)
    target = _target_size(info, format, recipe, part)
    exact = recipe.similarity >= 1 and not recipe.quality
    if exact and target is None and not part and format == info.format:
        copy = exact_copy(data, info, copyright=recipe.copyright)
        _expect_worth(copy, data, exact=True, recipe=recipe)
        return Recoded(copy, format, info.width, info.height, 0, 1.0)
    if exact and info.has_profile:
        raise ImageRefused("has a colour profile, which a lossless copy in another format would lose")
    if exact and info.format == "JPEG":
        raise ImageRefused("is a JPEG, which lossless compression cannot improve")
    if not exact and not recipe.always:
        _expect_fresh(data, info, format, target or part)
    pixels = decode(data, target, still=recipe.always, part=part)
    if rough and not exact and format != "PNG":
        made = encode(pixels, format, _ROUGH, final=False)
        found_ = _recoded(made, format, pixels, _ROUGH, recipe.similarity, 1)
    else:
        found_ = _encode(data, pixels, info, format, recipe)
    _expect_worth(found_.data, data, exact=exact, recipe=recipe)
    return found_


def _expect_worth(found: bytes, data: bytes, *, exact: bool, recipe: Recipe) -> None:
    share, least = (_WORTH_EXACT_SHARE, _WORTH_EXACT_BYTES) if exact else (_WORTH_SHARE, _WORTH_BYTES)
    if not recipe.always and len(found) > min(len(data) * share, len(data) - least):
        raise ImageRefused(f"would not become smaller by more than {1 - share:.0%}")


def _expect_fresh(data: bytes, info: ImageInfo, format: Format, fewer: object) -> None:
    """No second lossy pass over what has been through one, unless the picture gets smaller in px too."""
    if info.format == "JPEG" and is_marked(data):
        raise ImageRefused("was compressed before; a second time would cost quality")
    if fewer:
        return
    if info.format == format and format in ("WEBP", "AVIF"):
        raise ImageRefused(f"is {format} already")
    if info.format in ("WEBP", "AVIF") and format != "AVIF":
        raise ImageRefused(f"is {info.format} already")
    if info.format == "JPEG" and (quality := jpeg_quality(data)) <= _ALREADY_COARSE:
        raise ImageRefused(f"is compressed as far as possible already (quality {quality} or so)")


def jpeg_quality(data: bytes) -> int:
    """About the quality, from 1 to 100, that a JPEG was saved with, told by its luma table (ITU-T T.81, annex K)."""
    with Image.open(io.BytesIO(data)) as image:
        tables: dict[int, list[int]] = getattr(image, "quantization", {})
    if not tables:
        return 100
    scale = 100 * sum(tables[min(tables)]) / 64 / _MEAN_LUMA_TABLE
    return max(1, min(100, round(100 - scale / 2 if scale <= 100 else 5000 / scale)))


def _target_format(info: ImageInfo, recipe: Recipe) -> Format:
    wanted = recipe.format or info.format
    if wanted not in FORMATS:
        raise ImageRefused(f"is a {wanted} file, which stays unchanged")
    if wanted == "JPEG" and info.format != "JPEG" and not recipe.always and info.mode not in ("RGB", "L", "1"):
        raise ImageRefused("may be transparent, which JPEG does not support")
    return wanted


def _part(info: ImageInfo, recipe: Recipe) -> Box | None:
    """The part wanted of a picture as a box in px; None for the whole one."""
    if not recipe.part:
        return None
    left, top, width, height = recipe.part
    if left < 0 or top < 0 or width < 1 or height < 1 or left + width > info.width or top + height > info.height:
        raise ImageRefused(f"has {info.width:,} x {info.height:,} px, and the part wanted lies beyond them")
    return (left, top, left + width, top + height)


def _target_size(info: ImageInfo, format: Format, recipe: Recipe, part: Box | None) -> tuple[int, int] | None:
    """The size in px to be scaled to; None for none."""
    result = (part[2] - part[0], part[3] - part[1]) if part else (info.width, info.height)
    size = result
    if 0 < recipe.width < result[0]:
        size = (recipe.width, max(1, round(result[1] * recipe.width / result[0])))
    if max(size) > MAX_SIDES[format]:
        raise ImageRefused(f"is larger than the {MAX_SIDES[format]:,} px a side that {format} can hold")
    return None if size == result else size


def _animated(data: bytes, info: ImageInfo, format: Format, recipe: Recipe) -> Recoded:
    if format != "WEBP" or info.format not in ("GIF", "PNG"):
        raise ImageRefused(f"is an animation of {info.frames} frames, which stays as it is in {format}")
    if max(info.width, info.height) > MAX_SIDES[format]:
        raise ImageRefused(f"is larger than the {MAX_SIDES[format]:,} px a side that {format} can hold")
    out, quality, likeness = animated_webp(data, info, recipe.similarity)
    _expect_worth(out, data, exact=False, recipe=recipe)
    return Recoded(out, format, info.width, info.height, quality, likeness)


def _encode(data: bytes, pixels: Image.Image, info: ImageInfo, format: Format, recipe: Recipe) -> Recoded:
    exif = kept_exif(data, upright=True, copyright=recipe.copyright) if recipe.copyright else b""
    sight = Sight(pixels, recipe.density, recipe.veil)
    if recipe.quality and format != "PNG":
        made = encode(pixels, format, recipe.quality, exif=exif)
        return _recoded(made, format, pixels, recipe.quality, sight.likeness(reopen(made)), 1)
    if format == "PNG":
        return _png(sight, recipe)
    # What has been a JPEG carries noise that no exact coding can pack; graphics often pack best exactly.
    flat = is_graphic(pixels)
    worth_trying = recipe.similarity >= 1 or info.format != "JPEG" or flat
    exact = _exact_webp(sight, recipe) if format == "WEBP" and worth_trying else None
    if recipe.similarity >= 1:
        if exact is None:
            raise ImageRefused(f"cannot be written as {format} without loss")
        return exact
    lossy = lowest_quality(sight, format, recipe.similarity, colours=flat)
    if exact is not None and len(exact.data) <= len(lossy.data):
        return replace(exact, encodes=lossy.encodes + exact.encodes)
    # The highest quality there is may miss a target by a little on noise; what misses it by more has lost its colours.
    if lossy.likeness < recipe.similarity - _CEILING_SLACK and not recipe.always:
        raise ImageRefused(f"would not look the same as {format} at any quality")
    made = lossy.data
    if exif:
        made = encode(pixels, format, lossy.quality, exif=exif, colours=flat)
    if format == "JPEG":
        made = marked(made)
    return _recoded(made, format, pixels, lossy.quality, lossy.likeness, lossy.encodes + (exact is not None))


def _png(sight: Sight, recipe: Recipe) -> Recoded:
    """Exactly, or with a palette where that looks the same."""
    pixels = sight.picture
    exact = _recoded(encode(pixels, "PNG", 0), "PNG", pixels, 0, 1.0, 1)
    palette = with_palette(pixels) if recipe.similarity < 1 else None
    if palette is None or len(palette) >= len(exact.data):
        return exact
    likeness = sight.likeness(reopen(palette).convert(pixels.mode))
    if likeness < recipe.similarity:
        return replace(exact, encodes=2)
    return _recoded(palette, "PNG", pixels, _OF_A_PALETTE, likeness, 2)


def is_graphic(pixels: Image.Image) -> bool:
    """Whether most of a picture is flat, as drawings and screenshots are and photographs are not."""
    small = np.asarray(
        pixels.convert("L").crop((0, 0, pixels.width // 8 * 8, pixels.height // 8 * 8)), dtype=np.int16
    )
    if small.size == 0:
        return True
    blocks = small.reshape(small.shape[0] // 8, 8, small.shape[1] // 8, 8)
    spread = blocks.max(axis=(1, 3)) - blocks.min(axis=(1, 3))
    return float((spread <= 2).mean()) > 0.5


def _exact_webp(sight: Sight, recipe: Recipe) -> Recoded | None:
    """Every pixel stays the same; or nearly, where that is smaller, looks the same and is not more than was asked
    for.
    """
    pixels = sight.picture
    data = encode_lossless_webp(pixels)
    if not _same_pixels(pixels, reopen(data)):
        return None
    exact = _recoded(data, "WEBP", pixels, 0, 1.0, 1)
    near = encode_near_lossless_webp(pixels, _NEAR) if recipe.similarity < 1 else None
    if near is None or len(near) >= len(data):
        return exact
    likeness = sight.likeness(reopen(near).convert(pixels.mode))
    if likeness < recipe.similarity:
        return replace(exact, encodes=2)
    return _recoded(near, "WEBP", pixels, _OF_NEAR, likeness, 2)


def _same_pixels(first: Image.Image, second: Image.Image) -> bool:
    """Whether all visible pixels are equal; the colour under full transparency does not count."""
    a, b = (np.asarray(image.convert("RGBA")) for image in (first, second))
    visible = a[..., 3:] > 0
    return bool(np.array_equal(a[..., 3], b[..., 3]) and np.array_equal(a * visible, b * visible))


def _recoded(data: bytes, format: str, pixels: Image.Image, quality: int, likeness: float, encodes: int) -> Recoded:
    return Recoded(data, format, pixels.width, pixels.height, quality, likeness, encodes)


__all__ = ["QUALITIES", "SVG", "VERSION", "Recipe", "Recoded", "jpeg_quality", "recode"]
