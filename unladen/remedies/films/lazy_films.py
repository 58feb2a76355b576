"""A film that loads when it is wanted: when a visitor plays it or, if it plays by itself, comes near it.

HTML Standard, 4.8.11.5 "preload"; our own script plays what would have played by itself.
"""

from __future__ import annotations

from dataclasses import dataclass

from unladen.markup.edits import Edit
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.films.elements import FilmTag, first_picture, shown
from unladen.remedies.images.replacing import width
from unladen.remedies.journal import Spared
from unladen.remedies.loader import add_loader
from unladen.remedies.spec import Remedy


@dataclass(frozen=True, slots=True, kw_only=True)
class LazyFilmParams(Params):
    """`width` in px of the picture that stands there until then (0: as it is)."""

    width: int = width()


def apply(change: Change[LazyFilmParams], draft: Draft) -> None:
    """Let the targets wait on the pages in scope."""
    for film, tag in shown(draft, change):
        if _wait(change, draft, tag):
            if link := first_picture(change, draft, film, tag, change.params.width):
                draft.edits.edit(change, tag.page, tag.document.set_attribute(tag.element, "poster", link), "poster")
            draft.journal.write(Spared(change.id, film.url, draft.path(tag.page)))


def _wait(change: Change[LazyFilmParams], draft: Draft, tag: FilmTag) -> bool:
    element, document = tag.element, tag.document
    if "autoplay" in element.attrs:
        if not add_loader(change, draft, tag.page, document):
            return False
        draft.edits.edit(change, tag.page, Edit(*element.spans["autoplay"], ""), "autoplay")
        draft.edits.edit(change, tag.page, document.set_attribute(element, "data-late", "near"), "data-late")
    return draft.edits.edit(change, tag.page, document.set_attribute(element, "preload", "none"), "preload")


REMEDY = Remedy(
    name="lazy-films",
    phase="lazy",
    params=LazyFilmParams,
    title="Lazy loading: videos",
    defers=True,
    what="Videos load when a visitor plays them or comes near",
    detail=(
        "Sets preload=none and shows the first frame. A video far below that would play by itself plays when it is "
        "near."
    ),
    apply=apply,
    may_edit_pages=True,
    formerly="wait",
)
