"""The whole way in one place: weigh, survey, plan, build, check, set aside, weigh again, account."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from unladen.build import build
from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.capture.choosing import chosen_pages
from unladen.capture.paths import written_paths
from unladen.check import ChangeResult, ChangeResults, Check, PageCheck, Standing, Verdict, outcomes_of
from unladen.check.group_members import GroupMembers, kin_notices
from unladen.check.outcomes import judged
from unladen.errors import Notice
from unladen.ledger import Account, account, ledger_document
from unladen.markup.page_groups import standing_for_all
from unladen.plan import EFFORTS, KeepList, Plan, proposals
from unladen.plan.fit import fit
from unladen.progress import Progress
from unladen.raster.recode import SVG, Recipe
from unladen.remedies import Delivery, ImageSettings, Journal, remedy_named
from unladen.survey import Finding, SiteFacts, SiteImage, SurveyInputs, inventory, survey
from unladen.weigh.records.conditions import DEVICES, USUAL_DEVICES, Conditions, Device, device_named
from unladen.weigh.records.model import WeighIn
from unladen.weigh.session import Session
from unladen.weigh.visits.again import weigh_again
from unladen.weigh.visits.walk import WalkOrders
from unladen.weigh.visits.weighing import browser_for, weigh_lacking, weigh_pages
from unladen.work_cache import Job, work_cache_of

# Small pictures for lists; 2 px for each CSS px of 48.
THUMBNAIL = Recipe(width=96, format="WEBP", quality=70, always=True)
_SAVED_NOTHING = "no saving, so it stays off"
_MOST_TURNS = 4


@dataclass(slots=True)
class Baseline:
    """A site weighed and surveyed; `plan` is what an effort proposes."""

    weigh_ins: Sequence[WeighIn]
    excess: list[Finding]
    notices: list[Notice]
    plan: Plan
    images: list[SiteImage]


@dataclass(slots=True)
class Lightened:
    """A checked, lighter site and the proof of it. `plan` are the wishes, `outcomes` what came of them.

    `excess` is what could have gone, where a survey went before.
    """

    capture: Capture
    plan: Plan
    outcomes: ChangeResults
    journal: Journal
    before: Sequence[WeighIn]
    after: list[WeighIn]
    account: Account
    pairs: list[PageCheck]
    notices: list[Notice]
    excess: Sequence[Finding] = ()

    def ledger(self) -> dict[str, Any]:
        """The published document."""
        return ledger_document(
            self.plan, self.outcomes, self.before, self.after, self.account, self.pairs, self.notices
        )


@dataclass(frozen=True, slots=True)
class Order:
    """How a plan is carried out: what an earlier run found of it, and which changes are to be tried all the same.

    `walking` is what the user wants of walks, by the path of the page; `later` are files (by path) that came in a
    walk, which no first visit shows to be lighter. `kin` gives pages that were not weighed, each with the one that
    stands for it. `first` is the page that somebody waits for, which is looked at before all others. In `haste` the
    search for what breaks a page is short: what it leaves open is set aside together, until the same is carried out
    once more without.
    """

    earlier: ChangeResults = field(default_factory=ChangeResults)
    again: tuple[str, ...] = ()
    walking: Mapping[str, WalkOrders] = field(default_factory=dict)
    later: frozenset[str] = frozenset()
    kin: Mapping[str, str] = field(default_factory=dict)
    first: str = ""
    haste: bool = False


def weigh_and_survey(
    session: Session,
    pages: Sequence[Exchange],
    conditions: Sequence[Conditions],
    effort: str,
    *,
    pictures: bool = False,
    seen: SurveyInputs | None = None,
    images: ImageSettings | None = None,
    delivery: Delivery | None = None,
    each: Callable[[WeighIn], None] = lambda _: None,
    known: Mapping[tuple[str, Conditions], WeighIn] | None = None,
) -> Baseline:
    """What the site weighs and what could go, with pictures of its pages if asked; raises `Cancelled`.

    `seen` holds what else is known of the site; its weigh-ins give way to the new ones. `each` gets every weigh-in as
    soon as it is there; what is `known` already is not weighed again.
    """
    weigh_ins = weigh_lacking(session, pages, conditions, known or {}, pictures=pictures, layouts=True, each=each)
    inputs = replace(seen, weigh_ins=weigh_ins) if seen else SurveyInputs(weigh_ins)
    return surveyed(
        session.capture,
        inputs,
        effort,
        session.progress,
        images=images,
        delivery=delivery,
        machines=session.machines,
    )


def surveyed(
    capture: Capture,
    inputs: SurveyInputs,
    effort: str,
    progress: Progress,
    *,
    images: ImageSettings | None = None,
    delivery: Delivery | None = None,
    machines: str = "",
) -> Baseline:
    """The excess and the plan of an effort from all that was seen; raises `Cancelled`."""
    evidence = SiteFacts.of(capture, inputs)
    images_ = inventory(evidence)
    baseline = survey(evidence, EFFORTS[effort], work_cache_of(capture.store, machines), progress, images, delivery)
    return Baseline(inputs.weigh_ins, baseline.excess, [*capture.notices, *baseline.notices], baseline.plan, images_)


def encode_all(
    capture: Capture, plan: Plan, images: Sequence[SiteImage], progress: Progress, machines: str = ""
) -> None:
    """Have the files of a plan's changes ready, and small pictures of all images; raises `Cancelled`."""
    jobs: list[Job] = [(image.digest, THUMBNAIL) for image in images if image.format and image.format != SVG]
    jobs += [job for _, job in image_jobs(plan, images)]
    work_cache_of(capture.store, machines).outcomes(jobs, progress, "survey")


