"""Plans from files and other versions compared with the current plan and merged; addresses of live copies."""

from __future__ import annotations

import json
from collections.abc import Sequence
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Form, UploadedFile
from ninja.errors import HttpError

from server.api.plans import edited
from server.api.reading import ERRORS, FILE, json_file, site_of
from server.api.routing import ApiRouter
from server.api.schemas.plan_import import ApartOut, BesideOut, CopiesOut, MergeIn, PartOfChange
from server.api.schemas.plans import PlanEdited
from server.api.schemas.sites import RemedyName
from server.audit import audited
from server.previews.labels import preview_address, viewer_of
from server.sites import plans, storage
from server.sites.models import PlanVersion, Site
from unladen.documents import read_json
from unladen.plan import Adopt, Plan
from unladen.plan.fit import fit
from unladen.plan.merge import WHOLE, Apart, apart, merged

router = ApiRouter(tags=["plan import"])

_LARGEST_PLAN = 20_000_000  # bytes of a plan's document


def _read(document: UploadedFile) -> Plan:
    name = document.name or "plan.json"
    if (document.size or 0) > _LARGEST_PLAN:
        raise HttpError(422, f"{name}: is larger than {_LARGEST_PLAN // 10**6} MB")
    return Plan.from_json(read_json(document.read(), name), name)


def _beside(site: Site, other: Plan) -> BesideOut:
    fitting = fit(other, storage.capture_of(site))
    named = {change.id: change for change in other.changes}

    def row(found: Apart) -> ApartOut:
        remedy, targets = (RemedyName(found.change.remedy), found.change.targets) if found.change else (None, ())
        return ApartOut(
            key=found.key, title=WHOLE.get(found.key, ""), remedy=remedy, targets=list(targets),
            here=found.here, there=found.there, conflict=found.conflict,
        )  # fmt: skip

    def part(id: str, lost: Sequence[str]) -> PartOfChange:
        change = named[id]
        return PartOfChange(id=id, remedy=RemedyName(change.remedy), targets=list(change.targets), lost=list(lost))

    return BesideOut(
        fits=len(fitting.whole),
        partly=[part(id, lost) for id, lost in fitting.partly.items()],
        gone=[part(id, named[id].targets) for id in fitting.gone],
        apart=[row(result) for result in apart(plans.plan_of(plans.head_of(site)), other)],
    )


@router.post("sites/{site_id}/plan/look", response={200: BesideOut, **ERRORS})
@audited("compared the plan with another")
def look(request: HttpRequest, site_id: UUID, document: File[UploadedFile]) -> BesideOut:
    """What a plan from a file would change and how far it fits this site. Nothing is changed by it."""
    return _beside(site_of(request, site_id, "look"), _read(document))


@router.get("sites/{site_id}/plan/document", response=ERRORS, openapi_extra=FILE)
@audited("downloaded the plan")
def export_plan(request: HttpRequest, site_id: UUID) -> HttpResponse:
    """The plan as its published document."""
    site = site_of(request, site_id)
    return json_file(site, "plan", plans.document_of(plans.head_of(site)))


@router.post("sites/{site_id}/plan/document", response={200: PlanEdited, **ERRORS})
@audited("loaded a plan from a file")
def import_plan(
    request: HttpRequest, site_id: UUID, document: File[UploadedFile], version: Form[UUID], take: Form[str] = ""
) -> HttpResponse:
    """Take a plan from its published document, all of it or the places that `take` names (a JSON list of their keys).

    It is carried out when somebody says so.
    """
    site, other = site_of(request, site_id), _read(document)
    if not take:
        return edited(request, site, version, [Adopt(other)])
    try:
        keys = json.loads(take)
    except (ValueError, RecursionError):
        keys = None
    if not isinstance(keys, list) or not all(isinstance(key, str) for key in keys):
        raise HttpError(422, "“take” must be a list of keys.")
    return _merged(request, site, version, other, keys)


def _merged(request: HttpRequest, site: Site, version: UUID, other: Plan, take: Sequence[str]) -> HttpResponse:
    return edited(request, site, version, [Adopt(merged(plans.plan_of(plans.head_of(site)), other, frozenset(take)))])


@router.get("sites/{site_id}/plan/versions/{version_id}/beside", response={200: BesideOut, **ERRORS})
def beside(request: HttpRequest, site_id: UUID, version_id: UUID) -> BesideOut:
    """How another version of the plan differs from the plan as it is."""
    site = site_of(request, site_id)
    return _beside(site, plans.plan_of(get_object_or_404(PlanVersion, pk=version_id, site=site)))


@router.post("sites/{site_id}/plan/merge", response={200: PlanEdited, **ERRORS})
@audited("merged another plan")
def merge(request: HttpRequest, site_id: UUID, body: MergeIn) -> HttpResponse:
    """Take from another version what it says in these places."""
    site = site_of(request, site_id)
    other = get_object_or_404(PlanVersion, pk=body.other, site=site)
    return _merged(request, site, body.version, plans.plan_of(other), body.take)


@router.get("sites/{site_id}/plan/copies", response={200: CopiesOut, **ERRORS})
def copies(request: HttpRequest, site_id: UUID, change: str = "") -> CopiesOut:
    """Where the site can be looked at as it was found, as it is now, and as the plan would make it; for one change
    both ways.
    """
    site = site_of(request, site_id)
    plan = plans.plan_of(plans.head_of(site))
    if change and plan.change(change) is None:
        raise HttpError(404, "The plan has no such change. Reload the page.")
    viewer = viewer_of(request)
    return CopiesOut(
        found=preview_address(site, "found", viewer=viewer),
        now=preview_address(site, "now", viewer=viewer) if site.run_id else "",
        plan=preview_address(site, "plan", viewer=viewer),
        with_it=preview_address(site, "with", change, viewer=viewer) if change else "",
        without_it=preview_address(site, "without", change, viewer=viewer) if change else "",
    )
