"""Shapes of the API for images."""

from __future__ import annotations

from typing import Literal

from ninja import Field, Schema
from pydantic import BaseModel

Likeness = Literal["exact", "true", "fine", "fair"]


class FolderRuleIO(Schema):
    """As in docs/formats.md."""

    folder: str = Field(max_length=500, pattern="^/")
    likeness: Literal["leave", "exact", "true", "fine", "fair"]


class ImageSettingsIO(Schema):
    """As in docs/formats.md; widths in px of the file."""

    likeness: Literal["", "exact", "true", "fine", "fair"] = ""
    density: float = Field(0, ge=0, le=4)
    content_width: int = Field(1500, ge=100, le=16_000)
    background_width: int = Field(2560, ge=100, le=16_000)
    phone_width: int = Field(650, ge=100, le=16_000)
    phones: int = Field(60, ge=0, le=100)
    same_names: bool = False
    fallback: bool = False
    widths: bool = True
    avif: bool = True
    copyright: bool = False
    folders: list[FolderRuleIO] = Field([], max_length=100)


# A sheet has thousands of rows, and these models are read from plain values alone.
class Proposed(BaseModel):
    """What the plan makes of an image; `encoded` is false until the file was tried out. `refused` says why not.

    `part` is left, top, width and height in px of what is kept of it, `veil` what it is judged beneath; none when
    empty.
    """

    changes: list[str]
    on: bool
    set_aside: str
    encoded: bool
    format: str
    width: int
    bytes: int
    quality: int
    likeness: float
    refused: str
    part: list[int]
    veil: list[int]


class ImageRow(BaseModel):
    """An image of the site. Sizes in px and bytes as sent; `shown` gives CSS px by device, `file` is its preview."""

    path: str
    url: str
    digest: str
    format: str
    width: int
    height: int
    bytes: int
    metadata: int
    frames: int
    pages: list[str]
    via: list[str]
    shown: dict[str, list[int]]
    by_script: bool
    family: str
    refused: str
    per_pixel: float | None
    file: str
    proposed: Proposed | None
    why_not: str


class ImageSheet(BaseModel):
    settings: ImageSettingsIO
    effort_likeness: Likeness
    likenesses: dict[str, float]
    images: list[ImageRow]


class EncodeOut(Schema):
    """One step of the loupe: an encode as it came out; `refused` says why there is none."""

    format: str
    width: int
    height: int
    quality: int
    bytes: int
    likeness: float
    refused: str
