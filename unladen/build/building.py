"""`build`: the one place where a plan becomes a site."""

from __future__ import annotations

from unladen.build.files import finished
from unladen.capture import Capture
from unladen.plan import Plan
from unladen.remedies import Draft, Journal, remedy_named
from unladen.remedies.draft import NO_EDITS
from unladen.work_cache import WorkCache


def build(capture: Capture, plan: Plan, work_cache: WorkCache, *, trial: bool = False) -> tuple[Capture, Journal]:
    """The lightened capture and the journal of how it came about.

    The same capture and plan give the same bytes; what is costly comes from the memo, or is put there. A `trial` is
    only looked at: texts are not packed ahead of time, and are not proven to say what they said.
    """
    draft = Draft(capture, work_cache, plan.images, plan.delivery, plan.keep.selectors_for, trial=trial)
    for change in plan.counting():
        remedy = remedy_named(change.remedy)
        if remedy.allowed_by(plan.delivery):
            remedy.apply(change, draft)
        else:
            for target in change.targets:
                draft.notice(target, NO_EDITS)
    lighter = finished(draft)
    return lighter, draft.journal
