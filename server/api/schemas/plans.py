"""Shapes of the plan, of the commands that edit it, and of runs."""

from __future__ import annotations

from datetime import datetime
from typing import Literal
from uuid import UUID

from ninja import Field, Schema

from server.api.schemas.common import JobOut, NoticeOut
from server.api.schemas.sites import EffortName, RemedyName
from unladen.check import Standing
from unladen.plan import KINDS
from unladen.plan.embed_choices import LEAVE
from unladen.remedies.embeds.delay_scripts import WAITS

Way = Literal["still", "link", "lazy", "near", "click", "act", "leave"]
assert LEAVE == "leave" and set(WAITS) < set(Way.__args__)  # type: ignore[attr-defined]
PictureSort = Literal["seen", "poster", "own"]


class EmbedOut(Schema):
    """How an embed is treated: see the remedy `embed` in docs/remedies.md; `pictures` are the sorts that there are."""

    kind: str
    way: Way
    title: str
    start: str
    picture: PictureSort
    pictures: list[PictureSort]
    below: int


KeepKind = Literal["files", "pages", "selectors", "hosts"]
assert KeepKind.__args__ == KINDS  # type: ignore[attr-defined]


class ChangeOut(Schema):
    """A change as it is wanted; `settings`: the parameters that can be set by hand, as they are."""

    id: str
    remedy: RemedyName
    targets: list[str]
    pages: list[str]
    on: bool
    insist: bool
    chosen: bool
    settings: dict[str, int | str]
    embed: EmbedOut | None = None


class KeepNoteIO(Schema):
    """What is said of an entry of the keep list: why it is kept, and the one remedy it is for ("" for all)."""

    kind: KeepKind
    pattern: str = Field(max_length=4000)
    why: str = Field(max_length=4000)
    remedy: str = Field(max_length=100)


class AcceptedIO(Schema):
    """A difference of a page on a device that may be; `key` tells it from others, `why` is the word of who wants it
    so.
    """

    page: str = Field(max_length=4000)
    device: str = Field(max_length=100)
    key: str = Field(max_length=4000)
    text: str = Field(max_length=4000)
    why: str = Field(max_length=4000)


class MaskIO(Schema):
    """A region of pages (by pattern) that is not compared: left, top, right, bottom in CSS px; "" is every device."""

    page: str = Field(max_length=4000)
    device: str = Field(max_length=100)
    box: list[int] = Field(min_length=4, max_length=4)
    why: str = Field(max_length=4000)


class KeepCost(Schema):
    """What an entry costs in bytes, as far as that is known."""

    kind: KeepKind
    pattern: str
    bytes: int


class KeepOut(Schema):
    """The keep list."""

    files: list[str]
    pages: list[str]
    selectors: list[str]
    hosts: list[str]
    notes: list[KeepNoteIO]
    costs: list[KeepCost]


class ToleranceOut(Schema):
    """What a check is told to let pass."""

    accepted: list[AcceptedIO]
    masks: list[MaskIO]


class Saved(Schema):
    bytes: int
    requests: int


class RemedyEstimate(Saved):
    """What the wanted changes of a remedy bring; `sure`: all of it was measured."""

    remedy: RemedyName
    sure: bool


class EstimateOut(Schema):
    """What the plan would bring, over all weigh-ins that it stands on, from what is known; `sure`: all was measured."""

    before: Saved
    after: Saved
    sure: bool
    remedies: list[RemedyEstimate]


class PlanHead(Schema):
    """What holds for the plan as a whole.

    `differs`: carrying it out would come to something else than the run that is shown. `undo` and `redo` name the
    versions before and after it.
    """

    version: UUID
    name: str
    effort: EffortName
    keep: KeepOut
    tolerance: ToleranceOut
    differs: bool
    estimate: EstimateOut
    undo: UUID | None
    redo: UUID | None


class PlanOut(PlanHead):
    """The plan as it stands."""

    changes: list[ChangeOut]


class PlanEdited(PlanHead):
    """The plan after an edit, as it differs from before: of its changes those that are new or others than they were.

    `order` are the ids of all changes where changes came or went, and None where they are the same in the same order.
    """

    changes: list[ChangeOut]
    order: list[str] | None


class VersionOut(Schema):
    """A version of the plan; `run`: it was carried out."""

    id: UUID
    parent: UUID | None
    name: str
    made: datetime
    on: int
    head: bool
    run: bool


class VersionEdit(Schema):
    name: str = Field(max_length=100)


class GoneRule(Schema):
    """A part of a style sheet that goes: what it is, why, its own selectors, and where it stands in the text
    (characters).
    """

    sort: str
    what: str
    why: str
    selectors: list[str]
    start: int
    end: int