def image_jobs(plan: Plan, images: Iterable[SiteImage]) -> list[tuple[str, Job]]:
    """For each image, by path, that a plan makes another file of: the work that makes it."""
    wanted = proposals(plan)
    return [
        (image.path, (image.digest, wanted[image.path].recipe(plan.images)))
        for image in images
        if image.path in wanted
    ]


def carry_out(
    session: Session,
    plan: Plan,
    before: Sequence[WeighIn],
    notices: Sequence[Notice] = (),
    order: Order | None = None,
    *,
    glances: Sequence[Device] = tuple(DEVICES.values()),
) -> Lightened:
    """Build a plan, check it, weigh it again and account for it; raises `Cancelled`.

    A change that makes a difference is set aside, and one that saves nothing is left out. The plan stays as it is.
    Pages are walked on the devices that were weighed, and looked at in haste on those of `glances`.
    """
    order = order or Order()
    capture = session.capture
    pages = [capture.page(path) for path in dict.fromkeys(weigh_in.page for weigh_in in before)]
    conditions = list(dict.fromkeys(weigh_in.conditions for weigh_in in before))
    devices = list(dict.fromkeys(c.device for c in conditions))
    others = [device for device in glances if device not in devices]
    kin = GroupMembers(capture, order.kin)
    check = Check(
        session,
        pages,
        devices,
        order.walking,
        glances=others,
        kin=kin,
        first=order.first,
        haste=order.haste,
    )
    out = order.earlier.carried_forward(plan, order.again)
    later = order.later | {site_path(capture.base_url, r.url) for w in before for r in w.facts.scrolled}
    for turn in range(_MOST_TURNS):
        verdict = check.run(plan, out)
        out = verdict.out
        after = weigh_again(session, before, verdict.capture, pages, conditions)
        result = account(verdict.capture, verdict.journal, before, after)
        counting = out.applied_to(plan).counting()
        idle = [
            c
            for c in counting
            if _is_idle(c, result) and not later.intersection(c.targets) and not any(map(kin.is_theirs, c.targets))
        ]
        if not idle or turn == _MOST_TURNS - 1:
            break
        out = out.with_(_out_for_nothing(c, out) for c in idle)
    unsaving = [Notice(o.change, o.reason) for o in out.by_change.values() if o.standing is Standing.NOTHING]
    unsaving += kin_notices(capture, [check.path(page) for page in pages], order.kin)
    return _lightened(plan, verdict, before, after, result, [*notices, *unsaving, *verdict.journal.notices])


def look_ahead(
    session: Session,
    before: Sequence[WeighIn],
    walking: Mapping[str, WalkOrders] | None = None,
    *,
    glances: Sequence[Device] = tuple(DEVICES.values()),
) -> None:
    """Take the snapshots of the weighed pages as found that `carry_out` will need; raises `Cancelled`."""
    pages = [session.capture.page(path) for path in dict.fromkeys(weigh_in.page for weigh_in in before)]
    devices = list(dict.fromkeys(weigh_in.conditions.device for weigh_in in before))
    others = [device for device in glances if device not in devices]
    Check(session, pages, devices, walking, glances=others).look_ahead()


