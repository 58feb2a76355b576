"""Shapes of walks and of the use map."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Field, Schema

from server.api.schemas.common import KindName


class UseFile(Schema):
    """A row of the use map: bytes of a file and those used, over all and by page."""

    url: str
    path: str
    kind: KindName
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
