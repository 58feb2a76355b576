"""What to put in by hand: the list, its ticks, and the visit to the live site that looks whether they are so."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from django.db import transaction
from django.http import FileResponse, HttpRequest
from django.utils import timezone
from ninja.errors import HttpError

from server.api.reading import ERRORS, FILE, archive, run_of, site_of
from server.api.routing import ApiRouter
from server.api.schemas.by_hand import HandOut, HandStepOut, LiveIn, LiveWeight, SnippetOut, TickIn
from server.api.schemas.common import JobOut
from server.audit import audited
from server.sites import jobs, runs
from server.sites.documents import Hand, Visited
from server.sites.models import Job, Site
from unladen.capture import BASE_URL
from unladen.ledger.by_hand import HandStep
from unladen.weigh.visits.recording import address_from

router = ApiRouter(tags=["by hand"])
_MOST_SNIPPETS = 40


def _list(site: Site) -> HandOut:
    hand = _hand(site)
    visited = hand.visited or Visited()
    base = Site.objects.values_list("index__base_url", flat=True).get(pk=site.pk) or ""
    return HandOut(
        steps=[_step(step, hand) for step in runs.hand_steps_of(run_of(site))],
        address=visited.address or ("" if base.startswith(BASE_URL) else base),
        visited=datetime.fromisoformat(visited.at) if visited.at else None,
        weighed=[LiveWeight(**row) for row in visited.weighed],
    )


def _hand(site: Site) -> Hand:
    """As it stands now: several people may tick steps off."""
    hand: Hand = Site.objects.values_list("hand", flat=True).get(pk=site.pk)
    return hand


def _step(step: HandStep, hand: Hand) -> HandStepOut:
    there = hand.visited.steps.get(step.key) if hand.visited else None
    done = hand.ticks.get(step.key)
    return HandStepOut(
        key=step.key,
        title=step.title,
        why=step.why,
        bytes=step.bytes,
        files=list(step.files[:200]),
        snippets=[
            SnippetOut(page=s.page, old=s.old, new=s.new, after=s.after) for s in step.snippets[:_MOST_SNIPPETS]
        ],
        more=max(0, len(step.snippets) - _MOST_SNIPPETS),
        pages=list(step.pages),
        shows=step.shows,
        done=datetime.fromisoformat(done) if done else None,
        there=there[0] if there else None,
        why_not=there[1] if there else "",
    )


@router.get("sites/{site_id}/by-hand", response={200: HandOut, **ERRORS})
def show(request: HttpRequest, site_id: UUID) -> HandOut:
    """All steps, those that save most first."""
    return _list(site_of(request, site_id))


@router.put("sites/{site_id}/by-hand/{key}", response={200: HandOut, **ERRORS})
@audited("ticked off a step by hand")
def tick(request: HttpRequest, site_id: UUID, key: str, body: TickIn) -> HandOut:
    """Tick a step off, or take that back."""
    site = site_of(request, site_id)
    if key not in {step.key for step in runs.hand_steps_of(run_of(site))}:
        raise HttpError(404, "This step no longer exists. Reload the page.")
    with transaction.atomic():
        hand = _hand(site)
        if body.done:
            hand.ticks[key] = timezone.now().isoformat()
        else:
            hand.ticks.pop(key, None)
        Site.objects.filter(pk=site.pk).update(hand=hand)
    return _list(site)


@router.post("sites/{site_id}/visit-again", response={200: JobOut, **ERRORS})
@audited("compared with the live site")
def visit(request: HttpRequest, site_id: UUID, body: LiveIn) -> Job:
    """Visit the live site again and look which steps are so there."""
    site = site_of(request, site_id)
    run_of(site)
    return jobs.start(site, Job.Kind.VISIT_AGAIN, {"address": address_from(body.address)})


@router.get("sites/{site_id}/patch.zip", response=ERRORS, openapi_extra=FILE)
@audited("downloaded a diff")
def patch(request: HttpRequest, site_id: UUID) -> FileResponse:
    """A unified diff of all texts, with new files beside it."""
    return archive(site_of(request, site_id), "patch")


@router.get("sites/{site_id}/originals.zip", response=ERRORS, openapi_extra=FILE)
@audited("downloaded the originals")
def originals(request: HttpRequest, site_id: UUID) -> FileResponse:
    """The way back: the originals of all that was replaced."""
    return archive(site_of(request, site_id), "originals")
