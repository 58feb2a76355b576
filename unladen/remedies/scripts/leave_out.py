"""A script or style sheet left out of some pages."""

from __future__ import annotations

from unladen.capture import Exchange
from unladen.markup.html import Document, Element
from unladen.markup.references import resolve
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.journal import Withheld
from unladen.remedies.spec import Remedy

# A type that no browser runs or fetches (HTML Standard, 4.12.1), and a relation that none knows (4.6.7).
_HELD, _NO_RELATION = "text/held", "held"


def apply(change: Change[Params], draft: Draft) -> None:
    """Have the pages in scope ask for the targets no more."""
    for target in change.targets:
        for path in change.pages:
            if (parsed := draft.page(path)) and _leave_out(change, draft, *parsed, target):
                exchange = draft.exchange(target)
                draft.journal.write(Withheld(change.id, exchange.url if exchange else target, path))


def _leave_out(change: Change[Params], draft: Draft, page: Exchange, document: Document, target: str) -> bool:
    file = draft.exchange(target)
    elements = [e for e in document.elements if not e.inert and _names(draft, page, e, target, file)]
    if not elements:
        draft.notice(draft.path(page), f"does not name {target} by itself")
        return False
    edits = []
    for element in elements:
        script = element.tag == "script"
        name, value = ("type", _HELD) if script else ("rel", _NO_RELATION)
        edits.append(draft.edits.edit(change, page, document.set_attribute(element, name, value), name))
    return all(edits)


def _names(draft: Draft, page: Exchange, element: Element, target: str, file: Exchange | None) -> bool:
    """Whether an element makes the page ask for a file."""
    if element.tag == "link":
        relation = element.attrs.get("rel", "").lower().split()
        address = element.attrs.get("href", "") if {"stylesheet", "preload", "modulepreload"} & set(relation) else ""
    else:
        address = element.attrs.get("src", "") if element.tag == "script" else ""
    url = resolve(draft.texts.base(page), address) if address else None
    if url is None:
        return False
    exchange = draft.capture.lookup(url)
    return exchange.url == file.url if exchange and file else url == target


REMEDY = Remedy(
    name="leave-out",
    phase="drop",
    params=Params,
    title="Leave file out",
    what="Removes a file from chosen pages",
    detail="The page does not ask for the script or style sheet, nor for what that would bring. Chosen by hand, "
    "in the use map.",
    apply=apply,
    least_effort="bold",
    may_edit_pages=True,
)
