"""Shapes of what could go."""

from __future__ import annotations

from datetime import datetime
from functools import reduce
from operator import or_
from typing import Annotated, Any, Literal

from ninja import Field, Schema

from server.api.schemas.common import KindName
from unladen.survey import fact_types

# One shape for each kind of evidence, told apart by `about`; a new surveyor brings its own.
FactsOut: Any = Annotated[reduce(or_, fact_types()), Field(discriminator="about")]


class ExcessOut(Schema):
    """One thing worth doing; bytes transferred, each file once. `changes` are those that cure it, by id."""

    id: str
    excess: str
    kind: KindName
    title: str
    why: str
    pages: list[str]
    targets: list[str]
    bytes: int
    of_bytes: int
    requests: int
    tried: bool
    changes: list[str]
    advice: str
    visit: Literal["first", "repeat"]
    facts: FactsOut


class Findings(Schema):
    """All that is worth doing, the largest first."""

    excess: list[ExcessOut]
    surveyed: datetime | None


class WorthOut(Schema):
    """What a change brings over all weigh-ins; `sure`: a run measured it, else it is an estimate from its excess."""

    id: str
    bytes: int
    requests: int
    sure: bool
