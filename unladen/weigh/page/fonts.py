"""Which font files a page loads, who asks for them, and how much of each it shows."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from urllib.parse import urljoin

from fontTools.ttLib import TTFont, TTLibError

from unladen.capture import BodyStore, Capture
from unladen.capture.addresses import canonical
from unladen.capture.mediatypes import is_page
from unladen.markup.css import css_blocks, css_urls
from unladen.markup.references import parse_document
from unladen.markup.text import Undecodable, decode
from unladen.weigh.records.model import Request, Structure

_DECLARATION = re.compile(r"(?:^|[;{\s])(font-family|font-weight|font-style)\s*:\s*([^;}]+)", re.I)
_LARGEST_FONT = 20_000_000  # bytes; a larger one is not opened
_NAMES = {"normal": "400", "bold": "700"}


@dataclass(frozen=True, slots=True)
class FontFile:
    """A font file that was loaded.

    `glyphs` are the characters it can show, 0 when it cannot be read; `used` those shown.

    `asked_by` is the style sheet or page whose rule names it. `first`: text of the first view may be set in it.
    """

    url: str
    family: str
    weight: str
    style: str
    transferred: int
    format: str
    glyphs: int
    used: int
    asked_by: str
    first: bool = False


@dataclass(frozen=True, slots=True)
class _Face:
    family: str
    weight: str
    style: str
    asked_by: str


def fonts_of(capture: Capture, requests: Sequence[Request], structure: Structure) -> list[FontFile]:
    """The fonts of one visit, the heaviest first."""
    faces: dict[str, _Face] = {}
    for request in requests:
        if request.kind in ("styles", "documents") and request.status == 200:
            for url, face in _faces_in(capture, request.url):
                faces.setdefault(url, face)
    fonts = []
    for request in requests:
        if request.kind != "fonts" or request.cached or request.status != 200:
            continue
        face = faces.get(request.url, _Face("", "", "", request.initiator))
        exchange = capture.lookup(request.url)
        format_, characters = _read(capture.store, exchange.digest) if exchange else ("", frozenset())
        shown = {c for row in structure.fonts if _meant(row, face) for c in row["characters"]}
        fonts.append(
            FontFile(
                request.url,
                face.family,
                face.weight,
                face.style,
                request.transferred,
                format_,
                len(characters),
                len(characters & {ord(c) for c in shown}),
                face.asked_by,
                any(row.get("first") and _meant(row, face) and _weighs(row, face) for row in structure.fonts),
            )
        )
    return sorted(fonts, key=lambda font: (-font.transferred, font.url))


def _meant(row: dict[str, str], face: _Face) -> bool:
    """Whether text of this family, weight and style may be shown by this face; a lone weight stands in for others."""
    return row["family"].lower() == face.family.lower() and (
        row["style"] == (face.style or "normal") or face.style in ("", "normal")
    )


def _weighs(row: dict[str, str], face: _Face) -> bool:
    """Whether text of this weight is shown by this face where the family has the usual two, or one of a range."""
    low, _, high = (face.weight or "400").partition(" ")
    try:
        wanted, least, most = float(row["weight"]), float(low), float(high or low)
    except ValueError:
        return True
    return least <= wanted <= most or (wanted >= 600) == (most >= 600)


def _faces_in(capture: Capture, url: str) -> Iterator[tuple[str, _Face]]:
    exchange = capture.lookup(url)
    if exchange is None:
        return
    try:
        chars = decode(capture.body(exchange)).chars
    except Undecodable:
        return
    if is_page(exchange.media_type):
        document = parse_document(chars)
        texts = [chars[e.end : e.inner_end] for e in document.elements if e.tag == "style"]
    else:
        texts = [chars]
    for text in texts:
        for block in css_blocks(text):
            if block.at != "@font-face":
                continue
            rule = text[block.open : block.end]
            declared = {name.lower(): value.strip().strip("\"'") for name, value in _DECLARATION.findall(rule)}
            weight = declared.get("font-weight", "400")
            face = _Face(
                declared.get("font-family", ""),
                _NAMES.get(weight, weight),
                declared.get("font-style", "normal"),
                url,
            )
            for result in css_urls(rule):
                yield canonical(urljoin(url, result.value)), face


def characters_of(store: BodyStore, digest: str) -> frozenset[int]:
    """The characters that a font file can show, none when it cannot be read."""
    return _read(store, digest)[1]


@lru_cache(maxsize=256)
def _read(store: BodyStore, digest: str) -> tuple[str, frozenset[int]]:
    """The format and the characters of a font file; hostile ones give nothing."""
    body = store.get(digest)
    format_ = {
        b"wOF2": "WOFF2",
        b"wOFF": "WOFF",
        b"OTTO": "OpenType",
        b"\0\1\0\0": "TrueType",
        b"true": "TrueType",
    }.get(body[:4], "")
    if not format_ or len(body) > _LARGEST_FONT:
        return format_, frozenset()
    try:
        with TTFont(io.BytesIO(body), lazy=True) as font:
            return format_, frozenset(font.getBestCmap() or ())
    except (TTLibError, OSError, ValueError, KeyError, AssertionError, ImportError, IndexError, MemoryError):
        return format_, frozenset()
    except Exception:  # fontTools raises what struct and zlib do, and more, on broken files
        return format_, frozenset()
