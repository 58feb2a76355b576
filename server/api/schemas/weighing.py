"""Shapes of weigh-ins, their requests and their history."""

from __future__ import annotations

from datetime import datetime
from typing import Literal
from uuid import UUID

from ninja import Field, Schema

from server.api.schemas.common import KindName
from server.sites.models import StoredWeighIn


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


class ShownOut(Schema):
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
    shown: list[ShownOut]


class Owner(Schema):
    kind: str
    name: str


class RequestOut(Schema):
    """One request of a weigh-in; sizes in bytes, times in ms after the first request.

    `chain` leads from the page to it, by the positions of requests in the list. `scrolled` ones came when the page was
    scrolled. `again` says why a repeat visit asked for it.
    """

    url: str
    kind: KindName
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


class PartOut(Schema):
    """A part of a page: what those who look at it call it, its elements counted, its box in CSS px of the page."""

    selector: str
    label: str
    nodes: int
    x: float
    y: float
    width: float
    height: float


class StructureOut(Schema):
    nodes: int
    depth: int
    deepest: PartOut | None
    sections: list[PartOut]
    moving: list[PartOut]
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
    side: StoredWeighIn.Side
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


class RuleOut(Schema):
    """Whose a host or path is: `kind` is site, platform, third party or embed."""

    pattern: str
    kind: Literal["site", "platform", "third party", "embed"]
    name: str = ""


class RulesIn(Schema):
    rules: list[RuleOut] = Field(max_length=200)


class WeighInsOut(Schema):
    """The weigh-ins that count, as found and as the run that is shown made it, with pictures of the pages as found."""

    found: list[WeighInOut]
    now: list[WeighInOut]
    pictures: list[Picture]
