"""Weigh-ins under conditions of one's choice, their history, walks and the use map."""

from __future__ import annotations

import json
from typing import Any
from uuid import UUID

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja.errors import HttpError

from server.api import details, present
from server.api.reading import ERRORS, FILE, READ, file, site_of, slug_of, unchanged
from server.api.routing import ApiRouter
from server.api.schemas.common import JobOut
from server.api.schemas.sites import ChosenIn
from server.api.schemas.walking import UsedText, UseMap, WalkIn, WalkOrdersIn
from server.api.schemas.weighing import (
    Comparison,
    HeadersOut,
    HistoryRow,
    RulesIn,
    WeighInDetail,
    WeighInEdit,
    WeighInsOut,
    WeighMoreIn,
)
from server.audit import audited
from server.previews.labels import viewer_of
from server.sites import jobs, runs, storage
from server.sites.models import Job, Site, StoredWeighIn
from unladen.capture.choosing import chosen_pages
from unladen.weigh.records.conditions import Conditions, device_named, link_named
from unladen.weigh.records.current import with_pinned
from unladen.weigh.records.export import csv_of, har_of
from unladen.weigh.records.model import WeighIn
from unladen.weigh.records.parties import rules_from
from unladen.weigh.visits.walk import orders_from

router = ApiRouter(tags=["weighing"])


def _row(site: Site, weigh_in_id: UUID) -> StoredWeighIn:
    return get_object_or_404(StoredWeighIn, pk=weigh_in_id, site=site)


def _pages(site: Site, wanted: list[str]) -> list[str]:
    """The pages to work on; only those that were weighed can be named."""
    if not site.baseline:
        raise HttpError(409, "The site is not weighed yet. Weigh it first.")
    keys = site.baseline.weigh_ins
    rows = site.weigh_ins.in_bulk(keys)
    known = list(dict.fromkeys(rows[UUID(key)].page for key in keys))
    if unknown := set(wanted) - set(known):
        raise HttpError(422, f"{min(unknown)}: is not a page of the baseline")
    return wanted or known


@router.post("sites/{site_id}/weigh", response={200: JobOut, **ERRORS})
@audited("weighed the site")
def weigh(request: HttpRequest, site_id: UUID) -> Job:
    """Weigh the site for the first time, or from the start again."""
    return jobs.start(site_of(request, site_id), Job.Kind.WEIGH)


@router.post("sites/{site_id}/pages", response={200: JobOut, **ERRORS})
@audited("chose pages to weigh")
def choose_pages(request: HttpRequest, site_id: UUID, body: ChosenIn) -> Job:
    """Weigh other pages of the site; those that were weighed already are not weighed again."""
    site = site_of(request, site_id)
    chosen_pages(storage.capture_of(site), body.chosen)
    return jobs.start(site, Job.Kind.WEIGH, body.dict(exclude_none=True))


@router.post("sites/{site_id}/weigh-ins", response={200: JobOut, **ERRORS})
@audited("weighed under further conditions")
def weigh_more(request: HttpRequest, site_id: UUID, body: WeighMoreIn) -> Job:
    """Weigh pages under further conditions, as found and as they are now."""
    site = site_of(request, site_id)
    link = link_named(body.link)
    for name in body.devices:
        Conditions(device_named(name), body.visit, link, body.runs)
    return jobs.start(site, Job.Kind.WEIGH_MORE, body.dict() | {"pages": _pages(site, body.pages)})


@router.get("sites/{site_id}/weigh-ins", response={200: WeighInsOut, **READ})
def weigh_ins(request: HttpRequest, response: HttpResponse, site_id: UUID) -> WeighInsOut | tuple[int, None]:
    """The weigh-ins that count, as found and now, with pictures of the pages."""
    site = site_of(request, site_id)
    rows = list(site.weigh_ins.values_list("pk", "pinned", "name"))
    if unchanged(request, response, rows, site.known.weigh_ins, site.run_id):
        return 304, None
    return present.weigh_ins(site)


