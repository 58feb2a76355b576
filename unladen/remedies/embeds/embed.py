"""An embed when it is wanted.

A still in its place, or its frame loaded as it comes near, by the frame's own attribute.
"""

from __future__ import annotations

from unladen.remedies.change import Change
from unladen.remedies.draft import Draft
from unladen.remedies.embeds import stills
from unladen.remedies.embeds.stills import EmbedParams
from unladen.remedies.journal import Withheld
from unladen.remedies.spec import Remedy


def apply(change: Change[EmbedParams], draft: Draft) -> None:
    """Treat the targets, which are addresses of frames, on the pages in scope."""
    if change.params.way == "lazy":
        put_off(change, draft)
    else:
        stills.put_stills(change, draft)


def put_off(change: Change[EmbedParams], draft: Draft) -> None:
    """Let frames load when they come near the window (HTML Standard, 2.5.7 "Lazy loading attributes")."""
    for path in change.pages:
        if not (parsed := draft.page(path)):
            continue
        page, document = parsed
        for target in change.targets:
            for frame in stills.frames_of(draft, page, document, target):
                if "loading" in frame.attrs:
                    continue  # what is lazy already stays as it is
                if draft.edits.edit(change, page, document.set_attribute(frame, "loading", "lazy"), "loading"):
                    draft.journal.write(Withheld(change.id, target, path))


REMEDY = Remedy(
    name="embed",
    phase="embeds",
    params=EmbedParams,
    title="Load on demand: players and maps",
    defers=True,
    what="A placeholder until a visitor wants the embed, or loading when near",
    detail=(
        "Placeholder: the frame keeps its place and attributes and shows a picture with a button. Pressing the button "
        "loads the embed into the same frame; a player starts. Link: the placeholder opens a new window. Lazy: the "
        "frame gets loading=lazy."
    ),
    apply=apply,
    least_effort="steady",
    may_edit_pages=True,
    replaces_embed=True,
)
