"""Style sheets written shorter in their place."""

from __future__ import annotations

from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft, Stage
from unladen.remedies.spec import Remedy
from unladen.styles.minify import minified


def apply(change: Change[Params], draft: Draft) -> None:
    """Write the targets shorter."""
    for _, exchange in draft.targets(change):
        draft.edits.transform(change, exchange, Stage.MINIFY, minified)


REMEDY = Remedy(
    name="minify-styles",
    phase="styles",
    params=Params,
    title="Minify CSS",
    what="Removes comments and white space from style sheets",
    detail="Removes comments and needless white space. Licences stay. The file keeps its name.",
    apply=apply,
)
