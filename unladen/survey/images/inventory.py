"""Every image of a site: where it is shown and how large, what it is, what it weighs."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field, replace
from typing import Any

from unladen.capture import Exchange
from unladen.raster.metadata import metadata_bytes
from unladen.raster.probe import ImageRefused, probe
from unladen.raster.svg import check_svg
from unladen.survey.images.families import families
from unladen.survey.site_facts import ImageUse, SiteFacts

_NAMES_ONLY = {"data", "named"}
_SVG = "image/svg+xml"


@dataclass(frozen=True, slots=True)
class SiteImage:
    """An image file. Sizes in px and bytes (as sent); `metadata` are bytes that no browser needs.

    `shown` gives for each device the widest showing in CSS px, (0, 0) where it is hidden. `via` are the ways in which
    texts name it; `by_script`: only strings in scripts or data attributes do. `refused` says why it cannot be treated.
    """

    path: str
    url: str
    digest: str
    format: str
    width: int
    height: int
    bytes: int
    metadata: int
    frames: int
    pages: list[str] = field(default_factory=list)
    via: list[str] = field(default_factory=list)
    shown: dict[str, list[int]] = field(default_factory=dict)
    by_script: bool = False
    family: str = ""
    refused: str = ""

    @property
    def per_pixel(self) -> float | None:
        """Bytes for each CSS px of its largest showing."""
        area = max((width * height for width, height in self.shown.values()), default=0)
        return self.bytes / area if area else None

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self) | {"per_pixel": self.per_pixel}


def inventory(evidence: SiteFacts) -> list[SiteImage]:
    """All images of the site's own, the heaviest first."""
    capture = evidence.capture
    shown = {use.exchange.url: use for use in evidence.images.values()}
    rows = []
    for exchange in capture.files():
        if exchange.media_type.startswith("image/") or exchange.url in shown:
            rows.append(_row(evidence, exchange, shown.get(exchange.url)))
    related = families((row.path, row.width, row.height) for row in rows)
    rows = [replace(row, family=related.get(row.path, "")) for row in rows]
    return sorted(rows, key=lambda row: (-row.bytes, row.path))


def _row(evidence: SiteFacts, exchange: Exchange, use: ImageUse | None) -> SiteImage:
    capture = evidence.capture
    body = capture.body(exchange)
    format, width, height, frames, refused = "", 0, 0, 1, ""
    try:
        if exchange.media_type == _SVG:
            format = "SVG"
            width, height = check_svg(body)
        else:
            info = probe(body)
            format, width, height, frames = info.format, info.width, info.height, info.frames
    except ImageRefused as error:
        refused = str(error)
    uses = evidence.texts.all_uses().get(exchange.url, [])
    pages = {page for each in uses for page in evidence.texts.pages_of(each.text)}
    via = sorted({each.reference.via for each in uses})
    showings: dict[str, list[int]] = {}
    for showing in use.showings if use else []:
        image, name = showing.image, showing.device.name
        here = image.paint_width > 0 and not image.closed
        size = [round(image.paint_width), round(image.paint_height)] if here else [0, 0]
        if size >= showings.get(name, [0, 0]):
            showings[name] = size
    return SiteImage(
        path=evidence.path(exchange.url),
        url=exchange.url,
        digest=exchange.digest,
        format=format,
        width=width,
        height=height,
        bytes=capture.sent_size(exchange),
        metadata=metadata_bytes(body),
        frames=frames,
        pages=sorted(pages | set(use.pages if use else ())),
        via=via,
        shown=showings,
        by_script=bool(via) and set(via) <= _NAMES_ONLY,
        refused=refused,
    )
