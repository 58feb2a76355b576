"""The contact sheet and the loupe: all images of a site, what is proposed for each, and one image in many versions."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Query
from ninja.errors import HttpError

from server.api.reading import ERRORS, FILE, READ, site_of, unchanged
from server.api.routing import ApiRouter
from server.api.schemas.common import JobOut
from server.api.schemas.images import EncodeOut, ImageRow, ImageSettingsIO, ImageSheet, Proposed
from server.audit import audited
from server.previews.labels import file_address, viewer_of
from server.sites import jobs, plans, runs, storage
from server.sites.encoding import encoded
from server.sites.models import Job, Site
from unladen.check import Standing
from unladen.lighten import THUMBNAIL, image_jobs
from unladen.plan import EFFORTS, Plan, Proposal, proposals
from unladen.raster.formats import MEDIA_TYPES
from unladen.raster.recode import Recipe
from unladen.remedies import LIKENESS, Delivery, ImageSettings
from unladen.survey import SiteImage
from unladen.work_cache import Outcome, WorkCache

router = ApiRouter(tags=["images"])

_KEPT = {"Cache-Control": "private, max-age=86400, immutable", "X-Content-Type-Options": "nosniff"}
Format = Literal["WEBP", "AVIF", "JPEG", "PNG"]
_OWN = Format.__args__  # type: ignore[attr-defined]


def _image(site: Site, path: str) -> SiteImage:
    result = next((image for image in storage.images_of(site) if image.path == path), None)
    if result is None:
        raise HttpError(404, f"{path}: the site has no such image")
    return result


@router.get("sites/{site_id}/images", response={200: ImageSheet, **READ})
def sheet(request: HttpRequest, response: HttpResponse, site_id: UUID) -> ImageSheet | tuple[int, None]:
    """Every image of the site with what is proposed for it."""
    site = site_of(request, site_id)
    head = plans.head_of(site)
    active = site.jobs.filter(state__in=[Job.State.WAITING, Job.State.RUNNING]).exists()
    state = (site.head_id, site.run_id, site.known.surveyed, active)
    if not active and unchanged(request, response, *state):
        return 304, None
    plan = plans.plan_of(head)
    work_cache = storage.work_cache(site.pk)
    proposed = proposals(plan)
    reasons = {notice["name"]: notice["reason"] for notice in site.known.notices}
    if site.run:
        reasons |= {notice["name"]: notice["reason"] for notice in site.run.ledger["notices"]}
    result = runs.outcomes_of(site.run).by_change.values()
    aside = {o.change: o.reason for o in result if o.standing is Standing.SET_ASIDE}
    effort = EFFORTS[plan.effort].similarity
    word = next((word for word, value in LIKENESS.items() if value == effort), "fine")
    viewer = viewer_of(request)
    return ImageSheet(
        settings=ImageSettingsIO(**plan.images.as_json(), **plan.delivery.as_json()),
        effort_likeness=word,  # type: ignore[arg-type]
        likenesses=LIKENESS,
        images=[
            ImageRow(
                **row,
                file=file_address(site, "found", row["url"], viewer),
                proposed=_proposed(work_cache, row, proposed.get(row["path"]), plan, aside),
                why_not=row["refused"] or reasons.get(row["path"], ""),
            )
            for row in site.images
        ],
    )


def _proposed(
    work_cache: WorkCache, row: dict[str, object], found: Proposal | None, plan: Plan, aside: dict[str, str]
) -> Proposed | None:
    if found is None:
        return None
    outcome = work_cache.known(str(row["digest"]), found.recipe(plan.images))
    known = outcome or Outcome(facts={"format": found.format, "width": found.width})
    return Proposed(
        changes=list(found.changes),
        on=found.on,
        set_aside=next((aside[id] for id in found.changes if id in aside), "") if found.on else "",
        encoded=outcome is not None,
        part=list(found.part),
        veil=list(found.veil),
        bytes=known.size,
        **{name: getattr(known, name) for name in ("format", "width", "quality", "likeness", "refused")},
    )


@router.post("sites/{site_id}/images/encode", response={200: JobOut | None, **ERRORS})
@audited("encoded images")
def encode(request: HttpRequest, site_id: UUID) -> Job | None:
    """Try out what the plan makes of images and is not known yet; the answer is empty when all files are at hand."""
    site = site_of(request, site_id)
    plan = plans.plan_of(plans.head_of(site))
    work_cache = storage.work_cache(site.pk)
    unknown = any(work_cache.known(*job) is None for _, job in image_jobs(plan, storage.images_of(site)))
    return jobs.start(site, Job.Kind.ENCODE) if unknown else None


@router.post("sites/{site_id}/images/settings", response={200: JobOut, **ERRORS})
@audited("changed image settings")
def change_settings(request: HttpRequest, site_id: UUID, body: ImageSettingsIO) -> Job:
    """Propose anew under other settings; what the user decided for single images stays."""
    site = site_of(request, site_id)
    plans.head_of(site)
    values = body.dict()
    images = ImageSettings(**{name: values[name] for name in ImageSettings().as_json()})
    delivery = Delivery(**{name: values[name] for name in Delivery().as_json()})
    return jobs.start(site, Job.Kind.PROPOSE, {"images": images.as_json(), "delivery": delivery.as_json()})


@router.get("sites/{site_id}/images/thumb", response=ERRORS, openapi_extra=FILE)
def thumb(request: HttpRequest, site_id: UUID, path: Query[str]) -> HttpResponse:
    """A small picture of an image, of our own making."""
    site = site_of(request, site_id)
    return _made(site, encoded(storage.store(site.pk), _image(site, path).digest, THUMBNAIL))


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
    outcome = encoded(storage.store(site.pk), _image(site, path).digest, _recipe(site, path, format, width, quality))
    return EncodeOut(
        bytes=outcome.size,
        **{name: getattr(outcome, name) for name in ("format", "width", "height", "quality", "likeness", "refused")},
    )


@router.get("sites/{site_id}/images/version", response=ERRORS, openapi_extra=FILE)
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
    recipe = _recipe(site, path, format, width, quality)
    return _made(site, encoded(storage.store(site.pk), _image(site, path).digest, recipe))


def _recipe(site: Site, path: str, format: Format, width: int, quality: int) -> Recipe:
    """The whole image at one quality, judged as visitors see it by the plan."""
    if not 0 <= quality <= 100 or not 0 <= width <= 30_000:
        raise HttpError(422, "quality must be 0 to 100 and width at most 30,000 px")
    seen = proposals(plans.plan_of(plans.head_of(site))).get(path, Proposal((), False))
    return Recipe(width, format, 1.0, quality, always=True, density=seen.density, veil=seen.veil)


def _made(site: Site, outcome: Outcome) -> HttpResponse:
    """Pixels that our own encoder wrote; never a file as it was uploaded."""
    if outcome.refused or outcome.format not in _OWN:
        raise HttpError(404, outcome.refused or "This picture does not exist. Reload the page.")
    body = storage.work_cache(site.pk).body(outcome)
    return HttpResponse(body, content_type=MEDIA_TYPES[outcome.format], headers=_KEPT)
