"""Tiny scripts and style sheets written into the pages that ask for them, which saves a request each."""

from __future__ import annotations

import html
import re
from collections.abc import Iterator

from unladen.capture import Exchange
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element
from unladen.markup.site import SiteTexts
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import ContentsOf, Draft, LinkedEdit
from unladen.remedies.journal import Spared
from unladen.remedies.loader import policies_of
from unladen.remedies.scripts.order import scripts_of
from unladen.remedies.spec import Remedy
from unladen.remedies.styles.first_view_styles import links_of

MOST = 1_000  # characters
# What would end the element around it, ask where the file is, or count its links from there.
_NOT_WITHIN = re.compile(
    r"</|<!--|currentScript|sourceMappingURL|@import|@charset|@namespace|url\(|image-set\(", re.I
)


def may_be_within(texts: SiteTexts, file: Exchange) -> bool:
    """Whether a script or style sheet does the same where it stands in a page."""
    text = texts.text(file)
    return text is not None and len(text.chars) <= MOST and not _NOT_WITHIN.search(text.chars)


def tags_of(texts: SiteTexts, page: Exchange, document: Document) -> Iterator[tuple[Element, Exchange]]:
    """The tags of a page that run a file where they stand, or style by it, and could hold it; each with the file."""
    if policies_of(page, document):
        return
    for tag in scripts_of(texts, page, document):
        file = texts.capture.lookup(tag.url) if tag.url else None
        plain = tag.when == "now" and not tag.module and "integrity" not in tag.element.attrs
        if file and plain and texts.capture.owns(file.url) and may_be_within(texts, file):
            yield tag.element, file
    for element, file in links_of(texts, page, document):
        if may_be_within(texts, file):
            yield element, file


def within(document: Document, element: Element, file: Exchange) -> Edit:
    """The edit that exchanges a tag for one with the text of the file in it."""
    if element.tag == "link":
        media = element.attrs.get("media", "").strip()
        more = f' media="{html.escape(media)}"' if media else ""
        parts = (f"<style data-unladen=inline{more}>", ContentsOf(file.url), "</style>")
        return LinkedEdit(element.start, element.end, "", adds=True, parts=parts)
    kept = {name: value for name, value in element.attrs.items() if name not in ("src", "charset", "crossorigin")}
    attrs = "".join(f' {name}="{html.escape(value)}"' for name, value in kept.items())
    end = document.chars.index(">", element.inner_end) + 1
    parts = (f"<script{attrs}>", ContentsOf(file.url), "</script>")
    return LinkedEdit(element.start, end, "", adds=True, parts=parts)


def apply(change: Change[Params], draft: Draft) -> None:
    """Write each target into the pages in scope that name it."""
    wanted = {file.url for _, file in draft.targets(change)}
    for path, page, document in draft.pages(change):
        for element, file in tags_of(draft.texts, page, document):
            if file.url in wanted and draft.edits.take(change, page, element, within(document, element, file)):
                draft.journal.write(Spared(change.id, file.url, path))


REMEDY = Remedy(
    name="inline-code",
    phase="markup",
    params=Params,
    title="Inline tiny scripts and styles",
    what="Tiny files whose request costs more than their bytes",
    detail=(
        "Replaces the tag by the text of the file, for files of up to 1,000 characters. Skipped for files that name "
        "other files, and on pages with a content policy."
    ),
    apply=apply,
    least_effort="steady",
    may_edit_pages=True,
)
