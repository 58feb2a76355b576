"""The same format at the lowest quality that looks the same."""

from __future__ import annotations

from unladen.remedies.change import Change
from unladen.remedies.draft import Draft
from unladen.remedies.images.replacing import SAME_SIZE, Coding, recipe_of, replace_images
from unladen.remedies.spec import Remedy


def apply(change: Change[Coding], draft: Draft) -> None:
    """Exchange what is in the file, so that no reference changes."""
    recipe = recipe_of(change.params, draft, width=0, format="")
    replace_images(change, draft, recipe, via=SAME_SIZE, in_place=True)


REMEDY = Remedy(
    name="recompress",
    phase="images",
    params=Coding,
    title="Compress without visible loss",
    what="Same format, same name",
    detail="The same format at lower quality, in the same file.",
    apply=apply,
    image_role="file",
)
