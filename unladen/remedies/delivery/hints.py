"""Hints about other hosts: those that a page will need are looked up early, and those that it never asks are not."""

from __future__ import annotations

import html
from dataclasses import dataclass
from urllib.parse import urlsplit

from unladen.capture import Exchange
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element
from unladen.markup.references import resolve
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.loader import add_to_head
from unladen.remedies.spec import Remedy

_HINTS = {"preconnect", "dns-prefetch"}


@dataclass(frozen=True, slots=True, kw_only=True)
class HintParams(Params):
    """For each page by its path, with spaces between them: origins to `connect` to early, and `idle` ones whose hints
    go. `fonts`: those that fonts come from.
    """

    connect: dict[str, str] = fields.texts(most=4_000)
    idle: dict[str, str] = fields.texts(most=20_000)
    fonts: tuple[str, ...] = fields.names(100)


def origin_of(url: str) -> str:
    """Scheme and host of an address."""
    parts = urlsplit(url)
    return f"{parts.scheme}://{parts.netloc}".lower()


def hints_in(document: Document, base: str) -> list[tuple[Element, str]]:
    """The tags of a page that hint at hosts, each with the origin."""
    hints = []
    for element in document.elements:
        relations = set(element.attrs.get("rel", "").lower().split())
        if element.tag != "link" or element.inert or not relations or not relations <= _HINTS:
            continue
        if (url := resolve(base, element.attrs.get("href", ""))) is not None:
            hints.append((element, origin_of(url)))
    return hints


def apply(change: Change[HintParams], draft: Draft) -> None:
    """Do so on the targets, which are pages."""
    for path, page, document in draft.target_pages(change):
        _apply(change, draft, path, page, document)


def _apply(change: Change[HintParams], draft: Draft, path: str, page: Exchange, document: Document) -> None:
    params = change.params
    idle = params.idle.get(path, "").split()
    for element, origin in hints_in(document, draft.texts.base(page)):
        if origin in idle:
            draft.edits.edit(change, page, Edit(element.start, element.end, "", adds=True))
    for origin in params.connect.get(path, "").split():
        # Fonts take a connection of their own, without cookies (HTML Standard, 4.6.7.13 "preconnect").
        more = " crossorigin" if origin in params.fonts else ""
        text = f'<link data-unladen=hint rel=preconnect href="{html.escape(origin, quote=True)}"{more}>'
        add_to_head(change, draft, page, document, text, f"unladen hint {origin}")


REMEDY = Remedy(
    name="hints",
    phase="delivery",
    params=HintParams,
    title="Connect early to other hosts",
    what="Preconnect hints for hosts that the page needs",
    detail=(
        "Adds `preconnect` for at most two hosts that browsers learn of only from other files. Removes hints for "
        "hosts that the page never requested, scrolled and walked through."
    ),
    apply=apply,
    may_edit_pages=True,
    steadies=True,
)
