"""Smaller files with every pixel as it was: better packed, and without what no browser shows."""

from __future__ import annotations

import io
import shutil
import subprocess
from functools import lru_cache

import numpy as np
import oxipng
from PIL import Image

from unladen.raster.metadata import stripped
from unladen.raster.probe import ImageInfo, ImageRefused

_SECONDS = 60


def exact_copy(data: bytes, info: ImageInfo, *, copyright: bool = False) -> bytes:
    """The same format and pixels in fewer bytes; raises `ImageRefused` when a format cannot be packed again.

    Orientation and colour profile stay in the file, since the pixels are not touched.
    """
    if info.format not in ("JPEG", "PNG", "WEBP"):
        raise ImageRefused(f"is a {info.format} file, which stays unchanged")
    plain = stripped(data, copyright=copyright)
    if info.format == "JPEG":
        plain = min(plain, _packed_jpeg(plain), key=len)
    elif info.format == "PNG" and info.frames == 1:
        plain = min(plain, _packed_png(plain), key=len)
    if not _same_picture(data, plain):
        raise ImageRefused("could not be compressed without a change")
    return plain


@lru_cache(maxsize=1)
def _jpegtran() -> str | None:
    return shutil.which("jpegtran")


def _packed_jpeg(data: bytes) -> bytes:
    """Huffman tables of its own and scans in progressive order (ITU-T T.81); the coefficients stay."""
    program = _jpegtran()
    if program is None:
        return data
    command = [program, "-copy", "all", "-optimize", "-progressive"]
    try:
        completed = subprocess.run(command, input=data, capture_output=True, timeout=_SECONDS)
    except subprocess.TimeoutExpired:
        return data
    return completed.stdout if completed.returncode == 0 and completed.stdout else data


def _packed_png(data: bytes) -> bytes:
    try:
        return bytes(oxipng.optimize_from_memory(data, level=2))
    except oxipng.PngError as error:
        raise ImageRefused(f"is damaged ({error})") from error


def _same_picture(first: bytes, second: bytes) -> bool:
    try:
        with Image.open(io.BytesIO(first)) as a, Image.open(io.BytesIO(second)) as b:
            if a.size != b.size or a.getexif().get(0x0112, 1) != b.getexif().get(0x0112, 1):
                return False
            if a.info.get("icc_profile") != b.info.get("icc_profile"):
                return False
            if a.mode == b.mode and a.mode.startswith(("I", "F")):
                return bool(np.array_equal(np.asarray(a), np.asarray(b)))
            x, y = (np.asarray(i if i.mode == "CMYK" else i.convert("RGBA")) for i in (a, b))
            return bool(np.array_equal(x, y))
    except Exception:  # a file that does not decode is not the same picture
        return False
