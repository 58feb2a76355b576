"""What jobs do: hand stored documents to the core and store what comes back. Nothing is computed here.

A job never rewrites what the user wants: it stores what it found, and puts new proposals into the plan beside the
wishes.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any
from uuid import UUID

from django.conf import settings
from django.utils import timezone

from server.sites import plans, runs, storage, watching
from server.sites.documents import Baseline as StoredBaseline
from server.sites.models import Job, PlanVersion, Site, StoredWalk, StoredWeighIn
from server.sites.outcome import Outcome
from server.sites.quota import Spending
from unladen.capture import Capture, Exchange, read_site
from unladen.capture.choosing import chosen_pages
from unladen.errors import BadInput, Notice
from unladen.lighten import (
    Baseline,
    Order,
    carry_out,
    encode_all,
    later_of,
    look_ahead,
    surveyed,
    weigh_and_survey,
)
from unladen.markup.page_groups import standing_for_all
from unladen.markup.titles import title_of
from unladen.plan import Plan, Propose, SetSettings, TakeEffort
from unladen.plan.fit import fit
from unladen.plan.presets import Preset
from unladen.progress import Progress
from unladen.remedies import Delivery, ImageSettings
from unladen.survey import SurveyInputs
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import DEVICES, USUAL_DEVICES, Conditions, device_named, link_named
from unladen.weigh.records.model import WeighIn
from unladen.weigh.records.parties import rules_from
from unladen.weigh.session import Session
from unladen.weigh.visits.recording import Visiting, record_site
from unladen.weigh.visits.walk import orders_from, walk_pages
from unladen.weigh.visits.weighing import browser_for, weigh_pages

_FIRST_NAME = "As found"
_FIRST_EFFORT = "steady"
Side = StoredWeighIn.Side


def record(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The site as its own servers answer now, weighed at once."""
    visiting = Visiting(
        depth=params["depth"],
        pages=params["pages"],
        sitemap=params.get("sitemap", False),
        listed=tuple(params.get("listed", ())),
        only=tuple(params.get("only", ())),
    )
    store = storage.store(site.pk, Spending(site))
    capture = record_site(params["address"], store, progress, visiting, settings.VISIT_ALLOWED)
    outcome = _weigh_first(site, capture, progress, SurveyInputs((), rules=rules_from(site.rules)))
    outcome.fields |= {"index": capture.to_index(), "name": (title_of(capture) or site.name)[:200]}
    return outcome


