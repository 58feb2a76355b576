"""The elements of the page and their boxes."""

from __future__ import annotations

from collections.abc import Sequence

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene

MOVED = 1.0  # CSS px
_MOST_NAMED = 5
Box = Sequence[float]


async def observe(scene: Scene) -> Observation:
    """`boxes`: x, y, width and height in CSS px by an element's place in the tree, in document order."""
    return Observation({"boxes": [[place, list(box)] for place, box in scene.found["boxes"]]})


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Elements that are gone, and those that moved."""
    order = [place for place, _ in before.values["boxes"]]
    counts = [len(seen.values["boxes"]) for seen in (before, again, after)]
    if counts[0] == counts[1] != counts[2]:
        return [Difference("elements", f"the page has {counts[2]} elements instead of {counts[0]}")]
    first, second, now = (_table(seen) for seen in (before, again, after))
    steady = [place for place in order if _near(second.get(place), first[place])]
    moved = [place for place in steady if not _near(now.get(place), first[place])]
    if not moved:
        return []
    # The first in document order is nearest to the cause; what stands behind it is only pushed.
    named = "; ".join(_movement(place, first[place], now.get(place)) for place in moved[:_MOST_NAMED])
    more = f" and {len(moved) - _MOST_NAMED} more" if len(moved) > _MOST_NAMED else ""
    boxes = tuple(_rounded(first[place]) for place in moved[:_MOST_NAMED])
    return [Difference("moved", f"elements moved: {named}{more}", boxes)]


def _table(seen: Observation) -> dict[str, Box]:
    return dict(seen.values["boxes"])


def _near(box: Box | None, other: Box) -> bool:
    return box is not None and all(abs(a - b) <= MOVED for a, b in zip(box, other, strict=True))


def _movement(place: str, old: Box, new: Box | None) -> str:
    if new is None:
        return f"{place} is gone"
    if abs(old[2] - new[2]) > MOVED or abs(old[3] - new[3]) > MOVED:
        return f"{place} is {new[2]:.0f}x{new[3]:.0f} px, was {old[2]:.0f}x{old[3]:.0f}"
    return f"{place} by {new[0] - old[0]:.0f}, {new[1] - old[1]:.0f} px"


def _rounded(box: Box) -> tuple[int, int, int, int]:
    x, y, width, height = box
    return round(x), round(y), round(x + width), round(y + height)


PROBE = Probe("elements", observe, compare)
