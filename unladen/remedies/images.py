"""What the remedies for images share."""

from __future__ import annotations

from dataclasses import replace

from unladen.plan import Change
from unladen.raster.recode import Recipe
from unladen.remedies.draft import Draft

# How a page may refer to an image for its file to be exchanged; `source` elements state a type and stay as they are.
ANY_SIZE = {"img", "style", "preload", "data", "named"}
SAME_SIZE = ANY_SIZE | {"srcset", "poster", "other"}
NOWHERE = "is named only in a place that cannot be rewritten"


def recipe_of(change: Change, draft: Draft, *, width: int, format: str) -> Recipe:
    """The recipe for a change's parameters: `quality` if it has one, else its `similarity` (0 to 1)."""
    similarity, quality = float(change.params.get("similarity", 1.0)), int(change.params.get("quality", 0))
    return Recipe(width, format, similarity, quality, copyright=draft.settings.copyright)


def replace_images(change: Change, draft: Draft, *, width: int, format: str, via: set[str], in_place: bool) -> None:
    """Exchange every target for a smaller file made from the one as found, never from one that a change made."""
    for path, image in draft.targets(change):
        for version, pages in draft.versions(change, image).items():
            kept = width or version.width
            outcome = draft.memo.recode(image.digest, recipe_of(change, draft, width=kept, format=format))
            if outcome.refused:
                draft.notice(path, outcome.refused)
            elif outcome.size >= version.exchange.size:
                draft.notice(path, "would not get smaller")
            elif in_place:
                if version.exchange.url == image.url:
                    draft.replace_in_place(replace(change, pages=tuple(sorted(pages))), image, outcome)
            elif draft.settings.same_names:
                draft.notice(path, "would need another name, and only files of the same name are wanted")
            elif not draft.replace_image(change, image, version, pages, outcome, kept, via):
                draft.notice(path, NOWHERE)
