"""What differs between a page as found and the page as it would be handed over."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from typing import Any

from unladen.check.pairs import Difference
from unladen.check.probes import all_probes
from unladen.check.probes.spec import Judge, cannot_tell
from unladen.check.snapshot import Snapshot


def compare(
    before: Snapshot, again: Snapshot, after: Snapshot, only: Collection[str] = (), judge: Judge = cannot_tell
) -> tuple[Difference, ...]:
    """All differences that a visitor could notice. `again` is a second look at the unchanged page.

    What differs between `before` and `again` moves by itself and is not held against the changes. Probes are asked
    that have looked all three times, of these `only` those named, if any are. `judge` tells how alike image files are
    to a visitor.
    """
    if not after.alive:
        return (Difference("dead", "the page no longer loads"),) if before.alive else ()
    differences: list[Difference] = []
    for probe in all_probes():
        if only and probe.name not in only:
            continue
        seen = [snapshot.observations.get(probe.name) for snapshot in (before, again, after)]
        if seen[0] and seen[1] and seen[2]:
            differences += (
                replace(told, probe=probe.name) for told in probe.differences(seen[0], seen[1], seen[2], judge)
            )
    names = before.names | after.names
    boxes = after.boxes | before.boxes
    placed = (_placed(d, boxes) for d in differences)
    return tuple(_named(d, names, boxes) for d in placed if not _stood_in(d, after.instead))


def lead(differences: Sequence[Difference]) -> Difference:
    """The one that says most: what is done or gone before what merely looks different, and of those what has a name."""
    return min(differences, key=lambda d: (d.what == "picture", not d.places))


def _placed(difference: Difference, boxes: Mapping[str, Any]) -> Difference:
    """A part of the picture with the element that stands there, the smallest around the middle of the first box."""
    if difference.what != "picture" or difference.places or not difference.boxes:
        return difference
    left, top, right, bottom = difference.boxes[0]
    x, y = (left + right) / 2, (top + bottom) / 2
    around = [
        (width * height, place)
        for place, (a, b, width, height) in boxes.items()
        if a <= x <= a + width and b <= y <= b + height and " >>> " not in place
    ]
    if not around:
        return difference
    return replace(difference, text=f"{difference.text}: {{place}}", places=(min(around)[1],))


def _stood_in(difference: Difference, instead: tuple[str, ...]) -> bool:
    """Whether it is about what a still or a film stands in for, of which another probe tells; their place is not."""
    places = difference.places
    if not places or (difference.what in ("moved", "gone") and places[0] in instead):
        return False
    return all(any(place == own or place.startswith(own + " >") for own in instead) for place in places)


def _named(difference: Difference, names: dict[str, Any], boxes: dict[str, Any]) -> Difference:
    place = difference.places[0] if difference.places else ""
    text = difference.text
    if "{place}" in text:
        text = text.replace("{place}", called(names.get(place)))
    outlines = difference.boxes
    if not outlines and place in boxes:
        x, y, width, height = boxes[place]
        outlines = ((round(x), round(y), round(x + width), round(y + height)),)
    return replace(difference, text=text, boxes=outlines)


def called(name: Any) -> str:
    """What people would call an element: its kind and the words on it."""
    if not name:
        return "a part of the page"
    kind, label = name
    return f"the {kind} “{label}”" if label else "the page" if kind == "page" else f"a {kind}"
