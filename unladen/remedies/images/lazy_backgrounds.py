"""Backgrounds and posters that wait until they come near the window, and slides beneath the first one.

Browsers have no attribute for these. An element of the markup is marked, and a rule takes its background away, or the
whole image, until our script marks it as near; an image is lazy besides, so that it loads once it shows. Without
scripts the rule does not count (Media Queries Level 5, 7.1 "scripting").
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from unladen.capture import Exchange
from unladen.markup.css import background_rule, selector_before
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element
from unladen.markup.site import Use
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.journal import Spared
from unladen.remedies.loader import add_loader, add_to_head
from unladen.remedies.spec import Remedy

_RULE = (
    "<style data-unladen=late>@media (scripting:enabled){[data-late]:not([data-seen]){background-image:none!important}"
    "img[data-late]:not([data-seen]){display:none!important}}</style>"
)


@dataclass(frozen=True, slots=True, kw_only=True)
class UntilParams(Params):
    """`wait` is `near`, or `act` for what lies beneath something else: it comes once a visitor does anything."""

    wait: str = fields.word("near", "act", default="near")


def apply(change: Change[UntilParams], draft: Draft) -> None:
    """Put off the targets, which are images, on the pages in scope."""
    for path, image in draft.targets(change):
        for name in change.pages:
            parsed = draft.page(name)
            if parsed and not _put_off(change, draft, *parsed, image):
                draft.notice(path, f"is shown on {name} by an element that cannot load late")


def _put_off(change: Change[UntilParams], draft: Draft, page: Exchange, document: Document, image: Exchange) -> bool:
    elements = elements_behind(draft, page, document, image)
    if not elements or not add_loader(change, draft, page, document):
        return False
    add_to_head(change, draft, page, document, _RULE, "unladen late")
    wait = change.params.wait
    for element in elements:
        draft.edits.edit(change, page, document.set_attribute(element, "data-late", wait), "data-late")
        if element.tag == "img":
            draft.edits.edit(change, page, document.set_attribute(element, "loading", "lazy"), "loading")
        elif element.tag == "video":
            _keep_poster(change, draft, page, document, element)
    draft.journal.write(Spared(change.id, image.url, draft.path(page)))
    return True


def _keep_poster(
    change: Change[UntilParams], draft: Draft, page: Exchange, document: Document, element: Element
) -> None:
    """Let our script put the poster in; without scripts it is a background."""
    link = element.attrs["poster"]
    draft.edits.edit(change, page, Edit(*element.spans["poster"], ""), "poster")
    draft.edits.edit(change, page, document.set_attribute(element, "data-picture", link), "data-picture")
    mark = f"u{element.start}"
    draft.edits.edit(change, page, document.set_attribute(element, "data-film", mark), "data-film")
    quoted = link.replace("\\", "%5C").replace('"', "%22").replace("<", "%3C").replace("\n", "")
    rule = f'[data-film={mark}]{{background:url("{quoted}") center/contain no-repeat}}'
    style = f"<style data-unladen=late>@media (scripting:none){{{rule}}}</style>"
    add_to_head(change, draft, page, document, style, f"unladen late {mark}")


def elements_behind(draft: Draft, page: Exchange, document: Document, image: Exchange) -> list[Element]:
    """The elements of a page's markup that show an image in a way that can wait.

    None if something else shows it too.
    """
    path, elements = draft.path(page), {}
    for use in draft.texts.all_uses().get(image.url, []):
        if path not in draft.texts.pages_of(use.text):
            continue
        element = use.reference.element
        if element is not None and _is_plain(element, use.reference.via):
            elements[element.start] = element
            continue
        if element is not None and _is_for_script(element, use):
            elements[element.start] = element
            continue
        if use.reference.via != "style":
            return []
        if element is not None and element.tag != "style":
            elements[element.start] = element
            continue
        text = draft.texts.text(use.text)
        styles, shift = text.chars if text else "", 0
        if element is not None:  # the text around the styles is a page
            styles, shift = styles[element.end : element.inner_end], element.end
        rule = background_rule(styles, use.reference.start - shift)
        if rule is None:
            return []
        selector = selector_before(styles, rule[0])
        if re.search(r"::|:(before|after|first-l)", selector, re.I):
            return []  # what is made by a style sheet cannot be marked
        elements |= {element.start: element for element in document.matching(selector) if not element.inert}
    return [element for _, element in sorted(elements.items())]


def _is_for_script(element: Element, use: Use) -> bool:
    """Whether an attribute such as data-background tells a script what to put behind the element."""
    if use.reference.via != "data" or element.inert or element.tag == "img":
        return False
    names = (name for name, (start, end) in element.spans.items() if start <= use.reference.start < end)
    return any(re.search(r"background|(^|-)bg(-|$)", name) for name in names)


def _is_plain(element: Element, via: str) -> bool:
    """Whether an element names one image for itself alone, and none of its own means to put it off."""
    if element.inert or "loading" in element.attrs:
        return False
    return (element.tag, via) in (("img", "img"), ("video", "poster"))


REMEDY = Remedy(
    name="lazy-backgrounds",
    phase="lazy",
    params=UntilParams,
    title="Lazy loading: backgrounds",
    defers=True,
    what="A small script loads backgrounds near the view",
    detail=(
        "A background or poster far below the first view loads when it is near. One that is see-through or beneath "
        "the first slide loads on the first interaction or when a slide moves."
    ),
    apply=apply,
    may_edit_pages=True,
    formerly="late",
)
