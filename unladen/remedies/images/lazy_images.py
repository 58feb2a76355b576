"""Lazy loading by the platform's own attribute (HTML Standard, 2.5.7 "Lazy loading attributes")."""

from __future__ import annotations

from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.journal import Spared
from unladen.remedies.spec import Remedy


def apply(change: Change[Params], draft: Draft) -> None:
    """Put off the targets on the change's pages until they come near the window."""
    for _, image in draft.targets(change):
        for page in change.pages:
            parsed = draft.page(page)
            for use in draft.edits.uses_of(image, {page}) if parsed else []:
                element = use.reference.element
                if element is None or element.tag != "img" or element.inert or "loading" in element.attrs:
                    continue
                assert parsed is not None
                edit = parsed[1].set_attribute(element, "loading", "lazy")
                if draft.edits.edit(change, use.text, edit, "loading"):
                    draft.journal.write(Spared(change.id, image.url, page))


REMEDY = Remedy(
    name="lazy-images",
    phase="lazy",
    params=Params,
    title="Lazy loading: images",
    defers=True,
    what="Images load when a visitor comes near",
    detail="Sets loading=lazy on pictures far below the first view, and in closed slides and panels.",
    apply=apply,
    may_edit_pages=True,
    formerly="lazy",
)
