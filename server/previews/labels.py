"""The host name of a preview: one for each site and side, so that uploaded pages share an origin with nothing."""

from __future__ import annotations

from typing import Literal
from urllib.parse import quote_plus

from django.conf import settings

from server.sites.models import Site

Side = Literal["found", "now"]
# Shows any file of the capture by its address; a path that no site is likely to have.
FILE_PATH = "/.unladen/file"
_SIDES: tuple[Side, ...] = ("found", "now")


def preview_address(site: Site, side: Side) -> str:
    """The address of a preview's first page."""
    return f"http://{side}-{site.preview_token}.{settings.PREVIEW_HOST}:{settings.PREVIEW_PORT}/"


def file_address(site: Site, side: str, url: str) -> str:
    """The address at which any file of the site's capture can be seen, those of other hosts too."""
    root = preview_address(site, "now" if side == "now" and site.run_id else "found")
    return f"{root}{FILE_PATH.lstrip('/')}?url={quote_plus(url)}"


def read_host(host: str) -> tuple[Side, str] | None:
    """Side and token from a Host header, or None."""
    label = host.partition(":")[0].removesuffix("." + settings.PREVIEW_HOST)
    for side in _SIDES:
        if label.startswith(side + "-"):
            return side, label.removeprefix(side + "-")
    return None
