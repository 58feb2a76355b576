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
    kind: Literal["weigh", "lighten", "carry_out"]
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    stage: str
    done: int
    total: int
    note: str
    error: str


class KindSum(Schema):
    requests: int
    transferred: int
    decoded: int


class WeighInOut(Schema):
    """As in docs/formats.md; sizes in bytes, times in ms."""

    page: str
    device: str
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
    browser: str


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
    """Where an image is shown, in CSS px from the top left of the page."""

    url: str
    path: str
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
    facts: dict[str, Any]


class Saved(Schema):
    bytes: int
    requests: int


class ChangeOut(Schema):
    id: str
    remedy: str
    targets: list[str]
    pages: list[str]
    on: bool
    set_aside: str
    insist: bool
    saved: Saved | None


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
    taken: datetime


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
    plan_differs: bool
    result: ResultOut | None
    job: JobOut | None
    preview_found: str
    preview_now: str


class RequestOut(Schema):
    """One request of a weigh-in; sizes in bytes, times in ms after the first request."""

    url: str
    kind: str
    status: int
    transferred: int
    decoded: int
    initiator: str
    initiator_type: str
    started: float
    ended: float
    missing: bool


class Requests(Schema):
    found: list[RequestOut]
    now: list[RequestOut]


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
