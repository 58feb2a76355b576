"""Edits whose text names other files, which may be called otherwise or hold another text once a draft is built."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.markup.edits import Edit


@dataclass(frozen=True, slots=True)
class AddressOf:
    """A link to a file as found (its URL), escaped for an attribute, whatever the file is called in the end."""

    url: str


@dataclass(frozen=True, slots=True)
class ContentsOf:
    """The text of a file as found (its URL), whatever becomes of the text in the end."""

    url: str


Part = str | AddressOf | ContentsOf


@dataclass(frozen=True, slots=True)
class LinkedEdit(Edit):
    """An edit whose text is made of parts when the draft is built; `text` stays empty until then."""

    parts: tuple[Part, ...] = ()
