"""One file where several have the same content."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.images.replacing import NOWHERE
from unladen.remedies.spec import Remedy


@dataclass(frozen=True, slots=True, kw_only=True)
class MergeParams(Params):
    """`into`: the path of the file that stays."""

    into: str = fields.text()


def apply(change: Change[MergeParams], draft: Draft) -> None:
    """Let pages ask for the one that stays instead of the targets."""
    into = change.params.into
    kept = draft.exchange(into)
    for path, other in draft.targets(change):
        if kept is None:
            draft.notice(into, "is no longer in the site")
        elif other.digest != kept.digest:
            draft.notice(path, f"has not the same content as {into} any more")
        elif not draft.files.merge(change, kept, other):
            draft.notice(path, NOWHERE)


REMEDY = Remedy(
    name="merge",
    phase="images",
    params=MergeParams,
    title="Merge duplicate files",
    what="Identical files",
    detail="Keeps one of several identical files and rewrites references to the others.",
    apply=apply,
    may_edit_pages=True,
)
