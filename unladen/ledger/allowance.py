"""What pages may weigh: limits by page, device, kind and bringer, as a document of their own."""

from __future__ import annotations

import fnmatch
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from unladen.documents import read_json
from unladen.errors import BadInput
from unladen.remedies import fields
from unladen.remedies.fields import FieldRefused, Record
from unladen.schemas import document_of
from unladen.weigh.records.conditions import LINKS, device_named, link_named
from unladen.weigh.records.kinds import KINDS
from unladen.weigh.records.parties import OWNERS

FORMAT = "unladen/allowance/1"

# What can be limited, with the unit of its figure. Growth is in percent of what a pinned weigh-in transferred.
MEASURES: Mapping[str, str] = {
    "bytes": "bytes",
    "requests": "requests",
    "seconds": "s",
    "picture width": "px",
    "background width": "px",
    "font families": "families",
    "third parties": "hosts",
    "missing files": "files",
    "growth": "%",
}
BY_REQUEST = ("bytes", "requests")
_USUAL_LINK = LINKS[2]
_MOST_LIMITS = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit(Record):
    """The `most` that a page may have of a measure.

    `pages` are patterns of paths (`*` for any characters), `device` a name or figures; none and "" are for every one.
    `kind` of file, `bringer` (one of `OWNERS`) and `host` narrow bytes and requests down; `link` is the one that
    seconds are modelled for. `why` is a word of who set it.
    """

    measure: str = fields.word(*MEASURES)
    most: float = fields.number(0, 10**12)
    pages: tuple[str, ...] = fields.names(200, 500)
    device: str = fields.text(40, default="")
    kind: str = fields.word("", *KINDS, default="")
    bringer: str = fields.word("", *OWNERS, default="")
    host: str = fields.text(253, default="")
    link: str = fields.text(60, default=_USUAL_LINK.label)
    why: str = fields.text(500, default="")

    def __post_init__(self) -> None:
        super(Limit, self).__post_init__()
        if self.device:
            _refusing("device", device_named, self.device)
        _refusing("link", link_named, self.link)
        if self.measure == "seconds" and not link_named(self.link).rate:
            raise FieldRefused("link", "should be one with figures, since an unlimited one takes no time")
        if self.measure not in BY_REQUEST and (self.kind or self.bringer or self.host):
            raise FieldRefused("measure", "should be bytes or requests where a kind, bringer or host is named")

    @property
    def unit(self) -> str:
        """That of `most`."""
        return MEASURES[self.measure]

    def holds(self, page: str, device: str) -> bool:
        """Whether it is for a page (a path) on a device."""
        pages = not self.pages or any(fnmatch.fnmatchcase(page, pattern) for pattern in self.pages)
        return pages and self.device in ("", device)

    @property
    def about(self) -> tuple[Any, ...]:
        """What it is about, whatever the figure."""
        return (
            self.measure,
            self.pages,
            self.device,
            self.kind,
            self.bringer,
            self.host,
            self.measure == "seconds" and self.link,
        )

    @property
    def label(self) -> str:
        """What it is about in words, without the figure."""
        what = {"seconds": f"seconds until loaded ({self.link})", "growth": "growth"}.get(self.measure, self.measure)
        if self.measure in BY_REQUEST:
            of = " ".join(
                filter(None, (self.kind, f"by {self.host or self.bringer}" if self.host or self.bringer else ""))
            )
            what = f"{self.measure} of {of}" if self.kind else f"{self.measure} {of}".strip()
        return what


def _refusing(name: str, read: Any, value: str) -> None:
    try:
        read(value)
    except BadInput as error:
        raise FieldRefused(name, error.reason) from None


@dataclass(frozen=True, slots=True)
class Allowance:
    """All limits of a site; each of them has to hold."""

    limits: tuple[Limit, ...] = ()

    def as_json(self) -> dict[str, Any]:
        """The published document."""
        return {"format": FORMAT, "limits": [limit.as_json() for limit in self.limits]}

    @classmethod
    def from_json(cls, data: Any, name: str = "allowance") -> Allowance:
        """Read from a document called `name`; raises `BadInput`, also where two limits contradict each other."""
        if not isinstance(data, Mapping) or data.get("format") != FORMAT:
            raise BadInput(name, f"is not a document in the format {FORMAT}")
        rows = data.get("limits")
        if not isinstance(rows, list) or len(rows) > _MOST_LIMITS:
            raise BadInput(name, f"should have a list “limits” of at most {_MOST_LIMITS}")
        limits = []
        for number, row in enumerate(rows, 1):
            try:
                limits.append(Limit.from_json(row))
            except FieldRefused as refused:
                raise BadInput(name, f"limit {number}: {refused}") from None
        _expect_agreement(limits, name)
        return cls(tuple(limits))

    @classmethod
    def read(cls, data: bytes, name: str) -> Allowance:
        """From a file; raises `BadInput`."""
        return cls.from_json(read_json(data, name), name)


def _expect_agreement(limits: list[Limit], name: str) -> None:
    """Two figures for one thing cannot both be meant; nor can a part be allowed more than the whole that it is of."""
    known: dict[tuple[Any, ...], tuple[int, Limit]] = {}
    for number, limit in enumerate(limits, 1):
        other = known.setdefault(limit.about, (number, limit))
        if other[1].most != limit.most:
            figures = f"at most {other[1].most:,.15g} and {limit.most:,.15g}"
            raise BadInput(name, f"limits {other[0]} and {number} contradict each other: {limit.label}, {figures}")
    for number, limit in enumerate(limits, 1):
        if limit.measure not in BY_REQUEST or not (limit.kind or limit.bringer or limit.host):
            continue
        whole = known.get((limit.measure, limit.pages, limit.device, "", "", "", False))
        if whole and limit.most > whole[1].most:
            raise BadInput(
                name, f"limit {number} allows {limit.label} more than limit {whole[0]} allows the whole page"
            )


def usual_allowance() -> Allowance:
    """Starting values of common practice (no source)."""
    return Allowance(
        (
            Limit(measure="bytes", most=1_000_000),
            Limit(measure="seconds", most=10, device="phone"),
            Limit(measure="picture width", most=1500),
            Limit(measure="picture width", most=650, device="phone"),
            Limit(measure="background width", most=2560),
            Limit(measure="font families", most=2),
        )
    )


def allowance_schema() -> dict[str, Any]:
    """JSON Schema, draft 2020-12."""
    return document_of(
        FORMAT,
        {"format": {"const": FORMAT}, "limits": {"type": "array", "maxItems": _MOST_LIMITS, "items": Limit.schema()}},
    )
