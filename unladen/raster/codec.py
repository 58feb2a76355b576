"""Decoding to plain sRGB pixels, resizing, and encoding."""

from __future__ import annotations

import io
from functools import lru_cache
from typing import Literal

import numpy as np
import oxipng
from PIL import Image, ImageCms, ImageOps

from unladen.raster.colour import unbiased
from unladen.raster.probe import ImageRefused, open_image, probe
from unladen.raster.webp import encode_webp

Format = Literal["JPEG", "PNG", "WEBP", "AVIF"]
Box = tuple[int, int, int, int]  # left, top, right, bottom in px
FORMATS: tuple[Format, ...] = ("JPEG", "PNG", "WEBP", "AVIF")
# Sides in px: RFC 9649, section 2.3 (14 bits); ITU-T T.81, B.2.2 (16 bits, less what decoders refuse).
MAX_SIDES: dict[Format, int] = {"WEBP": 16_383, "JPEG": 65_500, "AVIF": 65_535, "PNG": 2**31 - 1}
# A profile is kept if it is no larger, and if more than so much of the picture is off by more than so many levels in
# sRGB.
_MOST_PROFILE, _SEEN, _BEYOND, _LOOKED_AT = 4_000, 0.001, 5, 512
_SEARCH_METHOD = 4
_FINAL_METHOD = 6
_SEARCH_SPEED, _FINAL_SPEED = 8, 6


@lru_cache(maxsize=1)
def _srgb() -> ImageCms.ImageCmsProfile:
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB"))


def decode(
    data: bytes, target: tuple[int, int] | None = None, *, still: bool = False, part: Box | None = None
) -> Image.Image:
    """Upright sRGB pixels, mode RGB or RGBA, of a `part` (px), resized to `target` (width, height in px) if one is
    given.

    Where colours beyond sRGB show, they are those of a profile, which stands in the picture's `info` and in what is
    encoded.

    Raises `ImageRefused` for what would not come out right: animations (unless a `still` is wanted), more than 8 bits,
    CMYK, damaged files.
    """
    info = probe(data)
    if info.frames > 1 and not still:
        raise ImageRefused(f"is an animation of {info.frames} frames")
    if info.bits > 8:
        raise ImageRefused("has 16 bits a channel")
    if info.mode in ("CMYK", "YCbCr", "LAB", "HSV"):
        raise ImageRefused(f"is in {info.mode} colours")
    image = open_image(data)
    try:
        if target and not part and image.format == "JPEG" and info.width >= 2 * target[0]:
            # The decoder skips work for a picture that gets much smaller; it never goes below this size.
            turned = image.size != (info.width, info.height)
            wanted = (target[1] * 2, target[0] * 2) if turned else (target[0] * 2, target[1] * 2)
            image.draft(None, wanted)
        image.load()
        upright = ImageOps.exif_transpose(image)
    except ImageRefused:
        raise
    except Exception as error:
        raise ImageRefused(f"is damaged or cut off ({error})") from error
    pixels, kept = _to_srgb(upright, image.info.get("icc_profile"))
    if part:
        pixels = pixels.crop(part)
    if target and pixels.size != target:
        pixels = _resize(pixels, target)
    pixels.info = {"icc_profile": kept} if kept else {}
    return pixels


def _to_srgb(image: Image.Image, profile: bytes | None) -> tuple[Image.Image, bytes]:
    """Pixels in sRGB; where colours lie beyond it the pixels as they were, and the profile that says what they mean."""
    transparent = image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info
    plain = image.convert("RGBA" if transparent else "RGB")
    if not profile:
        return plain, b""
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        alpha = plain.getchannel("A") if transparent else None
        colours = plain.convert("RGB")
        converted = ImageCms.profileToProfile(colours, source, _srgb(), outputMode="RGB")
        assert converted is not None
        if len(profile) <= _MOST_PROFILE and _is_beyond(colours, converted, source):
            return plain, profile
        if alpha is not None:
            converted.putalpha(alpha)
        return converted, b""
    except (ImageCms.PyCMSError, OSError, ValueError):
        return plain, b""  # a browser, too, takes a profile that it cannot use as sRGB


def _is_beyond(colours: Image.Image, converted: Image.Image, source: ImageCms.ImageCmsProfile) -> bool:
    """Whether enough of a picture lies beyond sRGB to be seen: it does not come back from there."""
    small = colours.size if max(colours.size) <= _LOOKED_AT else (_LOOKED_AT, _LOOKED_AT)
    first, second = (image.resize(small, Image.Resampling.NEAREST) for image in (colours, converted))
    back = ImageCms.profileToProfile(second, _srgb(), source, outputMode="RGB")
    assert back is not None
    apart = np.abs(np.asarray(first, dtype=np.int16) - np.asarray(back, dtype=np.int16)).max(axis=-1)
    return bool((apart > _BEYOND).mean() > _SEEN)


def _resize(image: Image.Image, target: tuple[int, int]) -> Image.Image:
    if image.mode == "RGBA":  # premultiplied, or the colour of invisible pixels bleeds into the edges
        return image.convert("RGBa").resize(target, Image.Resampling.LANCZOS).convert("RGBA")
    return image.resize(target, Image.Resampling.LANCZOS)


def encode(
    image: Image.Image, format: Format, quality: int, *, final: bool = True, exif: bytes = b"", colours: bool = False
) -> bytes:
    """Encode lossily (PNG: exactly); `final` spends more time on the last few percent. `exif` goes into the file.

    `colours`: a JPEG stores colour at full resolution, for pictures with sharp edges between colours.
    """
    out = io.BytesIO()
    extra: dict[str, bytes] = {"exif": exif} if exif and format != "PNG" else {}
    if profile := image.info.get("icc_profile"):
        extra["icc_profile"] = profile
    if format == "JPEG":
        subsampling = 0 if colours else 2
        image.convert("RGB").save(
            out, "JPEG", quality=quality, optimize=final, progressive=final, subsampling=subsampling, **extra
        )
    elif format == "WEBP":
        return encode_webp(image, quality, _FINAL_METHOD if final else _SEARCH_METHOD, extra)
    elif format == "AVIF":
        speed = _FINAL_SPEED if final else _SEARCH_SPEED
        # 4:4:4 costs a twentieth of the bytes and keeps edges between colours (docs/images.md).
        unbiased(image).save(
            out, "AVIF", quality=quality, speed=speed, max_threads=1, subsampling="4:4:4", codec="aom", **extra
        )
    else:
        image.save(out, "PNG", **extra)
        return bytes(oxipng.optimize_from_memory(out.getvalue(), level=2)) if final else out.getvalue()
    return out.getvalue()


def with_palette(image: Image.Image) -> bytes | None:
    """A PNG of at most 256 colours, dithered; None where that cannot be had."""
    try:
        palette = image.quantize(
            256, method=Image.Quantize.FASTOCTREE if image.mode == "RGBA" else Image.Quantize.MEDIANCUT
        )
    except ValueError:
        return None
    out = io.BytesIO()
    palette.save(out, "PNG", icc_profile=image.info.get("icc_profile"))
    return bytes(oxipng.optimize_from_memory(out.getvalue(), level=2))


def reopen(data: bytes) -> Image.Image:
    """Decode our own output again."""
    image = Image.open(io.BytesIO(data))
    return image.convert("RGBA" if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info else "RGB")
