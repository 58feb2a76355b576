"""One file where several have the same content. Parameter: `into`, the path of the one that stays."""

from __future__ import annotations

from unladen.plan import Change
from unladen.remedies.draft import Draft
from unladen.remedies.images import NOWHERE


def apply(change: Change, draft: Draft) -> None:
    """Let pages ask for the one that stays instead of the targets."""
    kept = draft.exchange(str(change.params["into"]))
    for path, other in draft.targets(change):
        if kept is None:
            draft.notice(str(change.params["into"]), "is not in the site any more")
        elif other.digest != kept.digest:
            draft.notice(path, f"has not the same content as {change.params['into']} any more")
        elif not draft.merge(change, kept, other):
            draft.notice(path, NOWHERE)
