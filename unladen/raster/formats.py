"""The formats of pictures and films that are written here.

The name that Pillow or a codec has, media type, extension.
"""

from __future__ import annotations

MEDIA_TYPES = {
    "JPEG": "image/jpeg",
    "PNG": "image/png",
    "WEBP": "image/webp",
    "AVIF": "image/avif",
    "AV1": "video/mp4",
    "H264": "video/mp4",
}
EXTENSIONS = {
    "image/jpeg": ".jpg",
    "image/png": ".png",
    "image/webp": ".webp",
    "image/avif": ".avif",
    "video/mp4": ".mp4",
}


def extension_of(format: str) -> str:
    """What a file of this format ends with."""
    return EXTENSIONS[MEDIA_TYPES[format]]


def picture_format(media_type: str) -> str:
    """The format of a picture of this media type, "" for one that is not written here."""
    return next((f for f, known in MEDIA_TYPES.items() if known == media_type and known.startswith("image/")), "")
