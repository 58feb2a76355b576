"""Requests that edit a plan: the shapes follow from the commands of the core, whatever can be sent as it is."""

from __future__ import annotations

import dataclasses
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union, get_type_hints
from uuid import UUID

from ninja import Field, Schema
from pydantic import create_model

from server.api.schemas.images import Likeness
from server.api.schemas.plans import AcceptedIO, PictureSort, Way
from unladen.plan.commands import COMMANDS, Command
from unladen.remedies.embeds.stills import MOST_TITLE, WIDEST
from unladen.remedies.images.replacing import MOST_WIDTH


def request_of(do: str, command: type[Command]) -> type[Schema]:
    """The request for a command: its fields with their limits, and `do`, which names it."""
    hints = get_type_hints(command, include_extras=True)
    fields: dict[str, Any] = {"do": (Literal[do], ...)}  # type: ignore[valid-type]
    for each in dataclasses.fields(command):  # type: ignore[arg-type]
        default = ... if each.default is dataclasses.MISSING else each.default
        fields[each.name] = (hints[each.name], default)
    return create_model(f"{command.__name__}In", __base__=Schema, __doc__=command.__doc__, **fields)


def command_of(body: Schema) -> Command:
    """The command that a request made by `request_of` asks for."""
    command = COMMANDS[body.do]  # type: ignore[attr-defined]
    return command(**{each.name: getattr(body, each.name) for each in dataclasses.fields(command)})  # type: ignore[arg-type]


class AcceptIn(AcceptedIO):
    """Accept a difference, or no longer (`off`)."""

    do: Literal["accept"]
    off: bool = False


class ImagesIn(Schema):
    """How to treat these images, by path; with `family` their other sizes too."""

    do: Literal["images"]
    paths: list[str] = Field(min_length=1, max_length=20_000)
    format: Literal["", "leave", "WEBP", "AVIF", "JPEG", "PNG"] = ""
    width: int = Field(0, ge=0, le=MOST_WIDTH)
    likeness: Likeness = "fine"
    quality: int = Field(0, ge=0, le=100)
    on: bool = True
    family: bool = False


class EmbedIn(Schema):
    """How to treat an embed, by the id of its change."""

    do: Literal["embed"]
    id: str
    way: Way
    title: str = Field("", max_length=MOST_TITLE)
    start: str = Field("", max_length=MOST_TITLE)
    picture: PictureSort = "seen"
    below: int = Field(0, ge=0, le=WIDEST)


if TYPE_CHECKING:
    CommandIn = Schema
else:
    _PLAIN = tuple(request_of(do, command) for do, command in COMMANDS.items())
    CommandIn = Annotated[Union[(*_PLAIN, AcceptIn, ImagesIn, EmbedIn)], Field(discriminator="do")]


class EditIn(Schema):
    """Commands for a version of the plan, carried out all or none. Nothing is built by an edit."""

    version: UUID
    commands: list[CommandIn] = Field(min_length=1, max_length=100)