def _out_for_nothing(change: Any, out: ChangeResults) -> ChangeResult:
    """The outcome of a change that saves nothing, or nothing any more once parts of it were set aside."""
    known = out.by_change.get(change.id)
    if known and known.parts:
        part = known.parts[0]
        return ChangeResult(change.id, Standing.SET_ASIDE, part.reason, part.pair, judged(change), known.parts)
    return ChangeResult(change.id, Standing.NOTHING, _SAVED_NOTHING, None, judged(change))


def _is_idle(change: Any, result: Account) -> bool:
    saved = result.saved_by(change.id)
    wanted = remedy_named(change.remedy).steadies or change.chosen
    return not wanted and saved.bytes <= 0 and saved.requests <= 0


def _lightened(
    plan: Plan,
    verdict: Verdict,
    before: Sequence[WeighIn],
    after: list[WeighIn],
    result: Account,
    notices: list[Notice],
) -> Lightened:
    return Lightened(
        capture=verdict.capture,
        plan=plan,
        outcomes=outcomes_of(plan, verdict.out),
        journal=verdict.journal,
        before=before,
        after=after,
        account=result,
        pairs=verdict.pairs,
        notices=list(dict.fromkeys([*notices, *written_paths(verdict.capture)[2]])),
    )


def as_planned(capture: Capture, plan: Plan, earlier: ChangeResults, on: Mapping[str, bool] | None = None) -> Capture:
    """What a plan makes of a site by now, neither checked nor weighed: without what an earlier run found to be out.

    `on` switches changes by id, whatever was wanted or found of them.
    """
    on = on or {}
    out = earlier.carried_forward(plan, [id for id, wanted in on.items() if wanted])
    wanted = out.applied_to(plan.changed(lambda c: replace(c, on=on[c.id]) if c.id in on else c))
    return build(capture, wanted, work_cache_of(capture.store))[0]


def later_of(capture: Capture, seen: SurveyInputs | None) -> frozenset[str]:
    """The files (by path) that came in walks."""
    return frozenset(site_path(capture.base_url, url) for walk in (seen.walks if seen else ()) for url in walk.came)


def lighten(
    capture: Capture,
    wanted: str | Plan,
    progress: Progress,
    *,
    pages: Sequence[str] = (),
    devices: Sequence[str] = (),
    runs: int = 1,
    kinds: int = 0,
    keep: KeepList | None = None,
    images: ImageSettings | None = None,
    delivery: Delivery | None = None,
    seen: SurveyInputs | None = None,
    machines: str = "",
) -> Lightened:
    """From a capture to a checked, lighter one. Pages are paths and patterns, all when empty.

    Pages are weighed and looked at on the devices that are named; without names on the usual ones, tablets in haste.
    With `kinds` at most so many are weighed and looked at, and what they show is done to all that are built like them.
    `wanted` is an effort, or a plan of which what fits the site is carried out.
    `seen` holds repeat visits, walks and rules if there are any; `machines` is a scheduler's address. Raises
    `BadInput` for a page that is not there, `BrowserMissing` and `Cancelled`.
    """
    chosen = chosen_pages(capture, pages)
    kin: dict[str, str] = {}
    if kinds and len(chosen) > kinds:
        chosen, kin = standing_for_all(capture, kinds, chosen)
    conditions = [Conditions(device_named(name), runs=runs) for name in devices or USUAL_DEVICES]
    glances = () if devices else tuple(DEVICES.values())
    with browser_for(capture) as browser:
        session = Session.of(browser, capture, progress, machines)
        if isinstance(wanted, Plan):
            before = weigh_pages(session, chosen, conditions)
            fitting = fit(wanted, capture)
            notices = [*capture.notices, *fitting.notices()]
            return carry_out(session, fitting.plan, before, notices, Order(kin=kin), glances=glances)
        known = replace(seen or SurveyInputs(()), kin=kin)
        baseline = weigh_and_survey(session, chosen, conditions, wanted, seen=known, images=images, delivery=delivery)
        plan = replace(baseline.plan, keep=keep or KeepList())
        order = Order(later=later_of(capture, seen), kin=kin)
        result = carry_out(session, plan, baseline.weigh_ins, baseline.notices, order, glances=glances)
        return replace(result, excess=baseline.excess)
