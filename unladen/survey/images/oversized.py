"""Images larger than they are shown."""

from __future__ import annotations

from collections.abc import Mapping

from unladen.remedies import Change
from unladen.remedies.images.shrink import ShrinkParams
from unladen.survey.findings import Finding
from unladen.survey.images.candidates import Candidate, ImageSurvey, excess_of
from unladen.survey.images.needs import density_at
from unladen.work_cache import Job, Outcome


def jobs(survey: ImageSurvey, c: Candidate) -> list[Job]:
    """The encode to try: the same format at the width that is needed."""
    return [(c.digest, survey.recipe_of(c, ""))] if c.width else []


def take(survey: ImageSurvey, c: Candidate, outcomes: Mapping[Job, Outcome]) -> bool:
    """Add the finding if the smaller image saves bytes; returns whether it does."""
    if not c.width:
        return False
    smaller = outcomes[(c.digest, survey.recipe_of(c, ""))]
    if not smaller.refused and smaller.size < c.size:
        survey.findings.append(_finding(survey, c, smaller))
        c.size = smaller.size
        return True
    c.width, c.part, c.reason = 0, (), smaller.refused
    c.density = density_at(c.use, c.info.width)
    return False


def _finding(survey: ImageSurvey, c: Candidate, outcome: Outcome) -> Finding:
    bound = any(not s.image.free for s in c.use.showings)
    params = ShrinkParams(
        width=c.width,
        similarity=c.similarity,
        reserve=bound,
        ratio=not c.holds_shape,
        part=c.part,
        **c.seen(),
    )
    pages = survey.everywhere if survey.same_names else survey.scope
    title = f"{c.name} is {c.info.width:,} px wide, shown at {c.shown_width:,}"
    why = f"{outcome.width:,} px are enough for sharp screens. The same format at that width was tried out."
    if c.part:
        shown = c.part[2] * c.part[3] / (c.info.width * c.info.height)
        why = (
            f"Its frames show {shown:.0%} of it in all windows. That part, {outcome.width:,} px wide, was tried out."
        )
    change = Change(f"shrink:{c.use.path}", "shrink", (c.use.path,), pages, params)
    return excess_of(c, "larger-than-shown", title, why, change, outcome)
