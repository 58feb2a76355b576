"""Pictures that stand in a text itself, as data URLs in base64 (RFC 2397, RFC 4648)."""

from __future__ import annotations

import base64
import binascii
import re
from dataclasses import dataclass

from unladen.markup.html import Element
from unladen.markup.references import parse_document

LEAST = 2_000  # characters; a shorter one is not worth a look
_URL = re.compile(r"data:image/(?:png|jpe?g|gif|bmp|webp);base64,([A-Za-z0-9+/]+={0,2})", re.I)


@dataclass(frozen=True, slots=True)
class DataImage:
    """Where the URL starts and ends in its text, the picture, and the `img` that it is the source of, if it is
    one's.
    """

    start: int
    end: int
    body: bytes
    element: Element | None = None


def data_images(chars: str, *, page: bool) -> list[DataImage]:
    """Those of a style sheet, or of the images, styles and style attributes of a page; broken ones are left out."""
    data_images = []
    for match in _URL.finditer(chars):
        if len(match[1]) < LEAST:
            continue
        try:
            body = base64.b64decode(match[1], validate=True)
        except (binascii.Error, ValueError):
            continue
        data_images.append(DataImage(*match.span(), body))
    return (
        [placed for image in data_images if (placed := _placed(chars, image))]
        if page and data_images
        else data_images
    )


def _placed(chars: str, image: DataImage) -> DataImage | None:
    """With the element that it belongs to; None for one in a script, a text or an attribute of another sort."""
    for element in parse_document(chars).elements:
        if element.inert:
            continue
        if element.tag == "style" and element.end <= image.start < element.inner_end:
            return image
        for name in ("src", "style"):
            span = element.spans.get(name)
            if span and span[0] <= image.start < span[1]:
                if name == "style":
                    return image
                return DataImage(image.start, image.end, image.body, element) if element.tag == "img" else None
    return None
