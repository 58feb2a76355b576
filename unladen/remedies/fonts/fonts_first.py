"""Fonts of the first view are asked for with the page, not once its styles have come (HTML Standard, 4.6.7.18
"preload").
"""

from __future__ import annotations

from unladen.capture import Exchange
from unladen.markup.html import Document
from unladen.markup.references import link_to
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.loader import add_to_head
from unladen.remedies.spec import Remedy


def apply(change: Change[Params], draft: Draft) -> None:
    """Name the targets, which are fonts, in the head of the pages in scope."""
    for path, font in draft.targets(change):
        for _, page, document in draft.pages(change):
            _name(change, draft, page, document, path, font)


def _name(
    change: Change[Params], draft: Draft, page: Exchange, document: Document, path: str, font: Exchange
) -> None:
    # Of several files for one face a browser takes the last one made, which is the smallest.
    last = list(draft.journal.chains_of(font.url, draft.path(page)))[-1]
    base = draft.texts.base(page)
    sort = "font/woff2" if last.lower().partition("?")[0].endswith(".woff2") else font.media_type
    link = link_to(last, base)
    # Fonts are always fetched by the rules for other origins (CSS Fonts Level 4, 4.8.2).
    text = f'<link data-unladen=font rel=preload as=font type="{sort}" crossorigin href="{link}">'
    add_to_head(change, draft, page, document, text, f"unladen font {path}")


REMEDY = Remedy(
    name="fonts-first",
    phase="fonts",
    params=Params,
    title="Preload fonts",
    what="Fonts of the first view that only style sheets name",
    detail="Adds preload links for at most two fonts that set text of the first view on every device.",
    apply=apply,
    least_effort="steady",
    may_edit_pages=True,
    steadies=True,
)
