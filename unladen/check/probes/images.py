"""Images that could not be shown."""

from __future__ import annotations

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene


async def observe(scene: Scene) -> Observation:
    """Their places."""
    return Observation({"broken": sorted(set(scene.found["broken"]))})


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Those that could be shown before."""
    known = {*before.values["broken"], *again.values["broken"]}
    return [
        Difference("broken-image", f"the image at {place} is broken now")
        for place in after.values["broken"]
        if place not in known
    ]


PROBE = Probe("images", observe, compare)
