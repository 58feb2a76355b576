"""Accounts and what was done with them, for administrators."""

from __future__ import annotations

from datetime import datetime

from ninja import Schema
from pydantic import Field


class UserOut(Schema):
    """An account; `stored` are bytes of its sites on the disk."""

    username: str
    active: bool
    admin: bool
    last_login: datetime | None
    sites: int
    stored: int


class UserIn(Schema):
    username: str = Field(min_length=1, max_length=150, pattern=r"^[\w.@+-]+$")
    password: str = Field(max_length=1000)
    admin: bool = False


class UserEdit(Schema):
    """What is to be another; what is left out stays."""

    active: bool | None = None
    admin: bool | None = None
    password: str | None = Field(None, max_length=1000)


class DeedOut(Schema):
    """What somebody did or was refused (`status` of 400 and more)."""

    at: datetime
    who: str
    address: str
    what: str
    about: str
    status: int