class StaysOut(Schema):
    """A selector that a trim leaves where it is, and what keeps it."""

    what: str
    why: str
    start: int


class StayingOut(Schema):
    """What a trim leaves in its style sheets; of many the first that hold what is looked for, of `total`."""

    rules: list[StaysOut]
    total: int


class RulesOut(Schema):
    """What a trim takes out of its style sheets; of many the first that hold what is looked for, of `total`."""

    gone: list[GoneRule]
    total: int
    selectors: int
    keep: list[str]
    missed: list[str] = Field(description="what a check found to be missed, so that it stays")


class GoIn(Schema):
    """A version to make the plan, and the one that it is now."""

    version: UUID
    to: UUID


class RunIn(Schema):
    """A version to carry out; changes of it that an earlier run left out and that are to be tried again.

    `page` is the page that is looked at before all others.
    """

    version: UUID
    again: list[str] = Field(default_factory=list, max_length=20_000)
    page: str = Field("", max_length=2_000)


class LightenIn(Schema):
    """An effort, or a preset of the caller's own, which names one itself; `page` is looked at before all others."""

    effort: EffortName
    preset: UUID | None = None
    page: str = Field("", max_length=2_000)


class DifferenceOut(Schema):
    """What differs; `step`: what was done to the page before; `shots` name pictures of that moment before and after."""

    key: str
    what: str
    text: str
    boxes: list[list[int]]
    step: str
    detail: str
    places: list[str]
    files: list[str]
    shots: list[str] | None


class PairOut(Schema):
    """A page as found and now; `before` and `after` name pictures, `width` is theirs in CSS px."""

    page: str
    device: str
    passed: bool
    differences: list[DifferenceOut]
    before: str
    after: str
    width: int
    cannot: str
    steps: int
    left: list[str]


class AsideOut(Schema):
    """A target of a change that was set aside while the rest of it stays; or only these `pieces` of what happens to
    it.
    """

    target: str
    reason: str
    pair: PairOut | None
    pieces: list[str]


class OutcomeOut(Schema):
    """How a change stands, why, the pair that shows it, and what it saved.

    `open`: a longer search may bring some of it back.
    """

    change: str
    remedy: RemedyName | None
    targets: list[str]
    standing: Standing
    reason: str
    pair: PairOut | None
    parts: list[AsideOut]
    open: bool
    saved: Saved


class LedgerLine(Schema):
    change: str
    page: str
    device: str
    bytes: int
    requests: int


class Checks(Schema):
    pairs: int
    passed: int
    set_aside: int


class ReplacementOut(Schema):
    """A file of the lighter site that is new or differs; sizes in bytes of the file."""

    path: str
    what: str
    pages: list[str]
    before: int
    after: int


class StopOut(Schema):
    """A page of a journey: what it takes as found and now."""

    page: str
    found: Saved
    now: Saved


class JourneyOut(Schema):
    """Pages one after the other from one cache, and the first of them once more; modelled."""

    device: str
    pages: list[StopOut]
    again: StopOut


class BringerSaved(Schema):
    """What was saved of what somebody brings."""

    kind: str
    name: str
    saved: Saved


class MovedOut(Schema):
    """A change that stands otherwise in a run than in an earlier one, or saves another amount: `then` and `now` are
    `in`, `off`, or why not; bytes saved then and now.
    """

    change: str
    remedy: str
    targets: list[str]
    then: str
    now: str
    bytes_then: int
    bytes_now: int


class BetweenRuns(Schema):
    """What came and went from a run to the one that is shown; `same_ground`: both stand on the same weigh-ins as
    found.
    """

    made: datetime
    same_ground: bool
    moved: list[MovedOut]


class RunOut(Schema):
    """What a version of the plan brought when it was carried out."""

    id: UUID
    version: UUID
    effort: str
    lines: list[LedgerLine]
    unexplained: Saved
    checks: Checks
    pairs: list[PairOut]
    outcomes: list[OutcomeOut]
    notices: list[NoticeOut]
    archive_bytes: int
    changed_bytes: int
    changed: list[ReplacementOut]
    remedies: dict[str, Saved]
    journeys: list[JourneyOut]
    made: datetime


class RunRow(Schema):
    """A run in the history; `outdated`: of an older copy of the site."""

    id: UUID
    version: UUID
    name: str
    made: datetime
    before: int
    after: int
    requests_before: int
    requests_after: int
    changes: int
    set_aside: int
    shown: bool
    outdated: bool


class RunStarted(Schema):
    """The job that carries a plan out, or none where an earlier run of the same stands."""

    job: JobOut | None
