"""The largest image of the first view comes first.

By `fetchpriority` on the image (HTML Standard, 2.5.9 "Fetch priority attributes"), or by a preload link where a style
sheet names it, so that the browser would find it late.
"""

from __future__ import annotations

from unladen.capture import Exchange
from unladen.markup.html import Document
from unladen.markup.references import link_to
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft, Styled
from unladen.remedies.journal import Replaced
from unladen.remedies.loader import add_to_head
from unladen.remedies.spec import Remedy


def apply(change: Change[Params], draft: Draft) -> None:
    """Give the targets, which are images, priority on the pages in scope. Bytes stay the same but for the markup."""
    for path, image in draft.targets(change):
        for name in change.pages:
            parsed = draft.page(name)
            if parsed and not (_raise(change, draft, *parsed, image) or _preload(change, draft, *parsed, image)):
                draft.notice(path, f"is named on {name} in a way that cannot be given priority")


def _raise(change: Change[Params], draft: Draft, page: Exchange, document: Document, image: Exchange) -> bool:
    done = False
    for use in draft.edits.uses_of(image, {draft.path(page)}):
        element = use.reference.element
        if use.text.url != page.url or element is None or element.tag != "img" or element.inert:
            continue
        done = True
        if "fetchpriority" not in element.attrs:
            edit = document.set_attribute(element, "fetchpriority", "high")
            draft.edits.edit(change, page, edit, "fetchpriority")
        if element.attrs.get("loading", "").lower() == "lazy":
            draft.edits.edit(change, page, document.set_attribute(element, "loading", "eager"), "loading")
    return done


def _preload(change: Change[Params], draft: Draft, page: Exchange, document: Document, image: Exchange) -> bool:
    path = draft.path(page)
    uses = [use for use in draft.texts.all_uses().get(image.url, []) if path in draft.texts.pages_of(use.text)]
    if any(use.reference.via == "preload" for use in uses):
        return True
    if not all(use.reference.via == "style" for use in uses):
        return False
    links = _links(draft, page, image)
    if not links:
        return False  # the browser chooses among several in a way that no link can follow, and would fetch one more
    text = "".join(f"<link data-unladen=first rel=preload as=image fetchpriority=high {link}>" for link in links)
    return add_to_head(change, draft, page, document, text, "unladen first")


def _links(draft: Draft, page: Exchange, image: Exchange) -> list[str]:
    """The attributes of links to what the styles let browsers choose, so that each takes just the one that it will
    show.
    """
    path, base = draft.path(page), draft.texts.base(page)
    shown = draft.journal.chains_of(image.url, path)
    ends = set(shown) - {step.before for chain in shown.values() for step in chain if isinstance(step, Replaced)}
    plain = draft.files.version(image, path).exchange
    styled = [one for one in draft.files.styled.get(image.url, ()) if one.file.url in ends]
    if ends != {plain.url} | {one.file.url for one in styled}:
        return []
    medias = list(dict.fromkeys(one.media for one in styled if one.media))
    if len(medias) > 1:
        return []
    links = []
    for media in ("", *medias):
        here = [one for one in styled if one.media == media]
        best = next((one for one in here if one.chosen), here[0] if here else Styled("", plain))
        condition = media or (f"not all and {medias[0]}" if medias else "")
        attributes = [f'href="{link_to(best.file.url, base)}"']
        attributes += [f"type={best.file.media_type}"] if best.chosen else []
        attributes += [f'media="{condition}"'] if condition else []
        links.append(" ".join(attributes))
    return links


REMEDY = Remedy(
    name="priority",
    phase="lazy",
    params=Params,
    title="Load the main image first",
    what="The largest image of the first view loads with high priority",
    detail=(
        "Sets fetchpriority=high on the largest picture of the first view, and adds a preload link where a style "
        "sheet names it. loading=lazy on that picture becomes eager."
    ),
    apply=apply,
    may_edit_pages=True,
    steadies=True,
)
