"""Images that are loaded at once though they lie far below the first view."""

from __future__ import annotations

from collections.abc import Callable
from itertools import product

from unladen.plan import Change
from unladen.survey.evidence import Evidence, ImageUse, Showing
from unladen.survey.finding import Excess

# Chromium starts a lazy image when it comes within this distance of the window on a fast link (from its source:
# LazyLoadingDistanceThresholdPx, from memory); nearer ones are loaded all the same, so nothing would be gained.
_BROWSER_MARGIN = 1250
_OWN_MARGIN = 800  # that of our own script, in CSS px
_FAR = 0.5  # windows below the first view, so that a taller window does not see it either


def _far_below(showing: Showing) -> bool:
    image, height = showing.image, showing.device.height
    return image.visible and not image.first_view and image.y >= height * (1 + _FAR) and image.x >= 0


def _can_wait(use: ImageUse, page: str) -> bool:
    """Whether every showing on this page is an `img` far below that will not jump when it comes."""
    here = [s for s in use.showings if s.page == page]
    return bool(here) and all(
        s.image.via in ("img", "picture")
        and s.image.loading != "lazy"
        and (s.image.reserved or s.image.reservable)
        and _far_below(s)
        for s in here
    )


def find(evidence: Evidence, left: dict[str, int]) -> list[Excess]:
    """One excess for each page; `left` gives the bytes of each image after the other cures."""
    found = []
    for page in evidence.pages:
        uses = [use for use in evidence.images.values() if _can_wait(use, page)]
        gained = [use for use in uses if any(_gains(s) for s in use.showings if s.page == page)]
        if not gained:
            continue
        size = sum(left.get(use.exchange.url, use.exchange.size) for use in gained)
        change = Change(f"lazy:{page}", "lazy", tuple(use.path for use in uses), (page,))
        many = f"{len(gained)} pictures load" if len(gained) > 1 else "A picture loads"
        found.append(
            Excess(
                id=change.id,
                excess="loaded-early",
                kind="images",
                title=f"{many} far below the first view",
                why="They can wait until a visitor scrolls near them. The next weigh-in measures what that brings.",
                pages=(page,),
                bytes=size,
                of_bytes=size,
                requests=len(gained),
                tried=False,
                change=change,
                facts={"nearest": round(min(s.image.y for use in uses for s in use.showings if s.page == page))},
            )
        )
    return found


def without_means(evidence: Evidence, left: dict[str, int]) -> list[Excess]:
    """For each page what browsers cannot put off: backgrounds and posters far below, and what lies beneath the first slide."""
    found = []
    for page, (wait, (counts, where, why)) in product(evidence.pages, _UNSEEN.items()):
        uses = [use for use in evidence.images.values() if _all_count(use, page, counts)]
        if not uses:
            continue
        size = sum(left.get(use.exchange.url, use.exchange.size) for use in uses)
        change = Change(f"late-{wait}:{page}", "late", tuple(use.path for use in uses), (page,), {"wait": wait})
        sort = "background" if all(s.image.via == "background" for u in uses for s in u.showings) else "picture"
        many = f"{len(uses)} {sort}s load" if len(uses) > 1 else f"A {sort} loads"
        found.append(
            Excess(
                id=change.id,
                excess="loaded-early",
                kind="images",
                title=f"{many} {where}",
                why=f"{why} Browsers have no means of their own for this, so a small script of ours does it.",
                pages=(page,),
                bytes=size,
                of_bytes=size,
                requests=len(uses),
                tried=False,
                change=change,
                facts={
                    "where": sorted({s.image.selector for use in uses for s in use.showings if s.page == page})[:20]
                },
            )
        )
    return found


def _all_count(use: ImageUse, page: str, counts: Callable[[Showing], bool]) -> bool:
    here = [s for s in use.showings if s.page == page]
    return bool(here) and all(counts(s) for s in here)


def _far_background(showing: Showing) -> bool:
    low = showing.image.y >= showing.device.height + _OWN_MARGIN
    return showing.image.via in ("background", "poster") and _far_below(showing) and low


def _covered(showing: Showing) -> bool:
    image = showing.image
    return image.via in ("background", "img") and image.covered and image.loading != "lazy" and not image.by_srcset


_UNSEEN: dict[str, tuple[Callable[[Showing], bool], str, str]] = {
    "near": (_far_background, "far below the first view", "They can wait until a visitor comes near."),
    "act": (_covered, "beneath what is seen first", "They can wait until a visitor does anything."),
}


def _gains(showing: Showing) -> bool:
    return showing.image.y >= showing.device.height + _BROWSER_MARGIN
