"""`build`: the one place where a plan becomes a site."""

from __future__ import annotations

from unladen.capture import Capture
from unladen.memo import Memo
from unladen.plan import Plan
from unladen.remedies import REMEDIES, Draft, Journal


def build(capture: Capture, plan: Plan, memo: Memo) -> tuple[Capture, Journal]:
    """The lightened capture and the journal of how it came about.

    The same capture and plan give the same bytes; what is costly comes from the memo, or is put there.
    """
    draft = Draft(capture, memo, plan.images)
    for change in plan.counting():
        REMEDIES[change.remedy](change, draft)
    lighter = draft.finish()
    return lighter, draft.journal
