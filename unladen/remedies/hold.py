"""A script of another host waits until what it makes is wanted.

Parameters: `wait` is `near` (a visitor comes near the place where it makes something), `click` (a visitor presses the
button of a still there) or `act` (a visitor scrolls, clicks or types); `places` gives for each page the element there: its
tag, attributes, [window, height] pairs and, of the frame in it, [window, width, height], in CSS px. `title` and `pictures`
are as for `embed`.
"""

from __future__ import annotations

import html
from itertools import pairwise
from typing import Any

from unladen.capture import Exchange
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element
from unladen.markup.references import resolve
from unladen.plan import Change
from unladen.remedies.draft import Draft
from unladen.remedies.loader import add_loader, add_to_head
from unladen.remedies.stills import widget_document

# A type that no browser runs or fetches (HTML Standard, 4.12.1 "The script element": data block).
_HELD = "text/held"


def apply(change: Change, draft: Draft) -> None:
    """Hold the targets back on the pages in scope."""
    for url in change.targets:
        for path in change.pages:
            found = draft.page(path)
            held = found and _hold(change, draft, *found, url, change.params.get("places", {}).get(path) or {})
            if held:
                draft.journal.withheld[(url, path)] = change.id


def _hold(change: Change, draft: Draft, page: Exchange, document: Document, url: str, place: dict[str, Any]) -> bool:
    base = draft.texts.base(page)
    scripts = [e for e in document.elements if e.tag == "script" and resolve(base, e.attrs.get("src", "")) == url]
    scripts = [e for e in scripts if not e.inert]
    if not scripts:
        draft.notice(draft.path(page), f"does not name {url} any more")
        return False
    if any(e.attrs.get("type", "").lower() == "module" for e in scripts):
        draft.notice(draft.path(page), f"loads {url} as a module, which keeps an order of its own")
        return False
    if not add_loader(change, draft, page, document):
        return False
    mark = "act"
    if change.params.get("wait") in ("near", "click"):
        mark = _mark(change, draft, page, document, place, url)
    for script in scripts:
        for name, value in (("type", _HELD), ("data-hold", mark)):
            draft.edit(change, page, document.set_attribute(script, name, value), name)
    return True


def _mark(change: Change, draft: Draft, page: Exchange, document: Document, place: dict[str, Any], url: str) -> str:
    """Mark the element that has to come near, and keep its height; returns the mark."""
    element = _element(document, place)
    if element is None:
        return "near"  # the loader then goes by the element around the script
    mark = f"u{element.start}"
    draft.edit(change, page, document.set_attribute(element, "data-near", mark), "data-near")
    rules = _room(mark, place.get("heights") or [])
    if change.params.get("wait") == "click" and place.get("frames"):
        text = html.escape(widget_document(change, draft, page, document, url), quote=True)
        title = html.escape(str(change.params.get("title", "")), quote=True)
        still = f'<iframe data-still=yes data-for={mark} title="{title}" srcdoc="{text}"></iframe>'
        # Where the script will put its own.
        at = element.inner_end
        draft.edit(change, page, Edit(at, at, still, slot=f"still {mark}", adds=True))
        rules += _size(mark, place["frames"])
    if rules:
        style = f"<style data-unladen=room>{rules}</style>"
        add_to_head(change, draft, page, document, style, f"unladen room {mark}")
    return mark


def _size(mark: str, frames: list[list[int]]) -> str:
    """Rules that make a still as large as the frame for which it stands, in each window."""
    rules = ""
    for (wider, _, _), (window, width, height) in pairwise([[0, 0, 0], *sorted(frames, reverse=True)]):
        rule = f"[data-for={mark}]{{border:0;width:{width}px;max-width:100%;height:{height}px}}"
        rules += f"@media (max-width:{(wider + window) // 2}px){{{rule}}}" if wider else rule
    return rules


def _element(document: Document, place: dict[str, Any]) -> Element | None:
    alike = [e for e in document.elements if e.tag == place.get("tag") and e.attrs == place.get("attrs")]
    return alike[0] if len(alike) == 1 else None


def _room(mark: str, heights: list[list[int]]) -> str:
    """Rules that keep a height: that of the widest window, and narrower ones up to half way to the next."""
    if not heights:
        return ""
    ordered = sorted(heights, reverse=True)
    rules = [f'[data-near="{mark}"]{{min-height:{ordered[0][1]}px}}']
    for (wider, tall), (narrower, height) in pairwise(ordered):
        if height != tall:
            rules.append(
                f"@media (max-width:{(wider + narrower) // 2}px){{{rules[0].replace(f'{ordered[0][1]}px', f'{height}px')}}}"
            )
    return "".join(rules)
