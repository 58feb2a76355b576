"""Resize to shown size: an image no larger than it is ever shown."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.remedies import fields
from unladen.remedies.change import Change
from unladen.remedies.draft import Draft
from unladen.remedies.images import reserve
from unladen.remedies.images.replacing import ANY_SIZE, MOST_WIDTH, Coding, recipe_of, replace_images
from unladen.remedies.spec import Remedy


@dataclass(frozen=True, slots=True, kw_only=True)
class ShrinkParams(Coding):
    """`width` in px; `reserve` when a box owes its size to the image, `ratio` when it owes its shape to it.

    `part`: left, top, width and height in px of all that is ever shown; none for the whole.
    """

    width: int = fields.whole(1, MOST_WIDTH)
    reserve: bool = fields.flag()
    ratio: bool = fields.flag()
    part: tuple[int, ...] = fields.wholes(0, MOST_WIDTH, (), most=4)


def apply(change: Change[ShrinkParams], draft: Draft) -> None:
    """Exchange the file; where its elements had their size from it they get the size of the one as found."""
    params, in_place = change.params, draft.delivery.same_names
    if in_place and (params.reserve or params.ratio):
        for path in change.targets:
            draft.notice(path, "gives its box its size, which only an edit of the page could keep")
        return
    steps = len(draft.journal.entries)
    recipe = recipe_of(params, draft, width=params.width, format="", part=params.part)
    replace_images(change, draft, recipe, via=ANY_SIZE, in_place=in_place)
    if len(draft.journal.entries) > steps:
        reserve.keep_boxes(change, draft)


REMEDY = Remedy(
    name="shrink",
    phase="images",
    params=ShrinkParams,
    title="Resize to shown size",
    what="No larger than it is ever shown",
    detail=(
        "Fewer pixels, in a new file, or in the same file where names must stay. Of a picture that covers a frame, "
        "only the part that some window shows."
    ),
    apply=apply,
    image_role="file",
)
