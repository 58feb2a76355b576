"""An embed when it is wanted. Parameter `way`: `still`, `link` (see stills) or `lazy`, by the frame's own attribute."""

from __future__ import annotations

from unladen.plan import Change
from unladen.remedies import stills
from unladen.remedies.draft import Draft


def apply(change: Change, draft: Draft) -> None:
    """Treat the targets, which are addresses of frames, on the pages in scope."""
    if change.params.get("way") == "lazy":
        put_off(change, draft)
    else:
        stills.apply(change, draft)


def put_off(change: Change, draft: Draft) -> None:
    """Let frames load when they come near the window (HTML Standard, 2.5.7 "Lazy loading attributes")."""
    for path in change.pages:
        if not (found := draft.page(path)):
            continue
        page, document = found
        for target in change.targets:
            for frame in stills.frames_of(draft, page, document, target):
                if "loading" in frame.attrs:
                    continue  # what is lazy already stays as it is
                if draft.edit(change, page, document.set_attribute(frame, "loading", "lazy"), "loading"):
                    draft.journal.withheld[(target, path)] = change.id
