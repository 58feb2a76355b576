"""The first picture instead of the film in narrow windows. Parameters: `below` in CSS px, `width` of the picture in px.

A source whose `media` does not hold is not loaded (HTML Standard, 4.8.2 "The source element"), and without a source the
poster stays.
"""

from __future__ import annotations

from unladen.plan import Change
from unladen.remedies.draft import Draft
from unladen.remedies.filming import poster, put, sources_of, tags_of


def apply(change: Change, draft: Draft) -> None:
    """Leave the targets out below a width of the window."""
    for path, film in draft.targets(change):
        tags = list(tags_of(draft, change, film))
        if not tags:
            draft.notice(path, "is shown by no video element of the markup")
        for tag in tags:
            sources_of(draft, tag).below = int(change.params["below"])
            if put(change, draft, tag):
                poster(change, draft, film, tag)
                draft.journal.spared[(film.url, draft.path(tag.page))] = change.id
