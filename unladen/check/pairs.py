"""A page as found beside the page as it would be handed over."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True, slots=True)
class Difference:
    """`what`.

    A word for its kind, as the probes give it; `text`: the evidence; `boxes` (left, top, right, bottom) in CSS px.
    """

    what: str
    text: str
    boxes: tuple[tuple[int, int, int, int], ...] = ()

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        return {"what": self.what, "text": self.text, "boxes": [list(box) for box in self.boxes]}

    @classmethod
    def from_json(cls, data: Any) -> Difference:
        """The difference that `as_json` gave."""
        boxes = tuple((box[0], box[1], box[2], box[3]) for box in data["boxes"])
        return cls(str(data["what"]), str(data["text"]), boxes)


@dataclass(frozen=True, slots=True)
class Pair:
    """A page on a device as found and now; `differences` is empty when the check passes.

    `before` and `after` are digests of PNG pictures in the capture's store, "" where none could be taken; `width` is
    that of both in CSS px, 0 where it is not known.
    """

    page: str
    device: str
    differences: tuple[Difference, ...] = field(default_factory=tuple)
    before: str = ""
    after: str = ""
    width: int = 0

    @property
    def passed(self) -> bool:
        """Whether nothing differs."""
        return not self.differences

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        return {
            "page": self.page,
            "device": self.device,
            "passed": self.passed,
            "differences": [difference.as_json() for difference in self.differences],
            "before": self.before,
            "after": self.after,
            "width": self.width,
        }

    @classmethod
    def from_json(cls, data: Any) -> Pair:
        """The pair that `as_json` gave."""
        differences = tuple(Difference.from_json(entry) for entry in data["differences"])
        return cls(
            str(data["page"]),
            str(data["device"]),
            differences,
            str(data["before"]),
            str(data["after"]),
            int(data.get("width", 0)),
        )
