"""Images that are loaded at once though they lie far below the first view."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from unladen.remedies import Change, Params
from unladen.survey.findings import Facts, Finding
from unladen.survey.site_facts import Showing
from unladen.survey.spec import Context, Found, Surveyor

# Chromium starts a lazy image when it comes within this distance of the window on a fast link (from its source:
# LazyLoadingDistanceThresholdPx, from memory); nearer ones are loaded all the same, so nothing would be gained.
_BROWSER_MARGIN = 1250
_FAR = 0.5  # windows below the first view, so that a taller window does not see it either


def far_below(showing: Showing) -> bool:
    image, height = showing.image, showing.device.height
    below = image.y >= height * (1 + _FAR) and image.x >= 0
    beside = image.x >= showing.device.width * (1 + _FAR) and image.y >= 0  # in a sideways scroller
    return image.visible and not image.first_view and (below or beside)


def _can_wait(here: list[Showing]) -> bool:
    """Whether every showing on a page is an `img` far below that will not jump when it comes."""
    return all(
        s.image.via in ("img", "picture")
        and s.image.loading != "lazy"
        and (s.image.reserved or s.image.reservable)
        and far_below(s)
        for s in here
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class FarFacts(Facts):
    """How far the nearest lies below the top of its page, in CSS px."""

    about: Literal["far"] = "far"
    nearest: int


def find(context: Context) -> Found:
    """One excess for each page."""
    evidence, left = context.evidence, context.left("heavy images")
    findings = []
    for page in evidence.pages:
        waiting = [(use, here) for use, here in evidence.shown_on(page) if _can_wait(here)]
        uses = [use for use, _ in waiting]
        gained = [use for use, here in waiting if any(map(_gains, here))]
        if not gained:
            continue
        size = sum(left.get(use.exchange.url, use.exchange.size) for use in gained)
        change = Change(f"lazy-images:{page}", "lazy-images", tuple(use.path for use in uses), (page,), Params())
        many = f"{len(gained)} pictures load" if len(gained) > 1 else "A picture loads"
        findings.append(
            Finding(
                id=change.id,
                excess="loaded-early",
                kind="images",
                title=f"{many} far below the first view",
                why="They can load when a visitor scrolls near them. The next weigh-in measures the saving.",
                pages=(page,),
                bytes=size,
                of_bytes=size,
                requests=len(gained),
                tried=False,
                facts=FarFacts(nearest=round(min(max(s.image.y, s.image.x) for _, here in waiting for s in here))),
                changes=(change,),
            )
        )
    return Found(tuple(findings))


def _gains(showing: Showing) -> bool:
    image, device = showing.image, showing.device
    return image.y >= device.height + _BROWSER_MARGIN or image.x >= device.width + _BROWSER_MARGIN


SURVEYOR = Surveyor("far images", find, (FarFacts,), needs=("heavy images",), remedies=("lazy-images",))
