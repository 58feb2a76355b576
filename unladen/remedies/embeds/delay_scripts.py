"""A script of another host waits until what it makes is wanted."""

from __future__ import annotations

import html
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from unladen.capture import Exchange
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element
from unladen.markup.references import resolve
from unladen.remedies import fields
from unladen.remedies.change import Change
from unladen.remedies.draft import Draft
from unladen.remedies.embeds.stills import Shown, widget_document
from unladen.remedies.fields import Record
from unladen.remedies.journal import Withheld
from unladen.remedies.loader import add_loader, add_to_head
from unladen.remedies.spec import Remedy

WAITS = ("near", "click", "act")
_TALLEST = 1_000_000  # CSS px


@dataclass(frozen=True, slots=True, kw_only=True)
class Place(Record):
    """The element in which a script makes something: its tag and attributes.

    `heights` are [window, height] pairs and `frames`, of the frame in it, [window, width, height], in CSS px.
    """

    tag: str = fields.text(100, r"[A-Za-z][^\s/>]*")
    attrs: dict[str, str] = fields.texts(most=20_000)
    heights: tuple[tuple[int, int], ...] = fields.rows(2, 0, _TALLEST)
    frames: tuple[tuple[int, int, int], ...] = fields.rows(3, 0, _TALLEST)


@dataclass(frozen=True, slots=True, kw_only=True)
class DelayParams(Shown):
    """`wait` is `near` (a visitor comes near the place where it makes something), `click` (a visitor presses the
    button of a still there) or `act` (a visitor scrolls, clicks or types); `places` gives the place for each page.
    """

    wait: str = fields.word(*WAITS, default="act")
    places: dict[str, Place] = fields.record_table(Place)


# A type that no browser runs or fetches (HTML Standard, 4.12.1 "The script element": data block).
_HELD = "text/held"


def apply(change: Change[DelayParams], draft: Draft) -> None:
    """Hold the targets back on the pages in scope."""
    for url in change.targets:
        for path in change.pages:
            parsed = draft.page(path)
            held = parsed and _hold(change, draft, *parsed, url, change.params.places.get(path))
            if held:
                draft.journal.write(Withheld(change.id, url, path))


def _hold(
    change: Change[DelayParams], draft: Draft, page: Exchange, document: Document, url: str, place: Place | None
) -> bool:
    base = draft.texts.base(page)
    scripts = [e for e in document.elements if e.tag == "script" and resolve(base, e.attrs.get("src", "")) == url]
    scripts = [e for e in scripts if not e.inert]
    if not scripts:
        draft.notice(draft.path(page), f"does not name {url} any more")
        return False
    if any(e.attrs.get("type", "").lower() == "module" for e in scripts):
        draft.notice(draft.path(page), f"loads {url} as a module, whose order cannot be changed")
        return False
    if not add_loader(change, draft, page, document):
        return False
    mark = "act"
    if change.params.wait != "act":
        mark = _mark(change, draft, page, document, place, url)
    for script in scripts:
        for name, value in (("type", _HELD), ("data-hold", mark)):
            draft.edits.edit(change, page, document.set_attribute(script, name, value), name)
    return True


def _mark(
    change: Change[DelayParams], draft: Draft, page: Exchange, document: Document, place: Place | None, url: str
) -> str:
    """Mark the element that has to come near, and keep its height; returns the mark."""
    element = _element(document, place) if place else None
    if place is None or element is None:
        return "near"  # the loader then goes by the element around the script
    mark = f"u{element.start}"
    draft.edits.edit(change, page, document.set_attribute(element, "data-near", mark), "data-near")
    rules = _room(mark, place.heights)
    if change.params.wait == "click" and place.frames:
        text = html.escape(widget_document(change, draft, page, document, url), quote=True)
        title = html.escape(change.params.title, quote=True)
        still = f'<iframe data-still=yes data-for={mark} title="{title}" srcdoc="{text}"></iframe>'
        # Where the script will put its own.
        at = element.inner_end
        draft.edits.edit(change, page, Edit(at, at, still, slot=f"still {mark}", adds=True))
        rules += _size(mark, place.frames)
    if rules:
        style = f"<style data-unladen=room>{rules}</style>"
        add_to_head(change, draft, page, document, style, f"unladen room {mark}")
    return mark


def _size(mark: str, frames: Sequence[tuple[int, int, int]]) -> str:
    """Rules that make a still as large as the frame for which it stands, in each window."""
    rules = ""
    for (wider, _, _), (window, width, height) in pairwise([(0, 0, 0), *sorted(frames, reverse=True)]):
        rule = f"[data-for={mark}]{{border:0;width:{width}px;max-width:100%;height:{height}px}}"
        rules += f"@media (max-width:{(wider + window) // 2}px){{{rule}}}" if wider else rule
    return rules


def _element(document: Document, place: Place) -> Element | None:
    alike = [e for e in document.elements if e.tag == place.tag and e.attrs == place.attrs]
    return alike[0] if len(alike) == 1 else None


def _room(mark: str, heights: Sequence[tuple[int, int]]) -> str:
    """Rules that keep a height: that of the widest window, and narrower ones up to half way to the next."""
    if not heights:
        return ""
    ordered = sorted(heights, reverse=True)
    rules = [f'[data-near="{mark}"]{{min-height:{ordered[0][1]}px}}']
    for (wider, tall), (narrower, height) in pairwise(ordered):
        if height != tall:
            rule = rules[0].replace(f"{ordered[0][1]}px", f"{height}px")
            rules.append(f"@media (max-width:{(wider + narrower) // 2}px){{{rule}}}")
    return "".join(rules)


REMEDY = Remedy(
    name="delay-scripts",
    phase="embeds",
    params=DelayParams,
    title="Load on demand: widgets",
    defers=True,
    what="Third-party scripts load when a visitor comes near or interacts",
    detail=(
        "The browser fetches and runs the script only when a visitor comes near its place, scrolls, clicks, types or "
        "presses its placeholder."
    ),
    apply=apply,
    least_effort="bold",
    may_edit_pages=True,
    replaces_embed=True,
    formerly="hold",
)
