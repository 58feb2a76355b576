"""Shapes of live sites that are watched."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Field, Schema


class GrowerOut(Schema):
    name: str
    bytes: int


class GrownOut(Schema):
    page: str
    device: str
    before: int
    after: int
    by: list[GrowerOut]


class WatchIn(Schema):
    """How often ("" for never), where the live site is, and who is written to when it grew ("" for nobody)."""

    often: Literal["", "daily", "weekly"]
    address: str = Field("", max_length=2000)
    mail: str = Field("", max_length=254)


class WatchOut(WatchIn):
    """The same, and what the last visit found: pages that weigh more than in the baseline, and who brought that."""

    at: datetime | None
    error: str
    mail_error: str
    grown: list[GrownOut]