@router.get("sites/{site_id}/history", response={200: list[HistoryRow], **ERRORS})
def history(request: HttpRequest, site_id: UUID, page: str) -> list[HistoryRow]:
    """All weigh-ins of a page, the oldest first."""
    return details.history(site_of(request, site_id), page)


@router.get("sites/{site_id}/weigh-ins/{weigh_in_id}", response={200: WeighInDetail, **ERRORS})
def weigh_in(request: HttpRequest, site_id: UUID, weigh_in_id: UUID) -> WeighInDetail:
    """All of one weigh-in."""
    site = site_of(request, site_id)
    return details.detail(site, _row(site, weigh_in_id))


@router.patch("sites/{site_id}/weigh-ins/{weigh_in_id}", response={200: list[HistoryRow], **ERRORS})
@audited("pinned or named a weigh-in")
def edit_weigh_in(request: HttpRequest, site_id: UUID, weigh_in_id: UUID, body: WeighInEdit) -> list[HistoryRow]:
    """Name a weigh-in, pin it as the baseline of its conditions, or let it go again."""
    with transaction.atomic():
        site = site_of(request, site_id)
        row = _row(site, weigh_in_id)
        if body.name is not None:
            row.name = body.name.strip()
        if body.pinned is not None and body.pinned != row.pinned:
            if row.side == StoredWeighIn.Side.LIVE:
                raise HttpError(409, "The live site may have changed. Upload a newer copy to start from it.")
            jobs.expect_idle(site)  # work under way writes the baseline, too
            if not body.pinned and str(row.pk) in runs.held_keys(site):
                raise HttpError(
                    409, "The ledger uses this weigh-in. Pin another weigh-in with the same conditions first."
                )
            row.pinned = body.pinned
            if row.pinned and row.side == StoredWeighIn.Side.FOUND:
                _make_baseline(site, row)
        row.save(update_fields=["name", "pinned"])
    return details.history(site, row.page)


def _make_baseline(site: Site, row: StoredWeighIn) -> None:
    """Let a weigh-in take the place of the one of the same page and conditions in the baseline, if there is one."""
    if not site.baseline:
        return
    rows = site.weigh_ins.in_bulk(site.baseline.weigh_ins)
    baseline = [present.kept(rows[UUID(key)], set()) for key in site.baseline.weigh_ins]
    site.baseline.weigh_ins = with_pinned(baseline, present.kept(row, set()))
    site.save(update_fields=["baseline"])


@router.delete("sites/{site_id}/weigh-ins/{weigh_in_id}", response={204: None, **ERRORS})
@audited("deleted a weigh-in")
def delete_weigh_in(request: HttpRequest, site_id: UUID, weigh_in_id: UUID) -> HttpResponse:
    """Delete a weigh-in that is not pinned and that nothing stands on."""
    site = site_of(request, site_id)
    row = _row(site, weigh_in_id)
    if row.pinned or str(row.pk) in runs.held_keys(site):
        raise HttpError(409, "Pinned weigh-ins and those in the ledger cannot be deleted. Unpin it first.")
    row.delete()
    return HttpResponse(status=204)


@router.get("sites/{site_id}/weigh-ins/{weigh_in_id}/requests/{position}", response={200: HeadersOut, **ERRORS})
def headers(request: HttpRequest, site_id: UUID, weigh_in_id: UUID, position: int) -> HeadersOut:
    """The header fields of one request, and where its file can be seen."""
    site = site_of(request, site_id)
    headers = details.headers(site, _row(site, weigh_in_id), position, viewer_of(request))
    if headers is None:
        raise HttpError(404, "The weigh-in has no such request.")
    return headers


@router.get("sites/{site_id}/weigh-ins/{weigh_in_id}/weigh-in.har", response=ERRORS, openapi_extra=FILE)
@audited("downloaded the weigh-in as HAR")
def har(request: HttpRequest, site_id: UUID, weigh_in_id: UUID) -> HttpResponse:
    """The kept run as HAR 1.2 with bodies."""
    site = site_of(request, site_id)
    row = _row(site, weigh_in_id)
    document = har_of(details.capture_for(site, row), [WeighIn.from_record(row.record)])
    return file(json.dumps(document, indent=1), "application/json", f"{_name(site, row)}.har")


