"""Shapes of the API. The front end's types are generated from them."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from ninja import Field, Schema


class Problem(Schema):
    """Every error body: what is wrong, in words for the person at the screen."""

    detail: str


class Session(Schema):
    """Who is signed in; `username` is empty for nobody."""

    username: str
    preview_port: int
    upload_limit: int


class Credentials(Schema):
    username: str
    password: str


class JobOut(Schema):
    id: UUID
    kind: Literal["record", "weigh", "weigh_more", "walk", "survey", "lighten", "carry_out", "propose", "encode"]
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    stage: str
    done: int
    total: int
    note: str
    error: str
    paused: bool
    easy: bool


class KindSum(Schema):
    requests: int
    transferred: int
    decoded: int


class Window(Schema):
    width: int
    height: int
    density: float


class Spread(Schema):
    median: float
    low: float
    high: float


class Scrolled(Schema):
    requests: int
    transferred: int


class WeighInOut(Schema):
    """As in docs/formats.md; sizes in bytes, times in ms. `id` names it among the site's weigh-ins.

    The baseline or the ledger stands on `held` ones.
    """

    id: UUID
    held: bool
    page: str
    device: str
    window: Window
    visit: str
    link: str
    runs: int
    requests: int
    transferred: int
    decoded: int
    kinds: dict[str, KindSum]
    missing: list[str]
    errors: list[str]
    content_ready_ms: float
    load_ms: float
    timings: dict[str, Spread]
    modelled_load_ms: dict[str, float]
    scrolled: Scrolled
    browser: str
    taken: str


class SiteOut(Schema):
    """A site in the list; sums are over its weigh-ins, in bytes."""

    id: UUID
    name: str
    created: datetime
    files: int
    pages: int
    before: int | None
    after: int | None
    job: JobOut | None


class Spot(Schema):
    """Where an image, film or frame is shown, in CSS px from the top left of the page."""

    url: str
    path: str
    selector: str = ""
    x: float
    y: float
    width: float
    height: float
    visible: bool


class Picture(Schema):
    """The picture of a page as weighed; `name` is empty when none could be taken."""

    page: str
    device: str
    name: str
    width: int
    height: float
    spots: list[Spot]


class ExcessOut(Schema):
    """One thing worth doing; bytes transferred, each file once."""

    id: str
    excess: str
    kind: str
    title: str
    why: str
    pages: list[str]
    targets: list[str]
    bytes: int
    of_bytes: int
    requests: int
    tried: bool
    curable: bool
    advice: str
    visit: Literal["first", "repeat"]
    facts: dict[str, Any]


class Saved(Schema):
    bytes: int
    requests: int


class EmbedOut(Schema):
    """How an embed is treated: see the remedy `embed` in docs/formats.md; `pictures` are the sorts that there are."""

    kind: str
    way: str
    title: str
    start: str
    picture: str
    pictures: list[str]
    below: int


class ChangeOut(Schema):
    id: str
    remedy: str
    targets: list[str]
    pages: list[str]
    on: bool
    set_aside: str
    insist: bool
    saved: Saved | None
    embed: EmbedOut | None = None


class NoticeOut(Schema):
    name: str
    reason: str


class DifferenceOut(Schema):
    what: str
    text: str
    boxes: list[list[int]]


class PairOut(Schema):
    """A page as found and now; `before` and `after` name pictures, `change` what it is evidence against."""

    page: str
    device: str
    passed: bool
    differences: list[DifferenceOut]
    before: str
    after: str
    change: str = ""


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


class ResultOut(Schema):
    """What the plan brought when it was last carried out."""

    effort: str
    weigh_ins: list[WeighInOut]
    lines: list[LedgerLine]
    unexplained: Saved
    checks: Checks
    pairs: list[PairOut]
    evidence: list[PairOut]
    notices: list[NoticeOut]
    archive_bytes: int
    changed_bytes: int
    changed: list[ReplacementOut]
    remedies: dict[str, Saved]
    taken: datetime


class RuleOut(Schema):
    """Whose a host or path is: `kind` is site, platform, third party or embed."""

    pattern: str
    kind: Literal["site", "platform", "third party", "embed"]
    name: str = ""


class Bench(Schema):
    """All that the screens of one site show."""

    id: UUID
    name: str
    created: datetime
    files: int
    notices: list[NoticeOut]
    pages: list[str]
    pages_left_out: int
    taken: datetime | None
    effort: str
    allowance: int
    weigh_ins: list[WeighInOut]
    pictures: list[Picture]
    excess: list[ExcessOut]
    changes: list[ChangeOut]
    keep_files: list[str]
    rules: list[RuleOut]
    walked: int
    plan_differs: bool
    result: ResultOut | None
    job: JobOut | None
    preview_found: str
    preview_now: str


class Owner(Schema):
    kind: str
    name: str


class RequestOut(Schema):
    """One request of a weigh-in; sizes in bytes, times in ms after the first request.

    `chain` leads from the page to it, by the positions of requests in the list. `scrolled` ones came when the page was
    scrolled. `again` says why a repeat visit asked for it.
    """

    url: str
    kind: str
    status: int
    method: str
    protocol: str
    priority: str
    media_type: str
    transferred: int
    body: int
    decoded: int
    initiator_type: str
    started: float
    responded: float
    ended: float
    cached: bool
    missing: bool
    failed: str
    blocking: bool
    after_load: bool
    scrolled: bool
    brought_by: Owner
    chain: list[int]
    again: str
    lifetime: float
    lifetime_words: str


class HeadersOut(Schema):
    request: list[tuple[str, str]]
    response: list[tuple[str, str]]
    preview: str


class FontOut(Schema):
    url: str
    family: str
    weight: str
    style: str
    transferred: int
    format: str
    glyphs: int
    used: int
    asked_by: str


class LargestOut(Schema):
    selector: str
    text: str
    url: str
    width: float
    height: float
    request: int


class Section(Schema):
    selector: str
    nodes: int


class StructureOut(Schema):
    nodes: int
    depth: int
    deepest: str
    sections: list[Section]
    endless: list[str]
    nested: list[str]


class BroughtOut(Schema):
    """What one bringer brought; `hosts` are those that it came from."""

    kind: str
    name: str
    requests: int
    transferred: int
    hosts: list[str]


class WeighInDetail(Schema):
    """All of one weigh-in: its requests with who brought them, marks on the time axis in ms, fonts and structure."""

    weigh_in: WeighInOut
    requests: list[RequestOut]
    brought: list[BroughtOut]
    own_hosts: list[str]
    marks: dict[str, float]
    largest: LargestOut | None
    fonts: list[FontOut]
    structure: StructureOut


class HistoryRow(Schema):
    """A weigh-in of a page, for the history; `held` ones stand under a baseline or a result."""

    id: UUID
    side: Literal["found", "now"]
    page: str
    device: str
    conditions: str
    visit: str
    link: str
    runs: int
    taken: datetime
    name: str
    pinned: bool
    held: bool
    transferred: int
    requests: int
    load: Spread


class WeighInEdit(Schema):
    name: str | None = Field(default=None, max_length=100)
    pinned: bool | None = None


class Sums(Schema):
    requests: int
    transferred: int
    decoded: int


class Loads(Schema):
    before: Spread
    after: Spread


class Comparison(Schema):
    """Two weigh-ins side by side; `marks` say which conditions differ, and then the difference proves nothing."""

    marks: list[str]
    before: Sums
    after: Sums
    difference: Sums
    kinds: dict[str, Sums]
    load_ms: Loads
    new_missing: list[str]
    new_errors: list[str]


class WeighMoreIn(Schema):
    """Conditions to weigh under; pages are paths, all of the baseline when left out."""

    devices: list[str] = Field(min_length=1, max_length=6)
    visit: Literal["first", "repeat"] = "first"
    link: str = "unlimited"
    runs: int = Field(default=3, ge=1, le=15)
    pages: list[str] = Field(default_factory=list, max_length=100)


class UseFile(Schema):
    """A row of the use map: bytes of a file and those used, over all and by page."""

    url: str
    path: str
    kind: str
    size: int
    used: int
    transferred: int
    transferred_unused: int
    own: bool
    pages: dict[str, int]


class StepOut(Schema):
    """A step of a walk and what came of it."""

    key: str
    action: str
    selector: str
    text: str
    ms: int
    label: str
    own: bool
    outcome: str
    requests: int
    transferred: int


class Pickable(Schema):
    """An element that a step may be about, with its box in CSS px from the top left of the page."""

    selector: str
    label: str
    x: float
    y: float
    width: float
    height: float
    field: bool


class WalkOut(Schema):
    page: str
    device: str
    taken: datetime
    steps: list[StepOut]
    errors: list[str]
    elements: list[Pickable]


class UseMap(Schema):
    pages: list[str]
    files: list[UseFile]
    walks: list[WalkOut]


class UsedText(Schema):
    """A file's text and its used spans, in UTF-16 code units as JavaScript counts."""

    text: str
    spans: list[tuple[int, int]]
    cut: bool