def weigh(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The baseline of a site, and the plan that follows from it; of a newer copy of it if there is one."""
    seen = storage.seen_of(site)
    if not params.get("archive"):
        anew = site.baseline is not None and "chosen" not in params
        return _weigh_first(site, storage.capture_of(site), progress, seen, _choice(site) | params, anew=anew)
    # Walks and repeat visits were of the older copy.
    seen = SurveyInputs((), rules=seen.rules)
    capture = arrived(site, params, progress)
    if site.baseline is None:
        # Its name and its pages show while it is weighed.
        name = params.get("called") or title_of(capture) or site.name
        Site.objects.filter(pk=site.pk).update(index=capture.to_index(), name=name[:200])
        return _weigh_first(site, capture, progress, seen)
    outcome = _weigh_first(site, capture, progress, seen, _choice(site))
    outcome.fields |= {"index": capture.to_index()}
    outcome.outdates = True
    if site.head is not None:
        # What was wanted and is not there any more is told rather than just gone.
        unfit = fit(plans.plan_of(site.head), capture).notices()
        notices = outcome.fields["baseline"].notices
        notices += [
            {"name": n.name, "reason": "the plan names this file; the newer copy does not have it"} for n in unfit
        ]
    return outcome


def arrived(site: Site, params: dict[str, Any], progress: Progress) -> Capture:
    """An archive that was handed in, read; raises `BadInput` naming it as its sender did."""
    progress.step("read", 0, 1, params["file"])
    archive = storage.arrived(site.pk) / params["archive"]
    return read_site(archive, storage.store(site.pk, Spending(site)), name=params["file"])


def _choice(site: Site) -> dict[str, Any]:
    """Which pages of a site its user wants weighed."""
    if site.baseline is None or site.baseline.most is None:
        return {}
    return {"chosen": site.baseline.chosen, "most": site.baseline.most}


def _among(capture: Capture, chosen: Sequence[str], told: list[Notice]) -> list[Exchange]:
    """The pages that were chosen, as far as this copy of the site has them."""
    exchanges: dict[str, Exchange] = {}
    for entry in chosen:
        try:
            exchanges |= {page.url: page for page in chosen_pages(capture, [entry])}
        except BadInput as error:
            told.append(Notice(error.name, error.reason))
    return [page for page in capture.pages() if page.url in exchanges] or capture.pages()


def _weigh_first(
    site: Site,
    capture: Capture,
    progress: Progress,
    seen: SurveyInputs,
    choice: Mapping[str, Any] | None = None,
    *,
    anew: bool = False,
) -> Outcome:
    """Weigh what stands for the chosen pages; what was weighed before and is the same is not, unless `anew`."""
    notices: list[Notice] = []
    chosen, most = (choice or {}).get("chosen", []), (choice or {}).get("most", settings.PAGES_AT_ONCE)
    among = _among(capture, chosen, notices)
    pages, kin = standing_for_all(capture, most, among)
    conditions = [Conditions(DEVICES[name], runs=settings.RUNS) for name in USUAL_DEVICES]
    old = plans.plan_of(site.head) if site.head else None
    first = site.baseline is None
    if not settings.REFINES:
        seen = replace(seen, kin=kin)
    # The first list does not wait for what takes longest to try out; that comes in the background of it.
    images = old.images if old else ImageSettings(avif=not settings.REFINES)

    def at_once(weigh_in: WeighIn) -> None:
        # What is known of a new site shows as it comes; with the baseline its own rows take their place.
        if first and not progress.cancelled():
            storage.row_of(site, Side.FOUND, weigh_in, capture.base_url).save()

    with browser_for(capture) as browser:
        known = {} if anew else storage.known_weigh_ins(site, capture, f"Chromium {browser.version}")
        if first:
            # Of an attempt that came to nothing what still holds shows at once.
            site.weigh_ins.all().delete()
            for weigh_in in known.values():
                at_once(weigh_in)
        result = weigh_and_survey(
            _session(browser, capture, progress),
            pages,
            conditions,
            old.effort if old else _FIRST_EFFORT,
            pictures=True,
            seen=seen,
            images=images,
            delivery=old.delivery if old else None,
            each=at_once,
            known=known,
        )
    result.notices[:0] = notices
    plan = result.plan if old else replace(result.plan, images=ImageSettings())
    rows = [storage.row_of(site, Side.FOUND, weigh_in, capture.base_url) for weigh_in in result.weigh_ins]
    for row in rows:
        row.pinned, row.name = True, _FIRST_NAME
    encode_all(capture, plan, result.images, progress, settings.MACHINES)
    baseline = StoredBaseline(
        weigh_ins=[str(row.pk) for row in rows],
        left_out=max(0, len(among) - len(pages)),
        chosen=chosen,
        most=most,
        kin=kin,
        taken=timezone.now().isoformat(),
        **_surveyed(result),
    )
    return Outcome(
        {
            "baseline": baseline,
            "images": [image.as_json() for image in result.images],
            "unrefined": bool(kin) or settings.REFINES,
        },
        rows,
        begins=plan.changed(lambda change: replace(change, on=False)),
        commands=[Propose(plan)],
    )


def _surveyed(found: Baseline) -> dict[str, Any]:
    return {
        "excess": [excess.as_json() for excess in found.excess],
        "notices": [{"name": notice.name, "reason": notice.reason} for notice in found.notices],
        "surveyed": timezone.now().isoformat(),
    }


def weigh_more(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """Further weigh-ins under conditions of the user's choice: as found, and as it is now if there is a run."""
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
            weighed = weigh_pages(_session(browser, version, progress), pages, conditions, stage=stage, pictures=True)
            rows += [storage.row_of(site, side, weigh_in, capture.base_url) for weigh_in in weighed]
    if params["visit"] != "repeat":
        return Outcome(weigh_ins=rows)
    repeats = [WeighIn.from_record(row.record) for row in rows if row.side == Side.FOUND]
    return replace(_survey(site, progress, replace(_seen(site), repeats=repeats)), weigh_ins=rows)


def walk(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """Walks over pages on phone and desktop, and the survey with what they found."""
    capture = storage.capture_of(site)
    pages = [capture.page(path) for path in params["pages"]]
    orders = {page: orders_from(wanted) for page, wanted in site.walking.items()}
    devices = [DEVICES[name] for name in USUAL_DEVICES]
    with browser_for(capture) as browser:
        walks = walk_pages(_session(browser, capture, progress), pages, devices, orders)
    fresh = {(w.page, w.device.name) for w in walks}
    seen = _seen(site)
    known = [w for w in seen.walks if (w.page, w.device.name) not in fresh]
    rows = [StoredWalk(site=site, page=w.page, device=w.device.name, record=w.to_record()) for w in walks]
    return replace(_survey(site, progress, replace(seen, walks=[*known, *walks])), walks=rows)


def survey(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The excess anew: with what the first list did not wait for, or since somebody said whose a host is."""
    return _survey(site, progress, _seen(site))


def refine(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """What the first list did not wait for, and looks at the pages as found, so that a try looks at what it changed
    only.
    """
    seen, capture = _seen(site), storage.capture_of(site)
    outcome = _survey(site, progress, seen)
    walking = {page: orders_from(wanted) for page, wanted in site.walking.items()}
    glances = tuple(DEVICES.values()) if settings.GLANCES else ()
    with browser_for(capture) as browser:
        look_ahead(_session(browser, capture, progress), seen.weigh_ins, walking, glances=glances)
    return outcome


def narrow(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """What the run that is shown has set aside after a short search, tried again with a longer one."""
    run = site.run
    if run is None or str(run.pk) != params["run"]:
        return Outcome()  # another one is shown by now
    plan = plans.plan_of(run.version)
    again = tuple(runs.outcomes_of(run).open)
    notices = [Notice(**notice) for notice in site.known.notices]
    capture = storage.capture_of(site)
    outcome = _carry_out(site, capture, run.version, plan, notices, progress, again, haste=False)
    return replace(outcome, instead=run)


def _proposed(
    site: Site,
    effort: str,
    images: ImageSettings,
    delivery: Delivery,
    progress: Progress,
    seen: SurveyInputs | None = None,
) -> Baseline:
    """The survey of a site with what an effort proposes under some settings."""
    inputs = seen or _seen(site)
    capture = storage.capture_of(site)
    return surveyed(capture, inputs, effort, progress, images=images, delivery=delivery, machines=settings.MACHINES)


def _survey(site: Site, progress: Progress, seen: SurveyInputs) -> Outcome:
    """The excess of all that is known by now, and what could be done about it, beside what the plan wants already."""
    plan = plans.plan_of(plans.head_of(site))
    baseline = _proposed(site, plan.effort, plan.images, plan.delivery, progress, seen)
    fields = {"baseline": replace(site.known, **_surveyed(baseline)), "unrefined": False}
    return Outcome(fields, commands=[Propose(baseline.plan)])


def propose(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The plan anew under other settings for images; what the user decided in the old one stays."""
    effort = plans.plan_of(plans.head_of(site)).effort
    images, delivery = ImageSettings.from_json(params["images"]), Delivery.from_json(params["delivery"])
    capture = storage.capture_of(site)
    baseline = _proposed(site, effort, images, delivery, progress)
    encode_all(capture, baseline.plan, baseline.images, progress, settings.MACHINES)
    return Outcome(
        {"baseline": replace(site.known, **_surveyed(baseline)), "unrefined": False},
        commands=[SetSettings(images, delivery), Propose(baseline.plan)],
    )


def encode(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The files of the plan made ready, so that their bytes are known."""
    plan = plans.plan_of(plans.head_of(site))
    encode_all(storage.capture_of(site), plan, storage.images_of(site), progress, settings.MACHINES)
    return Outcome()


def lighten(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """The ready-made plan of an effort or preset, carried out; choices, the keep list and what is insisted on stay."""
    head = plans.head_of(site)
    old, capture = plans.plan_of(head), storage.capture_of(site)
    given = params.get("preset")
    preset = Preset.from_json(given) if given else Preset(params["effort"], old.images, old.delivery)
    baseline = _proposed(site, preset.effort, preset.images, preset.delivery, progress)
    encode_all(capture, baseline.plan, baseline.images, progress, settings.MACHINES)
    command = TakeEffort(preset.applied_to(baseline.plan))
    first = params.get("first", "")
    outcome = _carry_out(site, capture, head, command.apply(old), baseline.notices, progress, first=first)
    outcome.commands = [command]
    return outcome


def carry_out_plan(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """A version of the plan, carried out."""
    version = site.versions.get(pk=UUID(params["version"]))
    notices = [Notice(**notice) for notice in site.known.notices]
    again = tuple(params.get("again", ()))
    capture, plan = storage.capture_of(site), plans.plan_of(version)
    return _carry_out(site, capture, version, plan, notices, progress, again, params.get("first", ""))


def _carry_out(
    site: Site,
    capture: Capture,
    base: PlanVersion,
    plan: Plan,
    notices: list[Notice],
    progress: Progress,
    again: tuple[str, ...] = (),
    first: str = "",
    *,
    haste: bool | None = None,
) -> Outcome:
    seen = _seen(site)
    walking = {page: orders_from(wanted) for page, wanted in site.walking.items()}
    order = Order(
        runs.outcomes_of(site.run), again, walking, later_of(capture, seen), seen.kin, first or seen.weigh_ins[0].page
    )
    with browser_for(capture) as browser:
        glances = tuple(DEVICES.values()) if settings.GLANCES else ()
        result = carry_out(
            _session(browser, capture, progress), plan, seen.weigh_ins, notices, order, glances=glances
        )
    rows = [storage.row_of(site, Side.NOW, weigh_in, capture.base_url) for weigh_in in result.after]
    run = runs.new_run(site, result, capture, site.known.weigh_ins, [str(row.pk) for row in rows])
    return Outcome(weigh_ins=rows, run=run, base=base, plan=plan)


def _session(browser: Browser, capture: Capture, progress: Progress) -> Session:
    return Session.of(browser, capture, progress, settings.MACHINES)


def _seen(site: Site) -> SurveyInputs:
    if not site.baseline:
        raise BadInput(site.name, "has not been weighed yet")
    return storage.seen_of(site)


KINDS: dict[str, Callable[[Site, dict[str, Any], Progress], Outcome]] = {
    Job.Kind.RECORD: record,
    Job.Kind.WEIGH: weigh,
    Job.Kind.WEIGH_MORE: weigh_more,
    Job.Kind.WALK: walk,
    Job.Kind.SURVEY: survey,
    Job.Kind.LIGHTEN: lighten,
    Job.Kind.CARRY_OUT: carry_out_plan,
    Job.Kind.PROPOSE: propose,
    Job.Kind.ENCODE: encode,
    Job.Kind.REFINE: refine,
    Job.Kind.NARROW: narrow,
    Job.Kind.VISIT_AGAIN: watching.visit_again,
    Job.Kind.WATCH: watching.watch,
}
