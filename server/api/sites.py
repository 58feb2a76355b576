"""Sites, what was found of them, and their jobs."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import cast
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, UploadedFile
from ninja.errors import HttpError

from server.api import present
from server.api.reading import (
    ERRORS,
    FILE,
    READ,
    Role,
    as_it_is,
    expect_role,
    owner_of,
    role_of,
    site_of,
    sites_of,
    unchanged,
)
from server.api.routing import ApiRouter
from server.api.schemas.common import JobOut, Problem, SteerIn
from server.api.schemas.findings import Findings, WorthOut
from server.api.schemas.sites import (
    DeviceOut,
    DifferenceKind,
    EffortOut,
    RemedyOut,
    SiteDetail,
    SiteEdit,
    SiteOut,
    VisitIn,
    Words,
)
from server.audit import audited
from server.previews.labels import viewer_of
from server.sites import jobs, runs, storage
from server.sites.models import Job, Share, Site
from server.sites.site_import import take_address, take_in, take_newer
from unladen.check import Standing
from unladen.check.difference_types import KINDS
from unladen.glossary import TERMS
from unladen.plan import EFFORTS
from unladen.remedies import remedies
from unladen.weigh.records.conditions import DEVICES

router = ApiRouter(tags=["sites"])


@router.get("words", response={200: Words, **READ})
def words(request: HttpRequest, response: HttpResponse) -> Words | tuple[int, None]:
    """The words of the core, so that screens need no list of their own."""
    words = Words(
        remedies=[RemedyOut.from_orm(remedy) for remedy in remedies()],
        efforts=[EffortOut.from_orm(effort) for effort in EFFORTS.values()],
        standings=list(Standing),
        differences=[DifferenceKind(name=name, title=title) for name, title in KINDS.items()],
        devices=[DeviceOut.from_orm(device) for device in DEVICES.values()],
        terms=TERMS,
    )
    return (304, None) if unchanged(request, response, words) else words


@router.get("sites", response={200: list[SiteOut], 401: Problem})
def list_sites(request: HttpRequest) -> list[SiteOut]:
    """The caller's sites and those that others share, the newest first."""
    jobs.recover()
    rows = []
    roles = dict(Share.objects.filter(user=owner_of(request)).values_list("site", "role"))
    for row in sites_of(request).prefetch_related("jobs", "shares"):
        rows.append(present.site(row, cast(Role, roles.get(row.pk, "own"))))
    return rows


def _listed(request: HttpRequest, site_id: UUID) -> SiteOut:
    site = site_of(request, site_id)
    return present.site(site, role_of(request, site))


def _detail(request: HttpRequest, found: Site) -> SiteDetail:
    return present.detail(found, role_of(request, found), viewer_of(request))


@router.post("sites", response={200: SiteOut, **ERRORS})
@audited("added the site")
def upload(request: HttpRequest, archive: File[UploadedFile]) -> SiteOut:
    """Take a ZIP, HAR or WARC file in as a new site and weigh it."""
    path, name = _taken(archive)
    return _listed(request, take_in(owner_of(request), path, name).pk)


@router.post("sites/{site_id}/newer", response={200: SiteOut, **ERRORS})
@audited("uploaded a newer copy")
def upload_newer(request: HttpRequest, site_id: UUID, archive: File[UploadedFile]) -> SiteOut:
    """Take a newer copy of the site in; the plan stays, and only what is new or changed is tried out again."""
    site = site_of(request, site_id)
    path, name = _taken(archive)
    take_newer(site, path, name)
    return _listed(request, site_id)


def _taken(archive: UploadedFile) -> tuple[Path, str]:
    name = archive.name or "site.zip"
    if (archive.size or 0) > settings.UPLOAD_LIMIT:
        raise HttpError(413, f"{name}: is larger than {settings.UPLOAD_LIMIT // 1_000_000:,} MB")
    return Path(archive.temporary_file_path()), name  # type: ignore[attr-defined]


@router.post("sites/visit", response={200: SiteOut, **ERRORS})
@audited("recorded a live site")
def visit(request: HttpRequest, body: VisitIn) -> SiteOut:
    """Record a live site from its address as a new site, and weigh it."""
    taken = take_address(owner_of(request), **body.dict())
    return _listed(request, taken.pk)


@router.get("sites/{site_id}", response={200: SiteDetail, **ERRORS})
def site(request: HttpRequest, site_id: UUID) -> SiteDetail:
    """A site itself."""
    return _detail(request, site_of(request, site_id))


@router.get("sites/{site_id}/findings", response={200: Findings, **READ})
def findings(request: HttpRequest, response: HttpResponse, site_id: UUID) -> HttpResponse | tuple[int, None]:
    """What could go."""
    site = site_of(request, site_id)
    surveyed = site.known.surveyed
    if unchanged(request, response, surveyed):
        return 304, None
    return as_it_is(present.findings(site), response)


