"""The first picture instead of the film in narrow windows.

A source whose `media` does not hold is not loaded (HTML Standard, 4.8.2 "The source element"). The picture is a
background, since a `poster` would be loaded in wide windows too.
"""

from __future__ import annotations

from dataclasses import dataclass

from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.films.elements import FilmTag, first_picture, put, shown, sources_of
from unladen.remedies.images.replacing import width
from unladen.remedies.journal import Spared
from unladen.remedies.loader import add_to_head
from unladen.remedies.spec import Remedy


@dataclass(frozen=True, slots=True, kw_only=True)
class PosterParams(Params):
    """`below` in CSS px of the window, `width` of the picture in px (0: as it is), `fit` as of `object-fit`."""

    below: int = fields.whole(1, 4000)
    width: int = width()
    fit: str = fields.word("", "contain", "cover", "fill", "none", "scale-down", default="")


def apply(change: Change[PosterParams], draft: Draft) -> None:
    """Leave the targets out below a width of the window."""
    for film, tag in shown(draft, change):
        sources_of(draft, tag).below = change.params.below
        if put(change, draft, tag):
            _show(change, draft, tag, first_picture(change, draft, film, tag, change.params.width))
            draft.journal.write(Spared(change.id, film.url, draft.path(tag.page)))


def _show(change: Change[PosterParams], draft: Draft, tag: FilmTag, link: str) -> None:
    if not link:
        return
    mark = f"u{tag.element.start}"
    size = _SIZES.get(change.params.fit, "contain")
    rule = f'[data-poster={mark}]{{background:url("{link}") center/{size} no-repeat}}'
    text = f"<style data-unladen=poster>@media (max-width:{change.params.below}px){{{rule}}}</style>"
    add_to_head(change, draft, tag.page, tag.document, text, f"unladen poster {mark}")
    draft.edits.edit(change, tag.page, tag.document.set_attribute(tag.element, "data-poster", mark), "data-poster")


_SIZES = {"cover": "cover", "fill": "100% 100%", "none": "auto"}


REMEDY = Remedy(
    name="poster",
    phase="media",
    params=PosterParams,
    title="No video on phones",
    what="Its first frame in narrow windows",
    detail="In windows of up to 700 px, a background video does not load. Its first frame shows instead.",
    apply=apply,
    least_effort="steady",
    may_edit_pages=True,
    needs_new_names=True,
)
