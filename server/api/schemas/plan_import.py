"""Shapes of other plans compared with the current one, and of live copies."""

from __future__ import annotations

from uuid import UUID

from ninja import Field, Schema

from server.api.schemas.sites import RemedyName


class ApartOut(Schema):
    """A place where another plan differs from the plan as it is, in words: what is wanted here, and what there.

    `title` names what holds for the whole plan; `remedy` and `targets` tell a change. `conflict`: both say something.
    """

    key: str
    title: str
    remedy: RemedyName | None
    targets: list[str]
    here: str
    there: str
    conflict: bool


class PartOfChange(Schema):
    """A change with what of it is not in the site."""

    id: str
    remedy: RemedyName
    targets: list[str]
    lost: list[str]


class BesideOut(Schema):
    """Another plan: how many of its wanted changes fit the site as they are, which in part or not, and where it
    differs.
    """

    fits: int
    partly: list[PartOfChange]
    gone: list[PartOfChange]
    apart: list[ApartOut]


class MergeIn(Schema):
    """Keys of places to take from another version, and the version that the plan is now."""

    version: UUID
    other: UUID
    take: list[str] = Field(min_length=1, max_length=20_000)


class CopiesOut(Schema):
    """Where copies of a site can be opened: the beginnings of addresses, to which a page's path without its slash is
    added.

    `found` as it was found, `now` as the run that is shown left it ("" without one), `plan` as the plan is by now, not
    checked; `with_it` and `without_it` the plan with and without one change ("" where none was named).
    """

    found: str
    now: str
    plan: str
    with_it: str
    without_it: str
