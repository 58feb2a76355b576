"""Where a page shows its images, films and frames."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.capture.addresses import site_path
from unladen.weigh.page.embeds import Embed
from unladen.weigh.page.films import ShownFilm
from unladen.weigh.records.model import PageFacts, ShownImage


@dataclass(frozen=True, slots=True)
class Placed:
    """Something shown, by address and path, with its box in CSS px from the top left of the page."""

    url: str
    path: str
    selector: str
    x: float
    y: float
    width: float
    height: float
    visible: bool


def placed(facts: PageFacts, base_url: str) -> list[Placed]:
    """All that has a box, the frames first, which lie on top."""
    shown: list[Embed | ShownFilm | ShownImage] = [*facts.embeds, *facts.films, *facts.images]
    return [
        Placed(
            each.url,
            site_path(base_url, each.url.partition("?")[0]),
            each.selector,
            each.x,
            each.y,
            each.width,
            each.height,
            each.visible,
        )
        for each in shown
        if each.width and each.height
    ]
