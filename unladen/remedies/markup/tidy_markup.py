"""Pages without comments and idle white space."""

from __future__ import annotations

from unladen.capture.mediatypes import is_page
from unladen.markup.tidy import tidied
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft, Stage
from unladen.remedies.spec import Remedy


def apply(change: Change[Params], draft: Draft) -> None:
    """Tidy the targets."""
    for path, exchange in draft.targets(change):
        if is_page(exchange.media_type):
            draft.edits.transform(change, exchange, Stage.MINIFY, tidied)
        else:
            draft.notice(path, "is not a page")


REMEDY = Remedy(
    name="tidy-markup",
    phase="markup",
    params=Params,
    title="Minify HTML",
    what="Removes comments and white space between tags",
    detail=(
        "Removes comments except licences and comments that browsers, servers and frameworks read. Runs of white "
        "space between tags become one character. Text and preformatted content stay unchanged."
    ),
    apply=apply,
    least_effort="steady",
    may_edit_pages=True,
)
