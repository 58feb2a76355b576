"""A film that loads when it is wanted: when a visitor plays it or, if it plays by itself, comes near it.

HTML Standard, 4.8.11.5 "preload"; our own script plays what would have played by itself. Parameter: `width` of the
picture that stands there until then, in px.
"""

from __future__ import annotations

from unladen.markup.edits import Edit
from unladen.plan import Change
from unladen.remedies.draft import Draft
from unladen.remedies.filming import FilmTag, first_picture, shown
from unladen.remedies.loader import add_loader


def apply(change: Change, draft: Draft) -> None:
    """Let the targets wait on the pages in scope."""
    for film, tag in shown(draft, change):
        if _wait(change, draft, tag):
            if link := first_picture(change, draft, film, tag):
                draft.edit(change, tag.page, tag.document.set_attribute(tag.element, "poster", link), "poster")
            draft.journal.spared[(film.url, draft.path(tag.page))] = change.id


def _wait(change: Change, draft: Draft, tag: FilmTag) -> bool:
    element, document = tag.element, tag.document
    if "autoplay" in element.attrs:
        if not add_loader(change, draft, tag.page, document):
            return False
        draft.edit(change, tag.page, Edit(*element.spans["autoplay"], ""), "autoplay")
        draft.edit(change, tag.page, document.set_attribute(element, "data-late", "near"), "data-late")
    return draft.edit(change, tag.page, document.set_attribute(element, "preload", "none"), "preload")