@router.get("sites/{site_id}/weigh-ins/{weigh_in_id}/requests.csv", response=ERRORS, openapi_extra=FILE)
@audited("downloaded the requests")
def csv(request: HttpRequest, site_id: UUID, weigh_in_id: UUID) -> HttpResponse:
    """The requests as CSV."""
    site = site_of(request, site_id)
    row = _row(site, weigh_in_id)
    text = csv_of(details.capture_for(site, row), [WeighIn.from_record(row.record)], rules_from(site.rules))
    return file(text, "text/csv", f"{_name(site, row)}.csv")


def _name(site: Site, row: StoredWeighIn) -> str:
    page = row.page.strip("/").replace("/", "-").rpartition(".")[0] or "page"
    return f"{slug_of(site)}-{''.join(c for c in page if c.isalnum() or c in '-_')[:60]}-{row.device}"


@router.get("sites/{site_id}/compare", response={200: Comparison, **ERRORS})
def compare(request: HttpRequest, site_id: UUID, before: UUID, after: UUID) -> Comparison:
    """Two weigh-ins side by side, marked where their conditions differ."""
    site = site_of(request, site_id)
    return details.comparison(_row(site, before), _row(site, after))


@router.get("sites/{site_id}/use", response={200: UseMap, **ERRORS})
def use(request: HttpRequest, site_id: UUID) -> UseMap:
    """The use map, and the walks that it comes from."""
    return details.use_map(site_of(request, site_id))


@router.get("sites/{site_id}/use/text", response={200: UsedText, **ERRORS})
def used_text(request: HttpRequest, site_id: UUID, url: str, page: str = "") -> UsedText:
    """A file's text and what of it was used."""
    result = details.used_text(site_of(request, site_id), url, page)
    if result is None:
        raise HttpError(404, "No walk loaded this file.")
    return result


@router.post("sites/{site_id}/walk", response={200: JobOut, **ERRORS})
@audited("walked through pages")
def walk(request: HttpRequest, site_id: UUID, body: WalkIn) -> Job:
    """Walk over pages on phone and desktop."""
    site = site_of(request, site_id)
    return jobs.start(site, Job.Kind.WALK, {"pages": _pages(site, body.pages)})


@router.put("sites/{site_id}/walk", response={200: WalkOrdersIn, **ERRORS})
@audited("set steps of a walk")
def order_walk(request: HttpRequest, site_id: UUID, body: WalkOrdersIn) -> WalkOrdersIn:
    """Set the steps of one's own for a page, and those that are switched off; the next walk follows them."""
    wanted: dict[str, Any] = {"own": [step.dict() for step in body.own], "off": body.off}
    orders_from(wanted)
    with transaction.atomic():
        site = site_of(request, site_id)
        _pages(site, [body.page])
        site.walking[body.page] = wanted
        site.save(update_fields=["walking"])
    return body


@router.get("sites/{site_id}/walk", response={200: WalkOrdersIn, **ERRORS})
def walk_orders(request: HttpRequest, site_id: UUID, page: str) -> WalkOrdersIn:
    """The steps of one's own for a page, and those that are switched off."""
    return WalkOrdersIn(page=page, **site_of(request, site_id).walking.get(page, {}))


@router.put("sites/{site_id}/rules", response={200: JobOut | None, **ERRORS})
@audited("corrected who loads files")
def set_rules(request: HttpRequest, site_id: UUID, body: RulesIn) -> Job | None:
    """Say whose hosts and paths are; the excess is found anew."""
    site = site_of(request, site_id)
    rows = [rule.dict() for rule in body.rules]
    rules_from(rows)
    with transaction.atomic():
        Site.objects.filter(pk=site.pk).update(rules=rows)
        return jobs.start(site, Job.Kind.SURVEY) if site.baseline else None
