"""What browsers cannot put off by themselves.

Backgrounds and posters far below, and what lies beneath the first slide.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import product

from unladen.remedies import Change
from unladen.remedies.images.lazy_backgrounds import UntilParams
from unladen.remedies.loader import MARGIN
from unladen.survey.findings import Finding, PlaceFacts
from unladen.survey.images.far import far_below
from unladen.survey.site_facts import Showing, places_of
from unladen.survey.spec import Context, Found, Surveyor


def find(context: Context) -> Found:
    """At most one excess of each sort for each page."""
    evidence, left = context.evidence, context.left("heavy images")
    findings = []
    for page, (wait, (counts, where, why)) in product(evidence.pages, _UNSEEN.items()):
        uses = [use for use, here in evidence.shown_on(page) if all(map(counts, here))]
        if not uses:
            continue
        size = sum(left.get(use.exchange.url, use.exchange.size) for use in uses)
        change = Change(
            f"lazy-backgrounds-{wait}:{page}",
            "lazy-backgrounds",
            tuple(use.path for use in uses),
            (page,),
            UntilParams(wait=wait),
        )
        sort = "background" if all(s.image.via == "background" for u in uses for s in u.showings) else "picture"
        many = f"{len(uses)} {sort}s load" if len(uses) > 1 else f"A {sort} loads"
        findings.append(
            Finding(
                id=change.id,
                excess="loaded-early",
                kind="images",
                title=f"{many} {where}",
                why=f"{why} Browsers cannot do this by themselves, so a small script of ours does it.",
                pages=(page,),
                bytes=size,
                of_bytes=size,
                requests=len(uses),
                tried=False,
                facts=PlaceFacts(where=places_of(uses, (page,))),
                changes=(change,),
            )
        )
    return Found(tuple(findings))


def _far_background(showing: Showing) -> bool:
    low = showing.image.y >= showing.device.height + MARGIN
    return showing.image.via in ("background", "poster") and far_below(showing) and low


def _covered(showing: Showing) -> bool:
    image = showing.image
    return image.via in ("background", "img") and image.covered and image.loading != "lazy" and not image.by_srcset


_UNSEEN: dict[str, tuple[Callable[[Showing], bool], str, str]] = {
    "near": (_far_background, "far below the first view", "They can wait until a visitor comes near."),
    "act": (_covered, "below the first slide", "They can wait for the first interaction."),
}

SURVEYOR = Surveyor("far backgrounds", find, (PlaceFacts,), needs=("heavy images",), remedies=("lazy-backgrounds",))
