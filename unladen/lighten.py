"""The whole way in one place: weigh, survey, plan, build, check, set aside, weigh again, account."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from unladen.build import Journal
from unladen.capture import BodyStore, Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.check.checking import Check, Pair, SetAside, Verdict
from unladen.errors import Notice
from unladen.ledger import Account, account
from unladen.memo import Memo
from unladen.plan import EFFORTS, Change, ImageSettings, Keep, Plan, Proposal, proposals
from unladen.progress import Progress
from unladen.raster.recode import SVG, Recipe
from unladen.survey import Evidence, Excess, SiteImage, inventory, survey
from unladen.weigh.bringers import Rule
from unladen.weigh.browser import Browser
from unladen.weigh.conditions import USUAL_DEVICES, Conditions, device_named
from unladen.weigh.model import WeighIn
from unladen.weigh.walk import Walk
from unladen.weigh.weighing import browser_for, weigh_pages

LEDGER_FORMAT = "unladen/ledger/1"
# Small pictures for lists; 2 px for each CSS px of 48.
THUMBNAIL = Recipe(width=96, format="WEBP", quality=70, always=True)
_SAVED_NOTHING = "saved nothing, so it stays off"
_MOST_TURNS = 4
# What a change is for when it is not for bytes.
_STEADIES_THE_PAGE = {"reserve", "priority"}


@dataclass(slots=True)
class Baseline:
    """A site weighed and surveyed."""

    weigh_ins: list[WeighIn]
    excess: list[Excess]
    notices: list[Notice]
    plan: Plan
    images: list[SiteImage]


@dataclass(slots=True)
class Lightened:
    """A checked, lighter site and the proof of it."""

    capture: Capture
    plan: Plan
    journal: Journal
    before: list[WeighIn]
    after: list[WeighIn]
    account: Account
    pairs: list[Pair]
    set_aside: list[SetAside]
    notices: list[Notice]

    def ledger(self) -> dict[str, Any]:
        """The published document."""
        saved = {change.id: self.account.saved_by(change.id).as_json() for change in self.plan.changes}
        return {
            "format": LEDGER_FORMAT,
            "effort": self.plan.effort,
            "before": [weigh_in.as_json() for weigh_in in self.before],
            "after": [weigh_in.as_json() for weigh_in in self.after],
            "changes": [_line(change, saved[change.id]) for change in self.plan.changes],
            "remedies": {name: saving.as_json() for name, saving in self.account.by_remedy(self.plan).items()},
            "lines": self.account.rows(),
            "unexplained": self.account.unexplained.as_json(),
            "checks": {
                "pairs": len(self.pairs),
                "passed": sum(pair.passed for pair in self.pairs),
                "set_aside": sum(bool(change.set_aside) for change in self.plan.changes),
            },
            "notices": [{"name": notice.name, "reason": notice.reason} for notice in self.notices],
        }


def _line(change: Change, saved: dict[str, int]) -> dict[str, Any]:
    return {
        "id": change.id,
        "remedy": change.remedy,
        "targets": list(change.targets),
        "on": change.on,
        "set_aside": change.set_aside,
        "saved": saved,
    }


def memo_of(store: BodyStore) -> Memo:
    """The memo that lies beside a store."""
    return Memo(Path(store.root).parent / "memo", store)


def weigh_and_survey(
    browser: Browser,
    capture: Capture,
    pages: Sequence[Exchange],
    conditions: Sequence[Conditions],
    effort: str,
    progress: Progress,
    *,
    pictures: bool = False,
    images: ImageSettings | None = None,
) -> Baseline:
    """What the site weighs and what could go, with pictures of its pages if asked; raises `Cancelled`."""
    weigh_ins = weigh_pages(browser, capture, pages, conditions, progress, pictures=pictures, layouts=True)
    return survey_again(capture, weigh_ins, effort, progress, images=images)


def survey_again(
    capture: Capture,
    weigh_ins: list[WeighIn],
    effort: str,
    progress: Progress,
    *,
    repeats: Sequence[WeighIn] = (),
    walks: Sequence[Walk] = (),
    rules: Sequence[Rule] = (),
    images: ImageSettings | None = None,
) -> Baseline:
    """The excess and the plan of an effort from weigh-ins, repeat visits and walks at hand; raises `Cancelled`."""
    evidence = Evidence(capture, weigh_ins, repeats=repeats, walks=walks, rules=rules)
    images_ = inventory(evidence)
    excess, notices, plan = survey(evidence, EFFORTS[effort], memo_of(capture.store), progress, images)
    return Baseline(weigh_ins, excess, [*capture.notices, *notices], plan, images_)


def encode_all(capture: Capture, plan: Plan, images: Sequence[SiteImage], progress: Progress) -> None:
    """Have the files of a plan's changes ready, and small pictures of all images; raises `Cancelled`."""
    jobs = [(image.digest, THUMBNAIL) for image in images if image.format and image.format != SVG]
    wanted = proposals(plan)
    for image in images:
        if image.path in wanted:
            jobs.append((image.digest, recipe_of(wanted[image.path], plan.images)))
    memo_of(capture.store).recode_all(jobs, progress, "survey")


