"""Shrink to shown: an image no larger than it is ever shown.

Parameters: `width` in px, `similarity` of the coding (0 to 1) or its `quality`, `reserve` when a box owes its size to
the image.
"""

from __future__ import annotations

from unladen.plan import Change
from unladen.remedies import reserve
from unladen.remedies.draft import Draft
from unladen.remedies.images import ANY_SIZE, replace_images


def apply(change: Change, draft: Draft) -> None:
    """Exchange the file; where its elements had their size from it they get the size of the one as found."""
    if draft.settings.same_names and change.params.get("reserve"):
        for path in change.targets:
            draft.notice(path, "gives its box its size, which only an edit of the page could keep")
        return
    steps = len(draft.journal.stages)
    width, in_place = int(change.params["width"]), draft.settings.same_names
    replace_images(change, draft, width=width, format="", via=ANY_SIZE, in_place=in_place)
    if change.params.get("reserve") and len(draft.journal.stages) > steps:
        reserve.apply(change, draft)
