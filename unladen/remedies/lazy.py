"""Lazy loading by the platform's own attribute (HTML Standard, 2.5.7 "Lazy loading attributes")."""

from __future__ import annotations

from unladen.plan import Change
from unladen.remedies.draft import Draft


def apply(change: Change, draft: Draft) -> None:
    """Put off the targets on the change's pages until they come near the window."""
    for path in change.targets:
        image = draft.exchange(path)
        for page in change.pages:
            exchange, document = draft.exchange(page), draft.document(page)
            if image is None or exchange is None or document is None:
                continue
            for element in [r.element for r in draft.references_to(image, exchange)]:
                if element is None or element.tag != "img" or element.inert or "loading" in element.attrs:
                    continue
                draft.edit(change, exchange, document.set_attribute(element, "loading", "lazy"), "loading")
                draft.journal.deferred[(image.url, page)] = change.id
