"""How the page looks, all the way down."""

from __future__ import annotations

import base64
import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from urllib.parse import unquote_to_bytes

from unladen.capture import Capture
from unladen.check.file_judge import Question
from unladen.check.pairs import Difference
from unladen.check.pictures import Box, Other, Spot, differing, read_picture
from unladen.check.probes.spec import Judge, Observation, Probe, Scene
from unladen.page_scripts import in_page
from unladen.weigh.visits.picture import take_strips

PICTURE = "picture"
_PAINTED = in_page("painted")
_WIDEST = 2400  # CSS px
_MOST_BOXES = 60


async def observe(scene: Scene) -> Observation:
    """PNG strips of the page from its top, `images` with their boxes, and the boxes of what stands in for something
    else.

    A page that is not made for phones is laid out wider than their window, and all of it is looked at.
    """
    width = max(scene.device.width, min(scene.found["width"], _WIDEST))
    await scene.ask(_PAINTED)
    strips = await take_strips(scene.page, width, scene.found["height"], scene.device.density)
    await scene.ask(_PAINTED, "done")
    seen = {
        "stills": [list(box) for box in scene.found["stills"]],
        "width": width,
        "density": scene.device.density,
        "zoom": scene.found["zoom"],
        "height": scene.found["height"],
        "images": images_of(scene.capture, scene.found["images"]),
        "strips": [[name, height] for name, height, _ in strips],
    }
    return Observation(seen, {name: body for name, _, body in strips})


def images_of(capture: Capture, found: Any) -> list[list[Any]]:
    """Place, file, box (left, top, right, bottom) and URL of each image that shows; the file by what is in it."""
    return [[place, _file(capture, url), _box(box), url[:2000]] for place, url, box in found]


def _file(capture: Capture, url: str) -> str:
    if url.startswith("data:"):
        head, _, data = url.partition(",")
        try:
            body = base64.b64decode(unquote_to_bytes(data)) if head.endswith(";base64") else unquote_to_bytes(data)
        except ValueError:
            return hashlib.sha256(url.encode()).hexdigest()
        return capture.store.put(body)
    exchange = capture.lookup(url)
    return exchange.digest if exchange else url


def _box(box: Any) -> list[float]:
    x, y, width, height = box
    return [x, y, x + width, y + height]


@dataclass(frozen=True, slots=True)
class OtherFile:
    """A place where another image file is shown than before, its boxes, and the two files if there is one each."""

    place: str
    boxes: tuple[Box, ...]
    first: str = ""
    second: str = ""

    def question(self, density: float, zoom: float) -> Question:
        """What is asked of the two files, shown at so many px for each CSS px of a page that is zoomed out so far."""
        left, top, right, bottom = self.boxes[-1]
        return Question(self.first, self.second, ((right - left) * zoom, (bottom - top) * zoom), density)


def other_files(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[OtherFile]:
    """The places where another image file is shown than before."""
    tables: list[dict[str, list[tuple[str, Any]]]] = []
    for seen in (before, after):
        table: dict[str, list[tuple[str, Any]]] = {}
        for place, file, box, _ in seen.get("images") or ():
            table.setdefault(place, []).append((file, box))
        tables.append(table)
    old, new = tables
    result = []
    for place in dict.fromkeys([*old, *new]):
        files = [[file for file, _ in table.get(place, ())] for table in tables]
        if set(files[0]) == set(files[1]):
            continue
        boxes = tuple(tuple(box) for _, box in [*old.get(place, ()), *new.get(place, ())])
        # Of several pictures in one place those that are another file now, each by its turn.
        pairs = [(a, b) for a, b in zip(*files, strict=False) if a != b] if len(files[0]) == len(files[1]) else []
        first, second = pairs[0] if len(pairs) == 1 else ("", "")
        result.append(OtherFile(place, boxes, first, second))
    return result


def judged(others: Sequence[OtherFile], density: float, zoom: float, judge: Judge) -> dict[str, float | None]:
    """How alike the files of each place are to a visitor, by place.

    `zoom` is below 1 where phones show a page made for wide windows smaller than it is laid out.
    """
    asked = [other for other in others if other.first and other.second]
    likenesses = judge([other.question(density, zoom) for other in asked])
    return {other.place: likeness for other, likeness in zip(asked, likenesses, strict=True)}


def compare(before: Observation, again: Observation, after: Observation, judge: Judge) -> list[Difference]:
    """Parts that differ. What a still shows is not what the frame showed, so there nothing is compared."""
    others = other_files(before.values, after.values)
    likeness = judged(others, before.values["density"], before.values["zoom"], judge)
    boxes = [Other(box, likeness.get(other.place)) for other in others for box in other.boxes]
    x_y = [(x - 1, y - 1, x + w + 1, y + h + 1) for x, y, w, h in after.values["stills"]]
    spots: list[Spot] = []
    top = 0
    names = [name for name, _ in before.values["strips"]]
    for name, height in before.values["strips"]:
        bodies = [seen.bodies.get(name, b"") for seen in (before, again, after)]
        if bodies[0] and bodies[2] and bodies[0] != bodies[2]:
            first, now = read_picture(bodies[0]), read_picture(bodies[2])
            second = read_picture(bodies[1]) if bodies[1] and bodies[1] != bodies[0] else None
            shifted = [
                Other((b[0], b[1] - top, b[2], b[3] - top), other.likeness) for other in boxes for b in [other.box]
            ]
            out = [(b[0], b[1] - top, b[2], b[3] - top) for b in x_y]
            last = name == names[-1] or height != dict(map(tuple, after.values["strips"])).get(name)
            for spot in differing(first, second, now, shifted, out):
                if spot.why != "is longer or shorter" or last:
                    left, upper, right, lower = spot.box
                    spots.append(Spot((left, upper + top, right, lower + top), spot.why))
        top += height
    return told(spots, before, after, {other.place: other.boxes for other in others})


def told(
    spots: list[Spot], before: Observation, after: Observation, others: Mapping[str, Sequence[Box]]
) -> list[Difference]:
    """PageChecks in words: for each image that shows another file its own, the rest in one."""
    differences = []
    remaining = list(spots)
    for place, boxes in others.items():
        explained = [spot for spot in remaining if any(_meets(spot.box, box) for box in boxes)]
        if explained:
            remaining = [spot for spot in remaining if spot not in explained]
            differences.append(
                Difference(
                    "picture",
                    f"{{place}} {explained[0].why}",
                    tuple(s.box for s in explained[:_MOST_BOXES]),
                    places=(place,),
                )
            )
    if remaining:
        many = (
            f"{len(remaining)} parts of the page look different"
            if len(remaining) > 1
            else "a part of the page looks different"
        )
        differences.append(Difference("picture", many, tuple(s.box for s in remaining[:_MOST_BOXES])))
    return differences


def _meets(one: Box, other: Box) -> bool:
    return one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]


PROBE = Probe(PICTURE, observe, judges=compare, version=5)
