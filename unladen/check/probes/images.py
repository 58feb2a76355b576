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
    differences = []
    for place in after.values["broken"]:
        if place not in known:
            inside = place.startswith("html")
            text = "{place} does not show its image" if inside else f"{place} has lost its image"
            differences.append(Difference("broken-image", text, places=(place,) if inside else ()))
    return differences


PROBE = Probe("images", observe, compare, version=2)
