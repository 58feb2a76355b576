"""Better packing with every pixel as it was, and without what no browser shows."""

from __future__ import annotations

from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.images.replacing import SAME_SIZE, exact_recipe, replace_images
from unladen.remedies.spec import Remedy


def apply(change: Change[Params], draft: Draft) -> None:
    """Exchange what is in the file, so that no reference changes."""
    replace_images(change, draft, exact_recipe(draft), via=SAME_SIZE, in_place=True)


REMEDY = Remedy(
    name="exact",
    phase="images",
    params=Params,
    title="Lossless compression",
    what="Every pixel stays the same",
    detail=(
        "Packs images better (JPEG by jpegtran, PNG by oxipng) and removes metadata. Orientation and colour profile "
        "stay; copyright stays if asked. The file keeps its name."
    ),
    apply=apply,
    image_role="file",
)
