"""The account beyond its lines: who brings what was saved, what came and went between two runs."""

from __future__ import annotations

from dataclasses import asdict
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404

from server.api.reading import ERRORS, READ, run_of, site_of, unchanged
from server.api.routing import ApiRouter
from server.api.schemas.plans import BetweenRuns, BringerSaved, MovedOut, Saved
from server.sites import storage
from server.sites.models import Run
from unladen.ledger import read_ledger
from unladen.ledger.between_runs import between_runs
from unladen.ledger.visitors import by_bringer
from unladen.weigh.records.parties import rules_from

router = ApiRouter(tags=["account"])


@router.get("sites/{site_id}/runs/{run_id}/since", response={200: BetweenRuns, **ERRORS})
def since(request: HttpRequest, site_id: UUID, run_id: UUID) -> BetweenRuns:
    """What came and went from this run to the one that is shown."""
    site = site_of(request, site_id)
    then, now = get_object_or_404(Run, pk=run_id, site=site), run_of(site)
    moved = between_runs(read_ledger(then.ledger), read_ledger(now.ledger))
    same = then.weighed.before == now.weighed.before
    return BetweenRuns(made=then.made, same_ground=same, moved=[MovedOut(**asdict(each)) for each in moved])


@router.get("sites/{site_id}/brought", response={200: list[BringerSaved], **READ})
def brought(request: HttpRequest, response: HttpResponse, site_id: UUID) -> list[BringerSaved] | tuple[int, None]:
    """What of the shown run's savings was brought by whom; the sum is what was saved, to the byte."""
    site = site_of(request, site_id)
    if unchanged(request, response, site.run_id, site.rules):
        return 304, None
    run = run_of(site)
    before, after = (storage.weigh_ins_of(site, keys) for keys in (run.weighed.before, run.weighed.after))
    result = by_bringer(before, after, storage.capture_of(site).base_url, rules_from(site.rules))
    rows = [
        BringerSaved(kind=who.kind, name=who.name, saved=Saved(**saved.as_json())) for who, saved in result.items()
    ]
    return sorted(rows, key=lambda row: -row.saved.bytes)
