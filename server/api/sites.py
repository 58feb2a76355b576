"""Sites, their benches and their jobs."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from uuid import UUID

from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction
from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.text import slugify
from ninja import File, Router, UploadedFile
from ninja.errors import HttpError

from server.api import present
from server.api.schemas import Bench, JobOut, LightenIn, PlanEdit, Problem, SiteEdit, SiteOut, VisitIn
from server.sites import jobs, storage
from server.sites.models import Job, Site
from server.sites.taking import take_address, take_in, take_newer
from unladen.plan import Plan

router = Router(tags=["sites"])

ERRORS = {401: Problem, 404: Problem, 409: Problem, 413: Problem, 422: Problem}


def owner_of(request: HttpRequest) -> User:
    """The caller, whom the router let in."""
    assert isinstance(request.user, User)
    return request.user


def site_of(request: HttpRequest, site_id: UUID) -> Site:
    """A site of the caller's own; for all others it does not exist."""
    return get_object_or_404(Site, pk=site_id, owner=owner_of(request))


@router.get("sites", response={200: list[SiteOut], 401: Problem})
def list_sites(request: HttpRequest) -> list[SiteOut]:
    """The caller's sites, the newest first."""
    jobs.recover()
    return [present.site(site) for site in Site.objects.filter(owner=owner_of(request)).prefetch_related("jobs")]


@router.post("sites", response={200: SiteOut, **ERRORS})
def upload(request: HttpRequest, archive: File[UploadedFile]) -> SiteOut:
    """Take a ZIP, HAR or WARC file in as a new site and weigh it."""
    name = archive.name or "site.zip"
    if (archive.size or 0) > settings.UPLOAD_LIMIT:
        raise HttpError(413, f"{name}: is larger than {settings.UPLOAD_LIMIT // 1_000_000:,} MB")
    path = Path(archive.temporary_file_path())  # type: ignore[attr-defined]
    return present.site(take_in(owner_of(request), path, name))


@router.post("sites/{site_id}/newer", response={200: SiteOut, **ERRORS})
def upload_newer(request: HttpRequest, site_id: UUID, archive: File[UploadedFile]) -> SiteOut:
    """Take a newer copy of the site in; the plan stays, and only what is new or changed is tried out again."""
    site = site_of(request, site_id)
    name = archive.name or "site.zip"
    if (archive.size or 0) > settings.UPLOAD_LIMIT:
        raise HttpError(413, f"{name}: is larger than {settings.UPLOAD_LIMIT // 1_000_000:,} MB")
    path = Path(archive.temporary_file_path())  # type: ignore[attr-defined]
    return present.site(take_newer(site, path, name))


@router.post("sites/visit", response={200: SiteOut, **ERRORS})
def visit(request: HttpRequest, body: VisitIn) -> SiteOut:
    """Record a live site from its address as a new site, and weigh it."""
    return present.site(take_address(owner_of(request), body.address, body.depth, body.pages))


@router.get("sites/{site_id}", response={200: Bench, **ERRORS})
def bench(request: HttpRequest, site_id: UUID) -> Bench:
    """All that the screens of a site show."""
    jobs.recover()
    return present.bench(site_of(request, site_id))


@router.patch("sites/{site_id}", response={200: SiteOut, **ERRORS})
def edit(request: HttpRequest, site_id: UUID, body: SiteEdit) -> SiteOut:
    """Set what a page of the site may weigh."""
    site = site_of(request, site_id)
    site.allowance = body.allowance
    site.save(update_fields=["allowance"])
    return present.site(site)


@router.delete("sites/{site_id}", response={204: None, **ERRORS})
def delete(request: HttpRequest, site_id: UUID) -> HttpResponse:
    """Delete a site with everything that was stored of it; a job on it stops."""
    site = site_of(request, site_id)
    key = site.pk
    site.delete()
    storage.remove(key)
    return HttpResponse(status=204)


@router.post("sites/{site_id}/lighten", response={200: JobOut, **ERRORS})
def lighten(request: HttpRequest, site_id: UUID, body: LightenIn) -> Job:
    """Carry out the ready-made plan of an effort."""
    site = site_of(request, site_id)
    if not site.baseline:
        raise HttpError(409, "The site has not been weighed yet.")
    return jobs.start(site, Job.Kind.LIGHTEN, {"effort": body.effort})


