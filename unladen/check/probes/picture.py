"""How the page looks, tile by tile."""

from __future__ import annotations

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene
from unladen.check.tiles import differing_tiles, read_picture, without
from unladen.weigh.visits.picture import take_picture

PICTURE = "picture"
_WIDEST = 2400  # CSS px


async def observe(scene: Scene) -> Observation:
    """A PNG of the page, and the boxes (x, y, width, height in CSS px) of what stands in for something else.

    A page that is not made for phones is laid out wider than their window, and all of it is looked at.
    """
    width = max(scene.device.width, min(scene.found["width"], _WIDEST))
    picture = await take_picture(scene.page, width, scene.found["height"], "png")
    seen = {"stills": [list(box) for box in scene.found["stills"]], "width": width}
    return Observation(seen, {PICTURE: picture} if picture else {})


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Tiles that differ. What a still shows is not what the frame showed, so there nothing is compared."""
    if not all(seen.bodies.get(PICTURE) for seen in (before, again, after)):
        return []
    pictures = [read_picture(seen.bodies[PICTURE]) for seen in (before, again, after)]
    first, second, now = (without(picture, after.values["stills"]) for picture in pictures)
    tiles, level = differing_tiles(first, second, now)
    if not tiles:
        return []
    many = f"{len(tiles)} parts of the picture differ" if len(tiles) > 1 else "1 part of the picture differs"
    return [Difference("picture", f"{many}, by up to {level:.0f} of 255", tuple(tiles))]


PROBE = Probe(PICTURE, observe, compare, version=2)
