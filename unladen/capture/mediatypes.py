"""Media types by file name, and which of them an ordinary server sends compressed."""

from __future__ import annotations

import posixpath

# IANA media types registry; the names ordinary static servers send.
_BY_EXTENSION = {
    "html": "text/html", "htm": "text/html", "xhtml": "application/xhtml+xml",
    "css": "text/css", "js": "text/javascript", "mjs": "text/javascript", "cjs": "text/javascript",
    "json": "application/json", "map": "application/json", "webmanifest": "application/manifest+json",
    "xml": "application/xml", "rss": "application/rss+xml", "atom": "application/atom+xml",
    "txt": "text/plain", "md": "text/markdown", "csv": "text/csv", "vtt": "text/vtt",
    "jpg": "image/jpeg", "jpeg": "image/jpeg", "jpe": "image/jpeg", "png": "image/png", "apng": "image/apng",
    "gif": "image/gif", "webp": "image/webp", "avif": "image/avif", "svg": "image/svg+xml",
    "ico": "image/x-icon", "bmp": "image/bmp", "tif": "image/tiff", "tiff": "image/tiff",
    "woff": "font/woff", "woff2": "font/woff2", "ttf": "font/ttf", "otf": "font/otf",
    "eot": "application/vnd.ms-fontobject",
    "mp4": "video/mp4", "m4v": "video/mp4", "webm": "video/webm", "ogv": "video/ogg", "mov": "video/quicktime",
    "mp3": "audio/mpeg", "ogg": "audio/ogg", "oga": "audio/ogg", "wav": "audio/wav", "m4a": "audio/mp4",
    "pdf": "application/pdf", "zip": "application/zip", "wasm": "application/wasm",
}  # fmt: skip

_COMPRESSED = {
    "text/html", "application/xhtml+xml", "text/css", "text/javascript", "application/json",
    "application/manifest+json", "application/xml", "application/rss+xml", "application/atom+xml",
    "text/plain", "text/markdown", "text/csv", "text/vtt", "image/svg+xml", "application/wasm",
}  # fmt: skip


def media_type_of(path: str) -> str:
    """The media type that a file of this name is served with."""
    extension = posixpath.splitext(path)[1].lstrip(".").lower()
    return _BY_EXTENSION.get(extension, "application/octet-stream")


def is_compressible(media_type: str) -> bool:
    """Whether an ordinary server sends this media type gzipped."""
    return media_type in _COMPRESSED


def is_page(media_type: str) -> bool:
    """Whether this is a document that a visitor opens."""
    return media_type in ("text/html", "application/xhtml+xml")
