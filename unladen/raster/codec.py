"""Decoding to plain sRGB pixels, resizing, and encoding."""

from __future__ import annotations

import io
from functools import lru_cache
from typing import Literal

import oxipng
from PIL import Image, ImageCms, ImageOps

from unladen.raster.probe import ImageRefused, open_image, probe

Format = Literal["JPEG", "PNG", "WEBP", "AVIF"]
FORMATS: tuple[Format, ...] = ("JPEG", "PNG", "WEBP", "AVIF")
# Sides in px: RFC 9649, section 2.3 (14 bits); ITU-T T.81, B.2.2 (16 bits, less what decoders refuse).
MAX_SIDES: dict[Format, int] = {"WEBP": 16_383, "JPEG": 65_500, "AVIF": 65_535, "PNG": 2**31 - 1}
_SEARCH_METHOD = 4
_FINAL_METHOD = 6
_SEARCH_SPEED, _FINAL_SPEED = 8, 6


@lru_cache(maxsize=1)
def _srgb() -> ImageCms.ImageCmsProfile:
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB"))


def decode(data: bytes, target: tuple[int, int] | None = None, *, still: bool = False) -> Image.Image:
    """Upright sRGB pixels, mode RGB or RGBA, resized to `target` (width, height in px) when one is given.

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
        if target and image.format == "JPEG" and info.width >= 2 * target[0]:
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
    pixels = _to_srgb(upright, image.info.get("icc_profile"))
    if target and pixels.size != target:
        pixels = _resize(pixels, target)
    return pixels


def _to_srgb(image: Image.Image, profile: bytes | None) -> Image.Image:
    transparent = image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info
    plain = image.convert("RGBA" if transparent else "RGB")
    if not profile:
        return plain
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        alpha = plain.getchannel("A") if transparent else None
        converted = ImageCms.profileToProfile(plain.convert("RGB"), source, _srgb(), outputMode="RGB")
        assert converted is not None
        if alpha is not None:
            converted.putalpha(alpha)
        return converted
    except (ImageCms.PyCMSError, OSError, ValueError):
        return plain  # a browser, too, takes a profile that it cannot use as sRGB


def _resize(image: Image.Image, target: tuple[int, int]) -> Image.Image:
    if image.mode == "RGBA":  # premultiplied, or the colour of invisible pixels bleeds into the edges
        return image.convert("RGBa").resize(target, Image.Resampling.LANCZOS).convert("RGBA")
    return image.resize(target, Image.Resampling.LANCZOS)


def encode(image: Image.Image, format: Format, quality: int, *, final: bool = True, exif: bytes = b"") -> bytes:
    """Encode lossily (PNG: exactly); `final` spends more time on the last few percent. `exif` goes into the file."""
    out = io.BytesIO()
    extra: dict[str, bytes] = {"exif": exif} if exif and format != "PNG" else {}
    if format == "JPEG":
        image.convert("RGB").save(out, "JPEG", quality=quality, optimize=final, progressive=final, **extra)
    elif format == "WEBP":
        method = _FINAL_METHOD if final else _SEARCH_METHOD
        image.save(out, "WEBP", quality=quality, method=method, alpha_quality=100, **extra)
    elif format == "AVIF":
        image.save(
            out, "AVIF", quality=quality, speed=_FINAL_SPEED if final else _SEARCH_SPEED, max_threads=1, **extra
        )
    else:
        image.save(out, "PNG")
        return bytes(oxipng.optimize_from_memory(out.getvalue(), level=2)) if final else out.getvalue()
    return out.getvalue()


def encode_lossless_webp(image: Image.Image) -> bytes:
    """WebP with every visible pixel exactly as it was."""
    out = io.BytesIO()
    image.save(out, "WEBP", lossless=True, quality=80, method=_SEARCH_METHOD, exact=False)
    return out.getvalue()


def reopen(data: bytes) -> Image.Image:
    """Decode our own output again."""
    image = Image.open(io.BytesIO(data))
    return image.convert("RGBA" if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info else "RGB")
