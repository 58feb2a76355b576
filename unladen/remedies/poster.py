"""The first picture instead of the film in narrow windows. Parameters: `below` in CSS px, `width` of the picture in
px, `fit` as of `object-fit`.

A source whose `media` does not hold is not loaded (HTML Standard, 4.8.2 "The source element"). The picture is a background,
since a `poster` would be loaded in wide windows too.
"""

from __future__ import annotations

from unladen.plan import Change
from unladen.remedies.draft import Draft
from unladen.remedies.filming import FilmTag, first_picture, put, shown, sources_of
from unladen.remedies.loader import add_to_head


def apply(change: Change, draft: Draft) -> None:
    """Leave the targets out below a width of the window."""
    for film, tag in shown(draft, change):
        sources_of(draft, tag).below = int(change.params["below"])
        if put(change, draft, tag):
            _show(change, draft, tag, first_picture(change, draft, film, tag))
            draft.journal.spared[(film.url, draft.path(tag.page))] = change.id


def _show(change: Change, draft: Draft, tag: FilmTag, link: str) -> None:
    if not link:
        return
    mark = f"u{tag.element.start}"
    size = _SIZES.get(str(change.params.get("fit", "")), "contain")
    rule = f'[data-poster={mark}]{{background:url("{link}") center/{size} no-repeat}}'
    text = f"<style data-unladen=poster>@media (max-width:{int(change.params['below'])}px){{{rule}}}</style>"
    add_to_head(change, draft, tag.page, tag.document, text, f"unladen poster {mark}")
    draft.edit(change, tag.page, tag.document.set_attribute(tag.element, "data-poster", mark), "data-poster")


_SIZES = {"cover": "cover", "fill": "100% 100%", "none": "auto"}
