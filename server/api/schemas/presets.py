"""Shapes of presets."""

from __future__ import annotations

from uuid import UUID

from ninja import Field, Schema

from server.api.schemas.sites import EffortName, RemedyName


class PresetIn(Schema):
    name: str = Field(max_length=60)


class PresetOut(Schema):
    """A ready-made plan of one's own: an effort, and the remedies that it does without."""

    id: UUID
    name: str
    effort: EffortName
    without: list[RemedyName]
