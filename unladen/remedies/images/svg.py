"""SVG files minified in their place."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from unladen.raster.recode import SVG, Recipe
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.images.replacing import SAME_SIZE, replace_images
from unladen.remedies.spec import Remedy


@dataclass(frozen=True, slots=True, kw_only=True)
class SvgParams(Params):
    """Nothing to be set."""

    format: ClassVar[str] = SVG


def apply(change: Change[SvgParams], draft: Draft) -> None:
    """Exchange what is in the file, so that no reference changes."""
    replace_images(change, draft, Recipe(format=SVG), via=SAME_SIZE, in_place=True)


REMEDY = Remedy(
    name="svg",
    phase="images",
    params=SvgParams,
    title="Minify SVG",
    what="SVG that draws the same",
    detail=(
        "Removes comments, editor data and needless digits from drawings. Names and titles stay. The file keeps its "
        "name."
    ),
    apply=apply,
    image_role="file",
)
