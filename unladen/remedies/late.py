"""Backgrounds that wait until they come near the window; browsers have no attribute for that.

An element of the markup is marked, a rule takes its background away until our script marks it as near. Without scripts
the rule does not count (Media Queries Level 5, 7.1 "scripting").
"""

from __future__ import annotations

import re

from unladen.capture import Exchange
from unladen.markup.css import background_rule
from unladen.markup.html import Document, Element
from unladen.plan import Change
from unladen.remedies.draft import Draft
from unladen.remedies.loader import add_loader, add_to_head

_RULE = (
    "<style data-unladen=late>@media (scripting:enabled){[data-late]:not([data-seen])"
    "{background-image:none!important}}</style>"
)
_COMMENT = re.compile(r"/\*.*?\*/", re.S)


def apply(change: Change, draft: Draft) -> None:
    """Put off the targets, which are images, on the pages in scope.

    Parameter `wait` is `near`, or `act` for what lies beneath something else: it comes once a visitor does anything.
    """
    for path, image in draft.targets(change):
        for name in change.pages:
            found = draft.page(name)
            if found and not _put_off(change, draft, *found, image):
                draft.notice(path, f"is not the background of anything in the markup of {name}")


def _put_off(change: Change, draft: Draft, page: Exchange, document: Document, image: Exchange) -> bool:
    elements = elements_behind(draft, page, document, image)
    if not elements or not add_loader(change, draft, page, document):
        return False
    add_to_head(change, draft, page, document, _RULE, "unladen late")
    wait = str(change.params.get("wait", "near"))
    for element in elements:
        draft.edit(change, page, document.set_attribute(element, "data-late", wait), "data-late")
    draft.journal.spared[(image.url, draft.path(page))] = change.id
    return True


def elements_behind(draft: Draft, page: Exchange, document: Document, image: Exchange) -> list[Element]:
    """The elements of a page's markup whose background is an image; none if something else shows it too."""
    path, found = draft.path(page), {}
    for use in draft.texts.all_uses().get(image.url, []):
        if path not in draft.texts.pages_of(use.text):
            continue
        if use.reference.via != "style":
            return []
        element = use.reference.element
        if element is not None and element.tag != "style":
            found[element.start] = element
            continue
        text = draft.texts.text(use.text)
        styles, shift = text.chars if text else "", 0
        if element is not None:  # the text around the styles is a page
            styles, shift = styles[element.end : element.inner_end], element.end
        rule = background_rule(styles, use.reference.start - shift)
        if rule is None:
            return []
        selector = _COMMENT.sub("", styles[rule[0].start : rule[0].open]).strip()
        if re.search(r"::|:(before|after|first-l)", selector, re.I):
            return []  # what is made by a style sheet cannot be marked
        found |= {element.start: element for element in document.matching(selector) if not element.inert}
    return [element for _, element in sorted(found.items())]
