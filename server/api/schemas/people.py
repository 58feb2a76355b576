"""Shapes of who may do what with a site."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Schema


class PersonIn(Schema):
    """What somebody may do: `look`, or `edit` too."""

    role: Literal["look", "edit"]


class PersonOut(Schema):
    username: str
    role: Literal["look", "edit"]


class People(Schema):
    """Whose a site is, and who was let in."""

    owner: str
    people: list[PersonOut]


class DoneRow(Schema):
    """What somebody did with a site."""

    at: datetime
    who: str
    what: str
