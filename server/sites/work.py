"""What jobs do: hand stored documents to the core and store what comes back. Nothing is computed here."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Any

from django.conf import settings
from django.utils import timezone

from server.sites import storage
from server.sites.models import Site, StoredWalk, StoredWeighIn
from unladen.capture import Capture, write_zip
from unladen.errors import BadInput, Notice
from unladen.ledger import Replacement, replacements, replacements_csv
from unladen.lighten import Baseline, Lightened, carry_out, encode_all, survey_again, weigh_and_survey
from unladen.markup.titles import title_of
from unladen.plan import ImageSettings, Plan, carried_over
from unladen.progress import Progress
from unladen.weigh.records.bringers import rules_from
from unladen.weigh.records.conditions import DEVICES, USUAL_DEVICES, Conditions, device_named, link_named
from unladen.weigh.records.model import WeighIn
from unladen.weigh.visits.recording import Visiting, record_site
from unladen.weigh.visits.walk import orders_from, walk_pages
from unladen.weigh.visits.weighing import browser_for, weigh_pages

_FIRST_NAME = "As found"
Side = StoredWeighIn.Side


@dataclass(slots=True)
class Outcome:
    """What a job changes: fields of its site, and rows that come with them. All of it is stored or nothing."""

    fields: dict[str, Any] = field(default_factory=dict)
    weigh_ins: list[StoredWeighIn] = field(default_factory=list)
    walks: list[StoredWalk] = field(default_factory=list)

    def store(self, site: Site) -> None:
        """Write it; must run in a transaction."""
        StoredWeighIn.objects.bulk_create(self.weigh_ins)
        for walk in self.walks:
            site.walks.filter(page=walk.page, device=walk.device).delete()
        StoredWalk.objects.bulk_create(self.walks)
        if self.fields:
            Site.objects.filter(pk=site.pk).update(**self.fields)


def record(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The site as its own servers answer now, weighed at once."""
    visiting = Visiting(depth=params["depth"], pages=params["pages"])
    capture = record_site(params["address"], storage.store(site.pk), progress, visiting, settings.VISIT_ALLOWED)
    outcome = _weigh_first(site, capture, progress)
    outcome.fields |= {"index": capture.to_index(), "name": (title_of(capture) or site.name)[:200]}
    return outcome


