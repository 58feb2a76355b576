"""The plan as one JSON document, independent of the machine."""

from __future__ import annotations

import fnmatch
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from typing import Any

from unladen.errors import BadInput
from unladen.plan.model import PHASES, Change
from unladen.plan.settings import ImageSettings

FORMAT = "unladen/plan/1"


@dataclass(frozen=True, slots=True)
class Keep:
    """What must never be touched: patterns (with `*`) of paths of files and of pages."""

    files: tuple[str, ...] = ()
    pages: tuple[str, ...] = ()

    def holds_file(self, path: str) -> bool:
        """Whether a file is kept as it is."""
        return any(fnmatch.fnmatchcase(path, pattern) for pattern in self.files)

    def holds_page(self, path: str) -> bool:
        """Whether a page is kept as it is."""
        return any(fnmatch.fnmatchcase(path, pattern) for pattern in self.pages)


@dataclass(frozen=True, slots=True)
class Plan:
    """The changes of a site and what it keeps."""

    effort: str
    changes: tuple[Change, ...]
    keep: Keep = Keep()
    images: ImageSettings = field(default_factory=ImageSettings)

    def counting(self) -> list[Change]:
        """The changes that a build carries out, in the order of the phases, the keep list applied."""
        kept = (self._spared(change) for change in self.changes if change.counts)
        return sorted((c for c in kept if c.targets and c.pages), key=lambda c: PHASES.index(c.remedy))

    def _spared(self, change: Change) -> Change:
        if not self.keep.files and not self.keep.pages:
            return change
        targets = tuple(t for t in change.targets if not self.keep.holds_file(t))
        pages = tuple(p for p in change.pages if not self.keep.holds_page(p) and not self.keep.holds_file(p))
        return replace(change, targets=targets, pages=pages)

    def changed(self, edit: Callable[[Change], Change]) -> Plan:
        """A plan in which every change went through `edit`."""
        return replace(self, changes=tuple(edit(change) for change in self.changes))

    def with_only(self, ids: Iterable[str]) -> Plan:
        """A plan in which of the counting changes only these are on."""
        wanted = set(ids)
        return self.changed(lambda c: c if c.id in wanted or not c.on else replace(c, on=False))

    def as_json(self) -> dict[str, Any]:
        """The published document."""
        return {
            "format": FORMAT,
            "effort": self.effort,
            "keep": {"files": list(self.keep.files), "pages": list(self.keep.pages)},
            "images": self.images.as_json(),
            "changes": [change.as_json() for change in self.changes],
        }

    @classmethod
    def from_json(cls, data: Any, name: str = "plan") -> Plan:
        """Read the published document; raises `BadInput` naming what is wrong with it."""
        if not isinstance(data, dict) or data.get("format") != FORMAT:
            raise BadInput(name, f"is not a plan in the format {FORMAT}")
        try:
            keep = data.get("keep", {})
            changes = tuple(_change(item, name) for item in data["changes"])
            kept = Keep(_texts(keep.get("files", [])), _texts(keep.get("pages", [])))
            return cls(str(data["effort"]), changes, kept, ImageSettings.from_json(data.get("images", {})))
        except (KeyError, TypeError, AttributeError, ValueError) as error:
            raise BadInput(name, f"lacks or misuses the field {error}") from error


def _texts(value: Any) -> tuple[str, ...]:
    if not isinstance(value, list) or not all(isinstance(item, str) for item in value):
        raise ValueError("that should be a list of texts")
    return tuple(value)


def _change(item: dict[str, Any], name: str) -> Change:
    if item["remedy"] not in PHASES:
        raise BadInput(name, f"names the unknown remedy “{item['remedy']}”")
    return Change(
        id=str(item["id"]),
        remedy=item["remedy"],
        targets=_texts(item["targets"]),
        pages=_texts(item["pages"]),
        params=dict(item.get("params", {})),
        on=bool(item.get("on", True)),
        set_aside=str(item.get("set_aside", "")),
        insist=bool(item.get("insist", False)),
    )
