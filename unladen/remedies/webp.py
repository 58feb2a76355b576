"""A newer format. Parameters: `similarity` (0 to 1; 1 keeps every pixel) or `quality`, and `format` if not WebP.

In the place of the older format, or beside it as a choice of the browser's where the plan wants a fallback.
"""

from __future__ import annotations

from unladen.plan import Change
from unladen.remedies.draft import Draft
from unladen.remedies.images import NOWHERE, SAME_SIZE, recipe_of, replace_images
from unladen.remedies.offering import can_be_wrapped, offer_in_style, offer_source


def apply(change: Change, draft: Draft) -> None:
    """Exchange the file, at the size that an earlier change gave it, or offer another beside it."""
    format = str(change.params.get("format", "WEBP"))
    if draft.settings.fallback and not draft.settings.same_names and format in ("WEBP", "AVIF"):
        offer(change, draft, format)
    else:
        replace_images(change, draft, width=0, format=format, via=SAME_SIZE, in_place=False)


def offer(change: Change, draft: Draft, format: str) -> None:
    """Offer a smaller file beside each target where the page allows it."""
    for path, image in draft.targets(change):
        for version, pages in draft.versions(change, image).items():
            recipe = recipe_of(change, draft, width=version.width, format=format)
            outcome = draft.memo.recode(image.digest, recipe)
            if outcome.refused or outcome.size >= version.exchange.size:
                draft.notice(path, outcome.refused or "would not get smaller")
                continue
            target = draft.new_file(image, outcome, version.width)
            done = False
            for use in draft.uses_of(image, pages, {"img", "style"}):
                if use.reference.via == "style":
                    done |= offer_in_style(change, draft, use, image, target)
                elif can_be_wrapped(use.reference.element):
                    done |= offer_source(change, draft, use, target, outcome.width)
            if done:
                draft.offer(change, version.exchange, target, pages)
            else:
                draft.notice(path, NOWHERE)