def recipe_of(proposal: Proposal, settings: ImageSettings) -> Recipe:
    """What a plan makes of an image, for the memo."""
    if proposal.svg:
        return Recipe(format=SVG)
    p = proposal
    return Recipe(p.width, p.format, p.similarity, p.quality, copyright=settings.copyright)


def carry_out(
    browser: Browser,
    capture: Capture,
    plan: Plan,
    before: list[WeighIn],
    progress: Progress,
    notices: Sequence[Notice] = (),
) -> Lightened:
    """Build a plan, check it, weigh it again and account for it; raises `Cancelled`.

    A change that makes a difference is set aside, one that saves nothing is switched off.
    """
    pages = [capture.page(path) for path in dict.fromkeys(weigh_in.page for weigh_in in before)]
    conditions = list(dict.fromkeys(weigh_in.conditions for weigh_in in before))
    check = Check(browser, capture, memo_of(capture.store), pages, [c.device for c in conditions])
    set_aside: list[SetAside] = []
    for turn in range(_MOST_TURNS):
        verdict = check.run(plan, progress)
        set_aside += verdict.set_aside
        after = weigh_pages(browser, verdict.capture, pages, conditions, progress, stage="weigh again")
        result = account(verdict.capture, verdict.journal, before, after)
        late = {site_path(capture.base_url, r.url) for w in before for r in w.visit.scrolled}
        idle = {c.id for c in verdict.plan.counting() if _is_idle(c, result) and not late.intersection(c.targets)}
        if not idle or turn == _MOST_TURNS - 1:
            break
        plan = verdict.plan.changed(lambda c, ids=idle: replace(c, on=False) if c.id in ids else c)  # type: ignore[misc]
        notices = [*notices, *(Notice(name, _SAVED_NOTHING) for name in sorted(idle))]
    return _lightened(verdict, before, after, result, set_aside, [*notices, *verdict.journal.notices])


def _is_idle(change: Change, result: Account) -> bool:
    saved = result.saved_by(change.id)
    wanted = change.remedy in _STEADIES_THE_PAGE or change.params.get("chosen")
    return not wanted and saved.bytes <= 0 and saved.requests <= 0


def _lightened(
    verdict: Verdict,
    before: list[WeighIn],
    after: list[WeighIn],
    result: Account,
    set_aside: list[SetAside],
    notices: list[Notice],
) -> Lightened:
    unique = list(dict.fromkeys(notices))
    return Lightened(
        verdict.capture, verdict.plan, verdict.journal, before, after, result, verdict.pairs, set_aside, unique
    )


def lighten(
    capture: Capture,
    effort: str,
    progress: Progress,
    *,
    pages: Sequence[str] = (),
    devices: Sequence[str] = (),
    runs: int = 1,
    keep: Keep | None = None,
    images: ImageSettings | None = None,
) -> Lightened:
    """From a capture to a checked, lighter one. Pages are paths, all when empty; so are devices.

    Raises `BadInput` for a page that is not there, `BrowserMissing` and `Cancelled`.
    """
    chosen = [capture.page(path) for path in pages] or capture.pages()
    conditions = [Conditions(device_named(name), runs=runs) for name in devices or USUAL_DEVICES]
    with browser_for(capture) as browser:
        baseline = weigh_and_survey(browser, capture, chosen, conditions, effort, progress, images=images)
        plan = replace(baseline.plan, keep=keep or Keep())
        return carry_out(browser, capture, plan, baseline.weigh_ins, progress, baseline.notices)
