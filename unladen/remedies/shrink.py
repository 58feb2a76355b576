"""Shrink to shown: an image no larger than it is ever shown.

Parameters: `width` in px, `similarity` of the coding (0 to 1), `reserve` when a box owes its size to the image.
"""

from __future__ import annotations

from unladen.plan import Change
from unladen.remedies import reserve
from unladen.remedies.draft import Draft
from unladen.remedies.images import ANY_SIZE, replace_images


def apply(change: Change, draft: Draft) -> None:
    """Exchange the file; where its elements had their size from it they get the size of the one as found."""
    steps = len(draft.journal.stages)
    replace_images(change, draft, width=int(change.params["width"]), format="", via=ANY_SIZE)
    if change.params.get("reserve") and len(draft.journal.stages) > steps:
        reserve.apply(change, draft)
