"""Scripts of a page wait until its visitor does something."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.capture import Exchange
from unladen.markup.html import Document
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.journal import Withheld
from unladen.remedies.loader import WAITER, add_script
from unladen.remedies.scripts.order import may_wait, scripts_of, targets_by_url
from unladen.remedies.spec import Remedy, Setting

# A type that no browser runs or fetches (HTML Standard, 4.12.1 "The script element": data block).
_HELD = "text/held"


@dataclass(frozen=True, slots=True, kw_only=True)
class WaitParams(Params):
    """`until` is `act` (a visitor moves the pointer, presses, types, touches or scrolls) or `idle` (the page is there
    and the browser has nothing else to do); after `limit` s they come all the same, 0 for never.
    """

    until: str = fields.word("act", "idle", default="act")
    limit: int = fields.whole(0, 600, 0)


def apply(change: Change[WaitParams], draft: Draft) -> None:
    """Hold the targets, and scripts within the pages that may need them, back on the pages in scope."""
    wanted = targets_by_url(change, draft)
    for path, page, document in draft.pages(change):
        _hold(change, draft, path, page, document, wanted)


def _hold(
    change: Change[WaitParams], draft: Draft, path: str, page: Exchange, document: Document, wanted: dict[str, str]
) -> None:
    tags, reasons = may_wait(scripts_of(draft.texts, page, document), wanted)
    for url, reason in reasons.items():
        draft.notice(wanted[url], f"does not wait on {path}: {reason}")
    for tag in tags:
        if tag.url and draft.edits.is_held(page, tag.element):
            draft.notice(wanted[tag.url], f"waits on {path} by another change already, which stays")
    tags = [tag for tag in tags if not draft.edits.is_held(page, tag.element)]
    if not any(tag.url for tag in tags):
        return
    more = f" data-limit={change.params.limit}" if change.params.limit else ""
    more += " data-idle=yes" if change.params.until == "idle" else ""
    if not add_script(change, draft, page, document, "wait", WAITER, more):
        return
    for tag in tags:
        for name, value in (("type", _HELD), ("data-wait", "module" if tag.module else "")):
            draft.edits.edit(change, page, document.set_attribute(tag.element, name, value), name)
        if tag.url and change.params.until == "act":
            draft.journal.write(Withheld(change.id, tag.url, path))


REMEDY = Remedy(
    name="wait-for-visitor",
    phase="scripts",
    params=WaitParams,
    title="Run scripts on first interaction",
    defers=True,
    what="Scripts of the page run on first interaction",
    detail=(
        "Scripts load and run when a visitor moves the pointer, presses, types, touches or scrolls. All then run in "
        "their order, and presses in the meantime are repeated. Scripts that write into the page, and scripts that "
        "others need at once, are not delayed. The check also compares the page before any interaction."
    ),
    apply=apply,
    least_effort="bold",
    may_edit_pages=True,
    puts_off=True,
    settings=(
        Setting("until", "They come", {"act": "on first interaction", "idle": "once the page has loaded"}),
        Setting("limit", "At the latest after", unit="s", high=600),
    ),
)
