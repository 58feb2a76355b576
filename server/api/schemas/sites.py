"""Shapes of sites."""

from __future__ import annotations

from datetime import datetime
from enum import Enum
from typing import Annotated, Literal
from uuid import UUID

from ninja import Field, Schema

from server.api.schemas.common import JobOut, NoticeOut
from server.api.schemas.weighing import RuleOut
from unladen.check import Standing
from unladen.plan import EFFORTS
from unladen.remedies import remedies

# What follows from the core's own lists, so that nobody has to keep another one.
RemedyName = Enum("RemedyName", {remedy.name: remedy.name for remedy in remedies()}, type=str)  # type: ignore[misc]
EffortName = Enum("EffortName", {name: name for name in EFFORTS}, type=str)  # type: ignore[misc]


RoleName = Literal["look", "edit", "own"]
Tag = Annotated[str, Field(min_length=1, max_length=40)]
Entry = Annotated[str, Field(min_length=1, max_length=2000)]


class SiteOut(Schema):
    """A site in the list; sums are over its weigh-ins, in bytes, by kind too.

    `over`: how many of its weigh-ins are over what a page may weigh, as it is now. `looked`: when it was weighed
    last; `grown`: by how many bytes a page of the live site grew at most since the baseline, and who brought most of
    that. `role` is what the caller may do with it, `shared` with how many others its owner shares it.
    """

    id: UUID
    name: str
    created: datetime
    files: int
    pages: int
    before: int | None
    after: int | None
    kinds_before: dict[str, int]
    kinds_after: dict[str, int]
    allowance: int
    over: int
    grown: int
    grown_by: list[str]
    looked: datetime | None
    tags: list[str]
    owner: str
    role: RoleName
    shared: int
    archived: bool
    job: JobOut | None


class SiteDetail(Schema):
    """A site itself; its weigh-ins, findings, plan and run are resources of their own.

    `alike`: for pages that were weighed how many others are built like them and were not. `chosen` are the pages that
    count, as they were asked for, of which at `most` so many are weighed.
    """

    id: UUID
    name: str
    created: datetime
    files: int
    pages: list[str]
    pages_left_out: int
    alike: dict[str, int]
    chosen: list[str]
    most: int
    taken: datetime | None
    allowance: int
    notices: list[NoticeOut]
    rules: list[RuleOut]
    walked: int
    owner: str
    role: RoleName
    preview_found: str
    preview_now: str


class SiteEdit(Schema):
    """What is to change of a site: its name, the allowance of its pages in bytes, tags, whether it is put away."""

    allowance: int | None = Field(None, ge=1, le=1_000_000_000)
    name: str | None = Field(None, min_length=1, max_length=200)
    tags: list[Tag] | None = Field(None, max_length=20)
    archived: bool | None = None


class VisitIn(Schema):
    """An address to visit, and which pages beside it.

    How deep links are followed, over how many pages; those of its `sitemap`, and further addresses that are `listed`.
    Of all of them only what fits one of the patterns `only` counts, such as `/blog/*`.
    """

    address: str = Field(max_length=2000)
    depth: int = Field(default=1, ge=0, le=5)
    pages: int = Field(default=5, ge=1, le=2000)
    sitemap: bool = False
    listed: list[Entry] = Field(default_factory=list, max_length=2000)
    only: list[Entry] = Field(default_factory=list, max_length=50)


class ChosenIn(Schema):
    """The pages that count: paths, patterns such as `/blog/*`, or the word `sitemap`; all when empty.

    At `most` so many of them are weighed, and stand for those built like them.
    """

    chosen: list[Entry] = Field(max_length=2000)
    most: int | None = Field(None, ge=1, le=200)


class SettingOut(Schema):
    """A parameter of a remedy that the user may set; `words` are its values, each with what it is called."""

    name: str
    title: str
    sort: Literal["word", "number", "text"]
    words: dict[str, str]
    unit: str
    low: int
    high: int


class RemedyOut(Schema):
    """What a remedy says of itself."""

    name: RemedyName
    title: str
    what: str
    steadies: bool
    replaces_embed: bool
    defers: bool
    settings: list[SettingOut]


class EffortOut(Schema):
    name: EffortName
    hint: str


class DifferenceKind(Schema):
    name: str
    title: str


class DeviceOut(Schema):
    """A window that pages are looked at in, in CSS px."""

    name: str
    label: str
    width: int
    height: int


class Words(Schema):
    """The words of the core: remedies in the order in which they run, efforts, standings, what may differ, devices,
    and terms with what each means.
    """

    remedies: list[RemedyOut]
    efforts: list[EffortOut]
    standings: list[Standing]
    differences: list[DifferenceKind]
    devices: list[DeviceOut]
    terms: dict[str, str]
