"""Animations that never end stand still while nobody sees them."""

from __future__ import annotations

from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.loader import STILLER, add_script
from unladen.remedies.spec import Remedy


def apply(change: Change[Params], draft: Draft) -> None:
    """Put a script that sees to it into the targets, which are pages."""
    for _, page, document in draft.target_pages(change):
        add_script(change, draft, page, document, "still", STILLER)


REMEDY = Remedy(
    name="still-out-of-sight",
    phase="markup",
    params=Params,
    title="Pause animations out of view",
    what="Pauses endless animations outside the view",
    detail="A short script pauses them while they are outside the window, and lets them go on from there when "
    "they come back.",
    apply=apply,
    least_effort="bold",
    may_edit_pages=True,
    steadies=True,
)
