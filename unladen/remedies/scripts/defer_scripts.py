"""Scripts that do not hold a page up any more, where the order of all that run allows it."""

from __future__ import annotations

from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.scripts.order import may_defer, scripts_of, targets_by_url
from unladen.remedies.spec import Remedy


def apply(change: Change[Params], draft: Draft) -> None:
    """Have the targets run once each page in scope has been read, in their order. Bytes stay the same but for the
    markup.
    """
    wanted = targets_by_url(change, draft)
    for name, page, document in draft.pages(change):
        # What waits for a visitor comes later still.
        running = [t for t in scripts_of(draft.texts, page, document) if not draft.edits.is_held(page, t.element)]
        tags, reasons = may_defer(running, wanted)
        for tag in tags:
            draft.edits.edit(change, page, document.set_attribute(tag.element, "defer", ""), "defer")
        for url, reason in reasons.items():
            draft.notice(wanted[url], f"stays where it is on {name}: {reason}")


REMEDY = Remedy(
    name="defer-scripts",
    phase="scripts",
    params=Params,
    title="Defer scripts",
    what="Scripts no longer delay the first paint",
    detail=(
        "Sets `defer` on scripts that block the page: the browser fetches them meanwhile and runs them in order once "
        "the page has been parsed. Only where no script that still runs earlier may need their names, as the names in "
        "all scripts of the page show."
    ),
    apply=apply,
    least_effort="steady",
    may_edit_pages=True,
    steadies=True,
)
