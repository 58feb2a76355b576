"""The list of excess, and the plan that follows from it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from unladen.errors import Notice
from unladen.plan import Effort, Plan
from unladen.progress import Progress
from unladen.remedies import Delivery, ImageSettings, remedy_named
from unladen.survey.findings import Finding
from unladen.survey.group_findings import gathered
from unladen.survey.site_facts import SiteFacts
from unladen.survey.spec import Context, Found
from unladen.survey.surveyors import surveyors
from unladen.work_cache import WorkCache


@dataclass(frozen=True, slots=True)
class Surveyed:
    """The excess, largest first, what was left alone and why, and the plan that cures it."""

    excess: list[Finding]
    notices: list[Notice]
    plan: Plan


def survey(
    evidence: SiteFacts,
    effort: Effort,
    work_cache: WorkCache,
    progress: Progress,
    images: ImageSettings | None = None,
    delivery: Delivery | None = None,
) -> Surveyed:
    """Ask all surveyors in their order; raises `Cancelled`."""
    context = Context(evidence, effort, images or ImageSettings(), delivery or Delivery(), work_cache, progress)
    excess: list[Finding] = []
    notices: list[Notice] = []
    for surveyor in surveyors():
        possible = [name for name in surveyor.remedies if remedy_named(name).allowed_by(context.delivery)]
        result = surveyor.find(context) if possible or surveyor.advises or not surveyor.remedies else Found()
        context.before[surveyor.name] = result
        context.evidence = result.evidence or context.evidence
        excess += [entry for each in result.excess if (entry := _possible(each, context)) is not None]
        notices += result.notices
    excess = gathered(excess, context.evidence)
    excess.sort(key=lambda entry: (-entry.bytes, -entry.requests, entry.id))
    changes = tuple(change for entry in excess for change in entry.changes)
    return Surveyed(excess, notices, Plan(effort.name, changes, images=context.images, delivery=context.delivery))


def _possible(excess: Finding, context: Context) -> Finding | None:
    """An excess with those cures that can be delivered, of which one is on as far as the effort goes."""
    allowed = [c for c in excess.changes if remedy_named(c.remedy).allowed_by(context.delivery)]
    if excess.changes and not allowed and not excess.advice:
        return None
    effort = context.effort.name
    reached = [replace(c, on=c.on and remedy_named(c.remedy).reached_by(effort)) for c in allowed]
    first = next((c.id for c in reached if c.on), "")
    return replace(excess, changes=tuple(replace(c, on=c.on and c.id == first) for c in reached))
