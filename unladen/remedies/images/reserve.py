"""Reserve space: width and height attributes, so that the page does not jump when an image comes."""

from __future__ import annotations

from typing import Any

from unladen.capture import Exchange
from unladen.raster.probe import ImageRefused, probe
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.spec import Remedy


def apply(change: Change[Params], draft: Draft) -> None:
    """Give the images the attributes of their size in px as found."""
    reserve(change, draft)


def reserve(change: Change[Any], draft: Draft) -> None:
    """The same for a change of another remedy."""
    for path, image in draft.targets(change):
        try:
            info = probe(draft.capture.body(image))
        except ImageRefused as refused:
            draft.notice(path, str(refused))
            continue
        for page in change.pages:
            _reserve(change, draft, page, image, info.width, info.height)


def _reserve(change: Change[Any], draft: Draft, page: str, image: Exchange, width: int, height: int) -> None:
    found = draft.page(page)
    for use in draft.uses_of(image, {page}, {"img"}) if found else []:
        element = use.reference.element
        if element is None or element.tag != "img" or {"width", "height"} & element.attrs.keys():
            continue
        assert found is not None
        for name, value in (("height", height), ("width", width)):
            draft.edit(change, use.text, found[1].set_attribute(element, name, str(value)), name)


REMEDY = Remedy(
    name="reserve",
    phase="images",
    params=Params,
    title="Reserve space",
    what="The page stays put while pictures arrive",
    detail="Width and height attributes where nothing else says how much space a picture takes.",
    apply=apply,
    may_edit_pages=True,
    steadies=True,
)
