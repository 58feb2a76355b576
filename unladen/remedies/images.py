"""What the remedies for images share."""

from __future__ import annotations

from unladen.plan import Change
from unladen.raster.recode import Recipe
from unladen.remedies.draft import Draft

# How a page may refer to an image for its file to be exchanged; `source` elements state a type and stay as they are.
ANY_SIZE = {"img", "style", "preload"}
SAME_SIZE = ANY_SIZE | {"srcset", "poster", "other"}


def replace_images(change: Change, draft: Draft, *, width: int, format: str, via: set[str]) -> None:
    """Exchange every target for a smaller file made from the one as found, never from one that a change made."""
    for path in change.targets:
        image = draft.exchange(path)
        if image is None:
            draft.notice(path, "is not in the site any more")
            continue
        for version, pages in draft.versions(change, image).items():
            kept = width or version.width
            outcome = draft.memo.recode(image.digest, Recipe(kept, format, float(change.params["similarity"])))
            if outcome.refused:
                draft.notice(path, outcome.refused)
            elif outcome.size >= version.exchange.size:
                draft.notice(path, "would not get smaller")
            elif not draft.replace_image(change, image, version, pages, outcome, kept, via):
                draft.notice(path, "is named only by a script or in a place that cannot be rewritten")
