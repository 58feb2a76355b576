"""What stands where on a page: the elements of all frames in one table."""

from __future__ import annotations

from typing import Any

from unladen.check.probes.spec import Scene
from unladen.page_scripts import in_page

_SEEN = in_page("seen")


async def elements_of(scene: Scene) -> dict[str, Any] | None:
    """Names, boxes and images of the elements of all frames, placed on the page; None where it does not answer.

    Boxes are x, y, width and height in CSS px; an image in a frame stands where the frame is.
    """
    answers = await scene.ask(_SEEN)
    if not answers or answers[0][0]:
        return None
    joined: dict[str, Any] = answers[0][1]
    corners = {place: box[:2] for place, box in joined["boxes"]}
    for prefix, answer in answers[1:]:
        x, y = corners.get(prefix.removesuffix(" >>> "), (0, 0))
        for place, box in answer["boxes"]:
            joined["boxes"].append([prefix + place, box])
            corners[prefix + place] = [box[0] + x, box[1] + y]
        joined["closed"] += [prefix + place for place in answer["closed"]]
        joined["broken"] += [prefix + place for place in answer["broken"]]
        joined["names"] |= {prefix + place: name for place, name in answer["names"].items()}
        for place, url, (left, top, width, height) in answer["images"]:
            joined["images"].append([prefix + place, url, [left + x, top + y, width, height]])
    return joined