@router.get("sites/{site_id}/worth", response={200: list[WorthOut], **READ})
def worth(request: HttpRequest, response: HttpResponse, site_id: UUID) -> HttpResponse | tuple[int, None]:
    """What each change brings over all weigh-ins, wanted or not."""
    site = site_of(request, site_id)
    if unchanged(request, response, site.known.surveyed, site.run_id):
        return 304, None
    return as_it_is([{"id": id, **asdict(each)} for id, each in runs.worth_of(site).items()], response)


@router.get("sites/{site_id}/job", response={200: JobOut | None, **ERRORS})
def latest_job(request: HttpRequest, site_id: UUID) -> JobOut | None:
    """The work under way on a site, or the last one if it failed. What it stores is there before it ends."""
    jobs.recover()
    return present.latest_job(site_of(request, site_id))


@router.patch("sites/{site_id}", response={200: SiteDetail, **ERRORS})
@audited("edited the site")
def edit(request: HttpRequest, site_id: UUID, body: SiteEdit) -> SiteDetail:
    """Set what a page of the site may weigh, its name and tags, or put it away."""
    site = site_of(request, site_id)
    wanted = {name: value for name, value in body.dict().items() if value is not None}
    if "name" in wanted and not (name := wanted["name"].strip()):
        raise HttpError(422, "Enter a name for the site.")
    if "name" in wanted:
        wanted["name"] = name
    if "tags" in wanted:
        wanted["tags"] = list(dict.fromkeys(filter(None, (" ".join(tag.split()) for tag in wanted["tags"]))))
    for field, value in wanted.items():
        setattr(site, field, value)
    site.save(update_fields=list(wanted))
    return _detail(request, site)


@router.delete("sites/{site_id}", response={204: None, **ERRORS})
@audited("deleted the site")
def delete(request: HttpRequest, site_id: UUID) -> HttpResponse:
    """Delete a site with everything that was stored of it; a job on it stops."""
    site = site_of(request, site_id, "own")
    key = site.pk
    site.delete()
    storage.remove(key)
    return HttpResponse(status=204)


@router.get("sites/{site_id}/pictures/{name}", response=ERRORS, openapi_extra=FILE)
def picture(request: HttpRequest, site_id: UUID, name: str) -> HttpResponse:
    """A picture that our own browser took of a page; nothing else can be named."""
    site = site_of(request, site_id)
    bodies = storage.store(site.pk)
    # First that it is a name at all: the database compares texts up to a NUL.
    if name not in bodies or not (site.weigh_ins.filter(summary__picture=name).exists() or runs.shows(site, name)):
        raise HttpError(404, "This picture does not exist. Reload the page.")
    body = bodies.get(name)
    media_type = "image/png" if body.startswith(b"\x89PNG") else "image/jpeg"
    return HttpResponse(body, content_type=media_type, headers={"Cache-Control": "private, max-age=86400, immutable"})


def _job(request: HttpRequest, job_id: UUID) -> Job:
    result = get_object_or_404(
        Job.objects.select_related("site__owner"), pk=job_id, site__in=sites_of(request).values("pk")
    )
    expect_role(request, result.site)
    return result


@router.get("jobs/{job_id}", response={200: JobOut, **ERRORS})
def job(request: HttpRequest, job_id: UUID) -> Job:
    """Where a job stands."""
    jobs.recover()
    return _job(request, job_id)


@router.post("jobs/{job_id}/cancel", response={200: JobOut, **ERRORS})
@audited("stopped a job")
def cancel(request: HttpRequest, job_id: UUID) -> Job:
    """Ask a job to stop; what stood before stays."""
    job = _job(request, job_id)
    jobs.cancel(job)
    job.refresh_from_db()
    return job


@router.post("jobs/{job_id}/go-on", response={200: JobOut, **ERRORS})
@audited("continued a check")
def go_on(request: HttpRequest, job_id: UUID) -> Job:
    """Take up work that was stopped; what it had proven is not looked at again."""
    job = _job(request, job_id)
    if job.state != Job.State.CANCELLED or not job.proofs:
        raise HttpError(409, "This job was not stopped during its check, so it cannot continue.")
    return jobs.go_on(job)


@router.post("jobs/{job_id}/steer", response={200: JobOut, **ERRORS})
@audited("paused or slowed a job")
def steer(request: HttpRequest, job_id: UUID, body: SteerIn) -> Job:
    """Pause a job or let it go on, at full speed or easy on this machine."""
    job = _job(request, job_id)
    jobs.steer(job, paused=body.paused, easy=body.easy)
    job.refresh_from_db()
    return job
