"""Pages without what their platform writes into them for nobody."""

from __future__ import annotations

from unladen.markup.edits import Edit
from unladen.markup.extras import extras_in
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.spec import Remedy


def apply(change: Change[Params], draft: Draft) -> None:
    """Take them out of the targets, which are pages."""
    for _, page, document in draft.target_pages(change):
        for extra in extras_in(document):
            draft.edits.edit(change, page, Edit(extra.start, extra.end, "", adds=True))


REMEDY = Remedy(
    name="drop-extras",
    phase="markup",
    params=Params,
    title="Remove platform extras",
    what="Removes platform markup that no visitor needs",
    detail=(
        "Removes comments and modes for Internet Explorer up to 9, the platform's name and version, addresses for "
        "former editing programs and for the discovery of embeds, and links to feeds of comments."
    ),
    apply=apply,
    least_effort="steady",
    may_edit_pages=True,
)
