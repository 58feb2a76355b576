"""The page to which a visitor is about to go is fetched ahead (Speculation Rules, WICG)."""

from __future__ import annotations

import json
from dataclasses import dataclass

from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.loader import add_to_head, may_run_inline
from unladen.remedies.spec import Remedy, Setting

# What a link does beside leading somewhere: signing out, buying, leaving the list, sending a file.
_DOES = (
    "/*\\?*", "/*logout*", "/*signout*", "/*sign-out*", "/*cart*", "/*checkout*", "/*basket*", "/*unsubscribe*",
    "/*delete*", "/*admin*", "/*.pdf", "/*.zip",
)  # fmt: skip
_MARKED = '[rel~="nofollow"], [rel~="external"], [download], [target="_blank"]'


@dataclass(frozen=True, slots=True, kw_only=True)
class NextParams(Params):
    """`way`: what is done once a visitor points at a link or begins to press it; `never`: patterns of paths (with
    `*`), parted by spaces, to which it is never done.
    """

    way: str = fields.word("prefetch", "prerender", default="prefetch")
    never: str = fields.text(2_000, default="")


def rules_for(params: NextParams) -> str:
    """The rules as JSON, for links within the site."""
    out = [*_DOES, *params.never.split()]
    where = {
        "and": [
            {"href_matches": "/*"},
            {"not": {"href_matches": out}},
            {"not": {"selector_matches": _MARKED}},
        ]
    }
    text = json.dumps({params.way: [{"where": where, "eagerness": "moderate"}]}, separators=(",", ":"))
    return text.replace("<", "\\u003c")


def apply(change: Change[NextParams], draft: Draft) -> None:
    """Write the rules into the targets, which are pages."""
    for path, page, document in draft.target_pages(change):
        if not may_run_inline(page, document):
            draft.notice(path, "has a Content Security Policy that blocks speculation rules")
            continue
        text = f"<script type=speculationrules data-unladen=next>{rules_for(change.params)}</script>"
        add_to_head(change, draft, page, document, text, "unladen next")


REMEDY = Remedy(
    name="next-page",
    phase="delivery",
    params=NextParams,
    title="Prefetch the next page",
    what="Fetches the page that a visitor is about to open",
    detail=(
        "Adds rules by which a browser fetches a page of the site once a visitor points at its link. Excluded are "
        "addresses with a query, addresses that seem to sign out, buy or send something, and the paths that you name. "
        "Off by default, since it costs bytes of pages that nobody opens."
    ),
    apply=apply,
    may_edit_pages=True,
    steadies=True,
    settings=(
        Setting("way", "The next page", {"prefetch": "is fetched", "prerender": "is built out of sight"}),
        Setting("never", "Never these paths (separated by spaces)"),
    ),
)
