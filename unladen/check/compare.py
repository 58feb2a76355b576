"""What differs between a page as found and the page as it would be handed over."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from unladen.check.looking import Look
from unladen.check.pictures import differing_tiles, read_picture, without

MOVED = 1.0  # CSS px
_MOST_NAMED = 5


@dataclass(frozen=True, slots=True)
class Difference:
    """`what`: `missing`, `error`, `broken-image`, `moved`, `elements`, `still`, `picture` or `dead`; `text`: the evidence."""

    what: str
    text: str
    boxes: list[tuple[int, int, int, int]] = field(default_factory=list)

    def as_json(self) -> dict[str, Any]:
        """Plain values; boxes in CSS px."""
        return {"what": self.what, "text": self.text, "boxes": [list(box) for box in self.boxes]}


def compare(before: Look, again: Look, after: Look) -> list[Difference]:
    """All differences that a visitor could notice. `again` is a second look at the unchanged page.

    What differs between `before` and `again` moves by itself and is not held against the changes.
    """
    if not after.alive:
        return [Difference("dead", "the page does not load any more")] if before.alive else []
    found = [
        Difference("missing", f"{url} is missing now")
        for url in sorted(after.missing - before.missing - again.missing)
    ]
    known = set(before.errors) | set(again.errors)
    found += [Difference("error", text) for text in dict.fromkeys(after.errors) if text not in known]
    found += [
        Difference("broken-image", f"the image at {place} is broken now")
        for place in sorted(after.broken - before.broken - again.broken)
    ]
    found += _boxes(before, again, after)
    found += [
        Difference("still", f"the still of “{title}” does not open what it stands for") for title in after.stuck
    ]
    if before.picture and again.picture and after.picture:
        pictures = (read_picture(look.picture) for look in (before, again, after))
        tiles, level = differing_tiles(*(without(picture, after.stills) for picture in pictures))
        if tiles:
            found.append(
                Difference("picture", f"{len(tiles)} parts of the picture differ, by up to {level:.0f} of 255", tiles)
            )
    return found


def _boxes(before: Look, again: Look, after: Look) -> list[Difference]:
    steady = {place for place, box in before.boxes.items() if _near(again.boxes.get(place), box)}
    if len(before.order) == len(again.order) and len(after.order) != len(before.order):
        return [Difference("elements", f"the page has {len(after.order)} elements instead of {len(before.order)}")]
    moved = [p for p in before.order if p in steady and not _near(after.boxes.get(p), before.boxes[p])]
    if not moved:
        return []
    # The first in document order is nearest to the cause; what stands behind it is only pushed.
    named = "; ".join(_movement(p, before.boxes[p], after.boxes.get(p)) for p in moved[:_MOST_NAMED])
    more = f" and {len(moved) - _MOST_NAMED} more" if len(moved) > _MOST_NAMED else ""
    boxes = [_rounded(before.boxes[p]) for p in moved[:_MOST_NAMED]]
    return [Difference("moved", f"elements moved: {named}{more}", boxes)]


def _near(box: tuple[float, ...] | None, other: tuple[float, ...]) -> bool:
    return box is not None and all(abs(a - b) <= MOVED for a, b in zip(box, other, strict=True))


def _movement(place: str, old: tuple[float, ...], new: tuple[float, ...] | None) -> str:
    if new is None:
        return f"{place} is gone"
    if abs(old[2] - new[2]) > MOVED or abs(old[3] - new[3]) > MOVED:
        return f"{place} is {new[2]:.0f}x{new[3]:.0f} px, was {old[2]:.0f}x{old[3]:.0f}"
    return f"{place} by {new[0] - old[0]:.0f}, {new[1] - old[1]:.0f} px"


def _rounded(box: tuple[float, ...]) -> tuple[int, int, int, int]:
    x, y, width, height = box
    return round(x), round(y), round(x + width), round(y + height)
