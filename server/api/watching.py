"""Live sites weighed again now and then."""

from __future__ import annotations

from uuid import UUID

from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.http import HttpRequest
from ninja.errors import HttpError

from server.api.reading import ERRORS, site_of
from server.api.routing import ApiRouter
from server.api.schemas.common import JobOut
from server.api.schemas.watching import WatchIn, WatchOut
from server.audit import audited
from server.sites import jobs, storage
from server.sites.models import Job, Site
from unladen.weigh.visits.recording import address_from

router = ApiRouter(tags=["watching"])


def _state(site: Site) -> WatchOut:
    watched = site.watched
    address = site.watch_address
    if not address and site.watch:
        address = storage.capture_of(site).base_url
    return WatchOut.model_validate(
        {
            "often": site.watch,
            "address": address,
            "mail": site.watch_mail,
            "at": watched.at,
            "error": watched.error,
            "mail_error": watched.mail,
            "grown": watched.grown,
        }
    )


@router.get("sites/{site_id}/watch", response={200: WatchOut, **ERRORS})
def show(request: HttpRequest, site_id: UUID) -> WatchOut:
    """How the live site is watched."""
    return _state(site_of(request, site_id))


@router.put("sites/{site_id}/watch", response={200: WatchOut, **ERRORS})
@audited("set the watch")
def change(request: HttpRequest, site_id: UUID, body: WatchIn) -> WatchOut:
    """Watch the live site, or stop that."""
    site = site_of(request, site_id)
    if body.mail:
        try:
            validate_email(body.mail)
        except ValidationError:
            raise HttpError(422, f"{body.mail}: is not an e-mail address") from None
    site.watch, site.watch_mail = body.often, body.mail
    site.watch_address = address_from(body.address) if body.address else ""
    site.save(update_fields=["watch", "watch_mail", "watch_address"])
    return _state(site)


@router.post("sites/{site_id}/watch", response={200: JobOut, **ERRORS})
@audited("weighed the live site")
def at_once(request: HttpRequest, site_id: UUID) -> Job:
    """Weigh the live site now."""
    site = site_of(request, site_id)
    if not site.baseline:
        raise HttpError(409, "The site is not weighed yet. Weigh it first.")
    return jobs.start(site, Job.Kind.WATCH)
