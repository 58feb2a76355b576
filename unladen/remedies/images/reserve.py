"""Reserve space: width and height attributes, so that the page does not jump when an image comes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from unladen.capture import Exchange
from unladen.markup.html import Document, Element
from unladen.raster.probe import ImageRefused, probe
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.spec import Remedy


@dataclass(frozen=True, slots=True, kw_only=True)
class ReserveParams(Params):
    """`ratio`: by a written ratio, where the styles or an attribute give one side, instead of by attributes."""

    ratio: bool = fields.flag()


def apply(change: Change[ReserveParams], draft: Draft) -> None:
    """Give the images the attributes of their size in px as found, or the ratio of it."""
    _reserve_all(change, draft, by_ratio=change.params.ratio)


def keep_boxes(change: Change[Any], draft: Draft) -> None:
    """The same for a change of another remedy, as far as boxes owe their size or shape to the file."""
    if change.params.reserve:
        _reserve_all(change, draft, by_ratio=False)
    if change.params.ratio:
        _reserve_all(change, draft, by_ratio=True)


def _reserve_all(change: Change[Any], draft: Draft, *, by_ratio: bool) -> None:
    for path, image in draft.targets(change):
        try:
            info = probe(draft.capture.body(image))
        except ImageRefused as refused:
            draft.notice(path, str(refused))
            continue
        for page in change.pages:
            parsed = draft.page(page)
            for use in draft.edits.uses_of(image, {page}, {"img"}) if parsed else []:
                element = use.reference.element
                if parsed is not None and element is not None and element.tag == "img":
                    write = _write_ratio if by_ratio else _write_size
                    write(change, draft, use.text, parsed[1], element, (info.width, info.height))


def _write_size(
    change: Change[Any], draft: Draft, page: Exchange, document: Document, element: Element, size: tuple[int, int]
) -> None:
    if {"width", "height"} & element.attrs.keys():
        return
    for name, value in (("height", size[1]), ("width", size[0])):
        draft.edits.edit(change, page, document.set_attribute(element, name, str(value)), name)


def _write_ratio(
    change: Change[Any], draft: Draft, page: Exchange, document: Document, element: Element, size: tuple[int, int]
) -> None:
    """The exact shape of the image as found, for boxes that take one side from styles and the other from the file."""
    style = element.attrs.get("style", "").rstrip("; ")
    if "aspect-ratio" in style.lower():
        return
    ratio = f"aspect-ratio:{size[0]}/{size[1]}"
    edit = document.set_attribute(element, "style", f"{style};{ratio}" if style else ratio)
    draft.edits.edit(change, page, edit, "style")


REMEDY = Remedy(
    name="reserve",
    phase="images",
    params=ReserveParams,
    title="Reserve space for images",
    what="The page stays put while pictures arrive",
    detail=(
        "Adds width and height attributes where nothing else sets the size of a picture. Where one side is set, the "
        "style gets an aspect ratio."
    ),
    apply=apply,
    may_edit_pages=True,
    steadies=True,
)
