"""Shapes of the API that all of it shares. The front end's types are generated from them."""

from __future__ import annotations

from enum import Enum
from uuid import UUID

from ninja import Schema

from server.sites.models import Job
from unladen.progress import Proven
from unladen.weigh.records.kinds import KINDS

# What follows from the core's own list.
KindName = Enum("KindName", {kind: kind for kind in KINDS}, type=str)  # type: ignore[misc]


class ProofOut(Schema):
    """How far a check has come with a page on a device; `text`: what differs, or why it cannot be compared."""

    page: str
    device: str
    proven: Proven
    text: str


class JobOut(Schema):
    """Where long work on a site stands. While one that is `aside` runs, all else can be done.

    `proofs` is what its check has found so far; of a job that was stopped it is kept.
    """

    id: UUID
    kind: Job.Kind
    state: Job.State
    stage: str
    done: int
    total: int
    note: str
    error: str
    paused: bool
    easy: bool
    aside: bool
    proofs: list[ProofOut]


class Problem(Schema):
    """Every error body: what is wrong, in words for the person at the screen."""

    detail: str


class Session(Schema):
    """Who is signed in; `username` is empty for nobody. `stored` are bytes of the user's sites on the disk."""

    username: str
    preview_port: int
    upload_limit: int
    stored: int
    storage_limit: int
    admin: bool


class Credentials(Schema):
    username: str
    password: str


class NoticeOut(Schema):
    name: str
    reason: str


class SteerIn(Schema):
    paused: bool
    easy: bool