def weigh(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The baseline of a site, and the plan that follows from it; of a newer copy of it if there is one."""
    newer = params.get("newer")
    if not newer:
        return _weigh_first(site, storage.capture_of(site), progress)
    outcome = _weigh_first(site, Capture.from_index(newer, storage.store(site.pk)), progress)
    outcome.fields |= {"index": newer, "result": None}
    return outcome


def _weigh_first(site: Site, capture: Capture, progress: Progress) -> Outcome:
    pages = capture.pages()[: settings.PAGES_AT_ONCE]
    conditions = [Conditions(DEVICES[name], runs=settings.RUNS) for name in USUAL_DEVICES]
    rules = rules_from(site.rules)
    with browser_for(capture) as browser:
        settings_ = Plan.from_json(site.plan).images if site.plan else None
        found = weigh_and_survey(
            browser, capture, pages, conditions, "steady", progress, pictures=True, images=settings_
        )
    rows = [storage.row_of(site, Side.FOUND, weigh_in, capture.base_url) for weigh_in in found.weigh_ins]
    for row in rows:
        row.pinned, row.name = True, _FIRST_NAME
    if rules:
        found = survey_again(capture, found.weigh_ins, "steady", progress, rules=rules)
    encode_all(capture, found.plan, found.images, progress)
    baseline = _baseline(found, rows, max(0, len(capture.pages()) - len(pages)))
    if site.plan:
        plan = carried_over(Plan.from_json(site.plan), found.plan)
    else:
        plan = found.plan.changed(lambda change: replace(change, on=False))
    images = [image.as_json() for image in found.images]
    return Outcome({"baseline": baseline, "plan": plan.as_json(), "images": images}, rows)


def _baseline(found: Baseline, rows: Sequence[StoredWeighIn], left_out: int) -> dict[str, Any]:
    return {
        "weigh_ins": [str(row.pk) for row in rows],
        "left_out": left_out,
        "taken": timezone.now().isoformat(),
        **_surveyed(found),
    }


def _surveyed(found: Baseline) -> dict[str, Any]:
    return {"excess": [excess.as_json() for excess in found.excess], "notices": _notices(found.notices)}


def weigh_more(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """Further weigh-ins under conditions of the user's choice: as found, and as it is now if there is a result."""
    capture = storage.capture_of(site)
    link = link_named(params["link"])
    conditions = [Conditions(device_named(n), params["visit"], link, params["runs"]) for n in params["devices"]]
    sides = [(Side.FOUND, capture)]
    if lightened := storage.lightened_of(site):
        sides.append((Side.NOW, lightened))
    rows = []
    with browser_for(capture) as browser:
        for side, version in sides:
            pages = [version.page(path) for path in params["pages"]]
            stage = "weigh" if side == Side.FOUND else "weigh again"
            weighed = weigh_pages(browser, version, pages, conditions, progress, stage=stage, pictures=True)
            rows += [storage.row_of(site, side, weigh_in, capture.base_url) for weigh_in in weighed]
    outcome = Outcome(weigh_ins=rows)
    if params["visit"] == "repeat":
        repeats = [WeighIn.from_record(row.record) for row in rows if row.side == Side.FOUND]
        outcome.fields = _survey_fields(site, progress, repeats=repeats)
    return outcome


def walk(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """Walks over pages on phone and desktop, and the survey with what they found."""
    capture = storage.capture_of(site)
    pages = [capture.page(path) for path in params["pages"]]
    orders = {page: orders_from(wanted) for page, wanted in site.walking.items()}
    devices = [DEVICES[name] for name in USUAL_DEVICES]
    with browser_for(capture) as browser:
        walks = walk_pages(browser, capture, pages, devices, orders, progress)
    fresh = {(w.page, w.device.name) for w in walks}
    known = [w for w in storage.walks_of(site) if (w.page, w.device.name) not in fresh]
    rows = [StoredWalk(site=site, page=w.page, device=w.device.name, record=w.to_record()) for w in walks]
    return Outcome(_survey_fields(site, progress, walks=[*known, *walks]), walks=rows)


def survey(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The excess anew, since somebody said whose a host is."""
    return Outcome(_survey_fields(site, progress))


def _survey_fields(site: Site, progress: Progress, **evidence: Any) -> dict[str, Any]:
    """The baseline with the excess of all that is known by now. The plan stays as the user left it."""
    plan = Plan.from_json(site.plan)
    found = _survey_with(site, plan.effort, plan.images, progress, **evidence)
    return {"baseline": site.baseline | _surveyed(found)}


def _survey_with(site: Site, effort: str, images: ImageSettings, progress: Progress, **evidence: Any) -> Baseline:
    rows = site.weigh_ins.filter(side=Side.FOUND, summary__weigh_in__visit="repeat")
    known: dict[str, Any] = {
        "repeats": [WeighIn.from_record(row.record) for row in rows],
        "walks": storage.walks_of(site),
        "rules": rules_from(site.rules),
        "images": images,
    }
    return survey_again(storage.capture_of(site), _weigh_ins(site), effort, progress, **known | evidence)


def propose(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The plan anew under other settings for images; what the user decided in the old one stays."""
    old = Plan.from_json(site.plan)
    found = _survey_with(site, old.effort, ImageSettings.from_json(params["images"]), progress)
    encode_all(storage.capture_of(site), found.plan, found.images, progress)
    plan = carried_over(old, found.plan)
    return Outcome({"baseline": site.baseline | _surveyed(found), "plan": plan.as_json()})


def encode(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The files of the plan made ready, so that their bytes are known."""
    encode_all(storage.capture_of(site), Plan.from_json(site.plan), storage.images_of(site), progress)
    return Outcome()


def lighten(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The ready-made plan of an effort, carried out; the keep list stays as it is."""
    capture = storage.capture_of(site)
    weigh_ins = _weigh_ins(site)
    old = Plan.from_json(site.plan)
    baseline = survey_again(capture, weigh_ins, params["effort"], progress, images=old.images)
    encode_all(capture, baseline.plan, baseline.images, progress)
    return _carry_out(site, capture, replace(baseline.plan, keep=old.keep), weigh_ins, baseline.notices, progress)


def carry_out_plan(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The plan as it stands, carried out."""
    capture = storage.capture_of(site)
    plan = Plan.from_json(params["plan"])
    notices = [Notice(**notice) for notice in site.baseline["notices"]]
    return _carry_out(site, capture, plan, _weigh_ins(site), notices, progress)


KINDS: dict[str, Callable[[Site, dict[str, Any], Progress], Outcome]] = {
    "record": record,
    "weigh": weigh,
    "weigh_more": weigh_more,
    "walk": walk,
    "survey": survey,
    "lighten": lighten,
    "carry_out": carry_out_plan,
    "propose": propose,
    "encode": encode,
}


def _weigh_ins(site: Site) -> list[WeighIn]:
    if not site.baseline:
        raise BadInput(site.name, "has not been weighed yet")
    return storage.weigh_ins_of(site, site.baseline["weigh_ins"])


def _notices(notices: list[Notice]) -> list[dict[str, str]]:
    return [{"name": notice.name, "reason": notice.reason} for notice in notices]


def _carry_out(
    site: Site, capture: Capture, plan: Plan, before: list[WeighIn], notices: list[Notice], progress: Progress
) -> Outcome:
    with browser_for(capture) as browser:
        found = carry_out(browser, capture, plan, before, progress, notices)
    archive = storage.folder(site.pk) / "lighter.zip"
    part = archive.with_suffix(".part")
    write_zip(found.capture, part)
    part.replace(archive)
    changed = replacements(capture, found.capture)
    only = storage.folder(site.pk) / "changed.zip"
    part = only.with_suffix(".part")
    listing = {"what-to-replace.csv": replacements_csv(changed)}
    write_zip(found.capture, part, only={row.url for row in changed}, beside=listing)
    part.replace(only)
    rows = [storage.row_of(site, Side.NOW, weigh_in, capture.base_url) for weigh_in in found.after]
    return Outcome({"result": _result(found, rows, archive, only, changed), "plan": found.plan.as_json()}, rows)


def _result(
    found: Lightened, rows: Sequence[StoredWeighIn], archive: Path, only: Path, changed: Sequence[Replacement]
) -> dict[str, Any]:
    return {
        "plan": [change.as_json() for change in found.plan.counting()],
        "changed_bytes": only.stat().st_size,
        "changed": [asdict(row) for row in changed],
        "ledger": found.ledger(),
        "weigh_ins": [str(row.pk) for row in rows],
        "pairs": [pair.as_json() for pair in found.pairs],
        "evidence": [{"change": entry.change, **entry.pair.as_json()} for entry in found.set_aside],
        "index": found.capture.to_index(),
        "archive_bytes": archive.stat().st_size,
        "taken": timezone.now().isoformat(),
    }
