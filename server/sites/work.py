"""What jobs do: hand stored documents to the core and store what comes back. Nothing is computed here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.conf import settings
from django.utils import timezone

from server.sites import storage
from server.sites.models import Site
from unladen.capture import Capture, write_zip
from unladen.errors import BadInput, Notice
from unladen.lighten import Baseline, Lightened, carry_out, survey_again, weigh_and_survey
from unladen.plan import Plan
from unladen.progress import Progress
from unladen.weigh.conditions import DEVICES, Conditions
from unladen.weigh.model import WeighIn
from unladen.weigh.weighing import browser_for

_RUNS = 1


def weigh(site: Site, params: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """The baseline of a site, and the plan that follows from it."""
    capture = storage.capture_of(site)
    pages = capture.pages()[: settings.PAGES_AT_ONCE]
    conditions = [Conditions(device, runs=_RUNS) for device in DEVICES.values()]
    with browser_for(capture) as browser:
        baseline = weigh_and_survey(browser, capture, pages, conditions, "steady", progress, pictures=True)
    document = _baseline(site, baseline)
    document["left_out"] = max(0, len(capture.pages()) - len(pages))
    plan = baseline.plan.changed(lambda change: replace(change, on=False))
    return {"baseline": document, "plan": plan.as_json()}


def lighten(site: Site, params: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """The ready-made plan of an effort, carried out; the keep list stays as it is."""
    capture = storage.capture_of(site)
    weigh_ins = _weigh_ins(site)
    keep = Plan.from_json(site.plan).keep
    baseline = survey_again(capture, weigh_ins, params["effort"], progress)
    return _carry_out(site, capture, replace(baseline.plan, keep=keep), weigh_ins, baseline.notices, progress)


def carry_out_plan(site: Site, params: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """The plan as it stands, carried out."""
    capture = storage.capture_of(site)
    plan = Plan.from_json(params["plan"])
    notices = [Notice(**notice) for notice in site.baseline["notices"]]
    return _carry_out(site, capture, plan, _weigh_ins(site), notices, progress)


KINDS: dict[str, Callable[[Site, dict[str, Any], Progress], dict[str, Any]]] = {
    "weigh": weigh,
    "lighten": lighten,
    "carry_out": carry_out_plan,
}


def _weigh_ins(site: Site) -> list[WeighIn]:
    if not site.baseline:
        raise BadInput(site.name, "has not been weighed yet")
    return [WeighIn.from_record(record) for record in site.baseline["weigh_ins"]]


def _baseline(site: Site, baseline: Baseline) -> dict[str, Any]:
    pictures = {
        f"{w.page} {w.conditions.device.name}": storage.keep_picture(site.pk, w.visit.picture)
        for w in baseline.weigh_ins
    }
    return {
        "weigh_ins": [weigh_in.to_record() for weigh_in in baseline.weigh_ins],
        "excess": [excess.as_json() for excess in baseline.excess],
        "notices": _notices(baseline.notices),
        "pictures": pictures,
        "taken": timezone.now().isoformat(),
    }


def _notices(notices: list[Notice]) -> list[dict[str, str]]:
    return [{"name": notice.name, "reason": notice.reason} for notice in notices]


def _carry_out(
    site: Site, capture: Capture, plan: Plan, before: list[WeighIn], notices: list[Notice], progress: Progress
) -> dict[str, Any]:
    with browser_for(capture) as browser:
        found = carry_out(browser, capture, plan, before, progress, notices)
    archive = storage.folder(site.pk) / "lighter.zip"
    part = archive.with_suffix(".part")
    write_zip(found.capture, part)
    part.replace(archive)
    return {"result": _result(found, archive), "plan": found.plan.as_json()}


def _result(found: Lightened, archive: Path) -> dict[str, Any]:
    return {
        "ledger": found.ledger(),
        "weigh_ins": [weigh_in.to_record() for weigh_in in found.after],
        "pairs": [pair.as_json() for pair in found.pairs],
        "evidence": [{"change": entry.change, **entry.pair.as_json()} for entry in found.set_aside],
        "index": found.capture.to_index(),
        "archive_bytes": archive.stat().st_size,
        "taken": timezone.now().isoformat(),
    }
