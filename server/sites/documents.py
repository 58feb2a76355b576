"""Documents that rows hold as JSON, each a data class; a field of the model reads and writes them.

What the core wrote, such as findings and page checks, stays in plain values here: the core reads it.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, field, fields
from typing import Any, Self

from django.db import models

Plain = dict[str, Any]


@dataclass(slots=True)
class Document:
    """Plain values under names. Names that an older version left out have their defaults."""

    @classmethod
    def from_json(cls, value: Plain) -> Self:
        """From a JSON object; names of other versions are left out."""
        known = {each.name for each in fields(cls)}
        return cls(**{name: entry for name, entry in value.items() if name in known})

    def as_json(self) -> Plain:
        """To a JSON object."""
        return {each.name: getattr(self, each.name) for each in fields(self)}


@dataclass(slots=True)
class Baseline(Document):
    """A site weighed and surveyed.

    `weigh_ins`: keys of rows; `excess`: findings of the core; `taken` and `surveyed`: ISO times. `left_out`: number of
    pages not weighed; `chosen` and `most`: the user's choice of pages; `kin`: member to representative, by path.
    """

    weigh_ins: list[str] = field(default_factory=list)
    excess: list[Plain] = field(default_factory=list)
    notices: list[dict[str, str]] = field(default_factory=list)
    taken: str | None = None
    surveyed: str | None = None
    left_out: int = 0
    chosen: list[str] = field(default_factory=list)
    most: int | None = None
    kin: dict[str, str] = field(default_factory=dict)


@dataclass(slots=True)
class Visited(Document):
    """The last visit to the live site for the steps by hand.

    `steps`: key to whether the step is done there and why not. `weighed`: page, device, bytes as found and live.
    """

    at: str = ""
    address: str = ""
    steps: dict[str, tuple[bool, str]] = field(default_factory=dict)
    weighed: list[Plain] = field(default_factory=list)


@dataclass(slots=True)
class Hand(Document):
    """Steps by hand: `ticks` are keys of steps with the ISO time of the tick."""

    ticks: dict[str, str] = field(default_factory=dict)
    visited: Visited | None = None

    @classmethod
    def from_json(cls, value: Plain) -> Hand:
        """From a JSON object."""
        visited = value.get("visited")
        return cls(value.get("ticks") or {}, Visited.from_json(visited) if visited else None)

    def as_json(self) -> Plain:
        """To a JSON object."""
        return {"ticks": self.ticks, "visited": asdict(self.visited) if self.visited else None}


@dataclass(slots=True)
class Watched(Document):
    """The last visit of a watched site.

    `grown`: page, device, bytes before and after, and `by`: names and bytes. `mail`: why no mail could be sent.
    """

    at: str | None = None
    error: str = ""
    grown: list[Plain] = field(default_factory=list)
    mail: str = ""


@dataclass(slots=True)
class Evidence(Document):
    """The proof of a run: page checks, results of changes and replaced files of the core, in plain values.

    `lifetime`: for how many s browsers may keep files.
    """

    pairs: list[Plain] = field(default_factory=list)
    outcomes: list[Plain] = field(default_factory=list)
    changed: list[Plain] = field(default_factory=list)
    lifetime: int = 0


@dataclass(slots=True)
class Weighed(Document):
    """Keys of the weigh-ins that a run stands on."""

    before: list[str] = field(default_factory=list)
    after: list[str] = field(default_factory=list)


@dataclass(slots=True)
class Archive(Document):
    """Archives of a run: `folder` within that of the site, bytes of all files and of the changed ones."""

    folder: str = ""
    bytes: int = 0
    changed_bytes: int = 0


class DocumentField(models.JSONField):  # type: ignore[type-arg]
    """A JSON column that holds a `Document`; the database sees plain JSON."""

    def __init__(self, document: type[Document], **options: Any) -> None:
        self._document = document
        super().__init__(**options)

    def deconstruct(self) -> tuple[str, str, list[Any], Plain]:
        """For migrations a plain JSON field."""
        name, _, arguments, options = super().deconstruct()
        options |= {"default": dict} if "default" in options else {}
        return name, "django.db.models.JSONField", list(arguments), dict(options)

    def clone(self) -> DocumentField:
        """The same field again."""
        _, _, _, options = super().deconstruct()
        return DocumentField(self._document, **options)

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        """A document from a whole column; parts of one stay plain."""
        plain = super().from_db_value(value, expression, connection)  # type: ignore[misc]
        whole = not hasattr(expression, "key_name")
        return self._document.from_json(plain) if whole and isinstance(plain, dict) else plain

    def get_db_prep_value(self, value: Any, connection: Any, prepared: bool = False) -> Any:
        """Plain JSON."""
        plain = value.as_json() if isinstance(value, Document) else value
        return super().get_db_prep_value(plain, connection, prepared)

    def to_python(self, value: Any) -> Any:
        """A document from plain values, as serialized rows hold them."""
        return self._document.from_json(value) if isinstance(value, dict) else value

    def value_to_string(self, obj: models.Model) -> Any:
        """Plain values, for serialized rows."""
        value = self.value_from_object(obj)
        return value.as_json() if isinstance(value, Document) else value
