"""Bytes to text and back without losing one."""

from __future__ import annotations

import codecs
import re
from dataclasses import dataclass

_BOMS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
_META = re.compile(rb"""<meta[^>]+charset\s*=\s*["']?\s*([A-Za-z0-9_:.-]+)""", re.I)
_CSS_CHARSET = re.compile(rb'^@charset "([^"]+)";')
_PRESCAN = 1024
# WHATWG Encoding Standard: these labels mean windows-1252 to a browser, and UTF-16 in a meta means UTF-8.
_AS_BROWSERS = {
    "iso8859-1": "cp1252",
    "ascii": "cp1252",
    "utf-16": "utf-8",
    "utf-16-le": "utf-8",
    "utf-16-be": "utf-8",
}
_BYTEWISE = re.compile(r"^(utf-8|cp125\d|cp874|iso8859-\d+|koi8-[ru]|mac-.*|latin.*)$")


class Undecodable(ValueError):
    """The text cannot be turned into characters and back byte by byte; its text is the reason."""


@dataclass(frozen=True, slots=True)
class Text:
    """Decoded text. Bytes that are invalid in the charset are kept as lone surrogates in `chars`."""

    chars: str
    charset: str
    bom: bytes = b""

    def encode(self, chars: str | None = None) -> bytes:
        """The bytes of `chars` (or of this text) in the same charset, with the same byte order mark."""
        return self.bom + (self.chars if chars is None else chars).encode(self.charset, _errors(self.charset))


def decode(body: bytes) -> Text:
    """Decode as a browser would: byte order mark, then the declared charset, then UTF-8, then windows-1252.

    Raises `Undecodable` when the way back would not give the same bytes.
    """
    for bom, charset in _BOMS:
        if body.startswith(bom):
            return _checked(body, bom, charset)
    match = _META.search(body[:_PRESCAN]) or _CSS_CHARSET.match(body)
    if match:
        label = match.group(1).decode("ascii", "replace")
        try:
            charset = codecs.lookup(label).name
        except (LookupError, ValueError):  # of one with a NUL in it, it says that it is no name at all
            raise Undecodable(f"declares the unknown charset “{label[:40]}”") from None
        return _checked(body, b"", _AS_BROWSERS.get(charset, charset))
    try:
        return Text(body.decode("utf-8"), "utf-8")
    except UnicodeDecodeError:
        return _checked(body, b"", "cp1252")


def _checked(body: bytes, bom: bytes, charset: str) -> Text:
    rest = body[len(bom) :]
    try:
        text = Text(rest.decode(charset, _errors(charset)), charset, bom)
        if text.encode() == body:
            return text
    except (UnicodeError, LookupError):
        pass
    raise Undecodable(f"is not valid {charset}, so its text is left untouched")


def _errors(charset: str) -> str:
    return "surrogateescape" if _BYTEWISE.match(charset) else "strict"


def without_surrogates(chars: str) -> str:
    """The same length of text with undecodable bytes as U+FFFD, as a browser shows them."""
    return re.sub("[\ud800-\udfff]", "\ufffd", chars)
