"""Icons of tabs and home screens at the size at which they are shown."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.remedies.change import Change
from unladen.remedies.draft import Draft
from unladen.remedies.images.replacing import Coding, recipe_of, replace_images, width
from unladen.remedies.spec import Remedy

VIA = {"icon"}


@dataclass(frozen=True, slots=True, kw_only=True)
class IconParams(Coding):
    """The width in px that is enough."""

    width: int = width()


def apply(change: Change[IconParams], draft: Draft) -> None:
    """Exchange what is in the files; browsers ask for them by the names they know."""
    recipe = recipe_of(change.params, draft, width=change.params.width, format="")
    replace_images(change, draft, recipe, via=VIA, in_place=True)


REMEDY = Remedy(
    name="site-icons",
    phase="images",
    params=IconParams,
    title="Lighter site icons",
    what="No larger than they are shown",
    detail=(
        "Resizes tab and home screen icons to the size in their link, else to 64 px (180 px on home screens), in the "
        "same format and file. Weigh-ins do not load these icons; browsers do, once for each visitor."
    ),
    apply=apply,
    steadies=True,
)
