"""What a file carries beside its pixels, and the same file without it. Nothing is decoded, so nothing is lost.

JPEG: ITU-T T.81, annex B (segments); PNG: W3C PNG, section 5 (chunks); WebP: RFC 9649, section 2.7 (chunks).
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from typing import NamedTuple

from PIL import Image

from unladen.raster.probe import ImageRefused, open_image

MARK = b"unladen"  # the comment in a JPEG that a change made, so that no later pass takes it for an original
_ORIENTATION, _COPYRIGHT, _ARTIST = 0x0112, 0x8298, 0x013B
_PNG_SIGNATURE = b"\x89PNG\r\n\x1a\n"
# Chunks that say how the pixels are to be shown, beside those that hold them.
_PNG_TEXTS = {b"tEXt", b"zTXt", b"iTXt", b"tIME", b"eXIf"}
_WEBP_TEXTS = {b"EXIF", b"XMP "}


class Part(NamedTuple):
    """A piece of a file.

    Its name, where it starts and ends, and whether it says something of the picture rather than being it.
    """

    name: bytes
    start: int
    end: int
    metadata: bool


def parts(data: bytes) -> list[Part]:
    """The segments or chunks of a JPEG, PNG or WebP file up to its pixels or its end; none for other formats."""
    if data[:2] == b"\xff\xd8":
        return list(_jpeg(data))
    if data.startswith(_PNG_SIGNATURE):
        return list(_png(data))
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return list(_webp(data))
    return []


def _jpeg(data: bytes) -> Iterator[Part]:
    position = 2
    while position + 4 <= len(data) and data[position] == 0xFF:
        marker = data[position + 1]
        if marker == 0xFF:
            position += 1
            continue
        if marker == 0xDA:
            return
        end = position + 2 + int(struct.unpack_from(">H", data, position + 2)[0])
        if end > len(data):
            return
        body = data[position + 4 : position + 20]
        shown = marker not in range(0xE0, 0xF0) and marker != 0xFE
        shown = shown or marker in (0xE0, 0xEE) or (marker == 0xE2 and body.startswith(b"ICC_PROFILE\0"))
        yield Part(bytes([marker]), position, end, not shown)
        position = end


def _png(data: bytes) -> Iterator[Part]:
    position = 8
    while position + 12 <= len(data):
        length, name = struct.unpack_from(">I4s", data, position)
        end = position + 12 + length
        if end > len(data):
            return
        yield Part(name, position, end, name in _PNG_TEXTS)
        position = end


def _webp(data: bytes) -> Iterator[Part]:
    position = 12
    while position + 8 <= len(data):
        name, length = struct.unpack_from("<4sI", data, position)
        end = position + 8 + length + length % 2
        if end > len(data) + 1:
            return
        yield Part(name, position, min(end, len(data)), name in _WEBP_TEXTS)
        position = end


def metadata_bytes(data: bytes) -> int:
    """How many bytes a browser does not need: camera data, previews, texts, comments."""
    return sum(part.end - part.start for part in parts(data) if part.metadata)


def is_marked(data: bytes) -> bool:
    """Whether a change made this JPEG."""
    return any(part.name == b"\xfe" and data[part.start + 4 : part.end] == MARK for part in parts(data))


def marked(data: bytes) -> bytes:
    """A JPEG with our comment, after its first segment."""
    result = parts(data)
    at = result[0].end if result and result[0].name == b"\xe0" else 2
    return data[:at] + b"\xff\xfe" + struct.pack(">H", len(MARK) + 2) + MARK + data[at:]


def kept_exif(data: bytes, *, upright: bool, copyright: bool) -> bytes:
    """The EXIF block that a smaller file needs: its orientation unless its pixels are `upright`, its owner if asked."""
    image = open_image(data)
    try:
        old = image.getexif()
        wanted = Image.Exif()
        if not upright and old.get(_ORIENTATION, 1) not in (0, 1):
            wanted[_ORIENTATION] = old[_ORIENTATION]
        for tag in (_COPYRIGHT, _ARTIST) if copyright else ():
            if tag in old:
                wanted[tag] = old[tag]
        return wanted.tobytes() if len(wanted) else b""
    except Exception as error:  # the block is the camera maker's own work
        raise ImageRefused(f"has broken metadata ({error})") from error


def stripped(data: bytes, *, copyright: bool = False) -> bytes:
    """The file without what is only told; orientation and colours stay. Raises `ImageRefused`."""
    exif = kept_exif(data, upright=False, copyright=copyright)
    out, position = bytearray(), 0
    for part in parts(data):
        if part.metadata and not (part.name == b"\xfe" and data[part.start + 4 : part.end] == MARK):
            out += data[position : part.start]
            position = part.end
    out += data[position:]
    return _with_exif(bytes(out), exif)


def _with_exif(data: bytes, exif: bytes) -> bytes:
    block = exif.removeprefix(b"Exif\0\0")
    if data[:2] == b"\xff\xd8":
        if not exif:
            return data
        body = b"Exif\0\0" + block
        return data[:2] + b"\xff\xe1" + struct.pack(">H", len(body) + 2) + body + data[2:]
    if data.startswith(_PNG_SIGNATURE):
        return data if not exif else _with_png_exif(data, block)
    return _with_webp_exif(data, block)


def _with_png_exif(data: bytes, block: bytes) -> bytes:
    import zlib

    head = parts(data)[0].end
    chunk = b"eXIf" + block
    return data[:head] + struct.pack(">I", len(block)) + chunk + struct.pack(">I", zlib.crc32(chunk)) + data[head:]


def _with_webp_exif(data: bytes, block: bytes) -> bytes:
    body = bytearray(data[12:])
    if body[:4] == b"VP8X":
        body[8] &= ~0x0C  # the flags of EXIF and XMP, RFC 9649, section 2.7
        if block:
            body[8] |= 0x08
    if block and body[:4] == b"VP8X":
        body += b"EXIF" + struct.pack("<I", len(block)) + block + b"\0" * (len(block) % 2)
    return b"RIFF" + struct.pack("<I", len(body) + 4) + b"WEBP" + bytes(body)
