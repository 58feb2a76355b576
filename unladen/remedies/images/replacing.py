"""What the remedies for images share."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from unladen.raster.recode import Recipe
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft

# How a page may refer to an image for its file to be exchanged; `source` elements state a type and stay as they are.
ANY_SIZE = {"img", "style", "preload", "data", "named"}
SAME_SIZE = ANY_SIZE | {"srcset", "poster", "other"}
NAMED = SAME_SIZE | {"picture"}  # whatever can be rewritten by one remedy or another
NOWHERE = "is named only in a place that cannot be rewritten"
MOST_WIDTH = 30_000  # px


def width(default: Any = 0) -> Any:
    """A width of a file in px; 0 for as it is."""
    return fields.whole(0, MOST_WIDTH, default)


@dataclass(frozen=True, slots=True, kw_only=True)
class Coding(Params):
    """`similarity` to hold (0 to 1; 1 keeps every pixel), or a `quality` (1 to 100) that is taken as it is; 0 for none.

    How visitors see it, which decides how alike it must be: `density` in px of the file per CSS px, and a `veil` over
    it, as red, green, blue and cover in percent.
    """

    similarity: float = fields.share(1.0)
    quality: int = fields.whole(0, 100, 0)
    density: float = fields.number(0, 10, 1.0)
    veil: tuple[int, ...] = fields.wholes(0, 255, (), most=4)


def recipe_of(coding: Coding, draft: Draft, *, width: int, format: str, part: tuple[int, ...] = ()) -> Recipe:
    """The recipe for a change's parameters."""
    return Recipe(
        width,
        format,
        coding.similarity,
        coding.quality,
        copyright=draft.images.copyright,
        part=part,
        density=coding.density,
        veil=coding.veil,
    )


def exact_recipe(draft: Draft, format: str = "") -> Recipe:
    """The recipe that keeps every pixel."""
    return Recipe(0, format, copyright=draft.images.copyright)


def replace_images(change: Change[Any], draft: Draft, recipe: Recipe, *, via: set[str], in_place: bool) -> None:
    """Exchange every target for a smaller file made from the one as found, never from one that a change made.

    Where the recipe says nothing of a width or part, it is the one that an earlier change gave the image.
    """
    for path, image in draft.targets(change):
        for version, pages in draft.files.versions(change, image).items():
            kept, part = recipe.width or version.width, recipe.part or version.part
            outcome = draft.work_cache.outcome(image.digest, replace(recipe, width=kept, part=part))
            if outcome.refused:
                draft.notice(path, outcome.refused)
            elif outcome.size >= version.exchange.size:
                draft.notice(path, "would not become smaller")
            elif in_place:
                if version.exchange.url == image.url:
                    draft.files.replace_in_place(replace(change, pages=tuple(sorted(pages))), image, outcome)
            elif not draft.files.replace_image(change, image, version, pages, outcome, (kept, part), via):
                draft.notice(path, NOWHERE)