@router.patch("sites/{site_id}/plan", response={200: JobOut | None, **ERRORS})
def edit_plan(request: HttpRequest, site_id: UUID, body: PlanEdit) -> Job | None:
    """Switch changes on or off or keep files as they are, and carry the plan out. All of it or nothing.

    The answer is empty when the edit makes no difference to what is carried out.
    """
    site = site_of(request, site_id)
    if not site.plan:
        raise HttpError(409, "The site has not been weighed yet.")
    plan = Plan.from_json(site.plan)
    switched = {change.id: change for change in body.changes}
    unknown = switched.keys() - {change.id for change in plan.changes}
    if unknown:
        raise HttpError(422, f"the plan has no change “{min(unknown)}”")
    plan = plan.changed(
        lambda c: replace(c, on=s.on, insist=s.on and s.insist, set_aside="") if (s := switched.get(c.id)) else c
    )
    if body.keep_files is not None:
        plan = replace(plan, keep=replace(plan.keep, files=tuple(body.keep_files)))
    return carry_out(site, plan, Plan.from_json(site.plan))


@router.get("sites/{site_id}/plan", response={401: Problem, 404: Problem})
def export_plan(request: HttpRequest, site_id: UUID) -> HttpResponse:
    """The plan as its published document."""
    site = site_of(request, site_id)
    if not site.plan:
        raise HttpError(404, "There is no plan yet.")
    return _json_file(site, "plan", site.plan)


@router.post("sites/{site_id}/plan", response={200: JobOut, **ERRORS})
def import_plan(request: HttpRequest, site_id: UUID, document: File[UploadedFile]) -> Job:
    """Carry out a plan from its published document."""
    name = document.name or "plan.json"
    try:
        data = json.loads(document.read(5_000_000))
    except ValueError:
        raise HttpError(422, f"{name}: is not a JSON document") from None
    return _carry_out(site_of(request, site_id), Plan.from_json(data, name))


def carry_out(site: Site, plan: Plan, before: Plan) -> Job | None:
    """Keep an edited plan and carry it out, unless that makes no difference to what is carried out already."""
    if plan.counting() == before.counting():
        Site.objects.filter(pk=site.pk).update(plan=plan.as_json())
        return None
    return _carry_out(site, plan)


def _carry_out(site: Site, plan: Plan) -> Job:
    with transaction.atomic():
        job = jobs.start(site, Job.Kind.CARRY_OUT, {"plan": plan.as_json()})
        Site.objects.filter(pk=site.pk).update(plan=plan.as_json())
    return job


@router.get("sites/{site_id}/lighter.zip", response=ERRORS)
def download(request: HttpRequest, site_id: UUID) -> FileResponse:
    """The lighter site."""
    return _archive(site_of(request, site_id), "lighter")


@router.get("sites/{site_id}/changed.zip", response=ERRORS)
def download_changed(request: HttpRequest, site_id: UUID) -> FileResponse:
    """Only the files that are new or differ, with the list of what to replace where."""
    return _archive(site_of(request, site_id), "changed")


def _archive(site: Site, name: str) -> FileResponse:
    path = storage.folder(site.pk) / f"{name}.zip"
    if not site.result or not path.exists():
        raise HttpError(404, "There is nothing to hand over yet.")
    return FileResponse(path.open("rb"), as_attachment=True, filename=f"{slug_of(site)}-{name}.zip")


@router.get("sites/{site_id}/ledger.json", response=ERRORS)
def ledger(request: HttpRequest, site_id: UUID) -> HttpResponse:
    """The ledger as its published document."""
    site = site_of(request, site_id)
    if not site.result:
        raise HttpError(404, "There is no ledger yet.")
    return _json_file(site, "ledger", site.result["ledger"])


@router.get("sites/{site_id}/pictures/{name}", response=ERRORS)
def picture(request: HttpRequest, site_id: UUID, name: str) -> HttpResponse:
    """A picture that our own browser took of a page; nothing else can be named."""
    site = site_of(request, site_id)
    if name not in present.picture_names(site):
        raise HttpError(404, "There is no such picture.")
    body = storage.store(site.pk).get(name)
    media_type = "image/png" if body.startswith(b"\x89PNG") else "image/jpeg"
    return HttpResponse(body, content_type=media_type, headers={"Cache-Control": "private, max-age=86400, immutable"})


@router.get("jobs/{job_id}", response={200: JobOut, **ERRORS})
def job(request: HttpRequest, job_id: UUID) -> Job:
    """Where a job stands."""
    jobs.recover()
    return get_object_or_404(Job, pk=job_id, site__owner=owner_of(request))


@router.post("jobs/{job_id}/cancel", response={200: JobOut, **ERRORS})
def cancel(request: HttpRequest, job_id: UUID) -> Job:
    """Ask a job to stop; what stood before stays."""
    found = get_object_or_404(Job, pk=job_id, site__owner=owner_of(request))
    jobs.cancel(found)
    found.refresh_from_db()
    return found


def slug_of(site: Site) -> str:
    return slugify(site.name) or "site"


def _json_file(site: Site, what: str, document: object) -> HttpResponse:
    name = f"{slug_of(site)}-{what}.json"
    return HttpResponse(
        json.dumps(document, indent=1),
        content_type="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
