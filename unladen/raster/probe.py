"""What an image file really is, read from its header with limits on what is believed."""

from __future__ import annotations

import io
import struct
import warnings
from dataclasses import dataclass

from PIL import Image, UnidentifiedImageError

from unladen.errors import Refused

Image.MAX_IMAGE_PIXELS = None  # our own limits below are checked before anything is decoded

MAX_PIXELS = 60_000_000
MAX_SIDE = 30_000
_FORMATS = ("JPEG", "PNG", "WEBP", "GIF", "AVIF", "BMP", "TIFF", "ICO")
_TURNED = (5, 6, 7, 8)
_ORIENTATION = 0x0112


class ImageRefused(Refused):
    """The file is left as it is; the text says why, in words for the person at the screen."""


@dataclass(frozen=True, slots=True)
class ImageInfo:
    """Width and height in pixels as shown, that is after the EXIF orientation; `format` is Pillow's name."""

    format: str
    width: int
    height: int
    mode: str
    frames: int
    bits: int
    has_profile: bool


def open_image(data: bytes) -> Image.Image:
    """Open without decoding; raises `ImageRefused` for what is no image or too large to be decoded safely."""
    if not data:
        raise ImageRefused("is empty")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image = Image.open(io.BytesIO(data), formats=_FORMATS)
    except UnidentifiedImageError:
        raise ImageRefused(_other_sort(data)) from None
    except Exception as error:  # decoders raise all sorts of things on hostile headers
        raise ImageRefused(f"has a broken header ({error})") from error
    width, height = image.size
    frames = getattr(image, "n_frames", 1) if image.format in ("GIF", "PNG", "WEBP", "AVIF") else 1
    if width * height * max(frames, 1) > MAX_PIXELS:
        millions = width * height * max(frames, 1) / 1e6
        raise ImageRefused(f"would unpack to {millions:,.0f} million pixels; at most {MAX_PIXELS // 10**6} are read")
    if max(width, height) > MAX_SIDE:
        raise ImageRefused(f"is {width:,} x {height:,} px; at most {MAX_SIDE:,} px a side are read")
    return image


# What other files begin with, at a place; and what they are (their own specifications).
_OTHERS = (
    (4, b"ftyphei", "a HEIC picture"),
    (4, b"ftyphev", "a HEIC picture"),
    (4, b"ftypmif1", "a HEIF picture"),
    (4, b"ftypmsf1", "a HEIF picture"),
    (0, b"\xff\x0a", "a JPEG XL picture"),
    (0, b"\0\0\0\x0cJXL ", "a JPEG XL picture"),
    (0, b"\0\0\0\x0cjP  ", "a JPEG 2000 picture"),
    (0, b"8BPS", "a layered picture of an editor"),
)


def _other_sort(data: bytes) -> str:
    """Why a file that is none of the formats read here is left alone."""
    for place, mark, name in _OTHERS:
        if data[place : place + len(mark)] == mark:
            return f"is {name}, which stays unchanged"
    if b"<svg" in data[:4096].lower():
        return "is an SVG drawing, although its name or type differs"
    return "is not a readable image"


def has_gain_map(data: bytes) -> bool:
    """Whether a JPEG holds a second picture for bright screens (HDR; ISO 21496-1, and as Android and Adobe write
    it).
    """
    head = data[:200_000]
    return data[:2] == b"\xff\xd8" and (b"urn:iso:std:iso:ts:21496" in head or b"hdrgm:" in head)


def probe(data: bytes) -> ImageInfo:
    """What the file is; raises `ImageRefused`."""
    image = open_image(data)
    try:
        turned = image.getexif().get(_ORIENTATION, 1) in _TURNED
        frames = getattr(image, "n_frames", 1)
    except Exception as error:
        raise ImageRefused(f"has broken metadata ({error})") from error
    width, height = image.size[::-1] if turned else image.size
    return ImageInfo(
        format=image.format or "",
        width=width,
        height=height,
        mode=image.mode,
        frames=frames,
        bits=_png_bits(data) if image.format == "PNG" else 16 if image.mode.startswith(("I", "F")) else 8,
        has_profile=bool(image.info.get("icc_profile")),
    )


def _png_bits(data: bytes) -> int:
    # PNG (W3C), 11.2.1: the bit depth follows width and height in IHDR, which is the first chunk.
    return int(struct.unpack_from(">B", data, 24)[0]) if len(data) > 24 else 8
