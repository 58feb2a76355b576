"""`build`: the one place where a plan becomes a site."""

from __future__ import annotations

from unladen.build.files import finished
from unladen.capture import Capture
from unladen.memo import Memo
from unladen.plan import Plan
from unladen.remedies import Draft, Journal, remedy_named
from unladen.remedies.draft import NO_EDITS


def build(capture: Capture, plan: Plan, memo: Memo, *, packs: bool = True) -> tuple[Capture, Journal]:
    """The lightened capture and the journal of how it came about.

    The same capture and plan give the same bytes; what is costly comes from the memo, or is put there. Without `packs` texts
    are not packed ahead of time, which changes nothing of how pages look and work.
    """
    draft = Draft(capture, memo, plan.images, plan.delivery, plan.keep.selectors_for)
    for change in plan.counting():
        remedy = remedy_named(change.remedy)
        if remedy.allowed_by(plan.delivery):
            remedy.apply(change, draft)
        else:
            for target in change.targets:
                draft.notice(target, NO_EDITS)
    lighter = finished(draft, packs=packs)
    return lighter, draft.journal
