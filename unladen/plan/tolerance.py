"""What a check is told to let pass: differences that somebody has accepted, with a word why, and regions left out."""

from __future__ import annotations

import fnmatch
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from unladen.remedies.fields import FieldRefused

_LONGEST = 4_000  # characters
_MOST = 2_000
Box = tuple[int, int, int, int]


@dataclass(frozen=True, slots=True)
class Accepted:
    """A difference that may be, by its key: on a page (a path) and a device, "" for every one.

    `text` says it in words, `why` is the word of who wants it so.
    """

    page: str
    device: str
    key: str
    text: str = ""
    why: str = ""


@dataclass(frozen=True, slots=True)
class IgnoredRegion:
    """A region (left, top, right, bottom in CSS px) of pages by pattern that is not compared; "" is every device."""

    page: str
    device: str
    box: Box
    why: str = ""

    def holds(self, page: str, device: str) -> bool:
        """Whether it is for a page on a device."""
        return self.device in ("", device) and fnmatch.fnmatchcase(page, self.page)

    def covers(self, box: Box) -> bool:
        """Whether all of a box lies within it."""
        return self.box[0] <= box[0] and self.box[1] <= box[1] and self.box[2] >= box[2] and self.box[3] >= box[3]


@dataclass(frozen=True, slots=True)
class Tolerance:
    """All of it for a site."""

    accepted: tuple[Accepted, ...] = ()
    masks: tuple[IgnoredRegion, ...] = ()

    def keys(self, page: str, device: str) -> frozenset[str]:
        """The keys of the differences that may be on a page and device."""
        return frozenset(a.key for a in self.accepted if a.page == page and a.device in ("", device))

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        return {
            "accepted": [asdict(entry) for entry in self.accepted],
            "masks": [{**asdict(mask), "box": list(mask.box)} for mask in self.masks],
        }

    @classmethod
    def from_json(cls, data: Any) -> Tolerance:
        """Read from a document; raises `FieldRefused`."""
        if not isinstance(data, Mapping):
            raise FieldRefused("tolerance", "must be an object")
        accepted = tuple(
            Accepted(*(_text(entry, name) for name in ("page", "device", "key", "text", "why")))
            for entry in _list(data, "accepted")
        )
        masks = tuple(
            IgnoredRegion(_text(entry, "page"), _text(entry, "device"), _box(entry), _text(entry, "why"))
            for entry in _list(data, "masks")
        )
        return cls(accepted, masks)


def _list(data: Mapping[str, Any], name: str) -> list[Mapping[str, Any]]:
    entries = data.get(name, [])
    if not isinstance(entries, list) or len(entries) > _MOST or not all(isinstance(e, Mapping) for e in entries):
        raise FieldRefused(f"tolerance.{name}", f"should be a list of at most {_MOST:,} objects")
    return entries


def _text(entry: Mapping[str, Any], name: str) -> str:
    value = entry.get(name, "")
    if not isinstance(value, str) or len(value) > _LONGEST:
        raise FieldRefused(f"tolerance {name}", f"should be a text of at most {_LONGEST:,} characters")
    return value


def _box(entry: Mapping[str, Any]) -> Box:
    box = entry.get("box")
    numbers = isinstance(box, list) and len(box) == 4 and all(type(v) is int and abs(v) < 10_000_000 for v in box)
    if not numbers:
        raise FieldRefused("tolerance box", "should be four whole numbers: left, top, right, bottom")
    assert isinstance(box, list)
    return (box[0], box[1], box[2], box[3])
