"""A page as found beside the page as it would be handed over."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

Boxes = tuple[tuple[int, int, int, int], ...]


@dataclass(frozen=True, slots=True)
class Difference:
    """`what`: a word for its kind, as the probes give it; `text`: the evidence in words that people use.

    `boxes` (left, top, right, bottom) in CSS px of the page's picture; `step`: what was done to the page before, in
    words; `detail`: places and values for who wants to know; `places` and `files` (URLs) are what it is about, the
    first first; `shots`: digests of pictures of that moment before and after, if there are any. `probe` is the name
    of who saw it, and `clues` are selectors of rules and names of classes and ids that have to do with it; these are
    not kept.
    """

    what: str
    text: str
    boxes: Boxes = ()
    step: str = ""
    detail: str = ""
    places: tuple[str, ...] = ()
    files: tuple[str, ...] = ()
    shots: tuple[str, str] | None = None
    probe: str = field(default="", compare=False)
    clues: tuple[str, ...] = field(default=(), compare=False)

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        return {
            "key": self.key,
            "what": self.what,
            "text": self.text,
            "boxes": [list(box) for box in self.boxes],
            "step": self.step,
            "detail": self.detail,
            "places": list(self.places),
            "files": list(self.files),
            "shots": list(self.shots) if self.shots else None,
        }

    @classmethod
    def from_json(cls, data: Any) -> Difference:
        """The difference that `as_json` gave."""
        boxes = tuple((box[0], box[1], box[2], box[3]) for box in data["boxes"])
        step, detail = (str(data.get(name, "")) for name in ("step", "detail"))
        places, files = (tuple(map(str, data.get(name, ()))) for name in ("places", "files"))
        shots = data.get("shots")
        pair = (str(shots[0]), str(shots[1])) if shots else None
        return cls(str(data["what"]), str(data["text"]), boxes, step, detail, places, files, pair)

    @property
    def key(self) -> str:
        """What tells it from others of the same page and device: its kind, the moment, and what it is about."""
        return "|".join([self.what, self.step, *(self.places[:1] or self.files[:1] or (self.text,))])


@dataclass(frozen=True, slots=True)
class PageCheck:
    """A page on a device as found and now; the check passes if there are no `differences` and nothing stands in the
    way.

    `before` and `after` are digests of PNG pictures in the capture's store, "" where none could be taken; `width` is
    that of both in CSS px, 0 where it is not known. `cannot`: why the page cannot be compared, if it cannot. `steps`:
    how many were taken on a walk, and `left` what was left out of it, in words.
    """

    page: str
    device: str
    differences: tuple[Difference, ...] = field(default_factory=tuple)
    before: str = ""
    after: str = ""
    width: int = 0
    cannot: str = ""
    steps: int = 0
    left: tuple[str, ...] = ()

    @property
    def passed(self) -> bool:
        """Whether it could be compared and nothing differs."""
        return not self.differences and not self.cannot

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
            "cannot": self.cannot,
            "steps": self.steps,
            "left": list(self.left),
        }

    @classmethod
    def from_json(cls, data: Any) -> PageCheck:
        """The pair that `as_json` gave."""
        differences = tuple(Difference.from_json(entry) for entry in data["differences"])
        return cls(
            str(data["page"]),
            str(data["device"]),
            differences,
            str(data["before"]),
            str(data["after"]),
            int(data.get("width", 0)),
            str(data.get("cannot", "")),
            int(data.get("steps", 0)),
            tuple(map(str, data.get("left", ()))),
        )
