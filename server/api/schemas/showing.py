"""Shapes of allowances, reports and reviews."""

from __future__ import annotations

from datetime import datetime
from enum import Enum
from typing import Literal
from uuid import UUID

from ninja import Field, Schema

from server.api.schemas.common import KindName
from server.reviews.models import AnswerKind, ReviewState
from unladen.ledger.allowance import MEASURES
from unladen.ledger.report import MOST_WORDS
from unladen.weigh.records.parties import OWNERS

MeasureName = Enum("MeasureName", {name: name for name in MEASURES}, type=str)  # type: ignore[misc]
BringerKind = Enum("BringerKind", {name: name for name in OWNERS}, type=str)  # type: ignore[misc]


class LimitIO(Schema):
    """As in docs/formats.md."""

    measure: MeasureName
    most: float = Field(ge=0, le=1_000_000_000_000)
    pages: list[str] = Field([], max_length=200)
    device: str = Field("", max_length=40)
    kind: KindName | Literal[""] = ""
    bringer: BringerKind | Literal[""] = ""
    host: str = Field("", max_length=253)
    link: str = Field("1.6 Mbit/s, 150 ms", max_length=60)
    why: str = Field("", max_length=500)


class LimitsIn(Schema):
    limits: list[LimitIO] = Field(max_length=200)


class CulpritOut(Schema):
    name: str
    amount: float
    bringer: str


class KeptOut(Schema):
    """A limit at a page on a device: what it came to as found, and as it is now where there is a run."""

    limit: int
    page: str
    device: str
    found: float
    now: float | None
    culprits: list[CulpritOut]


class AllowanceOut(Schema):
    """The limits of a site, the first of which is what a page may weigh, and how they are kept.

    `usual` are those of common practice besides.
    """

    limits: list[LimitIO]
    labels: list[str]
    units: list[str]
    kept: list[KeptOut]
    notes: list[str]
    usual: list[LimitIO]


class LetterheadIO(Schema):
    """What stands on top of reports and reviews; `logo` is a data URL, which can only be handed in as a picture."""

    name: str = Field("", max_length=200)
    words: str = Field("", max_length=MOST_WORDS)
    logo: str = ""


class ReviewIn(Schema):
    """For how many days, under which password ("" for none), and what it is called."""

    days: int = Field(14, ge=1, le=365)
    password: str = Field("", max_length=200)
    name: str = Field("", max_length=100)


class AnswerOut(Schema):
    topic: str
    kind: AnswerKind
    word: str
    who: str
    at: datetime


class TopicOut(Schema):
    """Some changes that are judged together; bytes and requests over all weigh-ins."""

    id: str
    title: str
    why: str
    targets: list[str]
    pages: list[str]
    bytes: int
    requests: int


class ReviewRow(Schema):
    """A review as its maker sees it: how far it is, and what was answered. `shown`: it is about the run that is
    shown.
    """

    id: UUID
    name: str
    state: ReviewState
    made: datetime
    until: datetime
    opened: datetime | None
    password: bool
    shown: bool
    topics: list[TopicOut]
    answers: list[AnswerOut]
    history: int


class ReviewMade(Schema):
    """A new review. Its address is told this once."""

    address: str
    review: ReviewRow


class ShotOut(Schema):
    """A page on a device: names of its pictures as found and now, and what it weighs; width in CSS px."""

    page: str
    device: str
    before: str
    after: str
    width: int
    bytes: list[int]
    requests: list[int]


class ReviewOut(Schema):
    """A review as the client sees it. While it is `locked` there is nothing but that."""

    locked: bool
    site: str
    name: str
    sender: str
    logo: str
    words: str
    until: datetime | None
    shots: list[ShotOut]
    topics: list[TopicOut]
    answers: list[AnswerOut]
    pictures: list[str]


class PasswordIn(Schema):
    password: str = Field(max_length=200)


class AnswerIn(Schema):
    topic: str = Field(max_length=2100)
    kind: AnswerKind
    word: str = Field("", max_length=2000)
    who: str = Field("", max_length=100)
