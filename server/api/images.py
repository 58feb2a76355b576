"""The contact sheet and the loupe: all images of a site, what is proposed for each, and one image in many versions."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal
from uuid import UUID

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Query, Router
from ninja.errors import HttpError

from server.api.image_schemas import (
    ChoiceIn,
    EncodeOut,
    ImageRow,
    ImageSettingsIO,
    ImageSheet,
    Proposed,
    SteerIn,
)
from server.api.schemas import JobOut
from server.api.sites import ERRORS, owner_of, site_of
from server.previews.labels import file_address
from server.sites import jobs, storage
from server.sites.encoding import encoded
from server.sites.models import Job, Site
from unladen.lighten import THUMBNAIL, memo_of, recipe_of
from unladen.memo import Encoded, Memo
from unladen.plan import (
    EFFORTS,
    LIKENESS,
    Choice,
    ImageScope,
    ImageSettings,
    Plan,
    Proposal,
    proposals,
    with_choices,
)
from unladen.raster.recode import Recipe
from unladen.survey import SiteImage

router = Router(tags=["images"])

_MEDIA_TYPES = {"WEBP": "image/webp", "JPEG": "image/jpeg", "PNG": "image/png", "AVIF": "image/avif"}
_KEPT = {"Cache-Control": "private, max-age=86400, immutable", "X-Content-Type-Options": "nosniff"}
Format = Literal["WEBP", "AVIF", "JPEG", "PNG"]


def _plan_of(site: Site) -> Plan:
    if not site.plan:
        raise HttpError(409, "The site has not been weighed yet.")
    return Plan.from_json(site.plan)


def _image(site: Site, path: str) -> SiteImage:
    found = next((image for image in storage.images_of(site) if image.path == path), None)
    if found is None:
        raise HttpError(404, f"{path}: there is no such image in the site")
    return found


@router.get("sites/{site_id}/images", response={200: ImageSheet, **ERRORS})
def sheet(request: HttpRequest, site_id: UUID) -> ImageSheet:
    """Every image of the site with what is proposed for it."""
    site = site_of(request, site_id)
    plan = _plan_of(site)
    memo = memo_of(storage.store(site.pk))
    proposed = proposals(plan)
    reasons = {notice["name"]: notice["reason"] for notice in site.baseline["notices"]}
    if site.result:
        reasons |= {notice["name"]: notice["reason"] for notice in site.result["ledger"]["notices"]}
    effort = EFFORTS[plan.effort].similarity
    word = next((word for word, value in LIKENESS.items() if value == effort), "fine")
    return ImageSheet(
        settings=ImageSettingsIO(**plan.images.as_json()),
        effort_likeness=word,  # type: ignore[arg-type]
        likenesses=LIKENESS,
        images=[
            ImageRow(
                **row,
                file=file_address(site, "found", row["url"]),
                proposed=_proposed(memo, row, proposed.get(row["path"]), plan.images),
                why_not=row["refused"] or reasons.get(row["path"], ""),
            )
            for row in site.images
        ],
    )


def _proposed(memo: Memo, row: dict[str, object], found: Proposal | None, settings: ImageSettings) -> Proposed | None:
    if found is None:
        return None
    outcome = memo.known(str(row["digest"]), recipe_of(found, settings))
    known = outcome or Encoded(format=found.format, width=found.width)
    names = ("format", "width", "quality", "likeness", "refused")
    return Proposed(
        changes=list(found.changes),
        on=found.on,
        set_aside=found.set_aside,
        encoded=outcome is not None,
        bytes=known.size,
        **{name: getattr(known, name) for name in names},
    )


@router.post("sites/{site_id}/images/choose", response={200: JobOut | None, **ERRORS})
def choose(request: HttpRequest, site_id: UUID, body: ChoiceIn) -> Job | None:
    """Treat these images as chosen. The plan changes at once; a job tries out what is not known yet.

    The answer is empty when all files are at hand.
    """
    site = site_of(request, site_id)
    plan = _plan_of(site)
    rows = {image.path: image for image in storage.images_of(site)}
    wanted = _with_families(rows, body)
    choice = Choice(body.format, body.width, body.likeness, body.quality)
    weighed = tuple(dict.fromkeys(row.page for row in site.weigh_ins.in_bulk(site.baseline["weigh_ins"]).values()))
    capture = storage.capture_of(site)
    scope = ImageScope(weighed, tuple("/" + page.path for page in capture.pages()))
    bound = [c.targets[0] for c in plan.changes if c.remedy == "shrink" and c.params.get("reserve")]
    choices = {path: _fitting(rows[path], choice, rows[wanted[0]]) for path in wanted}
    after = with_choices(plan, choices, scope, bound)
    if not body.on:
        after = after.changed(
            lambda c: replace(c, on=False) if c.params.get("chosen") and c.targets[0] in choices else c
        )
    memo = memo_of(storage.store(site.pk))
    unknown = any(
        memo.known(rows[path].digest, recipe_of(proposal, after.images)) is None
        for path, proposal in proposals(after).items()
        if path in choices
    )
    with transaction.atomic():
        jobs.expect_idle(site)
        Site.objects.filter(pk=site.pk).update(plan=after.as_json())
        return jobs.start(site, Job.Kind.ENCODE) if unknown else None


def _with_families(rows: dict[str, SiteImage], body: ChoiceIn) -> list[str]:
    unknown = set(body.paths) - rows.keys()
    if unknown:
        raise HttpError(422, f"{min(unknown)}: there is no such image in the site")
    wanted = dict.fromkeys(body.paths)
    if body.family:
        related = {rows[path].family for path in body.paths} - {""}
        wanted |= dict.fromkeys(row.path for row in rows.values() if row.family in related)
    return list(wanted)


def _fitting(row: SiteImage, choice: Choice, first: SiteImage) -> Choice:
    """A width chosen for one image holds for that one; others are never made larger."""
    if choice.width and (row.path != first.path or choice.width >= row.width):
        return replace(choice, width=0)
    return choice


@router.post("sites/{site_id}/images/settings", response={200: JobOut, **ERRORS})
def change_settings(request: HttpRequest, site_id: UUID, body: ImageSettingsIO) -> Job:
    """Propose anew under other settings; what the user decided for single images stays."""
    site = site_of(request, site_id)
    _plan_of(site)
    return jobs.start(site, Job.Kind.PROPOSE, {"images": ImageSettings(**body.dict()).as_json()})


@router.post("sites/{site_id}/plan/carry-out", response={200: JobOut, **ERRORS})
def carry_out(request: HttpRequest, site_id: UUID) -> Job:
    """Build, check and weigh the plan as it stands."""
    site = site_of(request, site_id)
    return jobs.start(site, Job.Kind.CARRY_OUT, {"plan": _plan_of(site).as_json()})


@router.get("sites/{site_id}/images/thumb", response=ERRORS)
def thumb(request: HttpRequest, site_id: UUID, path: Query[str]) -> HttpResponse:
    """A small picture of an image, of our own making."""
    site = site_of(request, site_id)
    store = storage.store(site.pk)
    return _made(site, encoded(store, _image(site, path).digest, THUMBNAIL))


@router.get("sites/{site_id}/images/step", response={200: EncodeOut, **ERRORS})
def step(
    request: HttpRequest,
    site_id: UUID,
    path: Query[str],
    format: Query[Format],
    width: Query[int],
    quality: Query[int],
) -> EncodeOut:
    """One image at one quality (0: exactly), encoded now unless it is known."""
    site = site_of(request, site_id)
    outcome = encoded(storage.store(site.pk), _image(site, path).digest, _recipe(format, width, quality))
    return EncodeOut(
        bytes=outcome.size,
        **{name: getattr(outcome, name) for name in ("format", "width", "height", "quality", "likeness", "refused")},
    )


@router.get("sites/{site_id}/images/version", response=ERRORS)
def version(
    request: HttpRequest,
    site_id: UUID,
    path: Query[str],
    format: Query[Format],
    width: Query[int],
    quality: Query[int],
) -> HttpResponse:
    """The file of a step."""
    site = site_of(request, site_id)
    return _made(site, encoded(storage.store(site.pk), _image(site, path).digest, _recipe(format, width, quality)))


def _recipe(format: Format, width: int, quality: int) -> Recipe:
    if not 0 <= quality <= 100 or not 0 <= width <= 30_000:
        raise HttpError(422, "quality goes from 0 to 100 and width to 30,000 px")
    return Recipe(width, format, 1.0, quality, always=True)


def _made(site: Site, outcome: Encoded) -> HttpResponse:
    """Pixels that our own encoder wrote; never a file as it was uploaded."""
    if outcome.refused or outcome.format not in _MEDIA_TYPES:
        raise HttpError(404, outcome.refused or "There is no such picture.")
    body = storage.store(site.pk).get(outcome.digest)
    return HttpResponse(body, content_type=_MEDIA_TYPES[outcome.format], headers=_KEPT)


@router.post("jobs/{job_id}/steer", response={200: JobOut, **ERRORS})
def steer(request: HttpRequest, job_id: UUID, body: SteerIn) -> Job:
    """Pause a job or let it go on, at full speed or easy on this machine."""
    found = get_object_or_404(Job, pk=job_id, site__owner=owner_of(request))
    jobs.steer(found, paused=body.paused, easy=body.easy)
    found.refresh_from_db()
    return found
