"""What the first view of a page needs of its styles stands in the page; the style sheets hold it up no more."""

from __future__ import annotations

import html
from dataclasses import dataclass

from unladen.capture import Exchange
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element
from unladen.markup.references import resolve
from unladen.markup.site import SiteTexts
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import AddressOf, Draft, LinkedEdit
from unladen.remedies.loader import may_run_inline
from unladen.remedies.scripts.order import Tag, scripts_of
from unladen.remedies.spec import Remedy
from unladen.styles.first import first_rules

# A style sheet for paper does not hold up the screen (HTML Standard, 4.6.7.26 "stylesheet").
_HELD, _COMES = "print", "this.media=this.dataset.media"


@dataclass(frozen=True, slots=True, kw_only=True)
class FirstParams(Params):
    """`first`: the relaxed selectors that something in the first view matches."""

    first: tuple[str, ...] = fields.names()

    def joined(self, other: Params) -> FirstParams | None:
        """What the first views of both pages match."""
        return FirstParams(first=tuple(sorted({*self.first, *other.first}))) if type(other) is FirstParams else None


def links_of(texts: SiteTexts, page: Exchange, document: Document) -> list[tuple[Element, Exchange]]:
    """The tags of a page that hold it up for a style sheet that can be read, in order."""
    base, links = texts.base(page), []
    for element in document.elements:
        relation = element.attrs.get("rel", "").lower().split()
        if element.tag != "link" or element.inert or "stylesheet" not in relation or "alternate" in relation:
            continue
        url = resolve(base, element.attrs.get("href", ""))
        sheet = texts.capture.lookup(url) if url else None
        plain = not {"title", "disabled", "onload", "integrity"}.intersection(element.attrs)
        paper = element.attrs.get("media", "").strip().lower() == "print"
        if (
            sheet
            and texts.capture.owns(sheet.url)
            and plain
            and not paper
            and sheet.media_type == "text/css"
            and texts.text(sheet) is not None
        ):
            links.append((element, sheet))
    return links


def late_by_itself(document: Document) -> bool:
    """Whether a page has style sheets come late by a way of its own."""
    links = [e.attrs for e in document.elements if e.tag == "link" and not e.inert and "onload" in e.attrs]
    return any(
        "stylesheet" in f"{attrs.get('rel', '')} {attrs['onload']} {attrs.get('as', '')}".lower() for attrs in links
    )


def measures(tags: list[Tag]) -> str:
    """Which script looks at sizes as soon as it runs, and would find others before the styles are there; "" if none
    does.
    """
    for tag in tags:
        if tag.names.measures:
            called = tag.url or "a script within the page"
            return f"{called} measures things as it runs" if tag.known else f"{called} is not in the recording"
    return ""


def inlined(texts: SiteTexts, sheet: Exchange, first: frozenset[str], media: str) -> str:
    """What a page gets of a sheet; raises `ValueError`."""
    text = texts.text(sheet)
    rules = first_rules(text.chars, first) if text else ""
    if "</" in rules:
        raise ValueError("has what would end the styles of a page")
    return f"@media {media}{{{rules}}}" if rules and media and media.lower() != "all" else rules


def apply(change: Change[FirstParams], draft: Draft) -> None:
    """Do so with the targets, style sheets, on the pages in scope."""
    wanted = {file.url for _, file in draft.targets(change)}
    for path, page, document in draft.pages(change):
        running = [
            tag for tag in scripts_of(draft.texts, page, document) if not draft.edits.is_held(page, tag.element)
        ]
        if not may_run_inline(page, document):
            draft.notice(path, "has a policy that keeps style sheets from coming later")
        elif culprit := measures(running):
            draft.notice(path, f"keeps its style sheets first, since {culprit}")
        else:
            _inline(change, draft, page, document, wanted)


def _inline(change: Change[FirstParams], draft: Draft, page: Exchange, document: Document, wanted: set[str]) -> None:
    first = frozenset(change.params.first)
    for element, sheet in links_of(draft.texts, page, document):
        if sheet.url not in wanted:
            continue
        media = element.attrs.get("media", "").strip()
        try:
            rules = inlined(draft.texts, sheet, first, media)
        except ValueError as error:
            draft.notice(draft.path(sheet), str(error))
            continue
        at = element.start
        tag = f"<style data-unladen=first>{rules}</style>" if rules else ""
        if tag and not draft.edits.edit(change, page, Edit(at, at, tag, slot="unladen first view", adds=True)):
            continue
        for name, value in (("media", _HELD), ("data-media", media or "all"), ("onload", _COMES)):
            draft.edits.edit(change, page, document.set_attribute(element, name, value), name)
        # Whoever runs no scripts gets the sheet all the same.
        more = f' media="{html.escape(media)}"' if media else ""
        parts = ('<noscript><link rel=stylesheet href="', AddressOf(sheet.url), f'"{more}></noscript>')
        plain = LinkedEdit(element.end, element.end, "", slot="unladen late", adds=True, parts=parts)
        draft.edits.edit(change, page, plain)


REMEDY = Remedy(
    name="first-view-styles",
    phase="markup",
    params=FirstParams,
    title="Inline CSS of the first view",
    what="Style sheets no longer delay the first paint",
    detail=(
        "Writes the rules that the first view needs on all weighed devices into the page. Style sheets load without "
        "delaying the page. Skipped where a script measures the layout as it runs. The check also compares the first "
        "view before the sheets arrive."
    ),
    apply=apply,
    least_effort="bold",
    may_edit_pages=True,
    steadies=True,
    puts_off=True,
)
