"""The kinds of a file."""

from __future__ import annotations

KINDS = ("images", "scripts", "styles", "fonts", "media", "documents", "data", "other")

# Resource types of the Chrome DevTools Protocol, domain Network.
_BY_RESOURCE_TYPE = {
    "Document": "documents", "Stylesheet": "styles", "Image": "images", "Media": "media", "Font": "fonts",
    "Script": "scripts", "XHR": "data", "Fetch": "data", "EventSource": "data", "WebSocket": "data",
    "Prefetch": "data", "TextTrack": "media",
}  # fmt: skip


def kind_of(resource_type: str, media_type: str) -> str:
    """The kind of a request by why the browser asked for it, then by what came."""
    if kind := _BY_RESOURCE_TYPE.get(resource_type):
        return kind
    top = media_type.partition("/")[0]
    if top in ("image", "font"):
        return top + "s"
    if top in ("video", "audio"):
        return "media"
    return {"text/css": "styles", "text/javascript": "scripts", "text/html": "documents"}.get(media_type, "other")
