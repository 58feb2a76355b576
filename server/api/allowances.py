"""What pages may weigh, and how that is kept."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import File
from ninja.files import UploadedFile

from server.api.reading import ERRORS, FILE, READ, json_file, site_of, unchanged
from server.api.routing import ApiRouter
from server.api.schemas.showing import AllowanceOut, CulpritOut, KeptOut, LimitIO, LimitsIn
from server.audit import audited
from server.sites import storage
from server.sites.models import Site
from unladen.errors import BadInput
from unladen.ledger.allowance import Allowance, Limit, usual_allowance
from unladen.ledger.gate import Gate, judge
from unladen.weigh.records.model import weigh_ins_document
from unladen.weigh.records.parties import rules_from

router = ApiRouter(tags=["allowances"])


def allowance_of(site: Site) -> Allowance:
    """What a page may weigh, and the other limits."""
    whole = Limit(measure="bytes", most=site.allowance)
    return Allowance((whole, *(Limit.from_json(row) for row in site.limits)))


def _judged(site: Site, allowance: Allowance, keys: list[str], *, now: bool) -> Gate:
    """Every limit that is for what was weighed; growth is counted from the weigh-ins of the baseline."""
    capture = (storage.lightened_of(site) if now else None) or storage.capture_of(site)
    weigh_ins = storage.weigh_ins_of(site, keys)
    pinned = (
        weigh_ins_document(storage.weigh_ins_of(site, site.known.weigh_ins)) if _limits_growth(allowance) else None
    )
    try:
        return judge(allowance, weigh_ins, capture, rules=rules_from(site.rules), pinned=pinned)
    except BadInput:  # no limit is for anything that was weighed
        return Gate()


def _limits_growth(allowance: Allowance) -> bool:
    return any(limit.measure == "growth" for limit in allowance.limits)


def _state(site: Site) -> AllowanceOut:
    allowance = allowance_of(site)
    gate = _judged(site, allowance, site.baseline.weigh_ins, now=False) if site.baseline else Gate()
    now = _judged(site, allowance, site.run.weighed.after, now=True) if site.run else Gate()
    after = {(allowance.limits.index(row.limit), row.page, row.device): row for row in now.kept}
    kept = []
    for row in gate.kept:
        key = allowance.limits.index(row.limit), row.page, row.device
        latest = after.get(key, row)
        kept.append(
            KeptOut(
                limit=key[0],
                page=row.page,
                device=row.device,
                found=row.value,
                now=latest.value if key in after else None,
                culprits=[CulpritOut(name=c.name, amount=c.amount, bringer=c.bringer) for c in latest.culprits],
            )
        )
    return AllowanceOut(
        limits=[LimitIO(**limit.as_json()) for limit in allowance.limits],
        labels=[limit.label for limit in allowance.limits],
        units=[limit.unit for limit in allowance.limits],
        kept=kept,
        notes=(now if site.run else gate).notes,
        usual=[LimitIO(**limit.as_json()) for limit in usual_allowance().limits[1:]],
    )


@router.get("sites/{site_id}/allowance", response={200: AllowanceOut, **READ})
def show(request: HttpRequest, response: HttpResponse, site_id: UUID) -> AllowanceOut | tuple[int, None]:
    """All limits, and what every page came to."""
    site = site_of(request, site_id)
    taken = site.known.taken
    if unchanged(request, response, taken, site.run_id, site.rules, site.allowance, site.limits):
        return 304, None
    return _state(site)


@router.put("sites/{site_id}/allowance", response={200: AllowanceOut, **ERRORS})
@audited("set limits")
def change(request: HttpRequest, site_id: UUID, body: LimitsIn) -> AllowanceOut:
    """Set all limits; one on the bytes of every page on every device is the one that is drawn on the beam."""
    site = site_of(request, site_id)
    rows = [row.model_dump(mode="json") for row in body.limits]
    _take(site, Allowance.from_json(Allowance().as_json() | {"limits": rows}))
    return _state(site)


def _take(site: Site, allowance: Allowance) -> None:
    whole = Limit(measure="bytes", most=0).about
    for limit in allowance.limits:
        if limit.about == whole and limit.most >= 1:
            site.allowance = int(limit.most)
    site.limits = [limit.as_json() for limit in allowance.limits if limit.about != whole]
    site.save(update_fields=["allowance", "limits"])


@router.get("sites/{site_id}/allowance/document", response=ERRORS, openapi_extra=FILE)
@audited("downloaded the allowance")
def document(request: HttpRequest, site_id: UUID) -> HttpResponse:
    """The allowance as its published document, for the gate of a build server."""
    site = site_of(request, site_id)
    body: dict[str, Any] = allowance_of(site).as_json()
    return json_file(site, "allowance", body)


@router.post("sites/{site_id}/allowance/document", response={200: AllowanceOut, **ERRORS})
@audited("loaded limits from a file")
def take(request: HttpRequest, site_id: UUID, document: File[UploadedFile]) -> AllowanceOut:
    """Take an allowance from its published document."""
    site = site_of(request, site_id)
    _take(site, Allowance.read(document.read(), document.name or "allowance"))
    return _state(site)