class StepIn(Schema):
    action: Literal["hover", "open", "click", "type", "wait", "scroll"]
    selector: str = Field(default="", max_length=1000)
    text: str = Field(default="", max_length=1000)
    ms: int = Field(default=0, ge=0, le=10_000)
    label: str = Field(default="", max_length=100)


class WalkOrdersIn(Schema):
    """For one page: steps of the user's own, and the keys of steps that are switched off."""

    page: str
    own: list[StepIn] = Field(default_factory=list, max_length=100)
    off: list[str] = Field(default_factory=list, max_length=200)


class WalkIn(Schema):
    """Pages to walk over, all of the baseline when left out."""

    pages: list[str] = Field(default_factory=list, max_length=100)


class RulesIn(Schema):
    rules: list[RuleOut] = Field(max_length=200)


class VisitIn(Schema):
    """An address to visit, how deep links are followed, and over how many pages."""

    address: str = Field(max_length=2000)
    depth: int = Field(default=1, ge=0, le=5)
    pages: int = Field(default=5, ge=1, le=50)


class LightenIn(Schema):
    effort: Literal["gentle", "steady", "bold"]


class ChangeIn(Schema):
    """A change to switch; `insist` carries it out whatever the check finds."""

    id: str
    on: bool
    insist: bool = False


class SiteEdit(Schema):
    """The allowance of the site's pages in bytes."""

    allowance: int = Field(ge=1, le=1_000_000_000)


class PlanEdit(Schema):
    """Changes to switch on or off, and files to keep as they are; what is left out stays."""

    changes: list[ChangeIn] = Field(default_factory=list)
    keep_files: list[str] | None = None
