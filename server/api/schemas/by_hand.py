"""Shapes of what is put in by hand."""

from __future__ import annotations

from datetime import datetime

from ninja import Field, Schema


class SnippetOut(Schema):
    page: str
    old: str
    new: str
    after: str


class HandStepOut(Schema):
    """A step; `there` and `why_not` are what the last visit found, `done` when it was ticked off."""

    key: str
    title: str
    why: str
    bytes: int
    files: list[str]
    snippets: list[SnippetOut]
    more: int
    pages: list[str]
    shows: str
    done: datetime | None
    there: bool | None
    why_not: str


class LiveWeight(Schema):
    page: str
    device: str
    found: int
    live: int


class HandOut(Schema):
    """The list, the address of the live site as far as it is known, and what the last visit weighed."""

    steps: list[HandStepOut]
    address: str
    visited: datetime | None
    weighed: list[LiveWeight]


class TickIn(Schema):
    done: bool


class LiveIn(Schema):
    address: str = Field(min_length=1, max_length=2000)
