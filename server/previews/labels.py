"""The host name of a preview: one for each site and side, so that uploaded pages share an origin with nothing."""

from __future__ import annotations

from typing import Literal

from django.conf import settings

from server.sites.models import Site

Side = Literal["found", "now"]
_SIDES: tuple[Side, ...] = ("found", "now")


def preview_address(site: Site, side: Side) -> str:
    """The address of a preview's first page."""
    return f"http://{side}-{site.preview_token}.{settings.PREVIEW_HOST}:{settings.PREVIEW_PORT}/"


def read_host(host: str) -> tuple[Side, str] | None:
    """Side and token from a Host header, or None."""
    label = host.partition(":")[0].removesuffix("." + settings.PREVIEW_HOST)
    for side in _SIDES:
        if label.startswith(side + "-"):
            return side, label.removeprefix(side + "-")
    return None
